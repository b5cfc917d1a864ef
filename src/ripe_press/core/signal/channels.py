"""Changing what the channels are: one on both sides, one side alone, sides swapped, a mono sum."""

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block, empty_block

Sides = Literal["both", "left", "right", "swapped", "mono"]
MonoLaw = Literal[-6, -3]
"""Gain of each side in a mono sum, in dB: −6 keeps the level of a centred sound, −3 keeps power."""

LAW_GAIN: dict[MonoLaw, float] = {-6: 0.5, -3: math.sqrt(0.5)}


class ChannelChange:
    """Makes the sides that leave from those that come. Picked sides come through untouched."""

    def __init__(self, sides: Sides, law_db: MonoLaw = -6) -> None:
        self._sides = sides
        self._gain = LAW_GAIN[law_db]

    def process(self, block: Block) -> Block:
        """The block with other channels."""
        picked: NDArray[np.float64]
        match self._sides:
            case "both":
                picked = np.repeat(block[:, :1], 2, axis=1)
            case "left":
                picked = np.ascontiguousarray(block[:, :1])
            case "right":
                picked = np.ascontiguousarray(block[:, -1:])
            case "swapped":
                picked = np.ascontiguousarray(block[:, ::-1])
            case "mono":
                # One side on its own is the sum already.
                picked = block if block.shape[1] == 1 else block.sum(axis=1, keepdims=True) * self._gain
        return picked

    def flush(self) -> Block:
        """Nothing is held back."""
        return empty_block(2 if self._sides in ("both", "swapped") else 1)


def mono_loss_db(correlation: float | None, balance_db: float | None) -> float | None:
    """How much quieter the sum of both sides is than if they were alike, from correlation and left over right.

    None where a side is silent or missing: nothing can cancel then.
    """
    if correlation is None or balance_db is None:
        return None
    left = 10 ** (balance_db / 20)
    whole = left * left + 1 + 2 * left
    summed = left * left + 1 + 2 * left * correlation
    return 10 * math.log10(max(summed, 1e-12) / whole)
