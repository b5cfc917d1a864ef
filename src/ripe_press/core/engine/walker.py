"""The walk: the mix is read once, every station of the tree does its work once, every leaf writes its file."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path as FilePath

from ripe_press.core.blocks import BLOCK_FRAMES, Processor
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.sinks import Branches, Metered, Sink, Threaded, Through, Written
from ripe_press.core.engine.tree import Node, every_node
from ripe_press.core.errors import Conflict, Interrupted
from ripe_press.core.formats.reader import SourceFacts, SourceReader
from ripe_press.core.formats.wav import WavWriter
from ripe_press.core.measure.clipping import ClippingMeter, ClippingResult
from ripe_press.core.measure.silence import SilenceMeter, SilenceResult
from ripe_press.core.signal.channels import BothSides
from ripe_press.core.signal.edges import Cutter, Folder, Padder, folded
from ripe_press.core.signal.fade import Fader
from ripe_press.core.signal.quantise import Quantiser
from ripe_press.core.signal.resample import Resampler

Progress = Callable[[int, int], None]
"""Called with (frames read, frames to read) after every block."""


@dataclass(frozen=True, slots=True)
class WalkReport:
    """What the walk saw: clipping and silence of each range, and samples clipped while integers were made."""

    range_clipping: Mapping[st.Range, ClippingResult]
    range_silence: Mapping[st.Range, SilenceResult]
    clipped_samples: Mapping[int, int]
    """By the number of the path."""


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
        cuts = [node.station for node in every_node((root,)) if isinstance(node.station, st.Range)]
        self._start = min(cut.read_start for cut in cuts)
        self._end = max(cut.read_end for cut in cuts)
        self._quantisers: list[tuple[tuple[int, ...], Quantiser]] = []
        self._meters: list[tuple[st.Range, Metered, Metered]] = []
        self._opened: list[Sink] = []

    def run(self, progress: Progress, should_stop: Callable[[], bool]) -> WalkReport:
        """Reads, processes, writes. On any error, and when stopped, no file is left.

        Raises: Interrupted ``press.cancelled`` when ``should_stop`` answers yes; whatever reader and writers raise.
        """
        with SourceReader(FilePath(self._source.path), self._source.downmix) as reader:
            _check_unchanged(self._source, reader.facts)
            try:
                sink = Branches([self._build(child, len(self._root.children) > 1) for child in self._root.children])
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
        )

    def _build(self, node: Node, branching: bool, threaded: bool = False) -> Sink:
        """The sink of a node and all behind it.

        A thread begins where the tree branches, and where integers are made or a file is written.
        """
        station = node.station
        begins = not threaded and (branching or isinstance(station, st.Depth | st.Codec))
        sink = self._sink_of(node, threaded or begins)
        return Threaded(sink, type(station).__name__) if begins else sink

    def _sink_of(self, node: Node, threaded: bool) -> Sink:
        station = node.station
        if isinstance(station, st.Codec):
            (leaf,) = node.children
            writer = WavWriter(
                self._targets[leaf.paths[0]],
                station.encoding,
                station.rate_hz,
                station.channels,
                station.frames,
            )
            self._opened.append(written := Written(writer))
            return written
        branching = len(node.children) > 1
        sinks = [self._build(child, branching, threaded and not branching) for child in node.children]
        if isinstance(station, st.Range):
            first = station.start_frame - station.silence_before
            metered = Metered(ClippingMeter(self._source.channels, self._full_scale, first))
            self._meters.append((station, metered, silence := Metered(SilenceMeter())))
            sinks.insert(0, metered)
        rest = sinks[0] if len(sinks) == 1 else Branches(sinks)
        for number, processor in enumerate(reversed(processors := self._processors_of(node)), 1):
            if isinstance(station, st.Range) and number == len(processors):
                # Silence is looked for in the mix as it was cut, before silence is added to it.
                rest = Branches([silence, rest])
            rest = Through(processor, rest)
        return rest

    def _processors_of(self, node: Node) -> list[Processor]:
        match node.station:
            case st.Range() as cut:
                return self._edges_of(cut)
            case st.Rate(idle=False) as rate:
                return [Resampler(rate.from_hz, rate.to_hz, self._source.channels, rate.quality)]
            case st.Channels(from_channels=1, to_channels=2):
                return [BothSides()]
            case st.Depth() as depth:
                quantiser = Quantiser(depth.bits, self._source.channels, depth.dither)
                self._quantisers.append((node.paths, quantiser))
                return [quantiser]
            case _:
                return []

    def _edges_of(self, cut: st.Range) -> list[Processor]:
        channels = self._source.channels
        edges: list[Processor] = [Cutter(channels, cut.read_start - self._start, cut.read_end - self._start)]
        if cut.fold and cut.tail_frames:
            # The tail is needed before the walk comes to it, so it is read on its own; its length is limited.
            with SourceReader(FilePath(self._source.path), self._source.downmix) as reader:
                tail = reader.blocks(cut.end_frame, cut.end_frame + cut.tail_frames)
                edges.append(
                    Folder(folded(tail, channels, cut.end_frame - cut.start_frame), cut.read_start - cut.start_frame)
                )
        if cut.fade_in.frames or cut.fade_out.frames:
            first = cut.read_start - cut.start_frame
            edges.append(Fader(channels, cut.sounding_frames, cut.fade_in, cut.fade_out, first))
        if not cut.window and (cut.silence_before or cut.silence_after):
            edges.append(Padder(channels, cut.silence_before, cut.silence_after))
        return edges


def _check_unchanged(source: st.Source, facts: SourceFacts) -> None:
    if (facts.rate_hz, facts.channels, facts.frames) != (source.rate_hz, source.channels, source.frames):
        message = f"{FilePath(source.path).name!r} has changed on disk since it was brought in. Bring it in again."
        raise Conflict("source.changed", message, path=source.path)
