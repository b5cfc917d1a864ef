"""Input, progress and results of a pressing."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from ripe_press.core.engine.levels import Shortfall
from ripe_press.core.engine.resolve import PlannedFile
from ripe_press.core.proof.read_back import Proof
from ripe_press.core.requests.brief import Brief
from ripe_press.core.rules.findings import Check, Finding, Verdict
from ripe_press.core.stations import NO_FINISH, Finish, Path as StationPath, PathReport
from ripe_press.core.stations.size.forecast import Forecast

FileState = Literal["queued", "settling", "making", "reading-back", "naming", "named", "left-out", "failed"]
"""The life of a file. *left-out*: the file was made but is blocked, or was skipped. The last three are its end."""


@dataclass(frozen=True, slots=True)
class OrderedFile:
    """A file that is to be pressed: what it is planned to be, for which brief, and its final place."""

    planned: PlannedFile
    brief: Brief
    target: str
    replaces: bool = False
    """Whether it may take the place of one that is there."""
    forecast: Forecast | None = None
    """The predicted size; without one, the size known without a test encoding."""
    chain: Finish = NO_FINISH
    """The finishing chain of the mix, whether this file takes it or not."""
    kept: bool = False
    """It was finished before: it counts for the level of its group and is not made again."""

    @property
    def path(self) -> StationPath:
        """The stations that are asked for."""
        return self.planned.path


@dataclass(frozen=True, slots=True)
class PressOrder:
    """The files to press, of any number of mixes."""

    files: tuple[OrderedFile, ...]
    recheck: bool = False
    """Whether the facts of the sources are from an earlier day: they are then read and compared first."""


@dataclass(frozen=True, slots=True)
class PressedFile:
    """A rendered file. ``path`` is its final place, or the place it would have had if it is blocked."""

    path: str
    brief: str
    verdict: Verdict
    findings: tuple[Finding, ...]
    checks: tuple[Check, ...]
    proof: Proof
    seen: PathReport
    gain_db: float | None = None
    reduction_db: float | None = None
    """The deepest gain reduction of all limiters together, where there is one."""
    forecast: Forecast | None = None
    short: Shortfall | None = None
    """Where the loudness that was asked for is out of reach."""
    backed_off_db: float = 0.0
    """How much lower it was made again so that it decodes under its ceiling."""
    tries: tuple[tuple[float, float], ...] = ()
    """Each try before that: its gain in dB, and the true peak in dBTP that it decoded to."""
    line: str = ""
    """The delivery on its ticket."""
    sends_to: tuple[str, ...] = ()
    """The names of the drop-offs that it goes to."""


@dataclass(frozen=True, slots=True)
class FailedFile:
    """A failed file and the reason in one sentence; the other files continued."""

    path: str
    brief: str
    code: str
    sentence: str


@dataclass(frozen=True, slots=True)
class Event:
    """Something happened to files of an order, by their numbers: one, or those that are walked together.

    ``done`` of ``total`` frames; ``made`` comes with *naming* and with *left-out*, ``failed`` with *failed*.
    """

    files: tuple[int, ...]
    state: FileState
    done: int = 0
    total: int = 0
    made: PressedFile | None = None
    failed: FailedFile | None = None


Tell = Callable[[Event], None]
"""Called from several threads, one call at a time."""
