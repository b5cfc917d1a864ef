"""Gain, DC removal and the high-pass of a finishing chain."""

import math

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block, empty_block


class Gain:
    """Multiplies by a gain in dB, after taking a constant offset away from each channel."""

    def __init__(self, gain_db: float, channels: int, offsets: tuple[float, ...] = ()) -> None:
        self._factor = 10.0 ** (gain_db / 20)
        self._channels = channels
        self._offsets = np.array(offsets) if any(offsets) else None

    def process(self, block: Block) -> Block:
        """The block at its new level."""
        moved: Block = (block if self._offsets is None else block - self._offsets) * self._factor
        return moved

    def flush(self) -> Block:
        """Nothing is held back."""
        return empty_block(self._channels)


_FORGOTTEN = math.log(10 ** (140 / 20))
_MOST_REACH_S = 10.0


def high_pass_reach_s(hz: float) -> float:
    """How long a high-pass remembers, until that lies 140 dB down: its poles die away with a rate of √2·π·hz."""
    return min(_MOST_REACH_S, _FORGOTTEN / (math.sqrt(2) * math.pi * hz))


class HighPass:
    """A Butterworth high-pass of second order: −3 dB at ``hz``, 12 dB an octave below it."""

    def __init__(self, hz: float, rate_hz: int, channels: int) -> None:
        # The bilinear transform of 1/(s² + √2·s + 1) with its corner where it is asked for.
        k = math.tan(math.pi * hz / rate_hz)
        a0 = 1 + math.sqrt(2) * k + k * k
        self._b = np.array([1.0, -2.0, 1.0]) / a0
        self._a = np.array([2 * (k * k - 1), 1 - math.sqrt(2) * k + k * k]) / a0
        self._state: NDArray[np.float64] = np.zeros((channels, 2))

    def process(self, block: Block) -> Block:
        """The block without what lies below the corner."""
        from ripe_press.core.kernels.limiter import biquad

        out = np.empty_like(block)
        biquad(block, out, self._b, self._a, self._state)
        return out

    def flush(self) -> Block:
        """Nothing is held back."""
        return empty_block(len(self._state))
