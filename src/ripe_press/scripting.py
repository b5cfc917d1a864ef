"""Ripe Press from Python: measure, plan, press and check with the computation of the page and the command line.

Everything here is exported by the package itself: ``import ripe_press``. See ``docs/python.md``.
"""

from collections.abc import Callable, Sequence
from os import PathLike
from pathlib import Path

from ripe_press.core.blocks import Progress, ShouldStop, never, no_progress
from ripe_press.core.errors import RipePressError
from ripe_press.core.naming import Clash
from ripe_press.core.requests.delivery import NO_CHANGES, Changes
from ripe_press.core.requests.edges import Edges
from ripe_press.core.requests.from_command_line import parse_briefs
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.requests.sets import BLANK_SET, set_for
from ripe_press.core.rules.findings import Finding
from ripe_press.core.sheet.file_report import FileReport
from ripe_press.core.sources.source import facts_of_file
from ripe_press.core.survey import Survey, survey
from ripe_press.studio.command_line import (
    FilePlan,
    PlannedStation,
    PressJob,
    PressResult,
    RangeRequest,
    TagsRequest,
    TicketRequest,
    frames_of,
    plan_now,
    press_now,
    set_out,
)
from ripe_press.studio.jobs import JobProgress
from ripe_press.studio.proof import CheckedFile, CheckResult, FileCheck, check_files

__all__ = [
    "Changes",
    "CheckResult",
    "CheckedFile",
    "Edges",
    "FileCheck",
    "FilePlan",
    "FileReport",
    "Finding",
    "LevelRequest",
    "PlannedStation",
    "PressJob",
    "PressResult",
    "Range",
    "RipePressError",
    "Survey",
    "Tags",
    "check",
    "job",
    "measure",
    "plan",
    "press",
]

Range = RangeRequest
Tags = TagsRequest
AnyPath = str | PathLike[str]
PressProgress = Callable[[JobProgress, Sequence[str]], None]
"""Gets the progress of a pressing, and the names of its files by their numbers."""

WHOLE_MIX = Range()
TAGS_OF_MIX = Tags()


def _no_press_progress(_progress: JobProgress, _names: Sequence[str]) -> None:
    """For callers that do not show progress."""


def measure(
    file: AnyPath,
    *,
    start: str = "",
    end: str = "",
    downmix: str = "",
    progress: Progress = no_progress,
    should_stop: ShouldStop = never,
) -> Survey:
    """Measure a file, or a range of it.

    ``start`` and ``end`` as on the command line: ``0:10``, ``3.2``, ``141120smp``; places in the result count from
    ``start``. Raises: RipePressError: NotFound or Unreadable for the file, BadInput for times, Interrupted.
    """
    path = Path(file)
    first, last = 0, None
    if start or end:
        first, last = frames_of(Range(start, end), facts_of_file(path, downmix))
    return survey(path, None, progress, should_stop, downmix, first, last)


def job(
    mixes: AnyPath | Sequence[AnyPath],
    briefs: Sequence[str] = (),
    *,
    range: Range = WHOLE_MIX,
    changes: Changes = NO_CHANGES,
    tags: Tags = TAGS_OF_MIX,
    clash: Clash = "keep-both",
    group: str = "",
) -> PressJob:
    """Describe a pressing: a range of every mix to every brief, with the same changes; without a brief a plain copy.

    A brief can have settings of its own: ``phone-and-car:format=mp3``.

    Files of one ``group`` share one gain. Raises: RipePressError: BadInput, NotFound, Unsupported.
    """
    paths = [mixes] if isinstance(mixes, str | PathLike) else mixes
    ticket = TicketRequest(set_for(parse_briefs(briefs)) if briefs else BLANK_SET, changes, clash, group)
    return set_out([Path(one) for one in paths], range, ticket, tags)


def plan(job: PressJob) -> tuple[FilePlan, ...]:
    """The files that a pressing would make, with sizes, stations and findings; nothing is written.

    Raises: RipePressError: what cannot be made.
    """
    return plan_now(job)


def press(
    job: PressJob, out: AnyPath, *, progress: PressProgress = _no_press_progress, should_stop: ShouldStop = never
) -> PressResult:
    """Render and verify the files of a job into a folder, which is created where it is missing.

    A file gets its name when it is whole and verified; a blocked one gets none. The pressing is recorded in the
    history. Raises: RipePressError: BadInput for the folder, Conflict, Interrupted; Cancelled on ``should_stop``.
    """
    return press_now(job, Path(out), progress, should_stop)


def check(
    files: AnyPath | Sequence[AnyPath], brief: str, *, progress: Progress = no_progress, should_stop: ShouldStop = never
) -> CheckResult:
    """Compare received files, or all audio in folders, with a brief, checksum lists, delivery sheets and signatures.

    ``brief`` is an ID or a file. Raises: RipePressError: NotFound, BadInput; Cancelled on ``should_stop``.
    """
    paths = [files] if isinstance(files, str | PathLike) else files
    return check_files([Path(one) for one in paths], brief, progress, should_stop)
