"""A source at another rate, for stems of any rate."""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.signal.resample import Resampler, grid_frames, reach_frames
from ripe_press.core.sources.parts import PartedSource, ReaderOfParts, in_blocks
from ripe_press.core.sources.source import AudioSource, Sharing
from ripe_press.core.units import frames_after_conversion, print_rate

CONVERTED = "converted"
"""Instead of a codec: the samples are computed."""
_PIECE_FRAMES = 1 << 18
"""Frames converted at once, each piece with its filter's surroundings: any stretch has the same samples, from any first
frame. Where pieces meet they differ by the rounding of float64.
"""


@dataclass(frozen=True, slots=True)
class ConvertedSource(PartedSource):
    """A source at the rate that its facts name, converted at very high quality. Made by `converted`."""

    @property
    def description(self) -> str:
        """From which rate to which."""
        rates = f"from {print_rate(self.parts[0].facts.rate_hz)} to {print_rate(self.facts.rate_hz)}"
        return f"Converted {rates} on reading."

    def open(self, sharing: Sharing | None = None) -> "ConvertedReader":
        """Open the source and its converter."""
        return ConvertedReader(self, sharing)


def converted(source: AudioSource, rate_hz: int) -> AudioSource:
    """A source at a rate; the same where it has that already."""
    facts = source.facts
    if facts.rate_hz == rate_hz:
        return source
    about = repr((source.fingerprint, rate_hz)).encode()
    return ConvertedSource(
        (source,),
        replace(
            facts, codec=CONVERTED, rate_hz=rate_hz, bit_depth=None, effective_bits=None,
            frames=frames_after_conversion(facts.frames, facts.rate_hz, rate_hz),
            content_sum=hashlib.blake2b(about, digest_size=16).hexdigest() if source.fingerprint else "",
        ),
    )  # fmt: skip


class ConvertedReader(ReaderOfParts):
    """The open source, piece by piece through a converter."""

    def __init__(self, source: ConvertedSource, sharing: Sharing | None) -> None:
        super().__init__()
        self._of, self._facts = source.parts[0].facts, source.facts
        self._reader = self._stack.enter_context(source.parts[0].open(sharing))
        grid = grid_frames(self._of.rate_hz, self._facts.rate_hz)
        self._piece = grid * -(-_PIECE_FRAMES // grid)
        self._around = grid * -(-reach_frames(self._of.rate_hz, self._facts.rate_hz) // grid)

    def blocks(
        self, start_frame: int = 0, end_frame: int | None = None, block_frames: int = BLOCK_FRAMES
    ) -> Iterator[Block]:
        """The frames at the new rate. Raises: as the source does."""
        frames = self._facts.frames
        end = frames if end_frame is None else min(end_frame, frames)
        return in_blocks(self._pieces(start_frame, end), block_frames)

    def _pieces(self, start: int, end: int) -> Iterator[Block]:
        from_hz, to_hz = self._of.rate_hz, self._facts.rate_hz
        whole = self._piece * to_hz // from_hz
        for number in range(start // whole, -(-end // whole)):
            first = number * self._piece
            before = min(first, self._around)
            out = self._converted(first - before, min(self._of.frames, first + self._piece + self._around))
            begins = number * whole
            lead = before * to_hz // from_hz
            last = min(begins + whole, self._facts.frames)
            piece = out[lead : lead + last - begins]
            yield piece[max(0, start - begins) : min(last, end) - begins]

    def _converted(self, first: int, last: int) -> Block:
        converter = Resampler(self._of.rate_hz, self._facts.rate_hz, self._of.channels)
        done = [converter.process(block) for block in self._reader.blocks(first, last)]
        return np.concatenate((*done, converter.flush()))
