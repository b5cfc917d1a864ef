"""Work of pressings in worker processes: frozen values and paths in, frozen values out."""

import os
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from ripe_press.core.engine.levels import Shortfall
from ripe_press.core.errors import Cancelled, Interrupted
from ripe_press.core.press import Event, FailedFile, OrderedFile, PressedFile, PressOrder, press
from ripe_press.core.proof.compare import Difference, difference_of
from ripe_press.core.proof.read_back import hash_file
from ripe_press.core.requests.document import read_document
from ripe_press.core.stations.size.forecast import Forecast
from ripe_press.studio.jobs import JobFolder, TimeLeft, server_is_gone
from ripe_press.studio.planning import RequestedFile, Resolved, measured, resolved_files
from ripe_press.studio.pressing.journal import Journal


@dataclass(frozen=True, slots=True)
class TimedPressing:
    """How long a pressing took in the worker, and by the numbers of files where a loudness fell short of its aim."""

    seconds: float
    short: tuple[tuple[int, Shortfall | None], ...]
    off_by: float | None
    """Mean error of the predicted time, as a share of the whole."""
    failed: tuple[FailedFile, ...] = ()


@dataclass(frozen=True, slots=True)
class FileTarget:
    """The path of a file of a document, by its number there, and its predicted size.

    One that was ``kept`` is there already: it only counts for the level of its group.
    """

    number: int
    path: str
    replaces: bool
    forecast: Forecast | None
    kept: bool = False


@dataclass(frozen=True, slots=True)
class PressTask:
    """Files to press, with the folder of the job, the journal, and the attempt; ``pace`` is for the time left."""

    targets: tuple[FileTarget, ...]
    job: str
    journal: str
    attempt: str
    pace: float = 1.0


def press_order(document: str, task: PressTask) -> TimedPressing:
    """Press files of a document; report progress in the job folder, and events of files in the journal.

    Raises: Interrupted ``worker.crashed`` where this attempt was begun before, by a worker that did not come to its
    end; ``press.superseded`` where another has taken its place.
    """
    if not JobFolder(Path(task.job)).begin(task.attempt):
        message = "Worker lost. Try again."
        raise Interrupted("worker.crashed", message)
    files, _ = resolved_files(read_document(document), lambda wish: measured(wish.source.facts))
    return press_files([files[target.number] for target in task.targets], task, recheck=True)


def press_files(files: Sequence[Resolved | RequestedFile], task: PressTask, *, recheck: bool = False) -> TimedPressing:
    """Press planned files; with ``recheck`` the mixes are compared with their facts first. Raises: as `press_order`."""
    folder, noted, targets = JobFolder(Path(task.job)), Journal(Path(task.journal)), task.targets
    began = folder.seconds()
    order = PressOrder(
        tuple(
            OrderedFile(
                one.planned, one.brief, target.path, target.replaces, target.forecast, one.mix.finish, target.kept
            )
            for one, target in zip(files, targets, strict=True)
        ),
        recheck,
    )
    numbers = [target.number for target in targets]
    cores = os.cpu_count() or 2
    work = TimeLeft(order.files, folder.tell, cores=cores, numbers=numbers, pace=task.pace, clock=folder.seconds)

    last: dict[int, str] = {}

    def report(event: Event) -> None:
        work(event)
        for at in event.files:
            # A file is noted when its state changes, not for every block of it.
            if not targets[at].kept and last.get(at) != event.state:
                last[at] = event.state
                if event.state == "naming" and server_is_gone():
                    # The server is gone: the file is made again after its restart.
                    os._exit(1)
                if event.state == "naming" and not folder.owns(task.attempt):
                    message = "Another worker continued this file."
                    raise Cancelled("press.superseded", message)
                noted.write(targets[at].number, event)

    made = press(order, report, lambda: folder.should_stop() or not folder.owns(task.attempt))
    wanted = [target.number for target in targets if not target.kept]
    short = tuple((number, one.short) for number, one in zip(wanted, made, strict=True) if isinstance(one, PressedFile))
    failed = tuple(one for one in made if isinstance(one, FailedFile))
    return TimedPressing(folder.seconds() - began, short, work.off_by(), failed)


def compare_sound(first: str, second: str, job: str) -> Difference:
    """Decode two files and measure their difference. Raises: as `difference_of`."""
    return difference_of(Path(first), Path(second), JobFolder(Path(job)).should_stop)


@dataclass(frozen=True, slots=True)
class FileLocation:
    """What has become of a file, and where it was found, when it was."""

    found: Literal["as-pressed", "moved", "changed", "gone"]
    path: str | None


def look_for_file(path: str, size_bytes: int, sha256: str, root: str) -> FileLocation:
    """Looks whether a file is as it was; where it is gone, for its content in its folder and below ``root``."""
    wanted = Path(path)
    if wanted.is_file():
        same = wanted.stat().st_size == size_bytes and hash_file(wanted) == sha256
        return FileLocation("as-pressed" if same else "changed", path)
    for folder in dict.fromkeys((wanted.parent, Path(root))):
        for other in sorted(folder.rglob("*")):
            if other.is_file() and other.stat().st_size == size_bytes and hash_file(other) == sha256:
                return FileLocation("moved", str(other))
    return FileLocation("gone", None)
