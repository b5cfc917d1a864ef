"""Display of a running order: positions, loudness, common level, and findings."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ripe_press.core.disc.frames import CAPACITY_FRAMES
from ripe_press.core.measure.signal import SignalResult, together
from ripe_press.core.requests.document import Document, MixRequest
from ripe_press.core.requests.running_order import OrderEntry, RunningOrder
from ripe_press.core.rules.checks.running_order import Sound, judge_order
from ripe_press.core.rules.findings import Finding
from ripe_press.core.stations import Range
from ripe_press.core.units import finite
from ripe_press.studio.discs import DiscFile, on_disc
from ripe_press.studio.planning import KeptKnowledge

WAVE_POINTS = 80


@dataclass(frozen=True, slots=True)
class EntryView:
    """An entry as it lies: what it is called, where, how loud, and its wave as peaks from 0 to 1."""

    title: str
    artist: str
    isrc: str
    mix_title: str
    range_name: str
    track: int
    pause_frame: int
    start_frame: int
    end_frame: int
    integrated_lufs: float | None
    true_peak_dbtp: float | None
    gain_db: float
    """Its gain at the common level, as far as gain alone determines it."""
    rate_hz: int
    goes_on: bool
    wave: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class OrderView:
    """A running order with its computed facts and findings."""

    id: int
    order: RunningOrder
    entries: tuple[EntryView, ...]
    findings: tuple[Finding, ...]
    lead_out_frame: int
    capacities: Mapping[int, int]
    loudest: int | None
    """The entry that decides the gain of all."""


def view_of(order_id: int, order: RunningOrder, document: Document, mixes: Sequence[KeptKnowledge]) -> OrderView:
    """Return the display of an order; ``mixes`` are those of its document, in order."""
    inner = document.order or order
    keys = {id(wish): one for wish, one in zip(document.mixes, mixes, strict=True)}
    disc = on_disc(document, inner, lambda wish: keys[id(wish)])
    of = [mixes[one.mix] for one in inner.entries]
    signals = [one.signal(entry.start_frame, entry.end_frame) for one, entry in zip(of, inner.entries, strict=True)]
    gains, loudest = _gains(inner, signals, of)
    entries = [
        replace(entry, sound=_sound(one, wish, signal))
        for entry, one, wish, signal in zip(disc.entries, of, inner.entries, signals, strict=True)
    ]
    views = tuple(
        _entry_view(at, disc, document.mixes[inner.entries[at].mix], signals[at], gains[at], of[at])
        for at in range(len(entries))
    )
    end = disc.programme.lead_out_frame
    return OrderView(order_id, order, views, judge_order(inner, entries), end, CAPACITY_FRAMES, loudest)


def _sound(known: KeptKnowledge, entry: OrderEntry, signal: SignalResult) -> Sound:
    edges = known.edge_levels(Range(entry.start_frame, entry.end_frame, known.facts.frames))
    silence = known.longest_silence(entry.start_frame, entry.end_frame)
    return Sound(signal.integrated_lufs, edges, silence)


def _gains(
    order: RunningOrder, signals: Sequence[SignalResult], known: Sequence[KeptKnowledge]
) -> tuple[list[float], int | None]:
    """The gains that one level comes to, and which entry decides it."""
    target = order.level.level.target_station
    if target is None:
        return [0.0] * len(signals), None
    own = [target.first_gain(one) for one in signals]
    least = min(range(len(own)), key=own.__getitem__)
    if order.level.together == "each":
        for run in order.runs:
            for at in run:
                own[at] = min(own[one] for one in run)
        return own, None
    if order.level.together == "loudest":
        return [own[least]] * len(own), least
    with_blocks = [
        replace(signal, blocks=one.blocks(entry.start_frame, entry.end_frame))
        for signal, one, entry in zip(signals, known, order.entries, strict=True)
    ]
    return [target.first_gain(together(with_blocks))] * len(own), None


def _entry_view(
    at: int, disc: DiscFile, wish: MixRequest, signal: SignalResult, gain_db: float, known: KeptKnowledge
) -> EntryView:
    order = disc.order
    entry, place, found = order.entries[at], disc.laid[at], disc.entries[at]
    sheet, span = dict(found.sheet), (entry.start_frame, entry.end_frame)
    named = [one.name for one in wish.bench.ranges if (one.start_frame, one.end_frame) == span]
    return EntryView(
        found.title, sheet.get("artist", ""), sheet.get("isrc", ""), wish.source.title, next(iter(named), ""),
        at + 1 - int(order.hidden_first), place.pause_frame, place.start_frame, place.end_frame,
        finite(signal.integrated_lufs), finite(signal.true_peak_dbtp), gain_db, found.rate_hz, found.goes_on,
        known.wave(entry.start_frame, entry.end_frame, WAVE_POINTS),
    )  # fmt: skip
