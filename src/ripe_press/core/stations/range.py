"""The range: what of the mix leaves, with its edges, and what the stations behind it hear around it."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from ripe_press.core.blocks import Block, Processor
from ripe_press.core.measure.clipping import ClippingMeter, full_scale_of
from ripe_press.core.measure.places.silence import SilenceMeter
from ripe_press.core.signal.edges import Cutter, Folder, Joiner, Surrounded, crossfaded, folded, room_tone
from ripe_press.core.signal.fade import NO_FADE, Fade, Fader
from ripe_press.core.sources.source import Reader
from ripe_press.core.stations.base import Description, PathFacts, Signal, Station, Tap, Work
from ripe_press.core.timeline import TempoMap
from ripe_press.core.units import print_clock


@dataclass(frozen=True, slots=True)
class Range(Station):
    """The frames from ``start_frame`` up to, without, ``end_frame`` of ``source_frames``, and their edges.

    ``tail_frames`` beyond the end are heard (*hold*, *ring out*) or, with ``fold``, added to the start. With
    ``crossfade_frames`` the last of them fade into those before the start. Fades count from the first and the last
    frame that is heard; silence lies outside them. All in frames of the mix.
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
    """Only this part of the range, without the silence around it: for playback of a piece."""
    crossfade_frames: int = 0
    tone: tuple[int, int] | None = None
    """A quiet stretch of the mix, of which room tone is made."""
    tone_before: int = 0
    tone_after: int = 0
    """Frames of room tone before and after the range, inside the silence."""
    kind: ClassVar[str] = "range"

    @property
    def loops(self) -> bool:
        """Whether it repeats: its end is heard before its start."""
        return self.fold or self.crossfade_frames > 0

    @property
    def sounding_frames(self) -> int:
        """The part of the mix with sound: the range, and its tail unless that is folded."""
        return self.end_frame - self.start_frame + (0 if self.fold else self.tail_frames)

    @property
    def frames(self) -> int:
        """Everything that leaves, in frames of the mix."""
        if self.window:
            return self.window[1] - self.window[0]
        return self.silence_before + self.toned_frames + self.silence_after

    @property
    def led_frames(self) -> int:
        """Frames before the first one of the part with sound."""
        return self.silence_before + self.tone_before

    @property
    def toned_frames(self) -> int:
        """The part with sound, with the room tone around it."""
        return self.tone_before + self.sounding_frames + self.tone_after

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
        if self.tone_before or self.tone_after:
            return "Room tone uses floating point"
        return "Fades and folds use floating point" if changed or self.crossfade_frames else ""

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
        if self.loops:
            return before, after
        if (self.tone_before or self.tone_after) and not self.window:
            return 0, 0
        first = self.read_start - self.start_frame
        before = 0 if self.fade_in.frames and not first else min(before, self.read_start)
        faded = self.fade_out.frames and not self.window
        return before, 0 if faded else min(after, self.source_frames - self.read_end)

    def reads(self, behind: tuple[int, int]) -> tuple[int, int]:
        """The frames of the mix that a walk has to bring for it, from one up to, without, the other."""
        before, after = (0, 0) if self.loops else self.around(behind)
        return self.read_start - before, self.read_end + after

    def after(self, here: Signal) -> Signal:
        """Its frames, with what the stations behind it hear before and after them."""
        before, after = self.around(here.behind)
        sounding = self.read_end - self.read_start
        silence = (0, sounding, sounding)
        if not self.window:
            begins, sounding = self.silence_before, sounding + self.tone_before + self.tone_after
            silence = (begins, begins + self.toned_frames, self.frames)
        return replace(here, lead=before, frames=sounding, context=bool(before or after), silence=silence)

    def work(self, here: Signal) -> Work:
        """Cuts, folds, crossfades and fades. Silence and clipping are looked for in the mix as it was cut."""
        facts = here.source.facts
        full_scale = full_scale_of(facts.bit_depth, facts.is_float)
        edges = self._edges(here)
        return Work(
            edges,
            [
                Tap("silence", SilenceMeter(), behind=1, alone=not self.loops),
                Tap(
                    "clipping",
                    ClippingMeter(here.channels, full_scale, self.read_start),
                    behind=1,
                    alone=not self.loops,
                ),
            ],
        )

    def _edges(self, here: Signal) -> list[Processor]:
        before, after = self.around(here.behind)
        start, end, first = self.read_start, self.read_end, self.read_start - self.start_frame
        if not self.loops:
            at = here.start_frame
            edges: list[Processor] = [Cutter(here.channels, start - before - at, end + after - at)]
            if self.fade_in.frames or self.fade_out.frames:
                edges.append(Fader(here.channels, self.sounding_frames, self.fade_in, self.fade_out, first - before))
            if (self.tone_before or self.tone_after) and not self.window:
                edges.append(self._toned(here))
            return edges
        with here.source.open() as reader:
            loop = _Loop(reader, self, here.channels)
            last = end - self.start_frame
            edges = [
                Cutter(here.channels, start - here.start_frame, end - here.start_frame), *loop.edges(first)
            ]  # fmt: skip
            if before or after:
                edges.append(Surrounded(loop.part(first - before, first), loop.part(last, last + after)))
        return edges

    def _toned(self, here: Signal) -> Surrounded:
        """What puts room tone before and after the stream."""
        first, last = self.tone or (0, 0)
        with here.source.open() as reader:
            quiet = np.concatenate([np.zeros((0, here.channels)), *reader.blocks(first, last)])
        return Surrounded(room_tone(quiet[::-1], self.tone_before), room_tone(quiet, self.tone_after))

    def words(self, known: PathFacts) -> Description:
        """From where to where, in times and, where they are whole, in bars; how it ends; fades and silence."""
        rate_hz = known.rate_hz
        start, end = print_clock(self.start_frame, rate_hz), print_clock(self.end_frame, rate_hz)
        length = print_clock(self.frames, rate_hz)
        whole = self.start_frame == 0 and self.end_frame == self.source_frames
        bars = bars_of(self, rate_hz, known.tempo)
        sentence = f"Whole mix, {length}." if whole else f"{start} to {end} of the mix, {length}."
        figures = [("Start", start), ("End", end), ("Length", length), ("Samples", f"{self.frames:,}")]
        if bars:
            figures.insert(2, ("Bars", bars.text))
        notes, more, tail_text = self._edges_in_words(rate_hz)
        also = f" +{len(notes) - 1}" if len(notes) > 1 else ""
        called = bars.label.lower() if bars and known.range_name else length
        detail = f"{called}, {notes[0]}{also}" if notes else called
        label = known.range_name or ("Whole mix" if whole else bars.label if bars else "Range")
        return Description(self.kind, label, detail, self.idle, sentence + tail_text, (*figures, *more))

    def _edges_in_words(self, rate_hz: int) -> tuple[list[str], list[tuple[str, str]], str]:
        """Notes, figures and sentences on tail, fades and silence."""
        notes, figures, tail_text = [], [], ""
        if self.tail_frames:
            tail = f"{self.tail_frames / rate_hz:.2f} s"
            figures.append(("Tail", tail))
            if self.fold:
                notes.append("folded loop")
                tail_text = f" {tail} of tail folded into the start."
            else:
                notes.append(f"tail {self.tail_frames / rate_hz:.1f} s")
                tail_text = f" Extended by {tail} for the tail."
        elif self.crossfade_frames:
            length = f"{1000 * self.crossfade_frames / rate_hz:.0f} ms"
            figures.append(("Crossfade", length))
            notes.append("crossfaded loop")
            tail_text = f" The last {length} crossfade into the start, for a seamless loop."
        elif self.fold:
            notes.append("loop")
            tail_text = " Loop; no tail after its end."
        for name, fade in (("in", self.fade_in), ("out", self.fade_out)):
            if fade.frames:
                figures.append((f"Fade {name}", f"{fade.frames / rate_hz:.3f} s, {fade.curve.replace('-', ' ')}"))
                notes.append(f"fade {name}")
        for name, frames in (("before", self.tone_before), ("after", self.tone_after)):
            if frames:
                figures.append((f"Room tone {name}", f"{frames / rate_hz:.2f} s"))
                notes.append(f"room tone {name}")
        for name, frames in (("before", self.silence_before), ("after", self.silence_after)):
            if frames:
                figures.append((f"Silence {name}", f"{frames / rate_hz:.2f} s"))
                notes.append(f"silence {name}")
        return notes, figures, tail_text


