"""Loudness after ITU-R BS.1770-5 and EBU R 128, Tech 3341 and Tech 3342 (written from memory of the texts).

The K-weighting filters are derived for every rate from the analogue prototypes behind the standard's 48 kHz
table, which they reproduce to 1e-15; at other rates the second filter's numerator is left at (1, −2, 1), as common
reference libraries do, so that readings differ from 48 kHz by at most 0.04 dB.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.units import db_of_power

Energies = NDArray[np.float64]

ABSOLUTE_GATE_LUFS = -70.0
RELATIVE_GATE_LU = -10.0
RANGE_GATE_LU = -20.0
MOMENTARY_S = 0.4
SHORT_TERM_S = 3.0
HOP_S = 0.1
_OFFSET_DB = -0.691


def k_weighting(rate_hz: int) -> tuple[Energies, Energies]:
    """The shelf as (b0, b1, b2, a1, a2) and the high-pass as (a1, a2); BS.1770-5 Annex 1, tables 1 and 2."""
    k = math.tan(math.pi * 1681.974450955533 / rate_hz)
    q, gain = 0.7071752369554196, 10 ** (3.999843853973347 / 20)
    band = gain**0.4996667741545416
    a0 = 1 + k / q + k * k
    shelf = np.array(
        [
            (gain + band * k / q + k * k) / a0,
            2 * (k * k - gain) / a0,
            (gain - band * k / q + k * k) / a0,
            2 * (k * k - 1) / a0,
            (1 - k / q + k * k) / a0,
        ]
    )
    k, q = math.tan(math.pi * 38.13547087602444 / rate_hz), 0.5003270373238773
    a0 = 1 + k / q + k * k
    return shelf, np.array([2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0])


def stretch_frames(rate_hz: int) -> int:
    """Frames of one stretch: a hundredth of a second, or the nearest number of frames where that is none."""
    return round(rate_hz / 100)


def lufs(power: float) -> float:
    """Loudness of a mean square after weighting; ``-inf`` for silence."""
    return _OFFSET_DB + 10 * math.log10(power) if power > 0 else -math.inf


def _power_of(loudness: float) -> float:
    return float(10 ** ((loudness - _OFFSET_DB) / 10))


def gated_lufs(blocks: Energies) -> float:
    """The integrated loudness of blocks, of one signal or of several, both gates of BS.1770-5 Annex 1 over them all."""
    loud = blocks[blocks > _power_of(ABSOLUTE_GATE_LUFS)]
    if not len(loud):
        return -math.inf
    gate = float(loud.mean()) * 10 ** (RELATIVE_GATE_LU / 10)
    return lufs(float(loud[loud > gate].mean()))


@dataclass(frozen=True, slots=True)
class LoudnessResult:
    """Mean squares of every hundredth of a second, from which everything is worked out.

    ``weighted`` is K-weighted and summed over channels, ``plain`` is unweighted, ``(stretches, channels)``.
    """

    stretch_s: float
    weighted: Energies
    plain: Energies

    def within(self, start_s: float, end_s: float) -> "LoudnessResult":
        """The part between two times, to a hundredth of a second."""
        first, last = round(start_s / self.stretch_s), round(end_s / self.stretch_s)
        return LoudnessResult(self.stretch_s, self.weighted[first:last], self.plain[first:last])

    def windows(self, seconds: float) -> Energies:
        """Mean squares of a window of this length, moved by one stretch at a time; empty when it does not fit."""
        width = round(seconds / self.stretch_s)
        if len(self.weighted) < width:
            return np.zeros(0)
        sums = np.concatenate(([0.0], np.cumsum(self.weighted)))
        means: Energies = np.maximum(0.0, sums[width:] - sums[:-width]) / width
        return means

    @property
    def max_momentary_lufs(self) -> float:
        """The loudest 400 ms (Tech 3341); windows move by 10 ms, finer than the meter's 100 ms."""
        return lufs(float(self.windows(MOMENTARY_S).max(initial=0.0)))

    @property
    def max_short_term_lufs(self) -> float:
        """The loudest 3 s (Tech 3341)."""
        return lufs(float(self.windows(SHORT_TERM_S).max(initial=0.0)))

    @property
    def integrated_lufs(self) -> float:
        """Gated loudness: blocks of 400 ms overlapping by 75 %, BS.1770-5 Annex 1; ``-inf`` when all is gated."""
        return gated_lufs(self.blocks)

    @property
    def blocks(self) -> Energies:
        """The mean squares of the blocks that are gated."""
        return self._hops(MOMENTARY_S)

    @property
    def range_lu(self) -> float:
        """Loudness range (Tech 3342): 10th to 95th percentile of gated short-term loudness; 0 when too short."""
        windows = self._hops(SHORT_TERM_S)
        loud = windows[windows >= _power_of(ABSOLUTE_GATE_LUFS)]
        if not len(loud):
            return 0.0
        kept = np.sort(loud[loud >= loud.mean() * 10 ** (RANGE_GATE_LU / 10)])
        low, high = (kept[round((len(kept) - 1) * share)] for share in (0.10, 0.95))
        return lufs(float(high)) - lufs(float(low))

    @property
    def quietest_dbfs(self) -> float:
        """The lowest RMS of half a second that is not digital silence, all channels; a full-scale sine reads 0."""
        power = self.plain.mean(axis=1) if len(self.plain) else np.zeros(0)
        width = min(len(power), round(0.5 / self.stretch_s))
        if not width:
            return -math.inf
        sums = np.concatenate(([0.0], np.cumsum(power)))
        windows = (sums[width:] - sums[:-width]) / width
        # A running sum keeps a rounding error of the loudest part; -160 dBFS is far above it.
        sounding = windows[windows > 1e-16]
        return 10 * math.log10(float(sounding.min()) / 0.5) if len(sounding) else -math.inf

    def level_dbfs(self, start_s: float, end_s: float) -> float:
        """RMS between two times, all channels, to a hundredth of a second; ``-inf`` where there is nothing."""
        part = self.within(max(0.0, start_s), end_s).plain
        return db_of_power(float(part.mean())) if len(part) else -math.inf

    def curve(self, points: int) -> NDArray[np.float32]:
        """Short-term loudness for drawing, at ``points`` even places, NaN where it is below −70 LUFS."""
        windows = self.windows(MOMENTARY_S)
        if not len(windows):
            return np.full(points, np.nan, dtype=np.float32)
        edges = np.linspace(0, len(windows), points + 1).astype(np.int64)[:-1]
        peaks = np.maximum.reduceat(windows, np.minimum(edges, len(windows) - 1))
        with np.errstate(divide="ignore"):
            levels = _OFFSET_DB + 10 * np.log10(peaks)
        return np.where(levels < ABSOLUTE_GATE_LUFS, np.nan, levels).astype(np.float32)

    def _hops(self, seconds: float) -> Energies:
        step = round(HOP_S / self.stretch_s)
        return self.windows(seconds)[::step]


