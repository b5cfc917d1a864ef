"""A leaf of a walk at which a meter looks that is made for this one walk alone."""

from collections.abc import Callable
from typing import ClassVar, Generic, TypeVar

from ripe_press.core.blocks import Meter, Progress, no_progress
from ripe_press.core.engine.walker import NO_FILES, walk
from ripe_press.core.stations.base import Signal, Station, Tap, Work
from ripe_press.core.stations.path import Line
from ripe_press.core.stations.report import PathReport

M = TypeVar("M", bound=Meter)


def witness(
    line: Line,
    make: Callable[[Signal], M],
    should_stop: Callable[[], bool] = lambda: False,
    progress: Progress = no_progress,
) -> M:
    """Walks a line to its end and gives the meter that ``make`` makes for the signal there.

    Raises: Interrupted ``press.cancelled``; whatever reading raises.
    """
    return witnessed(line, make, should_stop, progress)[0]


def witnessed(
    line: Line,
    make: Callable[[Signal], M],
    should_stop: Callable[[], bool] = lambda: False,
    progress: Progress = no_progress,
) -> tuple[M, PathReport]:
    """The same, with what else the walk saw."""
    end = _Witness(make)
    (report,) = walk([(*line, end)], NO_FILES, progress, should_stop)
    return end.meter, report


class _Witness(Station, Generic[M]):
    """It is equal to nothing but itself, and never shared."""

    kind: ClassVar[str] = "witness"
    trims: ClassVar[bool] = True

    def __init__(self, make: Callable[[Signal], M]) -> None:
        self._make = make
        self.meter: M

    def work(self, here: Signal) -> Work:
        """Its meter."""
        self.meter = self._make(here)
        return Work(taps=[Tap("", self.meter)])
