"""A source that is several others, added up."""

import hashlib
from collections.abc import Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass

import numpy as np

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.sources.parts import PartedSource, ReaderOfParts, fingerprint_of
from ripe_press.core.sources.source import AudioSource, Reader, Sharing
from ripe_press.core.units import print_count, print_rate
from ripe_press.core.words import quoted

SUM = "sum"
"""Instead of a codec: the samples are computed."""


@dataclass(frozen=True, slots=True)
class SummedSource(PartedSource):
    """Sources of one rate, from the same first frame; the shorter ones end in silence, one channel goes to both sides.

    Made by `summed`, which checks that they go together.
    """

    @property
    def description(self) -> str:
        """How many, and how."""
        return f"{print_count(len(self.parts), 'source')} summed in 64-bit floating point."

    def open(self, sharing: Sharing | None = None) -> "SumReader":
        """Opens every part."""
        return SumReader(self.parts, self.facts, sharing)


def summed(parts: Sequence[AudioSource]) -> SummedSource:
    """The sum of some sources. Raises: BadInput ``sum.nothing`` or ``sum.rates``."""
    if not parts:
        message = "No sources to sum. Choose at least one."
        raise BadInput("sum.nothing", message)
    first, *others = (one.facts for one in parts)
    for other in others:
        if other.rate_hz != first.rate_hz:
            message = (
                f"Summed sources need one sample rate: {quoted(first.path)} has {print_rate(first.rate_hz)}, "
                f"{quoted(other.path)} {print_rate(other.rate_hz)}. Convert one of them first."
            )
            raise BadInput("sum.rates", message, rates_hz=(first.rate_hz, other.rate_hz))
    channels = max(one.facts.channels for one in parts)
    whole = fingerprint_of(parts)
    facts = SourceFacts(
        f"sum of {print_count(len(parts), 'source')}", SUM, SUM, first.rate_hz, channels,
        max(one.facts.frames for one in parts), None, file_channels=channels,
        content_sum=hashlib.blake2b(whole.encode(), digest_size=16).hexdigest() if whole else "",
    )  # fmt: skip
    return SummedSource(tuple(parts), facts)


class SumReader(ReaderOfParts):
    """The open parts, block by block."""

    def __init__(self, parts: Sequence[AudioSource], facts: SourceFacts, sharing: Sharing | None = None) -> None:
        super().__init__()
        self.facts = facts
        with ExitStack() as stack:
            self._open: list[tuple[Reader, SourceFacts]] = [
                (stack.enter_context(one.open(sharing)), one.facts) for one in parts
            ]
            self._stack = stack.pop_all()

    def blocks(
        self, start_frame: int = 0, end_frame: int | None = None, block_frames: int = BLOCK_FRAMES
    ) -> Iterator[Block]:
        """The sum, frame by frame. Raises: as the parts do."""
        end = self.facts.frames if end_frame is None else min(end_frame, self.facts.frames)
        parts = [
            reader.blocks(start_frame, min(end, facts.frames), block_frames)
            for reader, facts in self._open
            if facts.frames > start_frame
        ]
        for at in range(start_frame, end, block_frames):
            out = np.zeros((min(block_frames, end - at), self.facts.channels))
            for part in parts:
                block = next(part, None)
                if block is not None:
                    out[: len(block)] += block
            yield out
