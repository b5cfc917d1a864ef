"""What is told of a running order: places, loudness, what one level comes to, and what is noticed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ripe_press.core.disc.frames import CAPACITY_FRAMES
from ripe_press.core.measure.places import longest_silence
from ripe_press.core.measure.signal import SignalResult, together
from ripe_press.core.rules.running_order import OrderFinding, Sound, judge_order
from ripe_press.core.stations import Range
from ripe_press.core.wishes.document import Document, MixWish
from ripe_press.core.wishes.running_order import OrderEntry, RunningOrder
from ripe_press.studio.disc_making import OnDisc, on_disc
from ripe_press.studio.knowledge import KeptKnowledge
from ripe_press.studio.reports import finite

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
    """What one level for all comes to for it, as far as gain alone tells."""
    rate_hz: int
    goes_on: bool
    wave: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class OrderView:
    """A running order, everything that is told of it, and what is noticed."""

    id: int
    order: RunningOrder
    entries: tuple[EntryView, ...]
    findings: tuple[OrderFinding, ...]
    lead_out_frame: int
    capacities: Mapping[int, int]
    loudest: int | None
    """The entry that decides the gain of all."""


def view_of(order_id: int, order: RunningOrder, document: Document, mixes: Sequence[KeptKnowledge]) -> OrderView:
    """Everything that is told of an order; ``mixes`` are those of its document, in order."""
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
    rate_hz, facts = known.facts.rate_hz, known.facts
    edges = known.edge_levels(Range(entry.start_frame, entry.end_frame, facts.frames))
    silence = longest_silence(known.loudness(), entry.start_frame / rate_hz, entry.end_frame / rate_hz)
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
        replace(
            signal,
            blocks=one.loudness()
            .within(entry.start_frame / one.facts.rate_hz, entry.end_frame / one.facts.rate_hz)
            .blocks,
        )
        for signal, one, entry in zip(signals, known, order.entries, strict=True)
    ]
    return [target.first_gain(together(with_blocks))] * len(own), None


def _entry_view(
    at: int, disc: OnDisc, wish: MixWish, signal: SignalResult, gain_db: float, known: KeptKnowledge
) -> EntryView:
    order = disc.order
    entry, place, found = order.entries[at], disc.laid[at], disc.entries[at]
    sheet, span = dict(found.sheet), (entry.start_frame, entry.end_frame)
    named = [one.name for one in wish.bench.ranges if (one.start_frame, one.end_frame) == span]
    return EntryView(
        found.title, sheet.get("artist", ""), sheet.get("isrc", ""), wish.source.title, next(iter(named), ""),
        at + 1 - int(order.hidden_first), place.pause_frame, place.start_frame, place.end_frame,
        finite(signal.integrated_lufs), finite(signal.true_peak_dbtp), gain_db, found.rate_hz, found.goes_on,
        _wave(known, entry),
    )  # fmt: skip


def _wave(known: KeptKnowledge, entry: OrderEntry) -> tuple[float, ...]:
    """Peaks of a stretch for drawing, out of a coarse level of the pyramid."""
    shape_levels = known.levels
    wanted = max(1, (entry.end_frame - entry.start_frame) // WAVE_POINTS)
    level, frames_per_bin = next(
        ((at, size) for at, size in reversed(list(enumerate(shape_levels))) if size <= wanted), (0, shape_levels[0])
    )
    first, last = (
        entry.start_frame // frames_per_bin,
        max(entry.start_frame // frames_per_bin + 1, entry.end_frame // frames_per_bin),
    )
    peaks = np.abs(known.bins(level)[first:last, :, :2]).max(axis=(1, 2), initial=0.0)
    if not len(peaks):
        return ()
    edges = np.linspace(0, len(peaks), min(WAVE_POINTS, len(peaks)) + 1).astype(int)[:-1]
    return tuple(round(float(one), 3) for one in np.minimum(1.0, np.maximum.reduceat(peaks, edges)))
