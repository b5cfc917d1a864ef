"""Hearing model: frequency bands at one rate, their weighting and their masking thresholds.

Based on the FFT ear model of ITU-R BS.1387-1 (Basic version; Annex 2, 2.1), from memory of the text and checked with
values of another implementation. A model, not a listening test.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Spectra = NDArray[np.complex128]

FRAMES, SHORT_FRAMES = 2048, 256
"""Frames of a look, half of which the next one shares; the short ones are ours, for echoes before an attack."""
LISTENING_DB = 92.0
"""The level of a full-scale sine at the ear, in dB SPL."""
LOW_HZ, HIGH_HZ, STEP_BARK = 80.0, 18_000.0, 0.25
_FULL_SCALE = 0.346727
"""The largest line of a full-scale sine of 1019.5 Hz at 48 kHz, kept for all rates and lengths."""
_LEAST = 1e-12


class Ear:
    """Weights, bands and masking for looks of ``frames`` frames at one rate."""

    def __init__(self, rate_hz: int, frames: int = FRAMES, listening_db: float = LISTENING_DB) -> None:
        self.rate_hz, self.frames, self.hop = rate_hz, frames, frames // 2
        low, high = (float(one) for one in _bark(np.array([LOW_HZ, HIGH_HZ])))
        edges = _hz(np.append(np.arange(low, high, STEP_BARK), high))
        barks = _bark(edges)
        self.lower_hz, self.upper_hz = edges[:-1], edges[1:]
        self.middle_hz = _hz((barks[:-1] + barks[1:]) / 2)
        self.bands = len(self.middle_hz)
        self._window = 0.5 * np.sqrt(8 / 3) * (1 - np.cos(2 * np.pi * np.arange(frames) / (frames - 1)))
        step = rate_hz / frames
        lines = np.arange(frames // 2 + 1) * step
        overlap = np.minimum(self.upper_hz[:, None], lines + step / 2) - np.maximum(
            self.lower_hz[:, None], lines - step / 2
        )
        self._edges = np.array([_edges_of(one) for one in np.clip(overlap / step, 0, 1)])
        self._weight = _outer_ear(lines) * 10 ** (listening_db / 20) / _FULL_SCALE / frames
        khz = self.middle_hz / 1000
        self.internal = 10 ** (0.4 * 0.364 * khz**-0.8)
        """What the ear hears of itself."""
        seconds = 0.008 + 100 / self.middle_hz * (0.030 - 0.008)
        self.forget = np.exp(-self.hop / (rate_hz * seconds))
        at = np.arange(self.bands) * STEP_BARK
        self.offset = 10 ** (-np.where(at <= 12, 3.0, 0.25 * at) / 10)
        self._slopes = 24 + 230 / self.middle_hz
        lower = 10 ** (-2.7 * STEP_BARK)
        self._begins = (1 - lower ** (np.arange(self.bands) + 1)) / (1 - lower)
        self._flat = np.ones(self.bands)
        self._flat = self.spread(np.ones((1, self.bands)))[0]

    def spectra(self, looks: Array) -> Spectra:
        """Spectra, ``(looks, lines)``, of looks ``(looks, frames)`` at one channel."""
        return np.fft.rfft(looks * self._window, axis=1)

    def energies(self, source: Spectra, test: Spectra) -> tuple[Array, Array]:
        """Band energies of a source and of its difference from the test, ``(looks, bands)`` each.

        The difference is taken of magnitudes, not of waveforms.
        """
        from ripe_press.core.kernels.hearing import group

        power, noise = np.empty((len(source), self.bands)), np.empty((len(source), self.bands))
        group(source, test, self._weight, self._edges, power, noise)
        return power, noise

    def spread(self, power: Array) -> Array:
        """Excitation of all bands by the energy in each, ``(looks, bands)``."""
        from ripe_press.core.kernels.hearing import spread

        out = np.empty_like(power)
        spread(power, self._begins, self._slopes, self._flat, out)
        return out

    def excite(self, power: Array) -> Array:
        """The same, with what the ear hears of itself."""
        return self.spread(np.maximum(power, _LEAST) + self.internal)

    def mask(self, power: Array, held: Array) -> Array:
        """Masking threshold of every band; ``held`` ``(bands,)`` is the forward masking state."""
        from ripe_press.core.kernels.hearing import linger

        excited = self.excite(power)
        out = np.empty_like(excited)
        linger(excited, self.forget, held, self.offset, out)
        return out


@lru_cache(maxsize=8)
def ear_for(rate_hz: int, frames: int = FRAMES, listening_db: float = LISTENING_DB) -> Ear:
    """The ear for a rate and a length of looks, made once."""
    return Ear(rate_hz, frames, listening_db)


def _edges_of(share: Array) -> tuple[float, float, float, float]:
    """The first and last line that a band has a share of, and the two shares."""
    inside = np.flatnonzero(share)
    if not len(inside):
        # Above what the rate can carry: nothing sounds there.
        return 0.0, 0.0, 0.0, 0.0
    first, last = int(inside[0]), int(inside[-1])
    return float(first), float(last), float(share[first]), float(share[last])


def _bark(hz: Array) -> Array:
    return 7 * np.arcsinh(hz / 650)


def _hz(bark: Array) -> Array:
    out: Array = 650 * np.sinh(bark / 7)
    return out


def _outer_ear(hz: NDArray[np.floating]) -> Array:
    khz = np.maximum(hz, 1e-9) / 1000
    weight: Array = 10 ** ((-0.6 * 3.64 * khz**-0.8 + 6.5 * np.exp(-0.6 * (khz - 3.3) ** 2) - 1e-3 * khz**3.6) / 20)
    weight[0] = 0
    return weight
