"""One pressing from its target folder to its end: reports go to the record, and every job gets an end."""

import json
import os
import shutil
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import Future, wait
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar

from ripe_press.core.briefs.library import DISC_TRACK
from ripe_press.core.disk import not_written
from ripe_press.core.errors import Cancelled, Conflict, Interrupted, RipePressError, Unsupported
from ripe_press.core.formats.libraries import library_versions
from ripe_press.core.press import FailedFile
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.requests.document import Document, document_row
from ripe_press.core.units import print_count
from ripe_press.core.whole_files import sweep_beside
from ripe_press.core.words import quoted
from ripe_press.store.pressings import NewPressing, Pressings, State, StoredFile, StoredPressing
from ripe_press.studio.jobs import JobFolder, effort_of, foretold_seconds
from ripe_press.studio.log import logger
from ripe_press.studio.planning import Plan, RequestedFile, Trials
from ripe_press.studio.pressing.after import disc_folder, list_files, map_tempo
from ripe_press.studio.pressing.executors import PressExecutor
from ripe_press.studio.pressing.journal import Journal, after, as_found
from ripe_press.studio.pressing.tasks import FileTarget, PressTask
from ripe_press.studio.shelf import words_of

T = TypeVar("T")
_LOG = logger("press")
CORES = os.cpu_count() or 2
ENDING = ".jsonl"
_LOOK_SECONDS = 0.1
_AGAIN_SECONDS = 0.5


@dataclass(frozen=True, slots=True)
class PressContext:
    """Shared by all pressings: record, executor, test encodings where there are some, and whether it is closing."""

    record: Pressings
    executor: PressExecutor
    trials: Trials | None = None
    closing: threading.Event = field(default_factory=threading.Event)
    places: threading.Lock = field(default_factory=threading.Lock)
    """Held while names are settled: two pressings at once must not choose the same."""


