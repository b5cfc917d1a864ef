"""The ticket of a mix: what will be pressed, told before it is pressed."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path
from typing import Protocol

from ripe_press.core.bench import Bench, NamedRange, TicketLine, finish_of
from ripe_press.core.briefs.library import Brief
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.delivery import Delivery
from ripe_press.core.engine.describe import Description, MixKnowledge, describe
from ripe_press.core.engine.edges import Stretch
from ripe_press.core.engine.levels import Shortfall, first_gain, foreseen
from ripe_press.core.engine.notes import MixNotes
from ripe_press.core.engine.size import Forecast, forecast_size
from ripe_press.core.engine.tree import node_numbers
from ripe_press.core.errors import NotFound, RipePressError
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.measure.silence import SilenceResult
from ripe_press.core.naming import Placed
from ripe_press.core.rules.before import channels_unheard, findings_before, range_measures
from ripe_press.core.rules.brief import (
    Expected,
    clips_as_set_out,
    findings_for_brief,
    finish_left_out,
    level_out_of_reach,
    mono_cancels,
    rounded_without_dither,
)
from ripe_press.core.rules.files import (
    becomes_rf64,
    clash_told,
    findings_for_tags,
    float_over_full_scale,
    played_by_few,
    will_clip_when_decoded,
)
from ripe_press.core.rules.findings import Finding, Verdict, worst
from ripe_press.core.signal.channels import mono_loss_db
from ripe_press.store.mixes import StoredMix
from ripe_press.studio.looking import Looking
from ripe_press.studio.orders import Ticket, Wanted, wanted_files


@dataclass(frozen=True, slots=True)
class Row:
    """One file as the tree draws it: its stations in order, and what is expected of it."""

    line: TicketLine
    brief: Brief
    delivery: Delivery
    path: st.Path
    """As it is expected to be: a level at which nothing is left to do is told as that."""
    asked: st.Path
    """As it is pressed: its level is settled then, on the signal itself."""
    stations: tuple[Description, ...]
    size: Forecast
    """From a trial where there was one, otherwise told without."""
    placed: Placed
    before: SignalResult
    """What is known of the range in the mix."""
    forecast: SignalResult
    """What is to be expected of the file."""
    quietest_dbfs: float
    findings: tuple[Finding, ...]
    verdict: Verdict
    nodes: tuple[int, ...] = ()
    """One number a station: rows whose stations have the same number share that work and all before it."""


@dataclass(frozen=True, slots=True)
class Refused:
    """A delivery that cannot be made, and why."""

    line: TicketLine
    sentence: str


def facts_of(mix: StoredMix) -> SourceFacts:
    """The facts of a mix on the shelf."""
    return SourceFacts(
        mix.path, mix.container, mix.codec, mix.rate_hz, mix.channels, mix.frames, mix.bit_depth, mix.downmix,
        mix.file_channels, mix.measures["effective_bits"], tuple(mix.measures.get("layout") or ()) or None,
        mix.measures.get("content_sum", ""),
    )  # fmt: skip


def stretch_of(looking: Looking, mix: StoredMix, part: NamedRange) -> Stretch:
    """A range of a mix on the shelf; how long it rings is read from what was kept of the mix."""
    edges, end = part.edges, part.end_frame
    rings = edges.end in ("ring", "fold") and 0 <= end <= mix.frames
    ring = looking.ring_frames(mix, end, edges.ring_below_dbfs, edges.ring_limit_s) if rings else 0
    return Stretch(part.start_frame, end, edges, ring, part.name)


def ticket_of(looking: Looking, mix: StoredMix, bench: Bench, briefs: Mapping[str, Brief]) -> Ticket:
    """All deliveries that are switched on. Raises: NotFound ``brief.unknown`` or ``range.unknown``."""
    lines = [line for line in bench.ticket if line.on]
    deliveries = tuple(_delivery(looking, mix, bench, line, briefs, number) for number, line in enumerate(lines, 1))
    used = {line.brief: briefs[line.brief] for line in lines}
    return _ticket(looking, mix, bench, deliveries, used)


def _ticket(
    looking: Looking, mix: StoredMix, bench: Bench, deliveries: tuple[Delivery, ...], briefs: Mapping[str, Brief]
) -> Ticket:
    finish = finish_of(bench.finish, tuple(mix.measures["dc_offset"]))
    return Ticket(deliveries, briefs, finish, notes_for(looking, mix, bench), bench.clash)


def notes_for(looking: Looking, mix: StoredMix, bench: Bench) -> MixNotes:
    """What a mix on the shelf has beside its sound."""
    cover = looking.cover_path(mix, bench.cover) if bench.cover else None
    return MixNotes(bench.tags, str(cover or ""), bench.markers, mix.embedded.get("time_reference"))


class Tried(Protocol):
    """What trials and pressings found of paths; None where there was none."""

    def known(self, path: st.Path) -> Forecast | None:
        """The size of a path by a trial of its sound."""
        ...

    def short(self, path: st.Path) -> Shortfall | None:
        """How far its level falls short."""
        ...


def plan(
    looking: Looking, mix: StoredMix, bench: Bench, briefs: Mapping[str, Brief], folder: Path, tried: Tried
) -> tuple[tuple[Row, ...], tuple[Refused, ...]]:
    """The rows of the ticket, and the deliveries that cannot be made. Names are those that ``folder`` has room for."""
    facts = facts_of(mix)
    made: list[tuple[TicketLine, Delivery]] = []
    refused: list[Refused] = []
    for number, line in enumerate((line for line in bench.ticket if line.on), 1):
        try:
            delivery = _delivery(looking, mix, bench, line, briefs, number)
            wanted_files(facts, mix.title, _ticket(looking, mix, bench, (delivery,), briefs), folder)
            made.append((line, delivery))
        except RipePressError as error:
            refused.append(Refused(line, error.message))
    ticket = _ticket(looking, mix, bench, tuple(delivery for _, delivery in made), briefs)
    lines = {delivery.id: line for line, delivery in made}
    rows = [
        _row(looking, mix, bench, lines[one.delivery.id], one, ticket.finish, tried)
        for one in wanted_files(facts, mix.title, ticket, folder, sub_folders=True)
    ]
    numbers = node_numbers([row.path for row in rows])
    numbered = [replace(row, nodes=nodes) for row, nodes in zip(rows, numbers, strict=True)]
    # Branch by branch, as the tree is drawn, so that no two branches cross.
    return tuple(sorted(numbered, key=lambda row: row.nodes)), tuple(refused)


def _delivery(
    looking: Looking, mix: StoredMix, bench: Bench, line: TicketLine, briefs: Mapping[str, Brief], number: int
) -> Delivery:
    if line.brief not in briefs:
        message = f"The brief {line.brief!r} is gone. Choose another, or take the delivery off the ticket."
        raise NotFound("brief.unknown", message, brief=line.brief)
    part = bench.range_of(line.range_id)
    stretch = stretch_of(looking, mix, part)
    delivery = line.changes.applied_to(briefs[line.brief].delivery(stretch, facts_of(mix)))
    tempo = metre = bars = ""
    if bench.tempo:
        begins = bench.tempo.changes[0]
        tempo, metre = f"{begins.tempo_bpm:g}bpm", f"{begins.beats}-{begins.unit}"
        first, last = (bench.tempo.bar_at(frame, mix.rate_hz) for frame in (part.start_frame, part.end_frame))
        bars = f"{first}-{last}" if first is not None and last is not None else ""
    return replace(
        delivery, group=line.group, id=line.id, tempo=tempo, bars=bars, metre=metre, number=number,
        day=date.today().isoformat(),
    )  # fmt: skip


def _row(
    looking: Looking,
    mix: StoredMix,
    bench: Bench,
    line: TicketLine,
    wanted: Wanted,
    finish: st.Finish,
    tried: Tried,
) -> Row:
    delivery, asked, brief = wanted.delivery, wanted.path, wanted.brief
    source = next(station for station in asked if isinstance(station, st.Source))
    cut = next(station for station in asked if isinstance(station, st.Range))
    quietest = looking.quietest_half_second_dbfs(mix, cut.start_frame, cut.read_end)
    before = looking.signal(mix, cut.start_frame, cut.read_end)
    signal = _after_finish(before, asked)
    path = foreseen(asked, signal)
    codec = next(station for station in path if isinstance(station, st.Codec))
    size = tried.known(asked) or forecast_size(path)
    known = MixKnowledge(quietest, delivery.stretch.name, signal, bench.tempo, codec.container, size)
    clipping = looking.clipping(mix, cut.start_frame, cut.read_end)
    measures = range_measures(clipping, _silence(mix, cut), looking.edge_levels(mix, cut))
    forecast = _forecast(path, signal)
    expected = Expected(size, forecast.sample_peak_dbfs, forecast.true_peak_dbtp, forecast.integrated_lufs)
    loss = mono_loss_db(mix.measures["correlation"], mix.measures["balance_db"])
    set_out = (
        channels_unheard(mix.file_channels, mix.measures.get("channels_asked", False)), finish_left_out(path, finish),
        mono_cancels(path, loss), rounded_without_dither(path),
        clips_as_set_out(path, forecast.sample_peak_dbfs), becomes_rf64(codec, size.low), played_by_few(codec),
        level_out_of_reach(brief, path, tried.short(asked), signal), clash_told(wanted.placed),
        will_clip_when_decoded(codec, forecast.true_peak_dbtp),
        float_over_full_scale(codec, forecast.sample_peak_dbfs),
    )  # fmt: skip
    findings = (
        *findings_before(path, measures), *(one for one in set_out if one), *findings_for_brief(brief, path, expected),
        *findings_for_tags(brief, codec, next(one.content for one in path if isinstance(one, st.Tags))),
    )  # fmt: skip
    return Row(
        line, brief, delivery, path, asked, tuple(describe(station, source, known) for station in path), size,
        wanted.placed, before, forecast, quietest, findings, worst(findings),
    )  # fmt: skip


def _after_finish(signal: SignalResult, path: st.Path) -> SignalResult:
    """About what leaves the finishing chain: its gain counts, its limiter holds peaks."""
    for station in path:
        if isinstance(station, st.Finish):
            most = station.ceiling_dbtp if station.ceiling_dbtp is not None else float("inf")
            gain = station.gain_db
            peak, true_peak = signal.sample_peak_dbfs + gain, signal.true_peak_dbtp + gain
            return SignalResult(min(most, peak), min(most, true_peak), signal.integrated_lufs + gain)
    return signal


def _forecast(path: st.Path, signal: SignalResult) -> SignalResult:
    """Sample peak, true peak and loudness that are to be expected, as far as gain alone tells."""
    for station in path:
        if isinstance(station, st.Level):
            gain = first_gain(station, signal)
            most = station.ceiling_dbtp if station.limits else float("inf")
            loudness = signal.integrated_lufs + gain
            peak, true_peak = signal.sample_peak_dbfs + gain, signal.true_peak_dbtp + gain
            return SignalResult(min(most, peak), min(most, true_peak), loudness)
    return signal


def _silence(mix: StoredMix, cut: st.Range) -> SilenceResult:
    """Silence at the ends of a range, as far as the mix's own silence reaches into it."""
    frames = cut.read_end - cut.start_frame
    head = mix.measures["head_silence_frames"] - cut.start_frame
    tail = cut.read_end - (mix.frames - mix.measures["tail_silence_frames"])
    return SilenceResult(frames, min(frames, max(0, head)), min(frames, max(0, tail)))
