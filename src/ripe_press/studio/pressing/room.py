"""Pressings: starting them, their place in the queue, and questions to the record."""

import shutil
import threading
from collections.abc import Callable
from concurrent.futures import CancelledError, Executor
from dataclasses import dataclass, replace
from pathlib import Path

from ripe_press.core.briefs.library import DISC_TRACK
from ripe_press.core.errors import Conflict, NotFound, RipePressError
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.document import Document, MixRequest, document_from
from ripe_press.core.sheet.file_report import FileReport
from ripe_press.core.whole_files import sweep, sweep_dead
from ripe_press.core.words import quoted
from ripe_press.store.db import Database
from ripe_press.store.mixes import Mixes, StoredMix
from ripe_press.store.pressings import Pressings, StoredFile, StoredPressing
from ripe_press.store.record import Record
from ripe_press.store.settings import Settings
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.jobs import Events, JobFolder, JobProgress, PressQueue, WorkerPool
from ripe_press.studio.log import logger
from ripe_press.studio.planning import Knowledge, Plan, Trials, brief_folder, measured, plan
from ripe_press.studio.pressing.after import TRACKS
from ripe_press.studio.pressing.destinations import Destinations, order_title
from ripe_press.studio.pressing.executors import in_worker
from ripe_press.studio.pressing.files_check import Checks
from ripe_press.studio.pressing.journal import Journal
from ripe_press.studio.pressing.run import (
    CORES,
    PressContext,
    PressRun,
    cut_off,
    cut_off_dead,
    files_after_cut,
    journal_of,
    new_pressing,
    work_seconds,
)
from ripe_press.studio.shelf import MixViews, keep_cover

_LOG = logger("press")
_GOES_ON = "press.goes-on"


@dataclass(frozen=True, slots=True)
class PressState:
    """How the press stands: ``pace`` and ``off_by`` are of the last pressings, None before there were any."""

    paused: bool
    goes_on: bool
    cores: int
    free_bytes: int | None
    pace: float | None
    off_by: float | None
    open: tuple[StoredPressing, ...]