class PressRun:
    """Run one pressing of the record; ``watch`` is called ten times a second."""

    def __init__(
        self,
        context: PressContext,
        number: int,
        job: JobFolder,
        journal: Path,
        watch: Callable[[], None] = lambda: None,
    ) -> None:
        self._context = context
        self._watch = watch
        self._number = number
        self._job = job
        self._journal_path = journal
        self._journal = Journal(journal)
        self._files: list[StoredFile] = []
        self._document = ""
        self._seconds = 0.0
        self._off_by: float | None = None
        self.failed: list[FailedFile] = []
        self.tempo_maps: list[str] = []
        self.playlists: list[str] = []
        self.fault: Exception | None = None
        """What ended it, where something did."""

    def run(self, plan: Callable[[], tuple[Document, Plan]], before: Callable[[], None] = lambda: None) -> None:
        """Presses what has not ended yet. Whatever happens, the record says so; only closing leaves it open.

        What has to be there ``before`` anything can be planned is waited for first.
        """
        try:
            if self._job.cancelled():
                message = "Cancelled before it started."
                raise Cancelled("press.cancelled", message)
            before()
            with self._context.places:
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
                raise Unsupported("disc.track-missing", lacks)
            else:
                heard = sum(file.report.frames / file.report.sample_rate_hz for file in self._files if file.report)
                self._end("done", None, heard / self._seconds if self._seconds else None)
        except Cancelled as error:
            self._take_news()
            kept = sum(file.state == "named" for file in self._files)
            message = f"Cancelled; {print_count(kept, 'finished file')} kept." if kept else error.message
            self.fault = Cancelled(error.code, message)
            self._end("cancelled", message)
        except RipePressError as error:
            self.fault = error
            self._end("failed", error.message)
        except OSError as error:
            self.fault = error
            self._end("failed", not_written(Path(error.filename or "The files"), error))
        except Exception as error:
            self.fault = error
            _LOG.exception("pressing failed with an internal error", pressing=self._number)
            # An unexpected error ends here too: a pressing left open would restart at each start.
            sentence = f"Internal error ({type(error).__name__}: {error})."
            self._end("failed", f"{sentence} Disable deliveries one by one to find the cause.")

    def _follow(self, document: Document, planned: Plan) -> str:
        """The disc and other steps after the files of a running order; returns missing ones with reasons."""
        order = document.order
        self.tempo_maps = map_tempo(document, planned, self._files)
        if order is None:
            return ""
        self.playlists = list_files(order, planned, self._files)
        tracks = [one for one in self._files if planned.files[one.number].brief.id == DISC_TRACK.id]
        missing = [one for one in tracks if one.state != "named"]
        if missing:
            return f"{quoted(Path(missing[0].path).name)} failed, so no disc was made."
        if order.disc:
            paths, folder, note = [one.path for one in tracks], disc_folder(tracks), self._journal.disc_note
            making = self._context.executor.disc(self._document, paths, folder, self._job.path, note)
            report = self._awaited(making)
            self._persist(lambda: self._context.record.set_disc(self._number, report))
        return ""

    def _awaited(self, future: Future[T]) -> T:
        while not wait([future], _LOOK_SECONDS).done:
            self._take_news()
            self._watch()
        return future.result()

    def _sweep(self) -> None:
        """Delete its unfinished files."""
        for file in self._files:
            sweep_beside(Path(file.path))

    def _settle_places(self, planned: Plan, ticket: dict[str, Any]) -> None:
        """Names are decided once: after an interruption, the files get the same ones."""
        kept = self._context.record.get(self._number)
        self._files = list(kept.files) if kept else []
        if self._files:
            self._take_news()
            self._files = [as_found(file) for file in self._files]
            self._files = _whole_groups(self._files, planned.files)
        else:
            self._files = [_place(at, one) for at, one in enumerate(planned.or_refuse().files)]
        self._persist(lambda: self._context.record.set_files(self._number, self._files, ticket))

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
        trials = self._context.trials
        targets = tuple(
            FileTarget(
                file.number, file.path, file.replaces,
                trials.known(planned.files[file.number].planned.path) if trials else None, file.number not in part,
            )
            for file in self._files
            if file.number in part or file.state == "named"
        )  # fmt: skip
        pace = self._context.record.pace()[0] or 1.0
        task = PressTask(targets, str(self._job.path), str(self._journal_path), self._job.attempt(), pace)
        try:
            timed = self._awaited(self._context.executor.press(planned, self._document, task))
        finally:
            self._take_news()
            if not self._context.closing.is_set():
                self._files = [as_found(file) for file in self._files]
        self._seconds += timed.seconds
        self._off_by = timed.off_by
        self.failed += timed.failed
        if trials:
            for number, short in timed.short:
                trials.found_level(planned.files[number].planned.path, short)

    def _take_news(self) -> None:
        for line in self._journal.news():
            at = next((at for at, file in enumerate(self._files) if file.number == line["number"]), None)
            if at is not None:
                self._set(at, after(self._files[at], line))

    def _set(self, at: int, file: StoredFile) -> None:
        self._files[at] = file
        if file.state == "failed":
            _LOG.warning("file failed", pressing=self._number, file=Path(file.path).name, why=file.error)
        self._persist(lambda: self._context.record.set_file(self._number, file))

    def _end(self, state: State, error: str | None, times_realtime: float | None = None) -> None:
        if self._context.closing.is_set():
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
            lambda: self._context.record.end(
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
                if error.code != "store.busy" or self._context.closing.wait(_AGAIN_SECONDS):
                    raise
            else:
                return


def work_seconds(planned: Plan) -> float:
    """How long the files of a plan take, at the common pace."""
    return foretold_seconds([effort_of(one.planned.path).all for one in planned.files if not one.placed.skipped], CORES)


def new_pressing(
    mix_id: int | None, title: str, path: str, document: Document, planned: Plan, again_of: int | None
) -> NewPressing:
    """The facts of a planned pressing for the record."""
    purposes = ", ".join(dict.fromkeys(one.brief.title for one in planned.files))
    return NewPressing(
        mix_id, title, path, document_row(document), purposes, words_of(document), work_seconds(planned),
        library_versions(), again_of,
    )  # fmt: skip


def journal_of(journals: Path, number: int) -> Path:
    """The journal of a pressing."""
    return journals / f"{number}{ENDING}"


def cut_off_dead(record: Pressings, journals: Path) -> None:
    """Mark the pressings of killed commands as interrupted."""
    for job in journals.glob("*.job"):
        pressing = record.get(int(job.stem))
        # Without a pressing the command is about to begin.
        if pressing is None or Journal(job.with_suffix(ENDING)).holder != "dead":
            continue
        if pressing.state == "running":
            cut_off(record, pressing, journals)
        shutil.rmtree(job, ignore_errors=True)


def cut_off(record: Pressings, pressing: StoredPressing, journals: Path, by: str = "") -> None:
    """Mark a pressing as interrupted ``by`` something, with the true states of its files."""
    files, cut_at = files_after_cut(pressing, journal_of(journals, pressing.id))
    record.set_files(pressing.id, files)
    kept = sum(file.state == "named" for file in files)
    when = f" at {cut_at.astimezone():%H:%M on %-d %b}" if cut_at else ""
    sentence = f"Interrupted{by}{when}; {print_count(kept, 'file')} kept."
    waited = "Interrupted while queued."
    record.cut_off(pressing.id, sentence if pressing.state == "running" else waited)


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
        replace(file, state="queued", replaces=True, report=None) if whole in cut and file.state == "named" else file
        for whole, file in zip(wholes, files, strict=True)
    ]


def _whole(wish: Delivery) -> str:
    """What a file is made together with, or not at all."""
    return wish.group if wish.group and wish.level.back_off else wish.album
