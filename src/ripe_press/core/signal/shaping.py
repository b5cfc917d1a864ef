"""Noise-shaping filters, designed for the rate at hand from the threshold of hearing.

The threshold is Terhardt's (J. Acoust. Soc. Am. 71, 1982; formula from memory). The filter is the minimum-phase linear
predictor of its inverse, so that by Gerzon and Craven (AES preprint 2822, 1989) the mean of its log response over
linear frequency is 0 dB: the noise removed where hearing is sensitive is added where it is not, and no more.
"""

from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Strength = Literal["light", "strong"]

ORDER = 9
_ALPHA: dict[Strength, float] = {"light": 0.5, "strong": 1.0}
_CAP_DB = 40.0
_GRID = 4096


def threshold_db(hz: NDArray[np.float64]) -> NDArray[np.float64]:
    """The threshold of hearing in dB, re 0 dB sound pressure level."""
    k = np.maximum(hz, 20.0) / 1000
    found: NDArray[np.float64] = 3.64 * k**-0.8 - 6.5 * np.exp(-0.6 * (k - 3.3) ** 2) + 1e-3 * k**4
    return found


@lru_cache(maxsize=32)
def _design(rate_hz: int, strength: Strength) -> tuple[float, ...]:
    hz = np.linspace(0, rate_hz / 2, _GRID + 1)
    above = threshold_db(hz)
    weight = 10 ** (-_ALPHA[strength] * np.minimum(above - above.min(), _CAP_DB) / 10)
    products = np.fft.irfft(weight)[: ORDER + 1]
    places = np.abs(np.arange(ORDER)[:, None] - np.arange(ORDER)[None, :])
    # The normal equations of linear prediction.
    return tuple(float(one) for one in np.linalg.solve(products[places], products[1:]))


def shaper(rate_hz: int, strength: Strength) -> NDArray[np.float64]:
    """Coefficients c of the error feedback v = x − Σ c[k]·e[n−1−k]: noise is filtered by 1 − Σ c[k]·z^−(k+1)."""
    return np.array(_design(rate_hz, strength))


def noise_response_db(rate_hz: int, strength: Strength, hz: NDArray[np.float64]) -> NDArray[np.float64]:
    """How much the shaped noise lies above plain noise at these frequencies, in dB."""
    c = shaper(rate_hz, strength)
    turns = np.exp(-2j * np.pi * hz[:, None] / rate_hz * np.arange(1, len(c) + 1)[None, :])
    found: NDArray[np.float64] = 20 * np.log10(np.abs(1 - turns @ c) + 1e-12)
    return found


def noise_gain(rate_hz: int, strength: Strength) -> float:
    """Total power of the shaped noise over that of plain noise: 1 + Σ c²."""
    return 1.0 + float((shaper(rate_hz, strength) ** 2).sum())