@dataclass(frozen=True, slots=True)
class Bars:
    """Whole bars, the last one included."""

    first: int
    last: int

    @property
    def text(self) -> str:
        """``9–16``, or ``9``."""
        return f"{self.first}–{self.last}" if self.last > self.first else f"{self.first}"

    @property
    def label(self) -> str:
        """``Bars 9–16``, or ``Bar 9``."""
        return f"Bars {self.text}" if self.last > self.first else f"Bar {self.text}"


def bars_between(start_frame: int, end_frame: int, rate_hz: int, tempo: TempoMap | None) -> Bars | None:
    """The bars of a stretch, when it is whole bars to the sample."""
    if tempo is None:
        return None
    first, behind = tempo.bar_at(start_frame, rate_hz), tempo.bar_at(end_frame, rate_hz)
    return Bars(first, behind - 1) if first is not None and behind is not None and behind > first else None


def bars_of(cut: Range, rate_hz: int, tempo: TempoMap | None) -> Bars | None:
    """The bars of a range, when it is whole bars to the sample."""
    return bars_between(cut.start_frame, cut.end_frame, rate_hz, tempo)


class _Loop:
    """A loop, any part of which can be read: its end rings or fades into its start, and repeats."""

    def __init__(self, reader: Reader, cut: Range, channels: int) -> None:
        self._reader = reader
        self._cut = cut
        self._channels = channels
        # The tail is needed before the walk comes to it, so it is read on its own; its length is limited.
        rings = cut.fold and cut.tail_frames
        tail = reader.blocks(cut.end_frame, cut.end_frame + cut.tail_frames) if rings else iter(())
        self._length = cut.end_frame - cut.start_frame
        self._tail = folded(tail, channels, self._length)
        self._seam = self._crossfaded(cut.crossfade_frames) if cut.crossfade_frames else None

    def _crossfaded(self, frames: int) -> Block:
        """The last frames as they fade into those before the start; before the mix there is silence."""
        start, end = self._cut.start_frame, self._cut.end_frame
        lead = list(self._reader.blocks(max(0, start - frames), start)) if start else []
        missing = np.zeros((max(0, frames - start), self._channels))
        return crossfaded(np.concatenate([*self._reader.blocks(end - frames, end)]), np.concatenate([missing, *lead]))

    def edges(self, first: int) -> list[Processor]:
        """What makes the loop's edges in a stream that begins at one of its frames."""
        cut = self._cut
        return [
            Folder(self._tail, first), *([Joiner(self._seam, self._length, first)] if self._seam is not None else []),
            Fader(self._channels, cut.sounding_frames, cut.fade_in, cut.fade_out, first),
        ]  # fmt: skip

    def part(self, start: int, end: int) -> Block:
        """The frames from one, counted from the loop's start and possibly negative, up to another."""
        return np.concatenate([np.zeros((0, self._channels)), *self._pieces(start, end)])

    def _pieces(self, start: int, end: int) -> Iterator[Block]:
        length = self._length
        while start < end:
            first = start % length
            last = min(length, first + end - start)
            edges = self.edges(first)
            for block in self._reader.blocks(self._cut.start_frame + first, self._cut.start_frame + last):
                for edge in edges:
                    block = edge.process(block)  # type: ignore[assignment]  # noqa: PLW2901
                yield block
            start += last - first
