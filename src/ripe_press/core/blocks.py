"""How sound travels: blocks, processors, meters, and the progress of long work.

A block is ``float64``, shape ``(frames, channels)``, C order, mono too; 1.0 is full scale. A block is read-only once
passed on: every branch of the tree gets the same one.
"""

from collections.abc import Callable
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

Block = NDArray[np.float64]
Integers = NDArray[np.int32]
Samples = NDArray[np.float64] | NDArray[np.int32]

BLOCK_FRAMES = 131072

Progress = Callable[[int, int], None]
"""Called with the amount done and the whole, in one unit."""

ShouldStop = Callable[[], bool]
"""Asked between two blocks: whether the work is to end."""


def never() -> bool:
    """Return False: the work is not to end."""
    return False


def no_progress(_done: int, _total: int) -> None:
    """Ignore progress."""


class Processor(Protocol):
    """Turns blocks into blocks; holds its own state; is of no use after ``flush``."""

    def process(self, block: Block) -> Samples:
        """What leaves for this block; may be shorter, longer or empty."""
        ...

    def flush(self) -> Samples:
        """Return the samples still in the processor after the last block."""
        ...


class Meter(Protocol):
    """Looks at blocks and gives a frozen result at the end."""

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        ...

    def result(self) -> Any:
        """The finished measure; the meter is of no use afterwards."""
        ...


def empty_block(channels: int) -> Block:
    """No frames at all, in the right shape."""
    return np.zeros((0, channels), dtype=np.float64)


def as_integers(samples: Samples, kind: str = "<i4") -> NDArray[np.int32]:
    """Left-justified integers as they are, in the byte order of a file. Raises: TypeError for floating point.

    Rounding is done by the depth station; here, floating point would be truncated to silence.
    """
    return np.ascontiguousarray(samples.astype(kind, casting="same_kind", copy=False))
