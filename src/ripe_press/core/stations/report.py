"""What a walk saw of one path."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.measure.clipping import ClippingResult
from ripe_press.core.measure.content import StereoResult
from ripe_press.core.measure.loudness import LoudnessResult
from ripe_press.core.measure.peak import PeakMeter
from ripe_press.core.measure.places.silence import SilenceResult
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.stations.size.sketch import Sketch

Levels = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Reduction:
    """What one limiter took off: the deepest gain reduction in dB of every 1024 frames at its rate."""

    rate_hz: int
    curve_db: Levels


@dataclass(frozen=True, slots=True)
class StationPeak:
    """The sample peak of what leaves a station."""

    kind: str
    dbfs: float


class StationPeakMeter:
    """Measures the sample peak of what leaves a station."""

    def __init__(self, kind: str, channels: int) -> None:
        self._kind = kind
        self._peak = PeakMeter(channels)

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        self._peak.process(block)

    def result(self) -> StationPeak:
        """The finished measure."""
        return StationPeak(self._kind, self._peak.result().sample_peak_dbfs)


@dataclass(frozen=True, slots=True)
class PathReport:
    """What the walk saw of one path; None and empty are what it did not look at."""

    clipping: ClippingResult | None = None
    """Of the range, in the mix."""
    silence: SilenceResult | None = None
    clipped_samples: int = 0
    """Samples held at full scale while integers were made."""
    peaks: tuple[StationPeak, ...] = ()
    """Of every station that makes new numbers, in the order of the path."""
    signal: SignalResult | None = None
    """Peaks and loudness of what reaches the file, or the meter that the path ends in."""
    fingerprint: str | None = None
    """Of the samples that reach a file which is to hold them to the bit."""
    stereo: StereoResult | None = None
    """Measured on the input of a mono sum."""
    reductions: tuple[Reduction, ...] = ()
    """Of every limiter, in order."""
    sketch: Sketch | None = None
    """Of the signal in front of a limiter that is still to be set."""
    limited: LoudnessResult | None = None
    """The loudness behind a limiter, of all channels that it holds together."""

    def reduction_db(self, rate_hz: int) -> Levels | None:
        """Total reduction of all limiters, for every 1024 frames at a rate; None without a limiter."""
        found: Levels | None = None
        for one in self.reductions:
            curve = _at_rate(one.curve_db, one.rate_hz, rate_hz)
            if found is not None:
                both = min(len(found), len(curve))
                curve = curve + np.pad(found[:both], (0, len(curve) - both))
            found = curve
        return found


NOTHING_SEEN = PathReport()


def _at_rate(curve: Levels, from_hz: int, to_hz: int) -> Levels:
    """A value for every 1024 frames at one rate out of such values at another; the deepest of those that it covers."""
    if from_hz == to_hz or not len(curve):
        return curve
    edges = np.arange(math.ceil(len(curve) * to_hz / from_hz) + 1) * from_hz / to_hz
    firsts = np.minimum(edges[:-1].astype(int), len(curve) - 1)
    # A bin reaches into the one that follows it; `reduceat` takes what lies between two places.
    found: Levels = np.minimum(
        np.minimum.reduceat(curve, firsts), curve[np.minimum(edges[1:].astype(int), len(curve) - 1)]
    )
    return found
