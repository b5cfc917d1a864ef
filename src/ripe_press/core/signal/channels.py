"""Changing the number of channels."""

import numpy as np

from ripe_press.core.blocks import Block, empty_block


class BothSides:
    """One channel on both sides: the same samples left and right, at the level they came with."""

    def process(self, block: Block) -> Block:
        """The block with its single channel twice."""
        return np.repeat(block, 2, axis=1)

    def flush(self) -> Block:
        """Nothing is held back."""
        return empty_block(2)