class PressRoom:
    """Runs pressings one after the other in a worker process and keeps the record."""

    def __init__(
        self,
        folder: DataFolder,
        database: Database,
        workers: Executor,
        heavy: WorkerPool,
        trials: Trials,
        mix_views: MixViews,
        events: Events,
        passed: Callable[[StoredMix, Document, JobFolder], Document],
        at_once: int = 1,
    ) -> None:
        self._passed = passed
        self._folder = folder
        self._mix_views = mix_views
        self._mixes = Mixes(database)
        self._record = Pressings(database)
        self.record = Record(database)
        self._settings = Settings(database)
        self._events = events
        self._closing = threading.Event()
        self._context = PressContext(self._record, in_worker(workers), trials, self._closing)
        self.destinations = Destinations(folder, self._settings)
        self.checks = Checks(self._record, folder.pressed, heavy, events)
        self._line = PressQueue(self._record, self._settings, folder.passing, self._run, at_once)

    def close(self) -> None:
        """From now on a pressing that ends was interrupted: it stays in the record and resumes at the next start."""
        self._closing.set()
        self._line.close()

    def wait(self, seconds: float = 5.0) -> None:
        """Wait, up to a limit, for running pressings to stop; their workers have ended by then."""
        self._line.wait(seconds)

    def start(self) -> None:
        """Restore pressings interrupted by the end of the application, and start the queue."""
        sweep(self._folder.pressed)
        cut_off_dead(self._record, self._folder.journals)
        for pressing in self._record.unfinished():
            for folder in {Path(file.path).parent for file in pressing.files}:
                sweep_dead(folder)
            if Journal(self._journal(pressing.id)).holder == "alive":
                continue
            _LOG.info("pressing is resumed", pressing=pressing.id, state=pressing.state, goes_on=self.goes_on)
            if self.goes_on:
                self._record.set_files(pressing.id, files_after_cut(pressing, self._journal(pressing.id))[0])
                self._record.put_back(pressing.id)
            else:
                cut_off(self._record, pressing, self._folder.journals, " by shutdown")
        self._line.begin()

    def press(self, mix: StoredMix, document: Document, again_of: int | None = None) -> StoredPressing:
        """Queue the ticket of a mix for pressing; return at once. Raises: what cannot be pressed."""
        wanted = document.mixes[0].bench.folder
        if wanted:
            self.destinations.checked(wanted, mix.path)
        pressing = self._put(mix.id, mix.title, mix.path, document, self.planned(mix, document), again_of)
        self.destinations.used(self.folder_of(mix, document))
        return pressing

    def press_order(self, document: Document, again_of: int | None = None) -> StoredPressing:
        """Puts a running order to press; returns at once. Raises: what cannot be pressed."""
        title, path, folder = _order_home(document)
        if folder:
            self.destinations.checked(folder, path)
        pressing = self._put(None, title, path, document, self.planned_order(document), again_of)
        self.destinations.used(self.destinations.of(title, path, folder))
        return pressing

    def _put(
        self, mix_id: int | None, title: str, path: str, document: Document, planned: Plan, again_of: int | None
    ) -> StoredPressing:
        # Planned now as well as at its start: an impossible pressing is rejected before it enters the record.
        planned = planned.or_refuse()
        document = replace(document, mixes=tuple(keep_cover(self._folder, one) for one in document.mixes))
        number = self._record.add(new_pressing(mix_id, title, path, document, planned, again_of))
        self._changed()
        return self.pressing(number)

    def press_again(self, number: int) -> StoredPressing:
        """Queue a pressing of the record again, with its original ticket.

        Raises: NotFound ``pressing.unknown``; Conflict ``pressing.no-mix``; what cannot be pressed.
        """
        pressing = self.pressing(number)
        if is_order(pressing):
            return self.press_order(document_from(pressing.ticket), again_of=number)
        return self.press(self._mix_of(pressing), document_from(pressing.ticket), again_of=number)

    def planned(self, mix: StoredMix, document: Document, number: int = 0, *, wait: bool = False) -> Plan:
        """The files of a mix's ticket in its folder, apart from those of running pressings.

        Its stems may still need measuring: it is rejected until then, unless the caller can ``wait``.
        """
        known, others = self._mix_views.known(mix, wait=wait), self._record.under_way(number)
        folder, chosen = self.folder_of(mix, document), document.mixes[0].bench.folder
        # In a folder that was chosen, files lie where they are looked for, and not in one for each brief.
        place_of = (lambda _wish, _brief: folder) if chosen else (lambda _wish, brief: brief_folder(folder, brief))
        return plan(document, lambda _wish: known, place_of, others)

    def estimate(self, planned: Plan) -> float:
        """How long a pressing takes in seconds, by the speed of those before it."""
        pace, _ = self._record.pace()
        return work_seconds(planned) * (pace or 1.0)

    def planned_order(self, document: Document, number: int = 0) -> Plan:
        """The files of a running order, in a folder of its own, beside those that other pressings are making."""
        title, path, chosen = _order_home(document)
        folder = self.destinations.of(title, path, chosen)
        # Files of one brief lie in the very folder that was chosen; those of several need one for each.
        apart = not chosen or len(document.order.lines if document.order else ()) > 1
        others = self._record.under_way(number)

        def known_of(wish: MixRequest) -> Knowledge:
            mix = self._mixes.by_path(wish.source.facts.path)
            same = mix is not None and mix.downmix == wish.source.facts.downmix
            return self._mix_views.known(mix) if mix and same else measured(wish.source.facts)

        def folder_of(_mix: MixRequest, brief: Brief) -> Path:
            if brief.id == DISC_TRACK.id:
                return folder / "disc" / TRACKS
            return brief_folder(folder, brief) if apart else folder

        return plan(document, known_of, folder_of, others)

    def state(self) -> PressState:
        """Everything that is under way or waits, in its order, and how the press stands."""
        cut_off_dead(self._record, self._folder.journals)
        pace, off_by = self._record.pace()
        return PressState(self._line.paused, self.goes_on, CORES, self._free(), pace, off_by, self._record.open())

    @property
    def busy(self) -> bool:
        """Whether anything is being pressed, and moves."""
        return self._line.busy and not self._line.paused

    @property
    def goes_on(self) -> bool:
        """Return whether interrupted pressings resume automatically."""
        return self._settings.get(_GOES_ON, "yes") == "yes"

    def set_goes_on(self, goes_on: bool) -> None:
        """Set whether interrupted pressings resume automatically at the next start, or on request."""
        self._settings.set(_GOES_ON, "yes" if goes_on else "no")
        self._events.publish("pressings")

    def pause(self) -> None:
        """Pause the running pressing, one of the command line too, and start no other."""
        self._line.pause()
        for job in self._outside():
            job.hold()
        self._events.publish("pressings")

    def go_on(self) -> None:
        """Lets everything go on."""
        self._line.go_on()
        for job in self._outside():
            job.release()
        self._events.publish("pressings")

    def pressing(self, number: int) -> StoredPressing:
        """One pressing of the record. Raises: NotFound ``pressing.unknown``."""
        found = self._record.get(number)
        if found is None:
            message = f"Pressing {number} not found."
            raise NotFound("pressing.unknown", message, pressing=number)
        return found

    def latest(self, mix_id: int) -> StoredPressing | None:
        """The newest pressing of a mix, if there is one."""
        return self._record.latest(mix_id)

    def progress(self, number: int) -> JobProgress | None:
        """How far a running pressing is."""
        return self._line.progress(number) or JobFolder(Journal(self._journal(number)).job).progress()

    def cancel(self, number: int) -> None:
        """Cancel a pressing at the next block, or remove it from the queue: only finished files are kept.

        Raises: Conflict ``pressing.ended`` when it has ended already.
        """
        elsewhere = Journal(self._journal(number))
        if elsewhere.holder == "alive":
            JobFolder(elsewhere.job).cancel()
        elif not self._line.cancel(number):
            message = f"Pressing {self.pressing(number).id} has already ended."
            raise Conflict("pressing.ended", message, pressing=number)
        self._changed()

    def move(self, number: int, to: int) -> None:
        """Puts a pressing that waits at another place of the line, counted from 0.

        Raises: Conflict ``pressing.not-waiting``.
        """
        if not self._record.move(number, to):
            message = f"Pressing {self.pressing(number).id} is no longer queued."
            raise Conflict("pressing.not-waiting", message, pressing=number)
        self._events.publish("pressings")

    def try_again(self, number: int) -> StoredPressing:
        """Queue an interrupted, failed or cancelled pressing again: finished files are kept.

        Raises: Conflict ``pressing.nothing-open`` or ``pressing.no-mix``.
        """
        pressing = self.pressing(number)
        if _needs_mix(pressing):
            self._mix_of(pressing)
        if not self._record.reopen(number):
            message = f"No failed files in pressing {number}. Press it again to make new files."
            raise Conflict("pressing.nothing-open", message, pressing=number)
        self._changed()
        return self.pressing(number)

    def check_files(self, number: int) -> None:
        """Begins to look whether the files of a pressing are still there, as they were pressed."""
        self.checks.look(number, self.pressing(number).files)

    def file(self, number: int, file_number: int) -> FileReport:
        """The report of a pressed file. Raises: NotFound ``file.unknown`` or ``file.gone``."""
        made = {file.number: file.report for file in self.pressing(number).files if file.report}
        report = made.get(file_number)
        if report is None:
            message = f"Pressing {number} has no file {file_number + 1}."
            raise NotFound("file.unknown", message, pressing=number)
        if not Path(report.path).is_file():
            message = f"{quoted(Path(report.path).name)} was moved or deleted. Press again."
            raise NotFound("file.gone", message, path=report.path)
        return report

    def stored(self, number: int, file_number: int) -> tuple[StoredPressing, StoredFile]:
        """A pressing, and its file of this number. Raises: NotFound ``pressing.unknown`` or ``file.unknown``."""
        pressing = self.pressing(number)
        for file in pressing.files:
            if file.number == file_number and file.state == "named":
                return pressing, file
        message = f"Pressing {number} has no file {file_number + 1}."
        raise NotFound("file.unknown", message, pressing=number)

    def disc_file(self, number: int, kind: str) -> Path:
        """A file of the disc of a pressing. Raises: NotFound ``disc.none`` or ``disc.gone``."""
        disc = self.pressing(number).disc
        if disc is None or not disc.get(kind):
            message = f"Pressing {number} has no disc."
            raise NotFound("disc.none", message, pressing=number)
        path = Path(disc[kind])
        if not path.is_file():
            message = f"{quoted(path.name)} was moved or deleted. Press again."
            raise NotFound("disc.gone", message, path=str(path))
        return path

    def folder_of(self, mix: StoredMix, document: Document) -> Path:
        """The folder that the files of a mix's ticket go to."""
        return self.destinations.of(mix.title, mix.path, document.mixes[0].bench.folder)

    def _outside(self) -> list[JobFolder]:
        """The jobs of pressings that the command line runs."""
        return [JobFolder(one) for one in self._folder.journals.glob("*.job")]

    def _mix_of(self, pressing: StoredPressing) -> StoredMix:
        mix = self._mixes.get(pressing.mix_id) if pressing.mix_id is not None else None
        if mix is None:
            message = f"{quoted(pressing.mix_title)} is not on the Shelf. Add its file again, then press."
            raise Conflict("pressing.no-mix", message, pressing=pressing.id)
        return mix

    def _journal(self, number: int) -> Path:
        return journal_of(self._folder.journals, number)

    def _free(self) -> int | None:
        try:
            return shutil.disk_usage(self._folder.pressed).free
        except OSError:
            return None

    def _changed(self) -> None:
        self._line.wake()
        self._events.publish("pressings")

    def _run(self, number: int, job: JobFolder) -> None:
        self._events.publish("pressings")
        pressing = self.pressing(number)
        _LOG.info("pressing begins", pressing=number, mix=pressing.mix_title, again_of=pressing.again_of)

        settled: list[tuple[StoredMix, Document]] = []

        def before() -> None:
            if _needs_mix(pressing):
                mix = self._mix_of(pressing)
                document = document_from(pressing.ticket)
                settled.append((mix, self._passed(mix, document, job)))

        def planned() -> tuple[Document, Plan]:
            if not settled:
                document = document_from(pressing.ticket)
                return document, self.planned_order(document, number)
            mix, document = settled[0]
            self.folder_of(mix, document).mkdir(parents=True, exist_ok=True)
            return document, self.planned(mix, document, number, wait=True)

        try:
            PressRun(self._context, number, job, self._journal(number)).run(planned, before)
        except (CancelledError, RipePressError):
            # Only when the application closes: it stays open in the record.
            return
        finally:
            self._events.publish("pressings")


def is_order(pressing: StoredPressing) -> bool:
    """Whether a pressing is one of a running order, and not of one mix."""
    return bool(pressing.ticket.get("order"))


def _needs_mix(pressing: StoredPressing) -> bool:
    """Whether it is of a mix on the shelf: where the files of a command go is known once there are some."""
    return pressing.mix_id is not None or not (pressing.files or is_order(pressing))


def _order_home(document: Document) -> tuple[str, str, str]:
    """Title, path of the first mix, and chosen folder of a running order."""
    order = document.order
    return order_title(order.title if order else ""), document.mixes[0].source.facts.path, order.folder if order else ""
