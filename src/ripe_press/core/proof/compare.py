"""Compare two audio files sample by sample."""

from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ripe_press.core.blocks import Block
from ripe_press.core.errors import BadInput, Cancelled
from ripe_press.core.sources.source import open_file
from ripe_press.core.units import db_from_linear, db_of_power, print_count, print_rate
from ripe_press.core.words import quoted

_NOTHING: Block = np.empty((0, 0))


@dataclass(frozen=True, slots=True)
class Difference:
    """The difference of two files from their first samples.

    ``frames`` samples were compared; ``longer_by`` samples of the longer file were not (negative: of the first). Levels
    are in dBFS, minus infinity for equal samples; ``first_frame`` is the first difference.
    """

    frames: int
    longer_by: int
    peak_dbfs: float
    rms_dbfs: float
    first_frame: int | None

    @property
    def same(self) -> bool:
        """Whether the sound is the same, to the last bit and the last frame."""
        return self.first_frame is None and not self.longer_by


def difference_of(first: Path, second: Path, should_stop: Callable[[], bool] = lambda: False) -> Difference:
    """Decodes two files beside each other and measures the difference.

    Raises: BadInput ``compare.apart`` when rate or channels differ; Interrupted ``compare.cancelled``; what opening
    a file raises.
    """
    with open_file(first, counted=False) as one, open_file(second, counted=False) as other:
        a, b = one.facts, other.facts
        if (a.rate_hz, a.channels) != (b.rate_hz, b.channels):
            counts = [print_count(facts.channels, "channel") for facts in (a, b)]
            message = (
                f"{quoted(first.name)} has {counts[0]} at {print_rate(a.rate_hz)} and {quoted(second.name)} "
                f"{counts[1]} at {print_rate(b.rate_hz)}. Compare files of one format."
            )
            raise BadInput("compare.apart", message)
        peak = square = 0.0
        frames, first_frame, lengths = 0, None, [0, 0]
        for left, right in _pairs(one.blocks(), other.blocks(), lengths):
            if should_stop():
                message = "Comparison cancelled."
                raise Cancelled("compare.cancelled", message)
            residue = left - right
            block_peak = float(np.abs(residue).max(initial=0.0))
            if block_peak > 0.0:
                if first_frame is None:
                    first_frame = frames + int(np.flatnonzero(residue.any(axis=1))[0])
                peak = max(peak, block_peak)
                square += float(np.square(residue).sum())
            frames += len(left)
    mean = square / max(1, frames * a.channels)
    return Difference(frames, lengths[1] - lengths[0], db_from_linear(peak), db_of_power(mean), first_frame)


def _pairs(first: Iterator[Block], second: Iterator[Block], lengths: list[int]) -> Iterator[tuple[Block, Block]]:
    """Blocks of the same frames of both until one ends; then both are read to their ends, for their lengths."""
    sides = [_counted(first, lengths, 0), _counted(second, lengths, 1)]
    left = right = _NOTHING
    while True:
        left = left if len(left) else next(sides[0], _NOTHING)
        right = right if len(right) else next(sides[1], _NOTHING)
        frames = min(len(left), len(right))
        if not frames:
            break
        yield left[:frames], right[:frames]
        left, right = left[frames:], right[frames:]
    for side in sides:
        deque(side, maxlen=0)


def _counted(blocks: Iterator[Block], lengths: list[int], at: int) -> Iterator[Block]:
    for block in blocks:
        if len(block):
            lengths[at] += len(block)
            yield block
