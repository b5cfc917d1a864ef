"""The ticket of a mix: what will be pressed, told before it is pressed."""

from dataclasses import dataclass, replace

from ripe_press.core.bench import Bench, NamedRange
from ripe_press.core.briefs.library import Brief, brief_of
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.describe import Description, MixKnowledge, describe
from ripe_press.core.engine.edges import Stretch
from ripe_press.core.engine.resolve import Delivery, resolve
from ripe_press.core.engine.tree import node_numbers
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.formats.wav import wav_bytes
from ripe_press.core.measure.silence import SilenceResult
from ripe_press.core.rules.before import findings_before, range_measures
from ripe_press.core.rules.findings import Finding, Verdict, worst
from ripe_press.core.timeline import TempoMap
from ripe_press.store.mixes import StoredMix
from ripe_press.studio.looking import Looking

BRIEFS = ("audio-cd",)
"""What every range of a mix is pressed to."""


@dataclass(frozen=True, slots=True)
class Row:
    """One delivery as the tree draws it: its stations in order, and what is expected of the file."""

    range_id: str
    brief: Brief
    path: st.Path
    stations: tuple[Description, ...]
    forecast_bytes: int
    quietest_dbfs: float
    findings: tuple[Finding, ...]
    verdict: Verdict
    nodes: tuple[int, ...] = ()
    """One number a station: rows whose stations have the same number share that work and all before it."""


def facts_of(mix: StoredMix) -> SourceFacts:
    """The facts of a mix on the shelf."""
    return SourceFacts(
        mix.path, mix.container, mix.codec, mix.rate_hz, mix.channels, mix.frames, mix.bit_depth, mix.downmix,
        mix.file_channels,
    )  # fmt: skip


def stretch_of(looking: Looking, mix: StoredMix, part: NamedRange) -> Stretch:
    """A range of a mix on the shelf; how long it rings is read from what was kept of the mix."""
    edges, end = part.edges, part.end_frame
    rings = edges.end in ("ring", "fold") and 0 <= end <= mix.frames
    ring = looking.ring_frames(mix, end, edges.ring_below_dbfs, edges.ring_limit_s) if rings else 0
    return Stretch(part.start_frame, end, edges, ring, part.name)


def deliveries_of(looking: Looking, mix: StoredMix, bench: Bench) -> list[Delivery]:
    """Every range to every brief, range by range."""
    stretches = [stretch_of(looking, mix, part) for part in bench.ranges]
    return [brief_of(brief).delivery(stretch) for stretch in stretches for brief in BRIEFS]


def plan(looking: Looking, mix: StoredMix, bench: Bench) -> tuple[Row, ...]:
    """The rows of the ticket. Raises: BadInput ``range.empty``, ``range.outside``."""
    parts = [part for part in bench.ranges for _ in BRIEFS]
    rows = zip(parts, deliveries_of(looking, mix, bench), strict=True)
    made = [_row(looking, mix, part.id, delivery, bench.tempo) for part, delivery in rows]
    numbers = node_numbers([row.path for row in made])
    return tuple(replace(row, nodes=nodes) for row, nodes in zip(made, numbers, strict=True))


def _row(looking: Looking, mix: StoredMix, range_id: str, delivery: Delivery, tempo: TempoMap | None) -> Row:
    path = resolve(delivery, facts_of(mix), mix.title)
    source = next(station for station in path if isinstance(station, st.Source))
    codec = next(station for station in path if isinstance(station, st.Codec))
    cut = next(station for station in path if isinstance(station, st.Range))
    quietest = looking.quietest_half_second_dbfs(mix, cut.start_frame, cut.read_end)
    known = MixKnowledge(quietest, delivery.stretch.name, tempo)
    clipping = looking.clipping(mix, cut.start_frame, cut.read_end)
    measures = range_measures(clipping, _silence(mix, cut), looking.edge_levels(mix, cut))
    findings = findings_before(path, measures)
    return Row(
        range_id, brief_of(delivery.brief), path, tuple(describe(station, source, known) for station in path),
        wav_bytes(codec.encoding, codec.channels, codec.frames), quietest, findings, worst(findings),
    )  # fmt: skip


def _silence(mix: StoredMix, cut: st.Range) -> SilenceResult:
    """Silence at the ends of a range, as far as the mix's own silence reaches into it."""
    frames = cut.read_end - cut.start_frame
    head = mix.measures["head_silence_frames"] - cut.start_frame
    tail = cut.read_end - (mix.frames - mix.measures["tail_silence_frames"])
    return SilenceResult(frames, min(frames, max(0, head)), min(frames, max(0, tail)))
