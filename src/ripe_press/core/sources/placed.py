"""A source with another first frame and length: a stem aligned with its mix."""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, replace

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.sources.parts import PartedSource, ReaderOfParts, in_blocks, silence
from ripe_press.core.sources.source import AudioSource, Sharing
from ripe_press.core.units import print_count


@dataclass(frozen=True, slots=True)
class PlacedSource(PartedSource):
    """A source of which frame ``late_frames`` comes first; silence stands before its first and behind its last.

    Made by `placed`. Its samples stay what they are, integers too.
    """

    late_frames: int = 0

    @property
    def description(self) -> str:
        """By how much it is moved."""
        late, so_far = self.late_frames, self.parts[0].description
        if not late:
            return so_far
        moved = f"Shifted by {print_count(abs(late), 'sample')} (was {'late' if late > 0 else 'early'})."
        return f"{so_far} {moved}".strip()

    def open(self, sharing: Sharing | None = None) -> "PlacedReader":
        """Open the source at its place."""
        return PlacedReader(self, sharing)


def placed(source: AudioSource, late_frames: int, frames: int) -> AudioSource:
    """A source as long as is asked, without the first frames of one that is late; the same where it fits already."""
    facts = source.facts
    if late_frames == 0 and frames == facts.frames:
        return source
    about = repr((source.fingerprint, late_frames, frames)).encode()
    whole = hashlib.blake2b(about, digest_size=16).hexdigest() if source.fingerprint else ""
    return PlacedSource((source,), replace(facts, frames=frames, content_sum=whole), late_frames)


class PlacedReader(ReaderOfParts):
    """The open source, with silence where it has nothing."""

    def __init__(self, source: PlacedSource, sharing: Sharing | None) -> None:
        super().__init__()
        self._source = source
        self._reader = self._stack.enter_context(source.parts[0].open(sharing))

    def blocks(
        self, start_frame: int = 0, end_frame: int | None = None, block_frames: int = BLOCK_FRAMES
    ) -> Iterator[Block]:
        """The frames as they lie. Raises: as the source does."""
        frames = self._source.facts.frames
        end = frames if end_frame is None else min(end_frame, frames)
        return in_blocks(self._pieces(start_frame, end, block_frames), block_frames)

    def _pieces(self, start: int, end: int, block_frames: int) -> Iterator[Block]:
        late, channels = self._source.late_frames, self._source.facts.channels
        first, last = start + late, end + late
        sounding = self._source.parts[0].facts.frames
        yield from silence(min(last, 0) - first, channels, block_frames)
        if max(first, 0) < min(last, sounding):
            yield from self._reader.blocks(max(first, 0), min(last, sounding), block_frames)
        yield from silence(last - max(first, sounding), channels, block_frames)
