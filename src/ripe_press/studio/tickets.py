"""The ticket of a mix: what will be pressed, told before it is pressed."""

from dataclasses import dataclass

from ripe_press.core.briefs.library import Brief, brief_of
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.describe import Description, MixKnowledge, describe
from ripe_press.core.engine.edges import Edges
from ripe_press.core.engine.resolve import resolve
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.formats.wav import wav_bytes
from ripe_press.core.measure.silence import SilenceResult
from ripe_press.core.rules.before import findings_before, range_measures
from ripe_press.core.rules.findings import Finding, Verdict, worst
from ripe_press.store.mixes import StoredMix
from ripe_press.studio.orders import Stretch
from ripe_press.studio.shelf import Shelf

BRIEFS = ("audio-cd",)
"""The deliveries of every ticket, by their briefs."""


@dataclass(frozen=True, slots=True)
class Row:
    """One delivery as the tree draws it: its stations in order, and what is expected of the file."""

    brief: Brief
    path: st.Path
    stations: tuple[Description, ...]
    forecast_bytes: int
    findings: tuple[Finding, ...]
    verdict: Verdict


def facts_of(mix: StoredMix) -> SourceFacts:
    """The facts of a mix on the shelf."""
    return SourceFacts(mix.path, mix.container, mix.codec, mix.rate_hz, mix.channels, mix.frames, mix.bit_depth)


def stretch_of(shelf: Shelf, mix: StoredMix, start_frame: int, end_frame: int, edges: Edges) -> Stretch:
    """A stretch of a mix on the shelf; how long it rings is read from what was kept of the mix."""
    rings = edges.end in ("ring", "fold") and 0 <= end_frame <= mix.frames
    ring = shelf.ring_frames(mix, end_frame, edges.ring_below_dbfs, edges.ring_limit_s) if rings else 0
    return Stretch(start_frame, end_frame, edges, ring)


def plan(shelf: Shelf, mix: StoredMix, stretch: Stretch) -> tuple[Row, ...]:
    """The rows of the ticket for a stretch. Raises: BadInput ``range.empty``, ``range.outside``."""
    return tuple(_row(shelf, mix, brief_of(brief), stretch) for brief in BRIEFS)


def _row(shelf: Shelf, mix: StoredMix, brief: Brief, stretch: Stretch) -> Row:
    start, end = stretch.start_frame, stretch.end_frame
    delivery = brief.delivery(start, end, stretch.edges)
    path = resolve(delivery, facts_of(mix), mix.title, stretch.ring_frames)
    source = next(station for station in path if isinstance(station, st.Source))
    codec = next(station for station in path if isinstance(station, st.Codec))
    cut = next(station for station in path if isinstance(station, st.Range))
    known = MixKnowledge(quietest_half_second_dbfs=shelf.quietest_half_second_dbfs(mix, start, cut.read_end))
    clipping = shelf.clipping(mix, start, cut.read_end)
    measures = range_measures(clipping, _silence(mix, cut), shelf.edge_levels(mix, cut))
    findings = findings_before(path, measures)
    return Row(
        brief, path, tuple(describe(station, source, known) for station in path),
        wav_bytes(codec.encoding, codec.channels, codec.frames), findings, worst(findings),
    )  # fmt: skip


def _silence(mix: StoredMix, cut: st.Range) -> SilenceResult:
    """Silence at the ends of a range, as far as the mix's own silence reaches into it."""
    frames = cut.read_end - cut.start_frame
    head = mix.measures["head_silence_frames"] - cut.start_frame
    tail = cut.read_end - (mix.frames - mix.measures["tail_silence_frames"])
    return SilenceResult(frames, min(frames, max(0, head)), min(frames, max(0, tail)))
