"""Pressing on the command line, in this process: without the shelf, but recorded."""

from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import ExitStack, contextmanager, suppress
from dataclasses import asdict, dataclass
from functools import lru_cache
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from ripe_press.core.briefs.library import DISC_TRACK
from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.press import FailedFile
from ripe_press.core.requests.document import Document, MixRequest
from ripe_press.core.rules.findings import Finding, Verdict
from ripe_press.core.sheet.file_report import FileReport, report_row
from ripe_press.core.stations import Path as StationPath
from ripe_press.core.stations.size.forecast import Forecast
from ripe_press.core.trial import size_after, try_path
from ripe_press.core.whole_files import sweep_dead, temporary_prefix
from ripe_press.core.words import quoted
from ripe_press.store.db import Database
from ripe_press.store.pressings import Pressings
from ripe_press.studio.briefs import brief_row, briefs_here
from ripe_press.studio.data_folder import DataFolder, data_folder
from ripe_press.studio.discs import on_disc, refuse_no_disc
from ripe_press.studio.jobs import JobFolder, JobProgress
from ripe_press.studio.planning import Knowledge, MeasuredKnowledge, Plan, Row, bring_up_to_date, plan, rows_of
from ripe_press.studio.pressing import Journal, PressContext, PressRun, in_thread, journal_of, new_pressing


@dataclass(frozen=True, slots=True)
class PressJob:
    """A job to press, with its sources."""

    document: Document
    known: tuple[MeasuredKnowledge, ...]

    def knowledge_of(self, wish: MixRequest) -> Knowledge:
        """Return the measurements of one of its mixes."""
        return next(one for one, other in zip(self.known, self.document.mixes, strict=True) if other is wish)

    def planned(self, folder: Path, tracks: Path | None = None) -> Plan:
        """Its files, with places in a folder, and those of a disc's tracks. Raises: what the first refusal says."""
        places = {DISC_TRACK.id: tracks or folder}
        found = plan(self.document, self.knowledge_of, lambda _mix, brief: places.get(brief.id, folder))
        return found.or_refuse_ends()


class _Tried:
    """Trials that are made when they are asked for."""

    def __init__(self, plan: Plan) -> None:
        self._heard = {
            one.planned.path: one.known.signal(one.planned.path.cut.start_frame, one.planned.path.cut.read_end)
            for one in plan.files
        }

    @lru_cache(maxsize=64)  # noqa: B019 - as long as one command
    def known(self, path: StationPath) -> Forecast:
        return size_after(path, try_path(path.settled_about(self._heard[path])))

    def short(self, path: StationPath) -> None:
        """No level has been tried yet."""


@dataclass(frozen=True, slots=True)
class PlannedStation:
    """A station of a file in words; files that share work share the number of its ``node``."""

    node: int
    kind: str
    label: str
    detail: str
    idle: bool
    sentence: str


@dataclass(frozen=True, slots=True)
class FilePlan:
    """A file that would be pressed: its stations in order, its size, and what the rules notice."""

    id: str
    brief: str
    name: str
    frames: int
    sample_rate_hz: int
    bytes: int
    bytes_exact: bool
    bytes_between: tuple[int, int]
    container: str
    bit_exact: bool
    verdict: Verdict
    findings: tuple[Finding, ...]
    stations: tuple[PlannedStation, ...]


def plan_now(job: PressJob) -> tuple[FilePlan, ...]:
    """The files that a pressing would make. The mix is measured for that."""
    try:
        made = job.planned(Path.cwd())
        rows = rows_of(made.files, _Tried(made), job.document.mixes[0].bench.tempo)
        return tuple(_plan_of(row) for row in rows)
    finally:
        for one in job.known:
            one.close()


