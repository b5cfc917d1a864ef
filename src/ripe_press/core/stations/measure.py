"""The end of a path that is measured and not written."""

from dataclasses import dataclass
from typing import ClassVar

from ripe_press.core.measure.signal import SignalMeter
from ripe_press.core.stations.base import Description, PathFacts, Signal, Station, Tap, Work
from ripe_press.core.stations.size.sketch import Sketcher


@dataclass(frozen=True, slots=True)
class Measure(Station):
    """The signal here is measured and goes no further: a leaf of the walk that settles levels.

    With ``sketch_db`` also sketched, to estimate a limiter of up to that reduction.
    """

    sketch_db: float | None = None
    kind: ClassVar[str] = "measure"
    trims: ClassVar[bool] = True

    @property
    def idle(self) -> bool:
        """Measuring changes nothing."""
        return True

    def work(self, here: Signal) -> Work:
        """Peaks and loudness, alone or with the sketch that is drawn beside them; on a thread of their own."""
        if self.sketch_db is None:
            return Work(taps=[Tap("signal", SignalMeter(here.channels, here.rate_hz))])
        return Work(taps=[Tap("sketch", Sketcher(here.channels, here.rate_hz, self.sketch_db), threaded=True)])

    def words(self, known: PathFacts) -> Description:
        """That it measures."""
        return Description(self.kind, "Measured", "", True, "Measures the signal.")
