"""What stands around a cut: stations that remember hear it, and it is trimmed away behind the last of them.

A converter, a high-pass or a limiter that began at the cut would hear silence before it, and ring. So the walk brings
as much of the mix around a range as the stations behind it remember; a loop is brought its own end and its own start.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ripe_press.core.blocks import Block
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.tree import Node
from ripe_press.core.formats.reader import SourceReader
from ripe_press.core.signal.edges import Folder, Trimmer, folded
from ripe_press.core.signal.fade import Fader
from ripe_press.core.signal.gain import high_pass_reach_s
from ripe_press.core.signal.limiter import AHEAD_S, REACH_S
from ripe_press.core.signal.resample import grid_frames, reach_frames
from ripe_press.core.units import frames_after_conversion


@dataclass(frozen=True, slots=True)
class Signal:
    """What flows between two stations: ``frames`` of a cut after the first ``lead``; anything behind is context."""

    channels: int
    rate_hz: int
    lead: int = 0
    frames: int = 0
    context: bool = False
    """Whether there is any, before or behind."""
    cut: st.Range | None = None
    """The range that silence is still to be put around."""
    mix_rate_hz: int = 0
    integers: bool = False

    def after(self, station: st.Station) -> "Signal":
        """What leaves a station."""
        match station:
            case st.Channels():
                return replace(self, channels=station.after(self.channels))
            case st.Rate():
                lead = (self.lead + grid_lead(self, station)) * station.to_hz // station.from_hz
                frames = frames_after_conversion(self.frames, station.from_hz, station.to_hz)
                return replace(self, rate_hz=station.to_hz, lead=lead, frames=frames)
            case st.Depth():
                return replace(self, integers=True)
            case _:
                return self

    def trimmer(self) -> Trimmer | None:
        """What makes the file's own frames of it: context away, silence on; None where there is nothing to do."""
        cut = self.cut
        if cut is None:
            return None
        first, last, total = 0, self.frames, self.frames
        if not cut.window and (cut.silence_before or cut.silence_after):
            sounding = cut.silence_before + cut.sounding_frames
            first, last, total = (
                frames_after_conversion(one, self.mix_rate_hz, self.rate_hz)
                for one in (cut.silence_before, sounding, cut.frames)
            )
        if not self.context and not first and total == last:
            return None
        return Trimmer(self.channels, self.lead, last - first, first, total - last)

    @property
    def trimmed(self) -> "Signal":
        """The same behind its trimmer."""
        return replace(self, lead=0, context=False, cut=None)


def grid_lead(signal: Signal, rate: st.Rate) -> int:
    """Frames of silence before a stream so that its cut begins where a frame lies on both grids."""
    return 0 if rate.idle else -signal.lead % grid_frames(rate.from_hz, rate.to_hz)


def reach(node: Node, rate_hz: int) -> tuple[int, int]:
    """How many frames before and after what it is given a station and all behind it remember, or look ahead."""
    station = node.station
    before = after = 0.0
    leaving_hz = rate_hz
    if isinstance(station, st.Rate) and not station.idle:
        before = after = reach_frames(station.from_hz, station.to_hz)
        leaving_hz = station.to_hz
    if isinstance(station, st.Finish) and station.high_pass_hz:
        before += high_pass_reach_s(station.high_pass_hz) * rate_hz
    if (isinstance(station, st.Finish) and station.ceiling_dbtp is not None) or (
        isinstance(station, st.Level) and station.limits
    ):
        before += REACH_S * rate_hz
        after += AHEAD_S * rate_hz
    behind = [reach(child, leaving_hz) for child in node.children]
    share = rate_hz / leaving_hz
    return (
        math.ceil(before + share * max((one for one, _ in behind), default=0)),
        math.ceil(after + share * max((other for _, other in behind), default=0)),
    )


def around(node: Node, cut: st.Range, rate_hz: int) -> tuple[int, int]:
    """How many frames of the mix before and after a range its stations are to hear; at a faded edge there are none."""
    wants = [reach(child, rate_hz) for child in node.children]
    before, after = (max(column, default=0) for column in zip(*wants, strict=True)) if wants else (0, 0)
    if cut.fold:
        return before, after
    first = cut.read_start - cut.start_frame
    before = 0 if cut.fade_in.frames and not first else min(before, cut.read_start)
    faded = cut.fade_out.frames and not cut.window
    return before, 0 if faded else min(after, cut.source_frames - cut.read_end)


class Loop:
    """A folded loop, any part of which can be read: its end rings into its start, and round it goes."""

    def __init__(self, reader: SourceReader, cut: st.Range, channels: int) -> None:
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
