"""A limiter that holds a true-peak ceiling, with a gain that follows the material.

Brief peaks are turned down within a window around them, on their own side, without a release: changes are short and
small. Low tones that stay above the ceiling are held by a slow gain, so that it does not follow their waves.

It detects with several oversampling filters at once and takes the largest: the one with which the proof reads true
peaks, the one of a widespread loudness library, a longer one, and near the ceiling that of a steep converter.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block, empty_block
from ripe_press.core.oversampling import (
    between,
    between_as_libraries_do,
    between_finely,
    between_steeply,
    reach_of,
)

Gains = NDArray[np.float64]
Character = Literal["transparent", "dense"]
Sides = Literal["apart", "together"]

WINDOW_S: dict[Character, float] = {"transparent": 0.002, "dense": 0.0015}
"""How long before a peak the gain falls, and as long it rises after it."""
CLIP_DB = 1.5
"""The part of a brief peak that a clip takes."""
CLIP_WINDOW_S = 0.0005
BRIEF_S = 0.00025
"""A peak above the ceiling for longer is not clipped."""
JOINED_S, LONG_S = 0.00025, 0.002
"""A wave above the ceiling for so long belongs to a low tone; gaps by the waves of a higher one are passed over."""
TIP = 0.65
"""The tip of a wave, shorter than that, is held too, down to this part: that of 130 Hz; the rest is a brief peak."""
WAVE_S = 0.042
"""Most of a wave of 20 Hz: the highest of several half waves, of which a higher tone beside makes no two alike."""
SUSTAINED_S = 0.15
SLOW_S = 0.03
"""The slow gain falls and rises within this time."""
RELEASE_S = 0.05
"""The time constant with which the slow gain recovers."""
AHEAD_S = 0.25
"""How far it looks ahead, filters and all, at every rate from 8 kHz on."""
REACH_S = RELEASE_S * 16.5 + AHEAD_S
"""How long it remembers, until a gain that rises again lies 140 dB from what it would have been."""
_MARGIN = 8
"""Frames around a peak for which its gain is held: an interpolated peak comes of samples on either side."""

_TAPS = 192
_BEFORE = _TAPS // 2
_NEAR, _SURE = 0.75, 0.92
"""The parts of the ceiling from which finer filters look for peaks, and from which what they find is exact."""
_PART = 16_384
REDUCTION_BIN = 1024
"""Frames for which one gain reduction is kept, for drawing."""


@dataclass(frozen=True, slots=True)
class Limiting:
    """How a limiter works: its character, brief peaks on both sides or on their own, and clipped or not."""

    character: Character = "transparent"
    sides: Sides = "apart"
    clip: bool = False


USUAL_LIMITING = Limiting()


class PeakDetector:
    """The largest value of each side from each sample to the next: what a limiter must hold.

    ``process`` lags behind by ``delay`` frames. Values up to 0.75 of the threshold may be those of the samples alone.
    """

    delay = _TAPS // 2 + 1

    def __init__(self, rate_hz: int, channels: int) -> None:
        self.channels = channels
        coarse = [one for one in (between_as_libraries_do(rate_hz), between(rate_hz)) if len(one)]
        self._coarse = [(one, np.float32(reach_of(one))) for one in coarse]
        self._fine = (between_finely(rate_hz), between_steeply(rate_hz)) if coarse else ()
        self._samples = np.zeros((_BEFORE, channels))
        """Not yet detected, with what the filters need of the past before them."""

    def process(self, block: Block, threshold: float, finely_from: float | None = None) -> NDArray[np.float32]:
        """``(channels, frames)``, linear, as far as what follows is known.

        Values up to ``finely_from`` (usually the threshold) are found by the coarse filters alone.
        """
        from ripe_press.core.kernels.limiter import envelope, refine

        samples = np.concatenate((self._samples, block))
        count = len(samples) - _BEFORE - self.delay
        if count <= 0:
            self._samples = samples
            return np.zeros((self.channels, 0), dtype=np.float32)
        columns = np.ascontiguousarray(samples.T, dtype=np.float32)
        # One value more at either end: a peak is one by its neighbours.
        found = np.abs(columns[:, _BEFORE - 1 : _BEFORE + count + 1])
        finely_from = max(threshold, finely_from or 0.0)
        low, near, sure = (np.float32(one) for one in (_NEAR * threshold, _NEAR * finely_from, _SURE * finely_from))
        for column, coarse in zip(columns, found, strict=True):
            for filters, reach in self._coarse:
                around = filters.shape[1] // 2
                envelope(column[_BEFORE - around : _BEFORE + count + around + 1], filters, reach, low, coarse)
        peaks = found[:, 1:-1].copy() if self._fine else found[:, 1:-1]
        for column, coarse, fine in zip(columns, found, peaks, strict=True):
            for filters in self._fine:
                around = filters.shape[1] // 2
                refine(column[_BEFORE - around + 1 : _BEFORE + count + around], filters, near, sure, coarse, fine)
        self._samples = samples[count:]
        return peaks


class _Extreme:
    """The least, or the highest, of the values around each; ``rest`` stands before the first.

    ``half`` frames to either side; the result begins ``early`` frames before the first value.
    """

    def __init__(self, half: int, highest: bool = False, early: int = 0, rest: float = 1.0) -> None:
        self._width = 2 * half + 1
        self._highest = highest
        self._rest = rest
        self._kept = np.full(half + early, rest)

    def process(self, values: Gains) -> Gains:
        """As far as what follows is known."""
        from ripe_press.core.kernels.limiter import extreme

        values = np.concatenate((self._kept, values))
        count = max(0, len(values) - self._width + 1)
        self._kept = values[count:]
        out = np.full(count, self._rest)
        if count and (values != self._rest).any():
            extreme(values, self._width, self._highest, out)
        return out


class Opening:
    """Two windows of ``seconds``: the least around each value and then the highest of those, or the other way round."""

    def __init__(self, seconds: float, rate_hz: float, highest_first: bool, rest: float = 1.0) -> None:
        half = max(1, round(seconds * rate_hz / 2))
        self._windows = (_Extreme(half, highest_first, rest=rest), _Extreme(half, not highest_first, rest=rest))

    def process(self, values: Gains) -> Gains:
        """As far as what follows is known."""
        first, second = self._windows
        return second.process(first.process(values))


class Average:
    """Two averages over the frames around each gain, after a release (1: none); ``early`` frames are not given out."""

    def __init__(self, frames: int, release: float, early: int) -> None:
        one = 1 << 30
        self._release = release
        self._box = np.full((2, frames), one, dtype=np.int64)
        self._sums = np.full(2, one * frames, dtype=np.int64)
        self._state = np.array([1.0, 0.0])
        self._early = early

    def process(self, gains: Gains) -> Gains:
        """As far as what follows is known."""
        from ripe_press.core.kernels.limiter import smooth_gain

        out = np.empty(len(gains))
        smooth_gain(gains, self._release, self._box, self._state, self._sums, out)
        skipped = min(self._early, len(out))
        self._early -= skipped
        return out[skipped:]


class _Window:
    """A gain never above the wanted one: it falls within ``seconds`` before, and rises as long after."""

    def __init__(self, seconds: float, rate_hz: int) -> None:
        frames = round(seconds * rate_hz) // 2 + 1
        self._least = _Extreme(_MARGIN + frames - 1, early=frames - 1)
        self._average = Average(frames, 1.0, 2 * (frames - 1))

    def process(self, wanted: Gains) -> Gains:
        """As far as what follows is known."""
        return self._average.process(self._least.process(wanted))


class Later:
    """Values that wait for a stage that lags behind, along their last axis."""

    def __init__(self, *shape: int) -> None:
        self._kept = np.zeros((*shape, 0))

    def take(self, values: Gains, count: int) -> Gains:
        """Adds the values; gives out the first ``count`` that wait."""
        values = np.concatenate((self._kept, values), axis=-1)
        self._kept = values[..., count:]
        return values[..., :count]


class Held:
    """The gain of low tones that stay above the ceiling, from what these want: steady over their waves."""

    def __init__(self, rate_hz: float) -> None:
        self._waves = Opening(WAVE_S, rate_hz, False)
        self._sustained = Opening(SUSTAINED_S, rate_hz, True)
        frames = max(1, round(SLOW_S * rate_hz / 2))
        self._average = Average(frames, 1.0 - float(np.exp(-1.0 / (RELEASE_S * rate_hz))), frames - 1)

    def process(self, wanted: Gains) -> Gains:
        """As far as what follows is known."""
        return self._average.process(self._sustained.process(self._waves.process(wanted)))


class Long:
    """Waves that stay beyond a level for long, for low tones: all levels at once.

    Of levels themselves they are the lower envelope, with ``rest`` 0; of wanted gains the upper one.
    """

    def __init__(self, rate_hz: int, rest: float = 1.0) -> None:
        levels = rest == 0
        self._joined = Opening(JOINED_S, rate_hz, levels, rest)
        self._long = Opening(LONG_S, rate_hz, not levels, rest)
        self._later = Later()

    def process(self, values: Gains) -> tuple[Gains, Gains]:
        """As far as what follows is known: the values with gaps passed over, and of those what lasts."""
        joined = self._joined.process(values)
        long = self._long.process(joined)
        return self._later.take(joined, len(long)), long


class _Slow:
    """The gain of low tones that stay above the ceiling."""

    def __init__(self, rate_hz: int) -> None:
        self._long, self._held = Long(rate_hz), Held(rate_hz)

    def process(self, wanted: Gains) -> Gains:
        """As far as what follows is known."""
        joined, long = self._long.process(wanted)
        return self._held.process(np.where(long < 1, np.maximum(joined, long * TIP), 1.0))


class _Side:
    """The gain of one side, never above the wanted one."""

    def __init__(self, limiting: Limiting, rate_hz: int) -> None:
        self._window = _Window(WINDOW_S[limiting.character], rate_hz)
        self._clip = limiting.clip
        if self._clip:
            self._joined, self._brief = _Extreme(2), Opening(BRIEF_S, rate_hz, True)
            self._clipped = _Window(CLIP_WINDOW_S, rate_hz)
            self._wanted, self._rest, self._turned = Later(), Later(), Later()

    def process(self, wanted: Gains) -> Gains:
        """As far as what follows is known."""
        if not self._clip:
            return self._window.process(wanted)
        longer = self._brief.process(self._joined.process(wanted))
        wanted = self._wanted.take(wanted, len(longer))
        turned = self._window.process(np.minimum(longer, np.minimum(1.0, wanted * 10 ** (CLIP_DB / 20))))
        rest = np.minimum(1.0, self._rest.take(wanted, len(turned)) / turned)
        clipped = self._clipped.process(rest)
        return clipped * self._turned.take(turned, len(clipped))


class Limiter:
    """Keeps the true peak at or below ``ceiling_dbtp``; `flush` compensates the latency.

    ``reduction_db`` are the lowest gains of every 1024 frames of what has left so far, of the ``frames`` after the
    first ``lead`` alone where those are given.
    """

    def __init__(
        self, ceiling_dbtp: float, rate_hz: int, channels: int, lead: int = 0, frames: int | None = None,
        limiting: Limiting = USUAL_LIMITING,
    ) -> None:  # fmt: skip
        self._ceiling = 10.0 ** (ceiling_dbtp / 20)
        self._channels = channels
        self._detector = PeakDetector(rate_hz, channels)
        sides = 1 if limiting.sides == "together" else channels
        self._slow = _Slow(rate_hz) if limiting.character == "transparent" else None
        self._sides = [_Side(limiting, rate_hz) for _ in range(sides)]
        self._wanted, self._turned = Later(sides), Later()
        self._waiting = empty_block(channels)
        """Samples whose gain is not known yet."""
        self._behind = round(AHEAD_S * rate_hz)
        self._reductions: list[float] = []
        self._bin = 1.0
        self._in_bin = 0
        self._unseen = lead
        self._seen = frames

    def process(self, block: Block) -> Block:
        """What can leave: everything but the last part of a second."""
        self._waiting = np.concatenate((self._waiting, block))
        # In parts that stay in the processor's cache; where nothing is to be limited, stages are passed over.
        parts = [self._detect(block[at : at + _PART]) for at in range(0, len(block), _PART)]
        out: Block = np.concatenate((empty_block(self._channels), *parts))
        return out

    def flush(self) -> Block:
        """The rest; silence is taken to follow."""
        left = self._waiting
        rest = self._detect(np.zeros((self._behind, self._channels)))
        if self._in_bin:
            self._reductions.append(self._bin)
            self._in_bin = 0
        return rest[: len(left)]

    @property
    def reduction_db(self) -> Gains:
        """The deepest gain reduction of every 1024 frames, in dB, never above 0."""
        found: Gains = 20 * np.log10(np.array([*self._reductions, *([self._bin] if self._in_bin else [])]))
        return found

    def _detect(self, block: Block) -> Block:
        peaks = self._detector.process(block, self._ceiling)
        if len(self._sides) < len(peaks):
            peaks = np.maximum.reduce(peaks, axis=0, keepdims=True)
        wanted = np.minimum(1.0, self._ceiling / np.maximum(peaks.astype(np.float64), 1e-12))
        slow = np.ones(wanted.shape[1])
        if self._slow:
            slow = self._slow.process(np.minimum.reduce(wanted, axis=0))
            wanted = np.minimum(1.0, self._wanted.take(wanted, len(slow)) / slow)
        gains = np.array([side.process(one) for side, one in zip(self._sides, wanted, strict=True)])
        gains *= self._turned.take(slow, gains.shape[1])
        gains = gains[:, : len(self._waiting)]
        out: Block = self._waiting[: gains.shape[1]] * gains.T
        self._waiting = self._waiting[gains.shape[1] :]
        self._keep(np.minimum.reduce(gains, axis=0))
        return out

    def _keep(self, gains: Gains) -> None:
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
