"""A look-ahead limiter that holds a true-peak ceiling.

It detects with several oversampling filters at once and takes the largest: the one with which the proof reads true
peaks, the one of a widespread loudness library, and a longer one that comes closer to the continuous signal.
"""

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block, empty_block
from ripe_press.core.oversampling import Filters, between, between_as_libraries_do, between_finely, reach_of

LOOK_AHEAD_S = 0.005
HOLD_S = 0.010
RELEASE_S = 0.08
REACH_S = RELEASE_S * 16.5 + HOLD_S
"""How long it remembers, until a gain that rises again lies 140 dB from what it would have been."""
AHEAD_S = 0.01
"""How far it looks ahead, filters and all, at every rate from 8 kHz on."""
_MARGIN = 8
"""Frames around a peak for which its gain is held: an interpolated peak comes of samples on either side."""

_TAPS = 64
_BEFORE = _TAPS // 2 - 1
REDUCTION_BIN = 1024
"""Frames for which one gain reduction is kept, for drawing."""


def _detectors(rate_hz: int) -> list[Filters]:
    """As libraries do, as the proof reads, and finer than both: the cheapest first; none where the rate is high."""
    found = (between_as_libraries_do(rate_hz), between(rate_hz), between_finely(rate_hz))
    return [filters for filters in found if len(filters)]


class PeakDetector:
    """The largest value of the signal from each sample to the next, over all channels: what a limiter must hold.

    ``process`` lags behind by ``delay`` frames. Values up to the threshold may be those of the samples alone.
    """

    delay = _TAPS // 2

    def __init__(self, rate_hz: int, channels: int) -> None:
        self.channels = channels
        self._filters = [(one, np.float32(reach_of(one))) for one in _detectors(rate_hz)]
        self._samples = np.zeros((_BEFORE, channels))
        """Not yet detected, with what the filters need of the past before them."""

    def process(self, block: Block, threshold: float, finely_from: float | None = None) -> NDArray[np.float32]:
        """One value a sample, linear, as far as what follows is known.

        With ``finely_from`` values up to it are found by the cheapest filter alone.
        """
        from ripe_press.core.kernels.limiter import envelope

        samples = np.concatenate((self._samples, block))
        count = len(samples) - (_TAPS - 1)
        if count <= 0:
            self._samples = samples
            return np.zeros(0, dtype=np.float32)
        columns = [np.ascontiguousarray(samples[:, channel], dtype=np.float32) for channel in range(self.channels)]
        peaks = np.zeros(count, dtype=np.float32)
        for column in columns:
            # A maximum along an axis of two takes ten times as long.
            np.maximum(peaks, np.abs(column[_BEFORE : _BEFORE + count]), out=peaks)
        for column in columns:
            for filters, reach in self._filters:
                first = filters is self._filters[0][0]
                above = threshold if first or finely_from is None else max(threshold, finely_from)
                around = filters.shape[1] // 2
                part = column[_BEFORE - around + 1 : _BEFORE + count + around]
                envelope(part, filters, reach, np.float32(above), peaks)
        self._samples = samples[count:]
        return peaks


