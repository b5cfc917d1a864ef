"""Rules of a running order as a whole, before any of it is pressed."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from ripe_press.core.disc.frames import CAPACITY_FRAMES, LEAST_TRACK_FRAMES, MOST_TRACKS, PAUSE_FRAMES, print_frames
from ripe_press.core.disc.text import in_latin_1, not_in_latin_1
from ripe_press.core.engine.edges import EdgeLevels
from ripe_press.core.requests.order_timeline import PlacedEntry
from ripe_press.core.requests.running_order import OrderEntry, RunningOrder
from ripe_press.core.rules.checks.mix import CUT_ABOVE_DBFS
from ripe_press.core.rules.findings import Finding, Remedy
from ripe_press.core.tags.codes import barcode_problem, compact_isrc, isrc_problem
from ripe_press.core.tags.sheet import Values
from ripe_press.core.units import print_clock, print_count, print_db, print_rate
from ripe_press.core.words import quoted

JUMP_LU = 3.0
"""A difference that is heard as another volume (common practice, no source)."""
LONG_SILENCE_S = 5.0
_AT_THE_END_S = 0.1
DECLICK = Remedy("De-click", action="declick")


@dataclass(frozen=True, slots=True)
class Entry:
    """What the rules look at of one entry."""

    title: str
    sheet: Values
    place: PlacedEntry
    seconds: float
    rate_hz: int
    goes_on: bool
    """Whether it continues in its mix at the end of the previous entry."""
    sound: "Sound | None" = None


@dataclass(frozen=True, slots=True)
class Sound:
    """Measurements of an entry in its mix; without them, rules on audio return nothing."""

    integrated_lufs: float
    edges: EdgeLevels
    silence: tuple[float, float]
    """Where its longest silence begins in the mix, and how long it is, in seconds."""


Noticed = Iterator[Finding]


def judge_order(order: RunningOrder, entries: Sequence[Entry]) -> tuple[Finding, ...]:
    """Everything that is noticed, rule by rule."""
    return tuple(found for rule in _RULES for found in rule(order, entries))


def _called(at: int, order: RunningOrder) -> str:
    number = at + 1 - int(order.hidden_first)
    return f"Track {number}" if number else "Hidden track"


def _too_short(order: RunningOrder, entries: Sequence[Entry]) -> Noticed:
    for at, one in enumerate(entries):
        if one.place.frames < LEAST_TRACK_FRAMES and not (order.hidden_first and at == 0):
            sentence = f"{_called(at, order)} is {one.seconds:.1f} s; disc minimum 4 s. Join it to another track."
            remedy = None
            if at and one.goes_on:
                remedy = Remedy(f"Join to {_called(at - 1, order).lower()}", action="join-before")
            yield Finding("entry_too_short", "stop", sentence, remedy=remedy, entry=at, disc=True)


def _cuts(order: RunningOrder, entries: Sequence[Entry]) -> Noticed:
    for at, (entry, one) in enumerate(zip(order.entries, entries, strict=True)):
        follows = order.entries[at + 1] if at + 1 < len(entries) else None
        edges = entry.edges
        ends_open = not (follows and follows.runs_on) and not edges.fade_out_s and edges.end == "stop"
        levels = one.sound.edges if one.sound else None
        if levels is None:
            continue
        if ends_open and min(levels.before_end_dbfs, levels.after_end_dbfs) >= CUT_ABOVE_DBFS:
            on = follows is not None and entries[at + 1].goes_on
            sentence = (
                f"{_called(at, order)} is cut off at {print_db(levels.before_end_dbfs)}, then a gap. "
                f"{'Make it gapless.' if on else 'De-click or fade it.'}"
            )
            remedy = Remedy("Make gapless", action="run-on") if on else DECLICK
            yield Finding("join_cuts_sound", "look", sentence, remedy=remedy, entry=at + 1 if on else at)
        starts_open = not entry.runs_on and not edges.fade_in_s and not edges.declick_ms
        if starts_open and min(levels.before_start_dbfs, levels.after_start_dbfs) >= CUT_ABOVE_DBFS and not one.goes_on:
            sentence = f"{_called(at, order)} starts mid-sound at {print_db(levels.after_start_dbfs)}. De-click it."
            yield Finding("join_cuts_sound", "look", sentence, remedy=DECLICK, entry=at)


def _codes(order: RunningOrder, entries: Sequence[Entry]) -> Noticed:
    codes = [dict(one.sheet).get("isrc", "") for one in entries]
    for at, code in enumerate(codes):
        if code and (problem := isrc_problem(code)):
            sentence = f"{_called(at, order)}: ISRC “{code}” {problem}."
            yield Finding("code_wrong", "look", sentence, entry=at)
    bare = [compact_isrc(code) for code in codes]
    for code in sorted({one for one in bare if one and bare.count(one) > 1}):
        places = [_called(at, order).lower() for at, one in enumerate(bare) if one == code]
        sentence = f"ISRC {code} used by {' and '.join(places)}. Each recording needs its own."
        yield Finding("code_twice", "look", sentence, entry=bare.index(code))
    missing = [at for at, code in enumerate(codes) if not code]
    if missing:
        has = "has" if len(missing) == 1 else "have"
        sentence = f"{print_count(len(missing), 'track')} {has} no ISRC. Add it in Tags."
        remedy = Remedy("Continue numbering", action="codes") if len(missing) < len(codes) else None
        yield Finding("code_missing", "look", sentence, remedy=remedy, entry=missing[0], disc=True)
    barcode = dict(order.tags).get("barcode", "")
    problem = barcode_problem(barcode) if barcode else None
    if problem:
        yield Finding("code_wrong", "look", f"Barcode “{barcode}” {problem}.")
    if not barcode:
        yield Finding("code_missing", "look", "No barcode. Add one to the running order.", disc=True)


def _jumps(order: RunningOrder, entries: Sequence[Entry]) -> Noticed:
    if order.level.together == "each" and order.level.level.kind == "loudness":
        return
    for at, (before, one) in enumerate(pairwise(entries), 1):
        if not one.sound or not before.sound:
            continue
        jump = one.sound.integrated_lufs - before.sound.integrated_lufs
        # A gapless passage of one recording keeps its own loudness.
        if not (JUMP_LU < abs(jump) < float("inf")) or (order.entries[at].runs_on and one.goes_on):
            continue
        how = "louder" if jump > 0 else "quieter"
        sentence = f"{_called(at, order)} is {abs(jump):.1f} LU {how} than the track before it. Compare the levels."
        remedy = Remedy("Same loudness for all", action="one-loudness")
        yield Finding("level_jumps", "look", sentence, remedy=remedy, entry=at)


def _capacity(_order: RunningOrder, entries: Sequence[Entry]) -> Noticed:
    end = entries[-1].place.end_frame
    for minutes, verdict in ((80, "stop"), (74, "look")):
        most = CAPACITY_FRAMES[minutes]
        if end > most:
            over = print_frames(end - most)
            sentence = f"Length {print_frames(end)}, {over} over a {minutes}-minute disc. Shorten it."
            yield Finding("over_capacity", "stop" if verdict == "stop" else "look", sentence, disc=True)
            return


def _silence(order: RunningOrder, entries: Sequence[Entry]) -> Noticed:
    for at, one in enumerate(entries):
        begins, seconds = one.sound.silence if one.sound else (0.0, 0.0)
        if seconds > LONG_SILENCE_S:
            where = print_clock(round(begins * 1000), 1000, 1)
            sentence = f"{_called(at, order)} is silent for {seconds:.1f} s at {where} of its mix. Check it."
            start, end = _sounding(order.entries[at], one, begins, seconds)
            remedy = None if start is None else Remedy("Trim silence", start, end)
            yield Finding("long_silence", "look", sentence, remedy=remedy, entry=at)


def _sounding(entry: OrderEntry, one: Entry, begins_s: float, seconds: float) -> tuple[int | None, int | None]:
    """The entry without the silence at its ends; None where the silence is inside."""
    start_s, end_s = entry.start_frame / one.rate_hz, entry.end_frame / one.rate_hz
    if begins_s <= start_s + _AT_THE_END_S:
        return round((begins_s + seconds) * one.rate_hz), entry.end_frame
    if begins_s + seconds >= end_s - _AT_THE_END_S:
        return entry.start_frame, round(begins_s * one.rate_hz)
    return None, None


def _rates(order: RunningOrder, entries: Sequence[Entry]) -> Noticed:
    for at, (before, one) in enumerate(pairwise(entries), 1):
        if order.entries[at].runs_on and before.rate_hz != one.rate_hz:
            rates_found = f"{print_rate(one.rate_hz)} after {print_rate(before.rate_hz)}"
            sentence = f"{_called(at, order)} cannot be gapless: {rates_found}. Insert a gap."
            remedy = Remedy("Insert gap", action="gap")
            yield Finding("rates_differ", "stop", sentence, remedy=remedy, entry=at)
    rates = sorted({one.rate_hz for one in entries})
    if len(rates) > 1:
        listed = ", ".join(print_rate(one) for one in rates)
        sentence = f"Mixed sample rates: {listed}. Each brief sets the output rate."
        yield Finding("rates_differ", "look", sentence)


def _count(order: RunningOrder, entries: Sequence[Entry]) -> Noticed:
    tracks = len(entries) - int(order.hidden_first)
    if tracks > MOST_TRACKS:
        sentence = f"{tracks} tracks; disc maximum {MOST_TRACKS}. Remove some."
        yield Finding("too_many_tracks", "stop", sentence, disc=True)


def _emphasis(order: RunningOrder, entries: Sequence[Entry]) -> Noticed:
    for at, ((before, entry), one) in enumerate(zip(pairwise(order.entries), entries[1:], strict=True), 1):
        if before.pre_emphasis != entry.pre_emphasis and one.place.gap_frames < PAUSE_FRAMES:
            sentence = f"Pre-emphasis changes at {_called(at, order).lower()}. Insert a 2 s gap."
            remedy = Remedy("Insert 2 s gap", action="two-seconds")
            yield Finding("pre_emphasis_changes", "stop", sentence, remedy=remedy, entry=at, disc=True)


def _letters(order: RunningOrder, entries: Sequence[Entry]) -> Noticed:
    texts: list[tuple[int | None, str]] = [(None, order.title)]
    for number, one in enumerate(entries):
        sheet = dict(one.sheet)
        said = [sheet.get(name, "") for name in ("title", "artist", "composer")]
        texts += [(number, text) for text in (*said, *(text for _, text in order.entries[number].disc_text))]
    for at, text in texts:
        strange = not_in_latin_1(text)
        if strange:
            sentence = f"CD-Text cannot store {quoted(strange)}; “{text}” becomes “{in_latin_1(text)}”."
            yield Finding("letters_of_disc", "look", sentence, entry=at, disc=True)


_RULES: tuple[Callable[[RunningOrder, Sequence[Entry]], Noticed], ...] = (
    _too_short, _rates, _count, _capacity, _emphasis, _cuts, _silence, _jumps, _codes, _letters,
)  # fmt: skip
