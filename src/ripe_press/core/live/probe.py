"""Measure the latency of a chain: a burst of noise is sent and located by correlation.

Noise has one sharp correlation peak; compressors, filters and converter noise lower the peak without moving it.
"""

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

Line = NDArray[np.float32]
"""Frames of one channel."""

PROBE_S = 0.25
MOST_LATE_S = 0.5
"""A chain may be so late; at 44.1 kHz that is 22,050 frames."""
PEAK = 0.25
"""The loudest sample of a probe: −12 dBFS, so that nothing clips on its way (our own choice)."""
CLEAR = 8.0
"""A peak that stands so far above the rest is one (our own choice: noise alone gives about 5)."""
_FINER = 32
_SEED = 20_26


@dataclass(frozen=True, slots=True)
class Found:
    """Where a probe was found: frames behind the place at which it was sent, with their fractions, and how clearly."""

    late_frames: float
    clearness: float
    inverted: bool

    @property
    def is_clear(self) -> bool:
        """Whether it is the probe, and not anything that looks like it by chance."""
        return self.clearness >= CLEAR


@cache
def probe(rate_hz: int) -> Line:
    """A quarter of a second of fixed noise, faded at both ends, within the bandwidth of converters."""
    frames = round(PROBE_S * rate_hz)
    noise = np.random.default_rng(_SEED).standard_normal(frames)
    spectrum = np.fft.rfft(noise)
    hz = np.fft.rfftfreq(frames, 1 / rate_hz)
    # Between 100 Hz and 40 % of the rate every converter is flat (common practice, no source).
    spectrum *= np.clip((hz - 50) / 50, 0, 1) * np.clip((0.45 * rate_hz - hz) / (0.05 * rate_hz), 0, 1)
    shaped = np.fft.irfft(spectrum, frames) * np.minimum(
        1, np.minimum(np.arange(frames), frames - np.arange(frames)) / 64
    )
    line: Line = (shaped * (PEAK / np.abs(shaped).max())).astype(np.float32)
    line.setflags(write=False)
    return line


def find_probe(heard: NDArray[np.float32], rate_hz: int) -> Found:
    """Where a probe begins in what came back from the moment on at which it was sent.

    ``heard`` is ``(frames, channels)``, longer than the probe by as much as the chain may be late.
    """
    sent = probe(rate_hz)
    line = heard[:, :2].mean(axis=1) if heard.ndim == 2 else heard
    if heard.ndim == 2 and heard.shape[1] > 1 and float(np.abs(line).max(initial=0)) < 1e-6:
        line = heard[:, 0]
    places = len(line) - len(sent) + 1
    if places < 1 or not np.any(line):
        return Found(0.0, 0.0, inverted=False)
    size = 1 << (len(line) + len(sent) - 1).bit_length()
    everywhere = np.fft.irfft(np.fft.rfft(line, size) * np.conj(np.fft.rfft(sent, size)), size)
    alike = everywhere[:places]
    at = int(np.argmax(np.abs(alike)))
    others = np.abs(np.delete(alike, slice(max(0, at - 32), at + 33)))
    rest = float(np.sqrt(np.mean(np.square(others)))) if len(others) else 0.0
    clearness = float(abs(alike[at])) / rest if rest > 0 else float("inf")
    return Found(at + _between(everywhere * np.sign(alike[at]), at), clearness, inverted=bool(alike[at] < 0))


def _between(alike: NDArray[np.float64], at: int) -> float:
    """How far from a frame the peak lies: the correlation is band-limited, and drawn finer by its own spectrum."""
    around = np.take(alike, np.arange(at - 32, at + 33), mode="wrap")
    spectrum = np.fft.rfft(around * np.hanning(65))
    finer = np.fft.irfft(spectrum, 65 * _FINER)
    best = int(np.argmax(finer[31 * _FINER : 33 * _FINER + 1])) - _FINER
    return best / _FINER