class Limiter:
    """Keeps the true peak at or below ``ceiling_dbtp``; `flush` compensates the latency.

    The gain falls smoothly 5 ms ahead of a peak, is held for 10 ms and rises with a time constant of 80 ms; both
    channels share it. ``reduction_db`` are the lowest gains of every 1024 frames of what has left so far, of the
    ``frames`` after the first ``lead`` alone where those are given.
    """

    def __init__(
        self, ceiling_dbtp: float, rate_hz: int, channels: int, lead: int = 0, frames: int | None = None
    ) -> None:
        self._ceiling = 10.0 ** (ceiling_dbtp / 20)
        self._channels = channels
        self._detector = PeakDetector(rate_hz, channels)
        self._ahead = round(LOOK_AHEAD_S * rate_hz)
        length = self._ahead // 2 + 1
        self._release = 1.0 - float(np.exp(-1.0 / (RELEASE_S * rate_hz)))
        self._back = _MARGIN + round(HOLD_S * rate_hz)
        # Two averages of this length reach back over the look-ahead and no further.
        one = 1 << 30
        self._box = np.full((2, length), one, dtype=np.int64)
        self._sums = np.full(2, one * length, dtype=np.int64)
        self._state = np.array([1.0, 0.0])
        self._wanted = np.ones(self._back + self._ahead)
        """Gains wanted by samples, as far back as a peak is held; the newest are not covered by a window yet."""
        self._waiting = empty_block(channels)
        """Samples whose gain is not known yet."""
        self._lead = self._ahead + _MARGIN
        self._open = self._ahead
        """So many gains come before the first sample: the averages look back over the look-ahead."""
        self._reductions: list[float] = []
        self._bin = 1.0
        self._in_bin = 0
        self._unseen = lead
        self._seen = frames

    def process(self, block: Block) -> Block:
        """What can leave: everything but the last few milliseconds."""
        self._waiting = np.concatenate((self._waiting, block))
        return self._detect(block)

    def flush(self) -> Block:
        """The rest; silence is taken to follow."""
        left = self._waiting
        rest = self._detect(np.zeros((_TAPS // 2 + self._lead, self._channels)))
        if self._in_bin:
            self._reductions.append(self._bin)
            self._in_bin = 0
        return rest[: len(left)]

    @property
    def reduction_db(self) -> NDArray[np.float64]:
        """The deepest gain reduction of every 1024 frames, in dB, never above 0."""
        found: NDArray[np.float64] = 20 * np.log10(
            np.array([*self._reductions, *([self._bin] if self._in_bin else [])])
        )
        return found

    def _detect(self, block: Block) -> Block:
        from ripe_press.core.kernels.limiter import smooth_gain

        peaks = self._detector.process(block, self._ceiling)
        wanted = np.concatenate(
            (self._wanted, np.minimum(1.0, self._ceiling / np.maximum(peaks.astype(np.float64), 1e-12)))
        )
        # The gain at a sample is the least that is wanted from a while before it (hold) to the look-ahead after it.
        width = self._back + self._lead + 1
        covered = len(wanted) - width + 1
        if covered <= 0:
            self._wanted = wanted
            return empty_block(self._channels)
        least = _sliding_least(wanted, width)
        self._wanted = wanted[covered:]
        gains = np.empty(len(least))
        smooth_gain(least, self._release, self._box, self._state, self._sums, gains)
        skipped = min(self._open, len(gains))
        self._open -= skipped
        gains = gains[skipped:]
        ready = min(len(gains), len(self._waiting))
        out = self._waiting[:ready] * gains[:ready, None]
        self._waiting = self._waiting[ready:]
        self._keep(gains[:ready])
        return out

    def _keep(self, gains: NDArray[np.float64]) -> None:
        skipped = min(self._unseen, len(gains))
        self._unseen -= skipped
        gains = gains[skipped:]
        if self._seen is not None:
            gains = gains[: self._seen]
            self._seen -= len(gains)
        at = 0
        while at < len(gains):
            part = gains[at : at + REDUCTION_BIN - self._in_bin]
            self._bin = min(self._bin, float(part.min()))
            self._in_bin += len(part)
            at += len(part)
            if self._in_bin == REDUCTION_BIN:
                self._reductions.append(self._bin)
                self._bin, self._in_bin = 1.0, 0


def _sliding_least(values: NDArray[np.float64], width: int) -> NDArray[np.float64]:
    """The least of every ``width`` values in a row, by doubling."""
    span = 1
    least = values
    while span * 2 <= width:
        least = np.minimum(least[:-span], least[span:])
        span *= 2
    rest = width - span
    return np.minimum(least[: len(least) - rest], least[rest:]) if rest else least
