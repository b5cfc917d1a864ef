"""Pressing: orders go to the worker, and everything that comes of them into the record."""

import threading
from concurrent.futures import CancelledError, Future, ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

from ripe_press.core.errors import Conflict, Interrupted, NotFound, RipePressError
from ripe_press.core.naming import safe_stem
from ripe_press.core.press import sweep
from ripe_press.store.mixes import StoredMix
from ripe_press.store.pressings import Pressings, StoredPressing
from ripe_press.studio import tasks
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.jobs import JobFolder, JobProgress
from ripe_press.studio.orders import Ticket, kept_ticket, make_order, order_seconds, ticket_row
from ripe_press.studio.reports import file_report
from ripe_press.studio.tickets import facts_of
from ripe_press.studio.trials import Trials
from ripe_press.studio.workers import WorkerPool


class PressRoom:
    """Runs pressings one after the other in a worker process and keeps the record."""

    def __init__(self, folder: DataFolder, record: Pressings, workers: WorkerPool, trials: Trials) -> None:
        self._folder = folder
        self._record = record
        self._workers = workers
        self._trials = trials
        self._jobs: dict[int, JobFolder] = {}
        self._lock = threading.Lock()
        self._closing = False
        # One at a time and in order: names are settled when a pressing begins, and the machine has one disk.
        self._line = ThreadPoolExecutor(1, thread_name_prefix="press-room")

    def close(self) -> None:
        """From here on a pressing that ends was cut off: it stays in the record and begins again at the next start."""
        self._closing = True
        self._line.shutdown(wait=False, cancel_futures=True)

    def press(self, mix: StoredMix, ticket: Ticket) -> StoredPressing:
        """Puts a ticket of a mix to press; returns at once."""
        # Resolved now as well as when it runs: what cannot be pressed is refused before it stands in the record.
        make_order(facts_of(mix), mix.title, ticket, self.drop_off(mix), sub_folders=True)
        row = ticket_row(ticket)
        number = self._record.add(mix.id, mix.title, mix.path, row)
        self._begin(number, mix, row)
        return self.pressing(number)

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
        files = self.pressing(number).files
        if not 0 <= file_number < len(files):
            message = f"Pressing {number} has no file number {file_number + 1}."
            raise NotFound("file.unknown", message, pressing=number)
        report = files[file_number]
        if not Path(report["path"]).is_file():
            message = f"{Path(report['path']).name!r} is no longer where it was pressed: it was moved or deleted."
            raise NotFound("file.gone", message, path=report["path"])
        return report

    def resume(self, mixes: dict[int, StoredMix]) -> None:
        """Begins again what was waiting or running when the application ended."""
        sweep(self._folder.pressed)
        for pressing in self._record.unfinished():
            mix = mixes.get(pressing.mix_id) if pressing.mix_id is not None else None
            if mix is None:
                self._record.end(pressing.id, "failed", error="The application ended while this was pressed.")
            else:
                self._begin(pressing.id, mix, pressing.ticket)

    def drop_off(self, mix: StoredMix) -> Path:
        """The folder that the files of a mix go to."""
        return self._folder.pressed / safe_stem(mix.title)

    def _begin(self, number: int, mix: StoredMix, ticket: dict[str, Any]) -> None:
        job = JobFolder.make(self._folder.passing)
        with self._lock:
            self._jobs[number] = job
        self._line.submit(self._run, number, mix, ticket, job)

    def _run(self, number: int, mix: StoredMix, ticket: dict[str, Any], job: JobFolder) -> None:
        folder = self.drop_off(mix)
        try:
            if job.cancelled():
                message = "The pressing was cancelled before it began."
                raise Interrupted("press.cancelled", message)
            folder.mkdir(parents=True, exist_ok=True)
            facts = facts_of(mix)
            order = make_order(facts, mix.title, kept_ticket(ticket, facts), folder, sub_folders=True)
            order = replace(order, forecasts=tuple(self._trials.known(path) for path in order.paths))
            for target in order.targets:
                Path(target).parent.mkdir(parents=True, exist_ok=True)
            future: Future[tasks.TimedPressing] = self._workers.submit(tasks.press_order, order, str(job.path))
            self._record.start(number)
            timed = future.result()
            for path, file in zip(order.paths, timed.files, strict=True):
                self._trials.found_level(path, file.short)
            self._record.end(
                number, "done", seconds=timed.seconds, times_realtime=order_seconds(order) / timed.seconds,
                files=tuple(file_report(file) for file in timed.files),
            )  # fmt: skip
        except CancelledError:
            return
        except RipePressError as error:
            if self._closing:
                return
            # One pressing runs at a time, so whatever is unfinished in the drop-off is this one's.
            sweep(folder)
            cancelled = isinstance(error, Interrupted) and error.code == "press.cancelled"
            self._record.end(number, "cancelled" if cancelled else "failed", error=error.message)
        except OSError as error:
            self._record.end(number, "failed", error=f"The files could not be written: {error.strerror}.")
        except Exception as error:
            # Whatever nobody foresaw ends here too: a pressing that is left open would be begun again at each start.
            if self._closing:
                return
            sweep(folder)
            sentence = f"The pressing failed by a fault of Ripe Press itself ({type(error).__name__}: {error})."
            self._record.end(
                number, "failed", error=f"{sentence} Leave out one delivery after the other to find which."
            )
        finally:
            with self._lock:
                self._jobs.pop(number, None)
            job.clear()
