"""Integers out of floating point: rounding, dither, clipping that is counted."""

from collections.abc import Sequence
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block, Integers
from ripe_press.core.signal.shaping import Strength, noise_gain, noise_response_db, shaper

Dither = Literal["none", "rectangular", "triangular", "triangular-high-pass", "shaped-light", "shaped-strong"]
DITHERS: tuple[Dither, ...] = get_args(Dither)

_LEVELS = 65_536
"""Each uniform noise has this many levels in one LSB: its moments are those of the continuous one to 2⁻³²."""

_SHAPED: dict[Dither, Strength] = {"shaped-light": "light", "shaped-strong": "strong"}


class Quantiser:
    """Rounds to ``bits`` and hands on left-justified 32-bit integers (value << (32 − bits)).

    *Rectangular* dither is a uniform noise of 16 random bits, 1 LSB wide. *Triangular* is the sum of two, 2 LSB wide;
    it makes the mean and the variance of the error independent of the signal (Lipshitz, Wannamaker and Vanderkooy, J.
    Audio Eng. Soc. 40, 1992). *Triangular high-pass* is the difference of one uniform noise and the one before it in
    the same channel. *Shaped* adds triangular dither and feeds the error back through a filter designed for
    ``rate_hz``. Rounding is to the nearest even. Values past full scale are held at the last code and counted in
    ``clipped_samples``. ``flush`` is empty: it has no latency.

    Every channel has noise of its own, by its number in ``seeds``: the same numbers give the same bytes again, and a
    channel that is made alone is that channel of the two.
    """

    def __init__(
        self, bits: int, channels: int, dither: Dither, seeds: Sequence[int] = (), rate_hz: int = 44_100
    ) -> None:
        self.clipped_samples = 0
        self._channels = channels
        self._dither = dither
        self._steps = 2.0 ** (bits - 1)
        self._shift = np.int32(32 - bits)
        self._random = [np.random.SFC64(seed) for seed in seeds or range(channels)]
        self._spare = [np.zeros(0, dtype=np.uint32) for _ in range(channels)]
        self._scratch = np.zeros(0)
        self._before = np.zeros(channels, dtype=np.int64)
        """The last uniform noise of each channel."""
        strength = _SHAPED.get(dither)
        self._coefficients = shaper(rate_hz, strength) if strength else np.zeros(0)
        self._errors = np.zeros((channels, len(self._coefficients)))

    def process(self, block: Block) -> Integers:
        """The block as integers, same shape."""
        if len(self._scratch) < block.size:
            self._scratch = np.empty(block.size)
        scaled = self._scratch[: block.size].reshape(block.shape)
        if self._dither == "none":
            np.multiply(block, self._steps, out=scaled)
            np.rint(scaled, out=scaled)
        elif self._dither in _SHAPED:
            from ripe_press.core.kernels.shaping import shape

            np.multiply(block, self._steps, out=scaled)
            noise = self._triangular(len(block)) * (1.0 / _LEVELS)
            noise -= (_LEVELS - 1) / _LEVELS
            shape(scaled, noise, self._coefficients, self._errors)
        else:
            # In units of a dither level, so that the noise stays in integers until it is added.
            np.multiply(block, self._steps * _LEVELS, out=scaled)
            self._add_noise(scaled)
            scaled *= 1.0 / _LEVELS
            np.rint(scaled, out=scaled)
        if scaled.size and (scaled.max() > self._steps - 1 or scaled.min() < -self._steps):
            self.clipped_samples += int(np.count_nonzero(scaled > self._steps - 1))
            self.clipped_samples += int(np.count_nonzero(scaled < -self._steps))
            np.clip(scaled, -self._steps, self._steps - 1, out=scaled)
        codes = scaled.astype(np.int32)
        np.left_shift(codes, self._shift, out=codes)
        return codes

    def _add_noise(self, scaled: Block) -> None:
        if self._dither == "triangular":
            scaled += self._triangular(len(scaled))
            scaled -= _LEVELS - 1
            return
        uniform = self._uniform(len(scaled))
        if self._dither == "rectangular":
            scaled += uniform
            scaled -= (_LEVELS - 1) / 2
        elif len(uniform):
            scaled += uniform
            scaled[1:] -= uniform[:-1]
            scaled[0] -= self._before
            self._before = uniform[-1].copy()

    def flush(self) -> Integers:
        """Nothing: a quantiser holds nothing back."""
        return np.zeros((0, self._channels), dtype=np.int32)

    def _words(self, frames: int) -> NDArray[np.uint32]:
        """A word of 32 random bits a sample, drawn in the order of each channel's samples however they are cut."""
        words = np.empty((frames, self._channels), dtype=np.uint32)
        for channel, (random, spare) in enumerate(zip(self._random, self._spare, strict=True)):
            # A 64-bit word serves two samples; what an odd block leaves of its last word belongs to the next block.
            drawn = random.random_raw((frames - len(spare) + 1) // 2).view(np.uint32)
            words[: len(spare), channel] = spare[:frames]
            words[len(spare) :, channel] = drawn[: frames - len(spare)]
            self._spare[channel] = drawn[frames - len(spare) :].copy() if frames else spare
        return words

    def _triangular(self, frames: int) -> NDArray[np.uint32]:
        """Sums of two 16-bit numbers."""
        words = self._words(frames)
        sums = words & np.uint32(_LEVELS - 1)
        words >>= np.uint32(16)
        sums += words
        return sums

    def _uniform(self, frames: int) -> NDArray[np.int64]:
        """16-bit numbers."""
        numbers: NDArray[np.int64] = (self._words(frames) >> np.uint32(16)).astype(np.int64)
        return numbers


def added_noise_dbfs(bits: int, dither: Dither, rate_hz: int = 44_100) -> float:
    """The level of the error that quantising adds, as RMS in dBFS, where a full-scale sine reads 0.

    Error power is LSB²/12 for plain rounding of a busy signal, LSB²/6 with rectangular and LSB²/4 with triangular
    dither, and that times the gain of the shaping filter (checked in tests/published).
    """
    power = _noise_power(bits, dither)
    if dither in _SHAPED:
        power *= noise_gain(rate_hz, _SHAPED[dither])
    return float(10 * np.log10(power / 0.5))


def _noise_power(bits: int, dither: Dither) -> float:
    return float((2.0 ** (1 - bits)) ** 2 / {"none": 12.0, "rectangular": 6.0}.get(dither, 4.0))


def noise_density_db(bits: int, dither: Dither, rate_hz: int, hz: NDArray[np.float64]) -> NDArray[np.float64]:
    """Power of the added noise a hertz, in dB re a full-scale sine's, at frequencies up to half the rate."""
    base = float(10 * np.log10(_noise_power(bits, dither) / 0.5 / (rate_hz / 2)))
    if dither in _SHAPED:
        return base + noise_response_db(rate_hz, _SHAPED[dither], hz)
    if dither == "triangular-high-pass":
        # White rounding noise of LSB²/12, and LSB²/6 of dither under |1 − z⁻¹|².
        shape = 1 / 3 + 2 / 3 * 2 * np.sin(np.pi * hz / rate_hz) ** 2
        found: NDArray[np.float64] = base + 10 * np.log10(shape)
        return found
    return np.full(len(hz), base)