class LoudnessMeter:
    """K-weights blocks and keeps the energy of every hundredth of a second: 8 bytes a channel each.

    Of every ``stretch`` frames where that is given.
    """

    def __init__(self, channels: int, rate_hz: int, stretch: int = 0) -> None:
        self._stretch = stretch or stretch_frames(rate_hz)
        self._rate_hz = rate_hz
        self._shelf, self._high_pass = k_weighting(rate_hz)
        self._state = np.zeros((channels, 4))
        self._sums = np.zeros((channels, 2))
        self._filled = 0
        self._weighted: list[Energies] = []
        self._plain: list[Energies] = []

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        from ripe_press.core.kernels.loudness import accumulate

        room = (self._filled + len(block)) // self._stretch
        weighted, plain = np.empty((room, block.shape[1])), np.empty((room, block.shape[1]))
        _, self._filled = accumulate(
            block, self._shelf, self._high_pass, self._state, self._sums, self._filled, self._stretch, weighted, plain
        )  # fmt: skip
        self._weighted.append(weighted)
        self._plain.append(plain / self._stretch)

    def sides(self) -> Energies:
        """``(stretches, channels)``: what each channel adds, as sums of squares."""
        return np.concatenate(self._weighted) if self._weighted else np.zeros((0, len(self._state)))

    def result(self) -> LoudnessResult:
        """The finished measure; an unfinished last hundredth of a second is left out."""
        weighted = self.sides().sum(axis=1) / self._stretch
        plain = np.concatenate(self._plain) if self._plain else np.zeros((0, len(self._state)))
        return LoudnessResult(self._stretch / self._rate_hz, weighted, plain)
