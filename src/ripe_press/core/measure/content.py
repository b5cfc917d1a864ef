"""Actual content of a file: effective bit depth, bandwidth, offset, balance and correlation."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block

FFT_FRAMES = 8192
_MOST_BITS = 32


class BitsMeter:
    """Counts the bits that are in use: the smallest integer format that holds every sample exactly."""

    def __init__(self, declared_bits: int | None) -> None:
        self._declared = declared_bits
        self._bits = 1

    def process(self, block: Block) -> None:
        """Takes the next block into account; once more than 32 bits are needed nothing is looked at any more."""
        if len(block) and self._bits <= _MOST_BITS and not -1.0 <= block.min() <= block.max() < 1.0:
            # No integers hold what lies past full scale.
            self._bits = _MOST_BITS + 1
        while self._bits <= _MOST_BITS and len(block):
            scaled = block * 2.0 ** (self._bits - 1)
            off_grid = scaled != np.rint(scaled)
            if not off_grid.any():
                return
            # Only what does not fit yet has to be looked at for the next bit.
            block = block[off_grid.any(axis=1)]
            self._bits += 1

    def result(self) -> int | None:
        """Bits in use; the declared depth for floating point off every integer grid, None for lossy codecs."""
        return self._bits if self._bits <= _MOST_BITS else self._declared


@dataclass(frozen=True, slots=True)
class StereoResult:
    """Mean of each channel; left over right in dB and the correlation, both None where a side is silent or missing."""

    dc_offset: tuple[float, ...]
    balance_db: float | None
    correlation: float | None


class StereoMeter:
    """Sums and products of the channels."""

    def __init__(self, channels: int) -> None:
        self._frames = 0
        self._sums = np.zeros(channels)
        self._products = np.zeros((channels, channels))

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        from ripe_press.core.kernels.bins import add_products

        self._frames += len(block)
        add_products(block, self._sums, self._products)

    def result(self) -> StereoResult:
        """The finished measure."""
        mean = self._sums / max(1, self._frames)
        balance = correlation = None
        if len(mean) == 2:
            left, right = self._products[0, 0], self._products[1, 1]
            if left > 0 and right > 0:
                balance = 10 * math.log10(left / right)
                correlation = float(self._products[0, 1] / math.sqrt(left * right))
        return StereoResult(tuple(float(one) for one in mean), balance, correlation)


@dataclass(frozen=True, slots=True)
class SpectrumResult:
    """Mean power in dB of each of 4097 bins, re a full-scale sine in one bin, and the rate."""

    rate_hz: int
    power: NDArray[np.float64]

    def bandwidth_hz(self, effective_bits: int | None) -> float:
        """The highest frequency that stands 6 dB above the noise of the format's dither; 0 for silence.

        For floating point the noise of 22 bits is taken. A bin counts with its neighbours, so that a lone
        fluctuation of the noise does not.
        """
        bits = min(effective_bits or 16, 22)
        # Triangular dither spreads LSB²/4 evenly over the bins; the window's noise bandwidth is in `power` already.
        floor = (2.0 ** (1 - bits)) ** 2 / 4 * 2 / FFT_FRAMES
        smooth = np.convolve(self.power, np.ones(9) / 9, mode="same")
        above = np.flatnonzero(smooth > floor * 4)
        return float(above[-1] * self.rate_hz / FFT_FRAMES) if len(above) else 0.0

    def share_above_db(self, hz: float) -> float | None:
        """The power from a frequency on, in dB of all power; None for silence, -inf when there is nothing above."""
        whole = float(self.power.sum())
        if not whole:
            return None
        above = float(self.power[math.ceil(hz * FFT_FRAMES / self.rate_hz) :].sum()) / whole
        return 10 * math.log10(above) if above > 0 else -math.inf

    def curve_db(self, points: int = 160) -> tuple[tuple[float, float], ...]:
        """(frequency, level) at even steps of a logarithmic scale from 20 Hz, for drawing."""
        hz = np.geomspace(20.0, self.rate_hz / 2, points + 1)
        places = np.clip((hz * FFT_FRAMES / self.rate_hz).astype(int), 1, len(self.power) - 1)
        out = []
        for low, high, first, last in zip(hz[:-1], hz[1:], places[:-1], places[1:], strict=True):
            power = float(self.power[first : max(last, first + 1)].mean())
            out.append((math.sqrt(low * high), 10 * math.log10(power) if power > 1e-20 else -200.0))
        return tuple(out)


def comes_back_to_hz(before: SpectrumResult, after: SpectrumResult) -> float:
    """The highest frequency that comes back within 3 dB, where there was anything; 0 where nothing does.

    In eighty even bands: an encoder's cut-off is known to a hundredth of the rate.
    """
    edges = np.linspace(0, len(before.power), _BANDS + 1).astype(int)
    one, other = (np.add.reduceat(spectrum.power, edges[:-1]) for spectrum in (before, after))
    kept = np.flatnonzero((one > one.max() * 1e-12) & (other >= one / 2) & (other <= one * 2))
    return float(edges[kept[-1] + 1]) / len(before.power) * before.rate_hz / 2 if len(kept) else 0.0


_BANDS = 80


class SpectrumMeter:
    """Averages the power spectrum of windows spread over the mix: one window in every ``every`` blocks' frames."""

    def __init__(self, rate_hz: int, every_frames: int = 65_536) -> None:
        self._rate_hz = rate_hz
        self._every = every_frames
        self._next = 0
        self._frames = 0
        window = np.hanning(FFT_FRAMES)
        self._window = window / math.sqrt(float((window**2).sum()) * FFT_FRAMES / 2)
        self._power = np.zeros(FFT_FRAMES // 2 + 1)
        self._count = 0

    def process(self, block: Block) -> None:
        """Takes the next block into account; windows never cross the edge of a block."""
        while self._next + FFT_FRAMES <= self._frames + len(block):
            start = max(0, self._next - self._frames)
            if start + FFT_FRAMES > len(block):
                break
            self._add(block[start : start + FFT_FRAMES])
            self._next = self._frames + start + self._every
        self._frames += len(block)

    def _add(self, part: Block) -> None:
        spectrum = np.fft.rfft(part.mean(axis=1) * self._window)
        self._power += spectrum.real**2 + spectrum.imag**2
        self._count += 1

    def result(self) -> SpectrumResult:
        """The finished measure; zero everywhere for less than 8192 frames."""
        return SpectrumResult(self._rate_hz, self._power / max(1, self._count))
