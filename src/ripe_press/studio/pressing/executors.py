"""Where a pressing is computed: in a worker process, or in a thread of this one."""

from collections.abc import Callable
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ripe_press.studio.discs import DiscFile, disc_of, make_disc
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.planning import Plan
from ripe_press.studio.pressing.tasks import PressTask, TimedPressing, press_files, press_order


@dataclass(frozen=True, slots=True)
class PressExecutor:
    """Presses files of a plan or its document, and makes a disc of tracks, in a folder, with a job and a note."""

    press: Callable[[Plan, str, PressTask], Future[TimedPressing]]
    disc: Callable[[str, list[str], Path, Path, Path], Future[dict[str, Any]]]


def in_worker(workers: Executor) -> PressExecutor:
    """Hands the document to a worker process, here or on another machine, which plans it again."""
    return PressExecutor(
        lambda _plan, document, task: workers.submit(press_order, document, task),
        lambda document, tracks, folder, job, note: workers.submit(
            disc_of, document, tracks, str(folder), str(job), str(note)
        ),
    )


def in_thread(laid: DiscFile | None) -> PressExecutor:
    """Presses the plan as it is, whose sources were measured a moment ago, and the disc as it is ``laid``."""
    thread = ThreadPoolExecutor(1, "press")

    def press(plan: Plan, _document: str, task: PressTask) -> Future[TimedPressing]:
        return thread.submit(press_files, [plan.files[one.number] for one in task.targets], task)

    def disc(document: str, tracks: list[str], folder: Path, job: Path, note: Path) -> Future[dict[str, Any]]:
        if laid is None:
            raise TypeError(document)
        work, paths = JobFolder(job), [Path(one) for one in tracks]
        return thread.submit(make_disc, laid, paths, folder, work.report, work.should_stop, note)

    return PressExecutor(press, disc)
