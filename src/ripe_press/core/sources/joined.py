"""A source that is several others, one behind the other."""

import hashlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.sources.parts import PartedSource, ReaderOfParts, fingerprint_of, in_blocks
from ripe_press.core.sources.source import AudioSource, Reader, Sharing
from ripe_press.core.units import print_rate
from ripe_press.core.words import quoted

JOINED = "joined"
"""Instead of a codec, where the samples are not integers of files."""


@dataclass(frozen=True, slots=True)
class JoinedSource(PartedSource):
    """Sources of one rate joined without gaps; one channel goes to both sides where another has two.

    Made by `joined`, which checks that they go together.
    """

    def open(self, sharing: Sharing | None = None) -> "JoinedReader":
        """Opens the parts as they come."""
        return JoinedReader(self.parts, self.facts, sharing)


def joined(parts: Sequence[AudioSource], called: str) -> JoinedSource:
    """Some sources, one behind the other. Raises: BadInput ``join.nothing`` or ``join.rates``."""
    if not parts:
        message = "No sources to join. Choose at least one."
        raise BadInput("join.nothing", message)
    facts = [one.facts for one in parts]
    for other in facts[1:]:
        if other.rate_hz != facts[0].rate_hz:
            message = (
                f"Gapless tracks need one sample rate: {quoted(facts[0].path)} has {print_rate(facts[0].rate_hz)}, "
                f"{quoted(other.path)} {print_rate(other.rate_hz)}. Insert a gap."
            )
            raise BadInput("join.rates", message, rates_hz=(facts[0].rate_hz, other.rate_hz))
    kinds = {one.codec if one.holds_integers or one.is_float else JOINED for one in facts}
    codec = kinds.pop() if len(kinds) == 1 else JOINED
    channels = max(one.channels for one in facts)
    whole = fingerprint_of(parts)
    used = [one.effective_bits for one in facts]
    together = SourceFacts(
        f"{called}: {len(parts)} gapless entries", JOINED, codec, facts[0].rate_hz,
        channels, sum(one.frames for one in facts),
        None if codec == JOINED else max(one.bit_depth or 0 for one in facts), file_channels=channels,
        effective_bits=None if codec == JOINED or None in used else max(one or 0 for one in used),
        content_sum=hashlib.blake2b(whole.encode(), digest_size=16).hexdigest() if whole else "",
    )  # fmt: skip
    return JoinedSource(tuple(parts), together)


class JoinedReader(ReaderOfParts):
    """The parts one after the other, each open only while it is read."""

    def __init__(self, parts: Sequence[AudioSource], facts: SourceFacts, sharing: Sharing | None = None) -> None:
        super().__init__()
        self.facts = facts
        self._parts = parts
        self._sharing = sharing
        self._open: tuple[int, Reader] | None = None

    def close(self) -> None:
        """Lets go of the part that is open."""
        super().close()
        self._open = None

    def blocks(
        self, start_frame: int = 0, end_frame: int | None = None, block_frames: int = BLOCK_FRAMES
    ) -> Iterator[Block]:
        """The frames of the whole. Raises: as the parts do."""
        end = self.facts.frames if end_frame is None else min(end_frame, self.facts.frames)
        return in_blocks(self._pieces(start_frame, end, block_frames), block_frames)

    def _pieces(self, start: int, end: int, block_frames: int) -> Iterator[Block]:
        begins = 0
        for number, part in enumerate(self._parts):
            first, last = max(start, begins), min(end, begins + part.facts.frames)
            if first < last:
                for block in self._reader(number).blocks(first - begins, last - begins, block_frames):
                    yield block if block.shape[1] == self.facts.channels else block.repeat(self.facts.channels, axis=1)
            begins += part.facts.frames

    def _reader(self, number: int) -> Reader:
        if self._open is None or self._open[0] != number:
            self.close()
            self._open = number, self._stack.enter_context(self._parts[number].open(self._sharing))
        return self._open[1]
