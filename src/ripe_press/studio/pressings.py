"""Pressing: orders go to the worker, and everything that comes of them into the record."""

import threading
from concurrent.futures import CancelledError, ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

from ripe_press.core.errors import Conflict, NotFound, RipePressError
from ripe_press.core.naming import safe_stem
from ripe_press.core.press import sweep
from ripe_press.core.wishes.document import Document, document_row
from ripe_press.store.mixes import StoredMix
from ripe_press.store.pressings import Pressings, StoredPressing
from ripe_press.studio.bell import Bell
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.jobs import JobFolder, JobProgress
from ripe_press.studio.knowledge import facts_of
from ripe_press.studio.looking import Looking
from ripe_press.studio.planning import Plan, drop_off, plan
from ripe_press.studio.pressing_run import Desk, PressingRun
from ripe_press.studio.trials import Trials
from ripe_press.studio.wishes import keep_cover, kept_document
from ripe_press.studio.workers import WorkerPool


class PressRoom:
    """Runs pressings one after the other in a worker process and keeps the record."""

    def __init__(
        self, folder: DataFolder, record: Pressings, workers: WorkerPool, trials: Trials, looking: Looking, bell: Bell
    ) -> None:
        self._folder = folder
        self._looking = looking
        self._record = record
        self._workers = workers
        self._trials = trials
        self._bell = bell
        self._jobs: dict[int, JobFolder] = {}
        self._lock = threading.Lock()
        self._closing = threading.Event()
        # One at a time and in order: names are settled when a pressing begins, and the machine has one disk.
        self._line = ThreadPoolExecutor(1, thread_name_prefix="press-room")

    def close(self) -> None:
        """From here on a pressing that ends was cut off: it stays in the record and begins again at the next start."""
        self._closing.set()
        self._line.shutdown(wait=False, cancel_futures=True)

    def press(self, mix: StoredMix, document: Document) -> StoredPressing:
        """Puts what is set out for a mix to press; returns at once. Raises: what cannot be pressed."""
        # Planned now as well as when it runs: what cannot be pressed is refused before it stands in the record.
        self.planned(mix, document).or_refuse()
        document = replace(document, mixes=tuple(keep_cover(self._folder, one) for one in document.mixes))
        number = self._record.add(mix.id, mix.title, mix.path, document_row(document))
        self._begin(number, mix, document)
        return self.pressing(number)

    def planned(self, mix: StoredMix, document: Document) -> Plan:
        """The files of what is set out for a mix, in its drop-off."""
        known = self._looking.known(mix)
        return plan(document, lambda _wish: known, lambda _wish, brief: drop_off(self.drop_off(mix), brief))

    @property
    def busy(self) -> bool:
        """Whether anything is pressed, or waits to be."""
        with self._lock:
            return bool(self._jobs)

    def pressing(self, number: int) -> StoredPressing:
        """One pressing of the record. Raises: NotFound ``pressing.unknown``."""
        found = self._record.get(number)
        if found is None:
            message = f"There is no pressing number {number} in the record."
            raise NotFound("pressing.unknown", message, pressing=number)
        return found

    def recent(self) -> list[StoredPressing]:
        """The newest pressings."""
        return self._record.recent()

    def progress(self, number: int) -> JobProgress | None:
        """How far a running pressing is."""
        with self._lock:
            job = self._jobs.get(number)
        return job.progress() if job else None

    def cancel(self, number: int) -> None:
        """Asks a pressing to stop. Raises: Conflict ``pressing.ended`` when it has ended already."""
        with self._lock:
            job = self._jobs.get(number)
        if job is None:
            message = f"Pressing {self.pressing(number).id} has ended already; there is nothing to cancel."
            raise Conflict("pressing.ended", message, pressing=number)
        job.cancel()

    def file(self, number: int, file_number: int) -> dict[str, Any]:
        """The report of a pressed file. Raises: NotFound ``file.unknown`` or ``file.gone``."""
        made = {file.number: file.report for file in self.pressing(number).files if file.report}
        report = made.get(file_number)
        if report is None:
            message = f"Pressing {number} has no file number {file_number + 1}."
            raise NotFound("file.unknown", message, pressing=number)
        if not Path(report["path"]).is_file():
            message = f"{Path(report['path']).name!r} is no longer where it was pressed: it was moved or deleted."
            raise NotFound("file.gone", message, path=report["path"])
        return report

    def resume(self, mixes: dict[int, StoredMix]) -> None:
        """Goes on with what was waiting or running when the application ended."""
        sweep(self._folder.pressed)
        for pressing in self._record.unfinished():
            mix = mixes.get(pressing.mix_id) if pressing.mix_id is not None else None
            if mix is None:
                self._record.end(pressing.id, "failed", error="The application ended while this was pressed.")
                continue
            try:
                document = kept_document(pressing.ticket, facts_of(mix), mix.title)
            except RipePressError as error:
                self._record.end(pressing.id, "failed", error=error.message)
            else:
                self._begin(pressing.id, mix, document)

    def drop_off(self, mix: StoredMix) -> Path:
        """The folder that the files of a mix go to."""
        return self._folder.pressed / safe_stem(mix.title)

    def _begin(self, number: int, mix: StoredMix, document: Document) -> None:
        job = JobFolder.make(self._folder.passing)
        with self._lock:
            self._jobs[number] = job
        self._bell.ring("pressings")
        self._line.submit(self._run, number, mix, document, job)

    def _run(self, number: int, mix: StoredMix, document: Document, job: JobFolder) -> None:
        desk = Desk(self._record, self._workers, self._trials, self._closing)
        journal = self._folder.journals / f"{number}.jsonl"
        folder = self.drop_off(mix)

        def planned() -> Plan:
            folder.mkdir(parents=True, exist_ok=True)
            return self.planned(mix, document)

        try:
            PressingRun(desk, number, document, job, journal).run(planned)
        except CancelledError:
            return
        finally:
            if not self._closing.is_set():
                # One pressing runs at a time, so whatever is unfinished in the drop-off is this one's.
                sweep(folder)
            with self._lock:
                self._jobs.pop(number, None)
            job.clear()
            self._bell.ring("pressings")
