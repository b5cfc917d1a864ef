"""A look-ahead limiter that holds a true-peak ceiling.

It detects with two oversampling filters at once and takes the larger: a windowed sinc of 12 taps a phase, which is
how a widespread loudness library reads true peaks, and a longer one that comes closer to the continuous signal.
"""

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block, empty_block

LOOK_AHEAD_S = 0.005
HOLD_S = 0.010
RELEASE_S = 0.08
_MARGIN = 8
"""Frames around a peak for which its gain is held: an interpolated peak comes of samples on either side."""

_TAPS = 64
_BEFORE = _TAPS // 2 - 1
REDUCTION_BIN = 1024
"""Frames for which one gain reduction is kept, for drawing."""


def _filters(rate_hz: int) -> list[NDArray[np.float32]]:
    """Sets of interpolation filters, ``(phases, taps)`` each; none where the rate is high enough by itself."""
    if rate_hz >= 192_000:
        return []
    # A Hann-windowed sinc, four times below 96 kHz and twice from there on.
    factor, half = (4, 6) if rate_hz < 96_000 else (2, 12)
    places = np.arange(2 * half) - (half - 1)
    short = [
        np.sinc(at) * 0.5 * (1 + np.cos(np.pi * np.clip(at / half, -1, 1)))
        for at in (places - phase / factor for phase in range(1, factor))
    ]
    places = np.arange(_TAPS) - _BEFORE
    fine = 8 if rate_hz < 88_200 else 4
    long = [
        np.sinc(at) * np.i0(8.0 * np.sqrt(np.maximum(0.0, 1 - (at / (_TAPS / 2)) ** 2))) / np.i0(8.0)
        for at in (places - phase / fine for phase in range(1, fine))
    ]
    return [np.array(short, dtype=np.float32), np.array(long, dtype=np.float32)]


class Limiter:
    """Holds the true peak at or below ``ceiling_dbtp``; latency is taken out again by `flush`.

    The gain falls smoothly 5 ms ahead of a peak, is held for 10 ms and rises with a time constant of 80 ms; both
    channels share it. ``reduction_db`` are the lowest gains of every 1024 frames of what has left so far.
    """

    def __init__(self, ceiling_dbtp: float, rate_hz: int, channels: int) -> None:
        self._ceiling = 10.0 ** (ceiling_dbtp / 20)
        self._channels = channels
        self._filters = [(one, np.float32(np.abs(one).sum(axis=1).max() * 1.0001)) for one in _filters(rate_hz)]
        self._ahead = round(LOOK_AHEAD_S * rate_hz)
        length = self._ahead // 2 + 1
        self._release = 1.0 - float(np.exp(-1.0 / (RELEASE_S * rate_hz)))
        self._back = _MARGIN + round(HOLD_S * rate_hz)
        # Two averages of this length reach back over the look-ahead and no further.
        one = 1 << 30
        self._box = np.full((2, length), one, dtype=np.int64)
        self._sums = np.full(2, one * length, dtype=np.int64)
        self._state = np.array([1.0, 0.0])
        self._samples = np.zeros((_BEFORE, channels))
        """Not yet detected, with what the filters need of the past before them."""
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
        from ripe_press.core.kernels.limiter import envelope, smooth_gain

        samples = np.concatenate((self._samples, block))
        count = len(samples) - (_TAPS - 1)
        if count <= 0:
            self._samples = samples
            return empty_block(self._channels)
        peaks = np.abs(samples[_BEFORE : _BEFORE + count]).max(axis=1).astype(np.float32)
        for channel in range(self._channels):
            column = np.ascontiguousarray(samples[:, channel], dtype=np.float32)
            for filters, reach in self._filters:
                around = filters.shape[1] // 2
                part = column[_BEFORE - around + 1 : _BEFORE + count + around]
                envelope(part, filters, reach, np.float32(self._ceiling), peaks)
        self._samples = samples[count:]
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
