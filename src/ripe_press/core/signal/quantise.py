"""Integers out of floating point: rounding, dither, clipping that is counted."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block, Integers

Dither = Literal["none", "triangular"]

SEED = 0x51C5_1DE5
"""One fixed seed: the same mix pressed twice gives the same bytes."""

_LEVELS = 65_536
"""Each uniform noise has this many levels in one LSB: its moments are those of the continuous one to 2⁻³²."""


class Quantiser:
    """Rounds to ``bits`` and hands on left-justified 32-bit integers (value << (32 − bits)).

    Triangular dither is the sum of two independent uniform noises, each of 16 random bits, 2 LSB wide in all,
    added before rounding; it makes the mean and the variance of the error independent of the signal
    (Lipshitz, Wannamaker and Vanderkooy, J. Audio Eng. Soc. 40, 1992). Rounding is to the nearest
    even. Values past full scale are held at the last code and counted in ``clipped_samples``. ``flush`` is
    empty: there is no latency.
    """

    def __init__(self, bits: int, channels: int, dither: Dither, seed: int = SEED) -> None:
        self.clipped_samples = 0
        self._channels = channels
        self._steps = 2.0 ** (bits - 1)
        self._shift = np.int32(32 - bits)
        self._random = np.random.SFC64(seed) if dither == "triangular" else None
        self._spare = np.zeros(0, dtype=np.uint32)
        self._scratch = np.zeros(0)

    def process(self, block: Block) -> Integers:
        """The block as integers, same shape."""
        if len(self._scratch) < block.size:
            self._scratch = np.empty(block.size)
        scaled = self._scratch[: block.size].reshape(block.shape)
        if self._random is None:
            np.multiply(block, self._steps, out=scaled)
        else:
            # In units of a dither level, so that the noise stays in integers until it is added.
            np.multiply(block, self._steps * _LEVELS, out=scaled)
            scaled += self._triangular(self._random, block.size).reshape(block.shape)
            scaled -= _LEVELS - 1
            scaled *= 1.0 / _LEVELS
        np.rint(scaled, out=scaled)
        if scaled.size and (scaled.max() > self._steps - 1 or scaled.min() < -self._steps):
            self.clipped_samples += int(np.count_nonzero(scaled > self._steps - 1))
            self.clipped_samples += int(np.count_nonzero(scaled < -self._steps))
            np.clip(scaled, -self._steps, self._steps - 1, out=scaled)
        codes = scaled.astype(np.int32)
        np.left_shift(codes, self._shift, out=codes)
        return codes

    def flush(self) -> Integers:
        """Nothing: a quantiser holds nothing back."""
        return np.zeros((0, self._channels), dtype=np.int32)

    def _triangular(self, random: np.random.SFC64, count: int) -> NDArray[np.uint32]:
        """``count`` sums of two 16-bit numbers, drawn in the order of the samples however they are cut."""
        # A 64-bit word serves two samples; what an odd block leaves of its last word belongs to the next block.
        words = random.random_raw((count - len(self._spare) + 1) // 2).view(np.uint32)
        sums = words & np.uint32(_LEVELS - 1)
        words >>= np.uint32(16)
        sums += words
        if len(self._spare):
            sums = np.concatenate((self._spare, sums))
        self._spare = sums[count:].copy()
        return sums[:count]


def added_noise_dbfs(bits: int, dither: Dither) -> float:
    """The level of the error that quantising adds, re a full-scale sine's 0 dBFS peak, as RMS in dBFS.

    Error power is LSB²/12 for plain rounding of a busy signal and LSB²/4 with triangular dither (checked in
    tests/published); dBFS here counts a full-scale sine's RMS as 0, which is how a meter would read it.
    """
    step = 2.0 ** (1 - bits)
    power = step**2 / (4.0 if dither == "triangular" else 12.0)
    return float(10 * np.log10(power / 0.5))