def _plan_of(row: Row) -> FilePlan:
    codec = row.path.codec
    return FilePlan(
        row.id, row.brief.id, row.path.name.file_name, codec.frames, codec.rate_hz, row.size.middle, row.size.exact,
        (row.size.low, row.size.high), codec.container, codec.exact, row.verdict,
        row.findings,
        tuple(
            PlannedStation(node, one.kind, one.label, one.detail, one.idle, one.sentence)
            for node, one in zip(row.nodes, row.stations, strict=True)
        ),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class DiscRequest:
    """Where a disc is made, and whether its tracks stay there as files, too."""

    folder: Path
    tracks: bool = False

    @property
    def tracks_folder(self) -> Path:
        """Where the tracks are pressed."""
        return self.folder / "tracks"


@dataclass(frozen=True, slots=True)
class PressResult:
    """What a pressing came to. ``pressing`` is its number in the history; None where nothing was recorded."""

    pressing: int | None = None
    files: tuple[FileReport, ...] = ()
    failed: tuple[FailedFile, ...] = ()
    skipped: tuple[str, ...] = ()
    """Existing files that were left as they are."""
    seconds: float = 0.0
    times_realtime: float | None = None
    tempo_maps: tuple[str, ...] = ()
    playlists: tuple[str, ...] | None = None
    """Of a running order."""
    disc: dict[str, Any] | None = None

    @property
    def all_ready(self) -> bool:
        """Whether no file failed and none is blocked."""
        return not self.failed and all(one.verdict != "stop" for one in self.files)

    @property
    def row(self) -> dict[str, Any]:
        """As plain values, for JSON: playlists, tempo maps and a disc only where there are some."""
        more = {
            "tempo_maps": list(self.tempo_maps) or None,
            "playlists": None if self.playlists is None else list(self.playlists),
            "disc": self.disc,
        }
        return {
            "pressing": self.pressing, "files": [report_row(one) for one in self.files],
            "failed": [asdict(one) for one in self.failed], "skipped": list(self.skipped), "seconds": self.seconds,
            "times_realtime": self.times_realtime,
            **{name: value for name, value in more.items() if value is not None},
        }  # fmt: skip


def press_now(
    made: PressJob,
    out: Path,
    progress: Callable[[JobProgress, Sequence[str]], None],
    should_stop: Callable[[], bool],
    again_of: int | None = None,
    disc: DiscRequest | None = None,
) -> PressResult:
    """Press a job into ``out``.

    ``progress`` gets the progress, and the names of the files by their numbers.

    ``again_of`` is the number of the pressing that it repeats.

    Existing files that are skipped are listed; if all are, nothing is pressed, which is not an error. Raises: BadInput
    for folders; whatever pressing raises.
    """
    order = made.document.order
    laid = None
    if order and order.disc:
        disc = disc or DiscRequest(out / "disc", tracks=True)
        laid = on_disc(made.document, order, made.knowledge_of)
    noticed = refuse_no_disc(laid) if laid else ()
    found = made.planned(_folder(out), disc.tracks_folder.absolute() if disc else None)
    skipped = tuple(str(one.placed.path) for one in found.files if one.placed.skipped)
    if len(skipped) == len(found.files):
        return PressResult(skipped=skipped)
    for folder in {one.placed.path.parent for one in found.files}:
        # Leftovers of a killed command have no owner.
        sweep_dead(_folder(folder))
    names = [one.placed.path.name for one in found.files]
    with _history() as (record, journals, lasts), ExitStack() as held:
        jobs: list[JobFolder] = []
        first = made.document.mixes[0].source
        new = new_pressing(None, first.title, first.facts.path, made.document, found, again_of)
        number = record.add(
            new, "running", lambda at: jobs.append(held.enter_context(Journal(journal_of(journals, at)).held()))
        )

        def watch() -> None:
            if should_stop():
                jobs[0].cancel()
            if done := jobs[0].progress():
                progress(done, names)

        run = PressRun(PressContext(record, in_thread(laid)), number, jobs[0], journal_of(journals, number), watch)
        run.run(lambda: (made.document, found))
        if run.fault:
            raise run.fault
        watch()
        stored = record.get(number)
        if stored is None:
            raise TypeError(number)
        files = stored.files
        if laid and disc and not disc.tracks:
            files = tuple(one for one in files if found.files[one.number].brief.id != DISC_TRACK.id)
            _clear([found.files[one.number].placed.path for one in stored.files if one not in files])
            record.set_files(number, files)
    return PressResult(
        number if lasts else None, tuple(one.report for one in files if one.report), tuple(run.failed), skipped,
        stored.seconds or 0.0, stored.times_realtime, tuple(run.tempo_maps),
        tuple(run.playlists) if order else None,
        {**stored.disc, "findings": [asdict(one) for one in noticed]} if stored.disc else None,
    )  # fmt: skip


@contextmanager
def _history() -> Iterator[tuple[Pressings, Path, bool]]:
    """The record, where its journals are, and whether it lasts: without a writable data folder it does not."""
    with ExitStack() as ends:
        folder, lasts = data_folder(), True
        try:
            database = Database(folder.database)
            folder.journals.mkdir(exist_ok=True)
        except (Conflict, OSError):
            aside = ends.enter_context(TemporaryDirectory(prefix=temporary_prefix("press")))
            folder, lasts = DataFolder(Path(aside)), False
            database = Database(folder.database)
            folder.journals.mkdir()
        ends.callback(database.close)
        bring_up_to_date(database)
        yield Pressings(database), folder.journals, lasts


def _clear(tracks: Iterable[Path]) -> None:
    """Takes the tracks away that were made for the disc alone, and their folder where nothing else is in it."""
    for path in tracks:
        path.unlink(missing_ok=True)
        with suppress(OSError):
            path.parent.rmdir()


def all_briefs() -> list[dict[str, Any]]:
    """Every brief as its file has it, those that ship first."""
    return [brief_row(brief) for brief in briefs_here().values()]


def _folder(out: Path) -> Path:
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        message = f"Cannot create the folder {quoted(out)}: {error.strerror}. Choose another."
        raise BadInput("press.no-folder", message, folder=str(out)) from error
    return out.absolute()
