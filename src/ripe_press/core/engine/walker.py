"""The walk: the mix is read once, every station of the tree does its work once, every leaf writes its file."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path as FilePath
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import BLOCK_FRAMES, Meter, Processor, Samples
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.context import Loop, Signal, around, grid_lead
from ripe_press.core.engine.sinks import Branches, Metered, Sink, Threaded, Through, Written
from ripe_press.core.engine.sketch import Sketch, Sketcher
from ripe_press.core.engine.tree import Node, every_node
from ripe_press.core.errors import Conflict, Interrupted
from ripe_press.core.formats._file import NewFile
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.formats.reader import SourceFacts, SourceReader
from ripe_press.core.formats.writers import open_writer
from ripe_press.core.measure.clipping import ClippingMeter, ClippingResult
from ripe_press.core.measure.content import StereoMeter, StereoResult
from ripe_press.core.measure.signal import SamplesHash, SignalMeter, SignalResult
from ripe_press.core.measure.silence import SilenceMeter, SilenceResult
from ripe_press.core.signal.channels import ChannelChange
from ripe_press.core.signal.edges import Cutter, Surrounded
from ripe_press.core.signal.fade import Fader
from ripe_press.core.signal.gain import Gain, HighPass
from ripe_press.core.signal.limiter import Limiter
from ripe_press.core.signal.quantise import Quantiser
from ripe_press.core.signal.resample import Resampler
from ripe_press.core.tags.cover import still_picture
from ripe_press.core.tags.sheet import FileTags

Levels = NDArray[np.float64]
Progress = Callable[[int, int], None]
"""Called with (frames read, frames to read) after every block."""


@dataclass(frozen=True, slots=True)
class WalkReport:
    """What the walk saw: clipping and silence of each range, and samples clipped while integers were made."""

    range_clipping: Mapping[st.Range, ClippingResult]
    range_silence: Mapping[st.Range, SilenceResult]
    clipped_samples: Mapping[int, int]
    """By the number of the path, as everything that follows."""
    measured: Mapping[int, SignalResult]
    fingerprints: Mapping[int, str]
    """Of the samples that reach a file which is to hold them to the bit."""
    stereo: Mapping[int, StereoResult]
    """Of what goes into a mono sum."""
    reductions_db: Mapping[int, Levels]
    """The deepest gain reduction of every 1024 frames at the rate that leaves, of all limiters together."""
    sketches: Mapping[int, Sketch]
    """Of signals in front of a limiter that is still to be set."""


class Walker:
    """Runs one tree. ``targets`` gives, for the number of each path, the new file that its leaf writes."""

    def __init__(self, root: Node, targets: Mapping[int, FilePath], full_scale: float = 1.0) -> None:
        if not isinstance(root.station, st.Source):
            message = f"a walk begins at a source, not at {root.station!r}"
            raise TypeError(message)
        self._root = root
        self._source = root.station
        self._targets = targets
        self._full_scale = full_scale
        self._around = {
            node.station: around(node, node.station, self._source.rate_hz)
            for node in every_node((root,))
            if isinstance(node.station, st.Range)
        }
        """How much of the mix around each range its stations are to hear."""
        heard = [(cut, (0, 0) if cut.fold else context) for cut, context in self._around.items()]
        self._start = min(cut.read_start - before for cut, (before, _) in heard)
        self._end = max(cut.read_end + after for cut, (_, after) in heard)
        self._quantisers: list[tuple[tuple[int, ...], Quantiser]] = []
        self._meters: list[tuple[st.Range, Metered, Metered]] = []
        self._limiters: list[tuple[tuple[int, ...], int, Limiter]] = []
        self._signals: list[tuple[tuple[int, ...], Metered]] = []
        self._sums: list[tuple[tuple[int, ...], Metered]] = []
        self._hashes: list[tuple[tuple[int, ...], Metered]] = []
        self._sketches: list[tuple[tuple[int, ...], Metered]] = []
        self._opened: list[Sink] = []

    def run(self, progress: Progress, should_stop: Callable[[], bool]) -> WalkReport:
        """Reads, processes, writes. On any error, and when stopped, no file is left.

        Raises: Interrupted ``press.cancelled`` when ``should_stop`` answers yes; whatever reader and writers raise.
        """
        with SourceReader(FilePath(self._source.path), self._source.downmix) as reader:
            _check_unchanged(self._source, reader.facts)
            try:
                here = Signal(self._source.channels, self._source.rate_hz)
                branching = len(self._root.children) > 1
                sink = Branches([self._build(child, branching, here) for child in self._root.children])
            except BaseException:
                for leaf in self._opened:
                    leaf.abort()
                raise
            try:
                done = 0
                for block in reader.blocks(self._start, self._end, BLOCK_FRAMES):
                    if should_stop():
                        message = "The pressing was cancelled; no file was left."
                        raise Interrupted("press.cancelled", message)
                    sink.put(block)
                    done += len(block)
                    progress(done, self._end - self._start)
                sink.finish()
            except BaseException:
                sink.abort()
                raise
        return WalkReport(
            range_clipping={cut: clipping.result for cut, clipping, _ in self._meters},
            range_silence={cut: silence.result for cut, _, silence in self._meters},
            clipped_samples={
                path: quantiser.clipped_samples for paths, quantiser in self._quantisers for path in paths
            },
            measured={path: meter.result for paths, meter in self._signals for path in paths},
            stereo={path: meter.result for paths, meter in self._sums for path in paths},
            fingerprints={path: meter.result for paths, meter in self._hashes for path in paths},
            reductions_db=self._reductions(),
            sketches={path: meter.result for paths, meter in self._sketches for path in paths},
        )

    def _reductions(self) -> dict[int, Levels]:
        """What all limiters of a path take off together, in bins at the rate that leaves."""
        leaving = {
            path: node.station.to_hz
            for node in every_node((self._root,))
            if isinstance(node.station, st.Rate)
            for path in node.paths
        }
        found: dict[int, Levels] = {}
        for paths, rate_hz, limiter in self._limiters:
            for path in paths:
                curve = _at_rate(limiter.reduction_db, rate_hz, leaving.get(path, rate_hz))
                before = found.get(path, np.zeros(len(curve)))
                both = min(len(before), len(curve))
                found[path] = curve + np.pad(before[:both], (0, len(curve) - both))
        return found

    def _build(self, node: Node, branching: bool, here: Signal, threaded: bool = False) -> Sink:
        """The sink of a node and all behind it.

        A thread begins where the tree branches, and where integers are made or a file is written.
        """
        station = node.station
        begins = not threaded and (branching or isinstance(station, st.Depth | st.Codec))
        ends = isinstance(station, st.Depth | st.Codec | st.Measure)
        trimmer = here.trimmer() if ends else None
        sink = self._sink_of(node, threaded or begins, here.trimmed if ends else here)
        if trimmer:
            sink = Through(trimmer, sink)
        return Threaded(sink, type(station).__name__) if begins else sink

    def _sink_of(self, node: Node, threaded: bool, here: Signal) -> Sink:
        station = node.station
        if isinstance(station, st.Measure):
            self._signals.append((node.paths, signal := Metered(SignalMeter(here.channels, here.rate_hz))))
            if station.sketch_db is None:
                return signal
            sketch = Metered(Sketcher(here.channels, here.rate_hz, station.sketch_db))
            self._sketches.append((node.paths, sketch))
            # On a thread of its own: the two cost about the same.
            return Branches([Threaded(sketch, "Sketch"), signal])
        if isinstance(station, st.Codec):
            tags = node.children[0].station if node.children else None
            content = tags.content if isinstance(tags, st.Tags) else FileTags()
            self._opened.append(written := Written(_writer(self._targets[node.paths[0]], station, content)))
            beside: list[Sink] = []
            if station.exact and not here.integers:
                self._hashes.append((node.paths, digest := Metered(SamplesHash())))
                beside.append(digest)
            if content.gain_tags or station.container == "bwf":
                # Loudness stands in these files, so it is measured on the way into them.
                meter: Meter = SignalMeter(here.channels, here.rate_hz)
                self._signals.append((node.paths, signal := Metered(_OfIntegers(meter) if here.integers else meter)))
                beside.append(signal)
            return Branches([*beside, written]) if beside else written
        processors = self._processors_of(node, here)
        after = self._cut_out(here, station) if isinstance(station, st.Range) else here.after(station)
        branching = len(node.children) > 1
        sinks = [self._build(child, branching, after, threaded and not branching) for child in node.children]
        if isinstance(station, st.Range):
            clipping = Metered(ClippingMeter(self._source.channels, self._full_scale, station.read_start))
            silence = Metered(SilenceMeter())
            self._meters.append((station, clipping, silence))
            sinks.insert(0, _alone(after, clipping))
        rest = sinks[0] if len(sinks) == 1 else Branches(sinks)
        for number, processor in enumerate(reversed(processors), 1):
            if isinstance(station, st.Range) and number == len(processors):
                # Silence is looked for in the mix as it was cut, before anything is done to it.
                rest = Branches([silence if station.fold else _alone(after, silence), rest])
            rest = Through(processor, rest)
        if isinstance(station, st.Channels) and station.sides == "mono":
            self._sums.append((node.paths, both := Metered(StereoMeter(here.channels))))
            rest = Branches([_alone(here, both), rest])
        if isinstance(station, st.Depth) and station.exact:
            self._hashes.append((node.paths, digest := Metered(SamplesHash())))
            rest = Branches([digest, rest])
        return rest

    def _cut_out(self, here: Signal, cut: st.Range) -> Signal:
        """What leaves a range: its frames, with what its stations hear before and after them."""
        before, after = self._around[cut]
        frames = cut.read_end - cut.read_start
        return replace(
            here, lead=before, frames=frames, context=bool(before or after), cut=cut, mix_rate_hz=here.rate_hz
        )

    def _processors_of(self, node: Node, here: Signal) -> list[Processor]:
        match node.station:
            case st.Range() as cut:
                return self._edges_of(cut)
            case st.Finish() as finish:
                return self._finish_of(node, finish, here)
            case st.Channels() as channels:
                return [ChannelChange(channels.sides, channels.law_db)]
            case st.Rate(idle=False) as rate:
                converter = Resampler(rate.from_hz, rate.to_hz, here.channels, rate.quality)
                silence = np.zeros((grid_lead(here, rate), here.channels))
                return [Surrounded(silence, silence[:0]), converter] if len(silence) else [converter]
            case st.Level() as level:
                chain: list[Processor] = [Gain(level.gain_db or 0.0, here.channels)] if level.gain_db else []
                if level.limits:
                    chain.append(self._limiter(node, level.ceiling_dbtp - level.lowered_db, here))
                return chain
            case st.Depth() as depth:
                quantiser = Quantiser(depth.bits, here.channels, depth.dither, depth.seeds, depth.rate_hz)
                self._quantisers.append((node.paths, quantiser))
                return [quantiser]
            case _:
                return []

    def _finish_of(self, node: Node, finish: st.Finish, here: Signal) -> list[Processor]:
        chain: list[Processor] = []
        if any(finish.offsets):
            chain.append(Gain(0.0, here.channels, finish.offsets))
        if finish.high_pass_hz:
            chain.append(HighPass(finish.high_pass_hz, here.rate_hz, here.channels))
        if finish.gain_db:
            chain.append(Gain(finish.gain_db, here.channels))
        if finish.ceiling_dbtp is not None:
            chain.append(self._limiter(node, finish.ceiling_dbtp, here))
        return chain

    def _limiter(self, node: Node, ceiling_dbtp: float, here: Signal) -> Limiter:
        limiter = Limiter(ceiling_dbtp, here.rate_hz, here.channels, here.lead, here.frames)
        self._limiters.append((node.paths, here.rate_hz, limiter))
        return limiter

    def _edges_of(self, cut: st.Range) -> list[Processor]:
        channels = self._source.channels
        before, after = self._around[cut]
        start, end, first = cut.read_start, cut.read_end, cut.read_start - cut.start_frame
        if not cut.fold:
            edges: list[Processor] = [Cutter(channels, start - before - self._start, end + after - self._start)]
            if cut.fade_in.frames or cut.fade_out.frames:
                edges.append(Fader(channels, cut.sounding_frames, cut.fade_in, cut.fade_out, first - before))
            return edges
        with SourceReader(FilePath(self._source.path), self._source.downmix) as reader:
            loop = Loop(reader, cut, channels)
            last = end - cut.start_frame
            edges = [Cutter(channels, start - self._start, end - self._start), loop.folder(first), loop.fader(first)]
            if before or after:
                edges.append(Surrounded(loop.part(first - before, first), loop.part(last, last + after)))
        return edges


def _at_rate(curve: Levels, from_hz: int, to_hz: int) -> Levels:
    """A value for every 1024 frames at one rate out of such values at another; the deepest of those that it covers."""
    if from_hz == to_hz or not len(curve):
        return curve
    edges = np.arange(math.ceil(len(curve) * to_hz / from_hz) + 1) * from_hz / to_hz
    firsts = np.minimum(edges[:-1].astype(int), len(curve) - 1)
    # A bin reaches into the one that follows it; `reduceat` takes what lies between two places.
    found: Levels = np.minimum(
        np.minimum.reduceat(curve, firsts), curve[np.minimum(edges[1:].astype(int), len(curve) - 1)]
    )
    return found


def _alone(signal: Signal, sink: Sink) -> Sink:
    """A sink that is to see a cut itself, without what stands around it."""
    return Through(Cutter(signal.channels, signal.lead, signal.lead + signal.frames), sink) if signal.context else sink


def _writer(path: FilePath, codec: st.Codec, tags: FileTags) -> NewFile:
    can = CAPABILITIES[codec.container]
    # These two are part of the sound's own structure; everything else is added when the file is closed.
    chapters = tags.markers if can.markers == "chapters" else ()
    picture = still_picture(tags.cover) if codec.container == "video" else None
    return open_writer(
        path, codec.container, codec.encoding, codec.rate_hz, codec.channels, codec.frames, codec.coding, chapters,
        picture,
    )  # fmt: skip


class _OfIntegers:
    """A meter that is shown left-justified integers as fractions of full scale."""

    def __init__(self, meter: Meter) -> None:
        self._meter = meter

    def process(self, block: Samples) -> None:
        self._meter.process(block / 2.0**31)

    def result(self) -> Any:
        return self._meter.result()


def _check_unchanged(source: st.Source, facts: SourceFacts) -> None:
    if (facts.rate_hz, facts.channels, facts.frames) != (source.rate_hz, source.channels, source.frames):
        message = f"{FilePath(source.path).name!r} has changed on disk since it was brought in. Bring it in again."
        raise Conflict("source.changed", message, path=source.path)
