"""Noise-to-mask ratio by the ear model of ITU-R BS.1387 (Basic version, FFT), for comparing encoders.

From memory of the text; held to check values in `tests/published/test_encoders.py`. Frames of 2048 at 48 kHz. Nobody
listened: it says where no difference is predicted, not that there is none.
"""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

FRAMES, HOP = 2048, 1024
LEVEL_DB = 92.0
_NORM = 0.346727
"""The largest line of a full-scale sine of 1019.5 Hz."""


def _bark(hz: Array) -> Array:
    return 7 * np.arcsinh(hz / 650)


class Ear:
    """The bands, weights and spreading of the model at one rate."""

    def __init__(self, rate_hz: int = 48_000) -> None:
        self.rate_hz = rate_hz
        step = rate_hz / FRAMES
        low, high = (float(one) for one in _bark(np.array([80.0, 18_000.0])))
        edges = 650 * np.sinh(np.append(np.arange(low, high, 0.25), high) / 7)
        self.lower, self.upper = edges[:-1], edges[1:]
        middle = _bark(edges)
        self.middle = 650 * np.sinh((middle[:-1] + middle[1:]) / 2 / 7)
        self.bands = len(self.middle)
        centres = np.arange(FRAMES // 2 + 1) * step
        begins, ends = centres[None, :] - step / 2, centres[None, :] + step / 2
        overlap = np.minimum(self.upper[:, None], ends) - np.maximum(self.lower[:, None], begins)
        self._share = np.clip(overlap / step, 0, 1)
        k = np.maximum(centres, 1e-9) / 1000
        weight_db = -0.6 * 3.64 * k**-0.8 + 6.5 * np.exp(-0.6 * (k - 3.3) ** 2) - 1e-3 * k**3.6
        self._weight = 10 ** (weight_db / 20)
        self._weight[0] = 0
        self._internal = 10 ** (0.4 * 0.364 * (self.middle / 1000) ** -0.8)
        tau = 0.008 + 100 / self.middle * (0.030 - 0.008)
        self._forget = np.exp(-HOP / (rate_hz * tau))
        at = np.arange(self.bands) * 0.25
        self._offset = 10 ** (-np.where(at <= 12, 3.0, 0.25 * at) / 10)
        self._flat = self._spread_sum(np.ones((1, self.bands)))[0]

    def lines(self, samples: Array) -> Array:
        """Weighted magnitudes, ``(frames, lines)``, of one channel."""
        window = 0.5 * np.sqrt(8 / 3) * (1 - np.cos(2 * np.pi * np.arange(FRAMES) / (FRAMES - 1)))
        parts = np.lib.stride_tricks.sliding_window_view(samples, FRAMES)[::HOP]
        spectra = np.abs(np.fft.rfft(parts * window, axis=1)) / FRAMES
        out: Array = spectra * (10 ** (LEVEL_DB / 20) / _NORM) * self._weight
        return out

    def energies(self, lines: Array) -> Array:
        """The energy of every band, ``(frames, bands)``."""
        out: Array = np.square(lines) @ self._share.T
        return out

    def _spread_sum(self, power: Array) -> Array:
        """Every band's energy spread over all of them; what each source gives adds up to that source."""
        bands = self.bands
        lower = 10 ** (-2.7 * 0.25)
        level_db = 10 * np.log10(power)
        upper = 10 ** (-(24 + 230 / self.middle - 0.2 * level_db) * 0.25 / 10)
        j = np.arange(bands)
        whole = (1 - lower ** (j + 1)) / (1 - lower) + (1 - upper ** (bands - j)) / (1 - upper) - 1
        out = np.zeros_like(power)
        for source in range(bands):
            begins = power[:, source] / whole[:, source]
            down = begins[:, None] * lower ** (source - j[: source + 1])
            up = begins[:, None] * upper[:, source, None] ** (j[source + 1 :] - source)
            out += np.concatenate((down, up), axis=1) ** 0.4
        return out**2.5

    def spread(self, power: Array) -> Array:
        """Excitation over the bands."""
        return self._spread_sum(power) / self._flat

    def mask(self, lines: Array) -> Array:
        """What the ear masks in every band and frame."""
        spread = self.spread(np.maximum(self.energies(lines), 1e-12) + self._internal)
        held = np.zeros(self.bands)
        out = np.empty_like(spread)
        for frame, now in enumerate(spread):
            held = self._forget * held + (1 - self._forget) * now
            out[frame] = np.maximum(held, now)
        return out * self._offset


def ratios(ear: Ear, source: Array, test: Array) -> Array:
    """Noise over mask for every frame and band of one channel, without frames in which the source is all but silent."""
    count = min(len(source), len(test))
    before, after = ear.lines(source[:count]), ear.lines(test[:count])
    halves = np.lib.stride_tricks.sliding_window_view(source[:count], FRAMES)[::HOP][:, FRAMES // 2 :]
    sounding = np.square(halves * 32_768).sum(axis=1) >= 8_000
    noise = np.square(before - after) @ ear._share.T
    return (noise / ear.mask(before))[sounding]


def noise_to_mask_db(ear: Ear, source: Array, test: Array) -> tuple[float, float]:
    """The total ratio and the 95th percentile over frames, in dB, of both channels pooled."""
    found = np.concatenate([ratios(ear, one, other) for one, other in zip(source.T, test.T, strict=True)])
    frames = found.mean(axis=1)
    return float(10 * np.log10(frames.mean() + 1e-30)), float(10 * np.log10(np.percentile(frames, 95) + 1e-30))
