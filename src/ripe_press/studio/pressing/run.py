"""One pressing from its target folder to its end: reports go to the record, and every job gets an end."""

import json
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import Executor, Future, wait
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from ripe_press.core.disk import not_written
from ripe_press.core.errors import Cancelled, Conflict, Interrupted, RipePressError
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.requests.document import Document, document_row
from ripe_press.core.whole_files import sweep_beside
from ripe_press.core.words import quoted
from ripe_press.store.pressings import Pressings, State, StoredFile, StoredPressing
from ripe_press.studio.jobs.folder import JobFolder
from ripe_press.studio.log import logger
from ripe_press.studio.planning.planner import Plan, RequestedFile
from ripe_press.studio.planning.trials import Trials
from ripe_press.studio.pressing import tasks
from ripe_press.studio.pressing.after import list_files, make_disc_of, map_tempo
from ripe_press.studio.pressing.journal import Journal, after, as_found

_LOG = logger("press")
_LOOK_SECONDS = 0.1
_AGAIN_SECONDS = 0.5


@dataclass(frozen=True, slots=True)
class PressContext:
    """Shared by all pressings: record, worker, test encodings, and whether the application is closing."""

    record: Pressings
    workers: Executor
    trials: Trials
    closing: threading.Event
    places: threading.Lock = field(default_factory=threading.Lock)
    """Held while names are settled: two pressings at once must not choose the same."""


class PressingRun:
    """Runs one pressing of the record in a worker, to whatever end."""

    def __init__(self, desk: PressContext, number: int, job: JobFolder, journal: Path) -> None:
        self._desk = desk
        self._number = number
        self._job = job
        self._journal_path = journal
        self._journal = Journal(journal)
        self._files: list[StoredFile] = []
        self._document = ""
        self._seconds = 0.0
        self._off_by: float | None = None

    def run(self, plan: Callable[[], tuple[Document, Plan]], before: Callable[[], None]) -> None:
        """Presses what has not ended yet. Whatever happens, the record says so; only closing leaves it open.

        What has to be there ``before`` anything can be planned is waited for first.
        """
        try:
            if self._job.cancelled():
                message = "Cancelled before it started."
                raise Cancelled("press.cancelled", message)
            before()
            with self._desk.places:
                document, planned = plan()
                ticket = document_row(document)
                self._document = json.dumps(ticket)
                if planned.refused:
                    raise planned.refused[0].error
                self._settle_places(planned, ticket)
            self._press(planned)
            lacks = self._follow(document, planned)
            failed = [file for file in self._files if file.state == "failed"]
            if failed and not any(file.state == "named" for file in self._files):
                self._end("failed", failed[0].error)
            elif lacks:
                self._end("failed", lacks)
            else:
                heard = sum(file.report.frames / file.report.sample_rate_hz for file in self._files if file.report)
                self._end("done", None, heard / self._seconds if self._seconds else None)
        except RipePressError as error:
            self._end("cancelled" if isinstance(error, Cancelled) else "failed", error.message)
        except OSError as error:
            self._end("failed", not_written(Path(error.filename or "The files"), error))
        except Exception as error:
            _LOG.exception("pressing failed with an internal error", pressing=self._number)
            # An unexpected error ends here too: a pressing left open would restart at each start.
            sentence = f"Internal error ({type(error).__name__}: {error})."
            self._end("failed", f"{sentence} Disable deliveries one by one to find the cause.")

    def _follow(self, document: Document, planned: Plan) -> str:
        """The disc and other steps after the files of a running order; returns missing ones with reasons."""
        order = document.order
        map_tempo(document, planned, self._files)
        if order is None:
            return ""
        list_files(order, planned, self._files)

        def keep(report: dict[str, Any]) -> None:
            self._persist(lambda: self._desk.record.set_disc(self._number, report))

        return make_disc_of(
            order, self._document, planned, self._files, self._job, self._desk.workers, keep, self._journal.disc_note
        )

    def _sweep(self) -> None:
        """Delete its unfinished files."""
        for file in self._files:
            sweep_beside(Path(file.path))

    def _settle_places(self, planned: Plan, ticket: dict[str, Any]) -> None:
        """Names are decided once: after an interruption, the files get the same ones."""
        kept = self._desk.record.get(self._number)
        self._files = list(kept.files) if kept else []
        if self._files:
            self._take_news()
            self._files = [as_found(file) for file in self._files]
            self._files = _whole_groups(self._files, planned.files)
        else:
            self._files = [_place(at, one) for at, one in enumerate(planned.or_refuse().files)]
        self._persist(lambda: self._desk.record.set_files(self._number, self._files, ticket))

    def _press(self, planned: Plan) -> None:
        """All that is open in one go; where that takes the worker down, one after the other to find which did."""
        try:
            self._press_part([file.number for file in self._files if not file.ended], planned)
        except Interrupted as error:
            if error.code != "worker.crashed":
                raise
            for part in _parts([file for file in self._files if not file.ended], planned.files):
                self._press_alone(part, planned)

    def _press_alone(self, part: Sequence[int], planned: Plan) -> None:
        try:
            self._press_part(part, planned)
        except RipePressError as error:
            if isinstance(error, Cancelled):
                raise
            for at, file in enumerate(self._files):
                if file.number in part and not file.ended:
                    self._set(at, replace(file, state="failed", error=error.message))

    def _press_part(self, part: Sequence[int], planned: Plan) -> None:
        if not part:
            return
        for file in self._files:
            if file.number in part:
                Path(file.path).parent.mkdir(parents=True, exist_ok=True)
        targets = [
            tasks.FileTarget(
                file.number, file.path, file.replaces,
                self._desk.trials.known(planned.files[file.number].planned.path), file.number not in part,
            )
            for file in self._files
            if file.number in part or file.state == "named"
        ]  # fmt: skip
        future: Future[tasks.TimedPressing] = self._desk.workers.submit(
            tasks.press_order,
            self._document,
            targets,
            str(self._job.path),
            str(self._journal_path),
            self._job.attempt(),
            self._desk.record.pace()[0] or 1.0,
        )
        try:
            while not wait([future], _LOOK_SECONDS).done:
                self._take_news()
            timed = future.result()
        finally:
            self._take_news()
            if not self._desk.closing.is_set():
                self._files = [as_found(file) for file in self._files]
        self._seconds += timed.seconds
        self._off_by = timed.off_by
        for number, short in timed.short:
            self._desk.trials.found_level(planned.files[number].planned.path, short)

    def _take_news(self) -> None:
        for line in self._journal.news():
            at = next((at for at, file in enumerate(self._files) if file.number == line["number"]), None)
            if at is not None:
                self._set(at, after(self._files[at], line))

    def _set(self, at: int, file: StoredFile) -> None:
        self._files[at] = file
        if file.state == "failed":
            _LOG.warning("file failed", pressing=self._number, file=Path(file.path).name, why=file.error)
        self._persist(lambda: self._desk.record.set_file(self._number, file))

    def _end(self, state: State, error: str | None, times_realtime: float | None = None) -> None:
        if self._desk.closing.is_set():
            # Interrupted: it stays open in the record, and resumes at the next start.
            return
        self._take_news()
        named = sum(file.state == "named" for file in self._files)
        _LOG.info(
            "pressing ended",
            pressing=self._number,
            state=state,
            files=named,
            seconds=round(self._seconds, 2),
            why=error,
        )
        # Before the record says that it has ended: from then on nothing unfinished is there.
        self._sweep()
        self._persist(
            lambda: self._desk.record.end(
                self._number,
                state,
                error=error,
                seconds=self._seconds or None,
                times_realtime=times_realtime,
                off_by=self._off_by,
            )
        )
        self._journal.clear()

    def _persist(self, write: Callable[[], None]) -> None:
        """Writes into the record, however long another program holds it: what happened is not lost for that."""
        while True:
            try:
                write()
            except Conflict as error:
                if error.code != "store.busy" or self._desk.closing.wait(_AGAIN_SECONDS):
                    raise
            else:
                return


