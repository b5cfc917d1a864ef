"""The range: what of the mix leaves, with its edges, and what the stations behind it hear around it."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from ripe_press.core.blocks import Block, Processor
from ripe_press.core.measure.clipping import ClippingMeter, full_scale_of
from ripe_press.core.measure.silence import SilenceMeter
from ripe_press.core.signal.edges import Cutter, Folder, Surrounded, folded
from ripe_press.core.signal.fade import NO_FADE, Fade, Fader
from ripe_press.core.sources.source import Reader
from ripe_press.core.stations.base import Description, Known, Signal, Station, Tap, Work
from ripe_press.core.timeline import TempoMap
from ripe_press.core.units import print_clock


@dataclass(frozen=True, slots=True)
class Range(Station):
    """The frames from ``start_frame`` up to, without, ``end_frame`` of ``source_frames``, and their edges.

    ``tail_frames`` beyond the end are heard (*hold*, *ring out*) or, with ``fold``, added to the start. Fades
    count from the first and the last frame that is heard; silence lies outside them. All in frames of the mix.
    """

    start_frame: int
    end_frame: int
    source_frames: int
    tail_frames: int = 0
    fold: bool = False
    fade_in: Fade = NO_FADE
    fade_out: Fade = NO_FADE
    silence_before: int = 0
    silence_after: int = 0
    window: tuple[int, int] | None = None
    """Only this part of what is heard, without the silence around it: for listening to a piece of a range."""
    kind: ClassVar[str] = "range"

    @property
    def sounding_frames(self) -> int:
        """What is heard of the mix: the range, and its tail unless that is folded."""
        return self.end_frame - self.start_frame + (0 if self.fold else self.tail_frames)

    @property
    def frames(self) -> int:
        """Everything that leaves, in frames of the mix."""
        if self.window:
            return self.window[1] - self.window[0]
        return self.silence_before + self.sounding_frames + self.silence_after

    @property
    def read_end(self) -> int:
        """The frame after the last that the walk has to bring; a folded tail is read on its own."""
        if self.window:
            return self.start_frame + self.window[1]
        return self.end_frame + (0 if self.fold else self.tail_frames)

    @property
    def read_start(self) -> int:
        """The first frame that the walk has to bring."""
        return self.start_frame + (self.window[0] if self.window else 0)

    @property
    def computes(self) -> str:
        """Fades and folding make new numbers; cutting and silence do not."""
        changed = (self.fold and self.tail_frames) or self.fade_in.frames or self.fade_out.frames
        return "Fading and folding compute in floating point" if changed else ""

    @property
    def idle(self) -> bool:
        """Whether the range is the whole mix, as it is."""
        whole = self.start_frame == 0 and self.end_frame == self.source_frames
        return whole and not self.computes and not self.silence_before and not self.silence_after

    def around(self, behind: tuple[int, int]) -> tuple[int, int]:
        """How many frames of the mix before and after it are brought to stations that are to hear so many.

        At a faded edge there are none; a loop has its own end before it, and its own start behind.
        """
        before, after = behind
        if self.fold:
            return before, after
        first = self.read_start - self.start_frame
        before = 0 if self.fade_in.frames and not first else min(before, self.read_start)
        faded = self.fade_out.frames and not self.window
        return before, 0 if faded else min(after, self.source_frames - self.read_end)

    def reads(self, behind: tuple[int, int]) -> tuple[int, int]:
        """The frames of the mix that a walk has to bring for it, from one up to, without, the other."""
        before, after = (0, 0) if self.fold else self.around(behind)
        return self.read_start - before, self.read_end + after

    def after(self, here: Signal) -> Signal:
        """Its frames, with what the stations behind it hear before and after them."""
        before, after = self.around(here.behind)
        sounding = self.read_end - self.read_start
        silence = (0, sounding, sounding)
        if not self.window:
            begins = self.silence_before
            silence = (begins, begins + self.sounding_frames, self.frames)
        return replace(here, lead=before, frames=sounding, context=bool(before or after), silence=silence)

    def work(self, here: Signal) -> Work:
        """Cuts, folds and fades. Silence is looked for in the mix as it was cut, clipping in what leaves."""
        facts = here.source.facts
        full_scale = full_scale_of(facts.bit_depth, facts.is_float)
        edges = self._edges(here)
        return Work(
            edges,
            [
                Tap("silence", SilenceMeter(), behind=1, alone=not self.fold),
                Tap("clipping", ClippingMeter(here.channels, full_scale, self.read_start), behind=len(edges)),
            ],
        )

    def _edges(self, here: Signal) -> list[Processor]:
        before, after = self.around(here.behind)
        start, end, first = self.read_start, self.read_end, self.read_start - self.start_frame
        if not self.fold:
            at = here.start_frame
            edges: list[Processor] = [Cutter(here.channels, start - before - at, end + after - at)]
            if self.fade_in.frames or self.fade_out.frames:
                edges.append(Fader(here.channels, self.sounding_frames, self.fade_in, self.fade_out, first - before))
            return edges
        with here.source.open() as reader:
            loop = _Loop(reader, self, here.channels)
            last = end - self.start_frame
            edges = [
                Cutter(here.channels, start - here.start_frame, end - here.start_frame), loop.folder(first),
                loop.fader(first),
            ]  # fmt: skip
            if before or after:
                edges.append(Surrounded(loop.part(first - before, first), loop.part(last, last + after)))
        return edges

    def words(self, known: Known) -> Description:
        """From where to where, in times and, where they are whole, in bars; how it ends; fades and silence."""
        rate_hz = known.rate_hz
        start, end = print_clock(self.start_frame, rate_hz), print_clock(self.end_frame, rate_hz)
        length = print_clock(self.frames, rate_hz)
        whole = self.start_frame == 0 and self.end_frame == self.source_frames
        bars = bars_of(self, rate_hz, known.tempo)
        sentence = (
            f"All of the mix leaves: {length}." if whole else f"From {start} to {end} of the mix: {length} leave."
        )
        figures = [("Start", start), ("End", end), ("Length", length), ("Frames", f"{self.frames:,}")]
        if bars:
            figures.insert(2, ("Bars", f"{bars[0]} up to {bars[1]}"))
        notes, more, told = self._edges_in_words(rate_hz)
        also = f" +{len(notes) - 1}" if len(notes) > 1 else ""
        called = f"bars {bars[0]}–{bars[1]}" if bars and known.range_name else print_clock(self.frames, rate_hz, 1)
        detail = f"{called}, {notes[0]}{also}" if notes else called if bars and known.range_name else length
        label = known.range_name or ("Whole mix" if whole else f"Bars {bars[0]}–{bars[1]}" if bars else "Range")
        return Description(self.kind, label, detail, self.idle, sentence + told, (*figures, *more))

    def _edges_in_words(self, rate_hz: int) -> tuple[list[str], list[tuple[str, str]], str]:
        """Notes, figures and sentences on tail, fades and silence."""
        notes, figures, told = [], [], ""
        if self.tail_frames:
            tail = f"{self.tail_frames / rate_hz:.2f} s"
            figures.append(("Tail", tail))
            if self.fold:
                notes.append("folded loop")
                told = f" The {tail} that ring past the end are added to the start, so that it repeats without a seam."
            else:
                notes.append(f"rings {self.tail_frames / rate_hz:.1f} s")
                told = f" It goes on for {tail} after the end, so that the tail dies away."
        elif self.fold:
            notes.append("loop")
            told = " It is a loop: nothing rings past its end, and what follows hears it go round."
        for name, fade in (("in", self.fade_in), ("out", self.fade_out)):
            if fade.frames:
                figures.append((f"Fade {name}", f"{fade.frames / rate_hz:.3f} s, {fade.curve.replace('-', ' ')}"))
                notes.append(f"fade {name}")
        for name, frames in (("before", self.silence_before), ("after", self.silence_after)):
            if frames:
                figures.append((f"Silence {name}", f"{frames / rate_hz:.2f} s"))
                notes.append(f"silence {name}")
        return notes, figures, told


def bars_of(cut: Range, rate_hz: int, tempo: TempoMap | None) -> tuple[int, int] | None:
    """The bar that a range begins with and the one it ends before, when it is whole bars to the sample."""
    if tempo is None:
        return None
    first, last = tempo.bar_at(cut.start_frame, rate_hz), tempo.bar_at(cut.end_frame, rate_hz)
    return (first, last) if first is not None and last is not None else None


class _Loop:
    """A folded loop, any part of which can be read: its end rings into its start, and round it goes."""

    def __init__(self, reader: Reader, cut: Range, channels: int) -> None:
        self._reader = reader
        self._cut = cut
        self._channels = channels
        # The tail is needed before the walk comes to it, so it is read on its own; its length is limited.
        tail = reader.blocks(cut.end_frame, cut.end_frame + cut.tail_frames) if cut.tail_frames else iter(())
        self._tail = folded(tail, channels, cut.end_frame - cut.start_frame)

    def folder(self, first: int) -> Folder:
        """What adds the tail to a stream that begins at a frame of the loop."""
        return Folder(self._tail, first)

    def fader(self, first: int) -> Fader:
        """The loop's fades for a stream that begins at one of its frames."""
        cut = self._cut
        return Fader(self._channels, cut.sounding_frames, cut.fade_in, cut.fade_out, first)

    def part(self, start: int, end: int) -> Block:
        """The frames from one, counted from the loop's start and possibly negative, up to another."""
        return np.concatenate([np.zeros((0, self._channels)), *self._pieces(start, end)])

    def _pieces(self, start: int, end: int) -> Iterator[Block]:
        length = self._cut.end_frame - self._cut.start_frame
        while start < end:
            first = start % length
            last = min(length, first + end - start)
            folder, fader = self.folder(first), self.fader(first)
            for block in self._reader.blocks(self._cut.start_frame + first, self._cut.start_frame + last):
                yield fader.process(folder.process(block))
            start += last - first
