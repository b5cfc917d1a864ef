"""A range of a mix with its edges and its chain as a source, for gapless joins of several mixes."""

import hashlib
import math
from collections.abc import Iterable, Iterator
from dataclasses import astuple, dataclass, replace

from ripe_press.core.blocks import BLOCK_FRAMES, Block, Processor
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.sources.joined import JOINED
from ripe_press.core.sources.parts import ReaderOfParts, in_blocks, silence
from ripe_press.core.sources.source import AudioSource, Reader, Sharing
from ripe_press.core.stations import Finish, Range, Source as SourceStation, Work


@dataclass(frozen=True, slots=True)
class PartSource(AudioSource):
    """What leaves ``cut`` and, where there is one, ``finish``; made by `part_of`."""

    of: AudioSource
    cut: Range
    finish: Finish | None
    facts: SourceFacts

    def stamp(self) -> object:
        """The stamp of the mix."""
        return self.of.stamp()

    def check(self) -> None:
        """Checks the mix. Raises: Conflict ``source.changed``."""
        self.of.check()

    @property
    def files(self) -> frozenset[AudioSource]:
        """What the mix is read from."""
        return self.of.files

    def open(self, sharing: Sharing | None = None) -> "PartReader":
        """Opens the mix."""
        return PartReader(self, sharing)


def part_of(source: AudioSource, cut: Range, finish: Finish | None) -> PartSource:
    """A range of a source as a source."""
    facts = source.facts
    computed = bool(cut.computes) or (finish is not None and not finish.idle)
    about = repr((source.fingerprint, astuple(cut), finish and astuple(finish)))
    return PartSource(
        source, cut, finish,
        replace(
            facts, frames=cut.frames, content_sum=hashlib.blake2b(about.encode(), digest_size=16).hexdigest()
            if source.fingerprint else "", codec=JOINED if computed else facts.codec,
            bit_depth=None if computed else facts.bit_depth,
            effective_bits=None if computed else facts.effective_bits,
        ),
    )  # fmt: skip


def finished(source: AudioSource, finish: Finish | None) -> AudioSource:
    """The whole of a source through a finishing chain; the same where there is none, or an idle one."""
    if finish is None or finish.idle:
        return source
    frames = source.facts.frames
    return part_of(source, Range(0, frames, frames), finish)


class PartReader(ReaderOfParts):
    """The open mix; any stretch of the part is what the stations make of the whole of it."""

    def __init__(self, part: PartSource, sharing: Sharing | None = None) -> None:
        super().__init__()
        self._part = part
        self._reader: Reader = self._stack.enter_context(part.of.open(sharing))

    def blocks(
        self, start_frame: int = 0, end_frame: int | None = None, block_frames: int = BLOCK_FRAMES
    ) -> Iterator[Block]:
        """The frames of the part. Raises: as the mix does."""
        frames = self._part.facts.frames
        end = frames if end_frame is None else min(end_frame, frames)
        return in_blocks(self._pieces(start_frame, end, block_frames), block_frames)

    def _pieces(self, start: int, end: int, block_frames: int) -> Iterator[Block]:
        cut, channels = self._part.cut, self._part.facts.channels
        begins, ends = cut.silence_before, cut.silence_before + cut.sounding_frames
        yield from silence(min(end, begins) - start, channels, block_frames)
        first, last = max(start, begins), min(end, ends)
        if first < last:
            yield from self._sounding(first - begins, last - begins, block_frames)
        yield from silence(end - max(start, ends), channels, block_frames)

    def _sounding(self, first: int, last: int, block_frames: int) -> Iterator[Block]:
        part = self._part
        cut = replace(part.cut, window=(first, last), silence_before=0, silence_after=0)
        reach = part.finish.reach(part.facts.rate_hz) if part.finish else (0.0, 0.0)
        behind = math.ceil(reach[0]), math.ceil(reach[1])
        start, end = cut.reads(behind)
        here = replace(SourceStation(part.of).begin(start), behind=behind)
        after = replace(cut.after(here), behind=(0, 0))
        finished = part.finish.work(after) if part.finish else Work()
        trimmer = after.trimmer()
        chain = [*cut.work(here).processors, *finished.processors, *([trimmer] if trimmer else [])]
        return _through(chain, self._reader.blocks(start, end, block_frames))


def _through(chain: list[Processor], blocks: Iterable[Block]) -> Iterator[Block]:
    """Blocks through processors, and what those hold back at the end."""
    for samples in blocks:
        for one in chain:
            samples = one.process(samples)  # type: ignore[assignment]  # noqa: PLW2901
        yield samples
    for at, one in enumerate(chain):
        held = one.flush()
        for other in chain[at + 1 :]:
            held = other.process(held)  # type: ignore[arg-type]
        yield held  # type: ignore[misc]