def files_after_cut(pressing: StoredPressing, journal: Path) -> tuple[list[StoredFile], datetime | None]:
    """The true states of files whose pressing has ended, and the time of the last report."""
    files = {file.number: file for file in pressing.files}
    for line in Journal(journal).news():
        if line["number"] in files:
            files[line["number"]] = after(files[line["number"]], line)
    heard = datetime.fromtimestamp(journal.stat().st_mtime, UTC) if journal.is_file() else None
    return [as_found(file) for file in files.values()], heard


def _place(at: int, one: RequestedFile) -> StoredFile:
    if one.placed.skipped:
        sentence = f"{quoted(one.placed.path.name)} exists; skipped."
        return StoredFile(at, str(one.placed.path), state="left-out", error=sentence)
    return StoredFile(at, str(one.placed.path), one.placed.replaces)


def _parts(files: Sequence[StoredFile], planned: Sequence[RequestedFile]) -> list[list[int]]:
    """Files that can be pressed apart from each other: those of one group share their level, and stay together."""
    parts: dict[str, list[int]] = {}
    for file in files:
        group, album = planned[file.number].planned.wish.group, planned[file.number].planned.wish.album
        parts.setdefault(group or album or f" {file.number}", []).append(file.number)
    return list(parts.values())


def _whole_groups(files: list[StoredFile], planned: Sequence[RequestedFile]) -> list[StoredFile]:
    """A group with a shared back-off or shared loudness is made again as a whole if a part of it was interrupted."""
    wholes = [_whole(planned[file.number].planned.wish) for file in files]
    cut = {whole for whole, file in zip(wholes, files, strict=True) if not file.ended} - {""}
    return [
        replace(file, state="waiting", replaces=True, report=None) if whole in cut and file.state == "named" else file
        for whole, file in zip(wholes, files, strict=True)
    ]


def _whole(wish: Delivery) -> str:
    """What a file is made together with, or not at all."""
    return wish.group if wish.group and wish.level.back_off else wish.album
