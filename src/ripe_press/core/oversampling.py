"""Filters that compute the signal between its samples, to find its peaks there.

There is one true peak: the meter reads it with `between`, and the limiter holds its ceiling by the same filters and
by those of a widespread loudness library (`between_as_libraries_do`), so that neither finds what the other missed.
"""

import numpy as np
from numpy.typing import NDArray

TAPS = 32
BETA = 7.0
Filters = NDArray[np.float32]
"""``(phases, taps)``: row p gives the signal at (p + 1) / (phases + 1) of the way from a sample to the next."""


def oversampling(rate_hz: int) -> int:
    """To at least 192 kHz, as ITU-R BS.1770-5 Annex 2 asks: four times below 96 kHz, twice below 192, else not."""
    return 4 if rate_hz < 96_000 else 2 if rate_hz < 192_000 else 1


def between(rate_hz: int) -> Filters:
    """A sinc of 32 taps under a Kaiser window; no phases where the rate is already high enough."""
    return _windowed(oversampling(rate_hz), TAPS, BETA)


def between_as_libraries_do(rate_hz: int) -> Filters:
    """A sinc under a Hann window: 12 taps a phase below 96 kHz, 24 from there on (libebur128's, from memory)."""
    factor = oversampling(rate_hz)
    half = 6 if factor == 4 else 12
    places = np.arange(2 * half) - (half - 1)
    rows = [
        np.sinc(at) * 0.5 * (1 + np.cos(np.pi * np.clip(at / half, -1, 1)))
        for at in (places - phase / factor for phase in range(1, factor))
    ]
    return np.array(rows, dtype=np.float32).reshape(factor - 1, 2 * half)


def between_finely(rate_hz: int) -> Filters:
    """Twice the points and twice the taps of `between`: nearer to the continuous signal close to half the rate."""
    if oversampling(rate_hz) == 1:
        return between(rate_hz)
    return _windowed(8 if rate_hz < 88_200 else 4, 64, 8.0)


def between_steeply(rate_hz: int) -> Filters:
    """As a steep converter plays it, 16 times oversampled: a pass band to 0.913 of half the rate, the samples too.

    Such a filter raises the peaks of clipped sound and of noise of the whole band.
    """
    if oversampling(rate_hz) == 1:
        return between(rate_hz)
    factor = 16 if rate_hz < 88_200 else 8
    return _windowed(factor, 192, 10.0, 0.9565, 0)


def reach_of(filters: Filters) -> float:
    """The most that any phase makes of samples of size 1, and a hair: single precision must leave out no peak."""
    return float(np.abs(filters).sum(axis=1).max(initial=1.0)) * 1.0001


def _windowed(factor: int, taps: int, beta: float, cut: float = 1.0, first: int = 1) -> Filters:
    rows = []
    for phase in range(first, factor):
        at = np.arange(taps) - (taps // 2 - 1) - phase / factor
        window = np.i0(beta * np.sqrt(np.maximum(0.0, 1 - (at / (taps / 2)) ** 2))) / np.i0(beta)
        rows.append(cut * np.sinc(cut * at) * window)
    return np.array(rows, dtype=np.float32).reshape(factor - first, taps)
