"""Levels in bands over time: used to separate music from noise and tails from music, and to find the tempo.

Thirty-two bands of equal width on a logarithmic scale from 40 Hz to 10 kHz, a hundred times a second, in windows of
about 46 ms. Kept as bytes of half a decibel, an hour takes 12 MB.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from ripe_press.core.blocks import Block

BANDS = 32
STEPS_A_SECOND = 100
LOWEST_HZ, HIGHEST_HZ = 40.0, 10_000.0
_WORKED_HZ = 22_050
"""Neighbouring frames are averaged down to about this rate; what folds down in that moves no level much."""
_WINDOW_S = 0.0465
_RIGHT = 0.7
"""Sides that cancel each other in a plain sum are still heard in this one."""
_BOTTOM_DB, _STEP_DB = -120.0, 0.5
_ROWS = 64
"""Windows that are transformed together: what they need stays in the processor's cache."""

Levels = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class BandLevels:
    """Levels in half decibels above −120 dB, ``(steps, bands)``, as bytes; ``step_s`` is from one to the next."""

    step_s: float
    coded: NDArray[np.uint8]

    @property
    def seconds(self) -> float:
        """How long it is."""
        return len(self.coded) * self.step_s

    def db(self, start_s: float = 0.0, end_s: float = math.inf) -> Levels:
        """Levels in dB between two times; a step is the window around it."""
        first = max(0, round(start_s / self.step_s))
        last = len(self.coded) if math.isinf(end_s) else max(first, round(end_s / self.step_s))
        return self.coded[first:last].astype(np.float32) * np.float32(_STEP_DB) + np.float32(_BOTTOM_DB)

    def paired_db(self, start_s: float = 0.0, end_s: float = math.inf) -> Levels:
        """The same in half as many bands, each twice as wide."""
        power = 10 ** (self.db(start_s, end_s) / 10)
        return np.asarray(10 * np.log10(power[:, ::2] + power[:, 1::2]))


class BandsMeter:
    """Levels of the bands of a mono sum."""

    def __init__(self, channels: int, rate_hz: int) -> None:
        self._every = max(1, rate_hz // _WORKED_HZ)
        self._rate_hz = rate_hz / self._every
        self._hop = max(1, round(self._rate_hz / STEPS_A_SECOND))
        self._size = 1 << round(math.log2(self._rate_hz * _WINDOW_S))
        weights = np.array([1.0, _RIGHT, *[0.5] * channels])[:channels]
        self._weights = weights / weights.sum() / self._every
        window = np.hanning(self._size)
        # A full-scale sine reads 0 dB.
        self._window = window * 2 / window.sum()
        highest = min(HIGHEST_HZ, 0.95 * self._rate_hz / 2)
        edges = np.round(np.geomspace(LOWEST_HZ, highest, BANDS + 1) * self._size / self._rate_hz).astype(int)
        # The lowest bands are narrower than a bin: each has one of its own.
        for at in range(1, len(edges)):
            edges[at] = max(edges[at], edges[at - 1] + 1)
        self._edges = np.minimum(edges, self._size // 2)
        # The first window lies around the first frame.
        self._left = np.zeros(self._size // 2)
        self._odd = np.zeros(0)
        self._rows: list[NDArray[np.uint8]] = []

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        mono = block @ self._weights
        if self._every > 1:
            mono = np.concatenate((self._odd, mono))
            whole = len(mono) // self._every * self._every
            mono, self._odd = np.add.reduce([mono[at : whole : self._every] for at in range(self._every)]), mono[whole:]
        self._take(np.concatenate((self._left, mono)))

    def _take(self, mono: NDArray[np.float64]) -> None:
        count = max(0, (len(mono) - self._size) // self._hop + 1)
        if count:
            windows = sliding_window_view(mono, self._size)[:: self._hop]
            for first in range(0, count, _ROWS):
                spectrum = np.fft.rfft(windows[first : first + _ROWS] * self._window, axis=1)
                power = spectrum.real**2 + spectrum.imag**2
                sums = np.add.reduceat(power[:, : self._edges[-1]], self._edges[:-1], axis=1)
                decibels = 10 * np.log10(np.maximum(sums, 1e-13))
                self._rows.append(np.clip((decibels - _BOTTOM_DB) / _STEP_DB + 0.5, 0, 255).astype(np.uint8))
        self._left = mono[count * self._hop :]

    def result(self) -> BandLevels:
        """The finished measure."""
        self._take(np.concatenate((self._left, np.zeros(self._size // 2))))
        coded = np.concatenate(self._rows) if self._rows else np.zeros((0, BANDS), dtype=np.uint8)
        return BandLevels(self._hop / self._rate_hz, coded)
