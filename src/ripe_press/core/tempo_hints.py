"""Tempo of a mix from its tags, a MIDI file next to it or its file name; and the start of bar 1."""

import math
import re
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Literal, get_args

from ripe_press.core.measure.places.programme import Sounding
from ripe_press.core.measure.places.tempo import TempoFound
from ripe_press.core.timeline import NoteValue, TempoChange

ToldBy = Literal["tags", "MIDI file", "file name"]

AT_START_S = 0.05
"""A first sound so near the start of a mix is taken for its very start: attacks rise for some milliseconds."""
NEAR_BAR_S = 0.07
"""A first sound so near to a bar line is taken for that bar line."""
_NAMED = re.compile(r"(?<![\d.,])(\d{2,3}(?:[.,]\d{1,3})?)\s*[-_]?\s*bpm(?![a-z])", re.IGNORECASE)
_SAME = 0.01


@dataclass(frozen=True, slots=True)
class TempoHint:
    """A tempo with its changes, and its origin."""

    changes: tuple[TempoChange, ...]
    told_by: ToldBy


def tempo_hint(path: Path, tag_bpm: float | None, name: str = "") -> TempoHint | None:
    """The tempo of a mix: by its tags, by a MIDI file beside it, by its file name; None where there is none."""
    if tag_bpm:
        return TempoHint((TempoChange(1, tag_bpm),), "tags")
    for suffix in (".mid", ".midi"):
        if changes := _of_midi(path.with_suffix(suffix)):
            return TempoHint(changes, "MIDI file")
    bpm = tempo_in_name(name or path.stem)
    return TempoHint((TempoChange(1, bpm),), "file name") if bpm else None


def tempo_in_name(name: str) -> float | None:
    """The tempo in a name such as ``Millrace 84bpm`` or ``loop_92.5_BPM``; None where there is none, or several."""
    found = {float(one.replace(",", ".")) for one in _NAMED.findall(name)}
    return found.pop() if len(found) == 1 and 10 <= max(found) <= 1000 else None


def _of_midi(path: Path) -> tuple[TempoChange, ...]:
    """The tempo map of a MIDI file, as far as its changes lie on bar lines; nothing where it cannot be read."""
    if not path.is_file():
        return ()
    import mido

    try:
        file = mido.MidiFile(path)
    except (OSError, ValueError, EOFError):
        return ()
    tick, bar_tick, bar = 0, Fraction(0), 1
    bpm, beats, unit = 120.0, 4, 4
    set_at: set[str] = set()
    found: list[TempoChange] = []
    for message in mido.merge_tracks(file.tracks):
        tick += message.time
        if message.type not in ("set_tempo", "time_signature"):
            continue
        bars, rest = divmod(Fraction(tick) - bar_tick, Fraction(file.ticks_per_beat * 4 * beats, unit))
        if rest:
            continue
        bar, bar_tick = bar + int(bars), Fraction(tick)
        if message.type == "set_tempo":
            bpm = round(mido.tempo2bpm(message.tempo), 3)
            set_at.add("tempo")
        elif message.denominator in get_args(NoteValue):
            beats, unit = message.numerator, message.denominator
        value = next(one for one in get_args(NoteValue) if one == unit)
        found = [*(one for one in found if one.bar != bar), TempoChange(bar, bpm, beats, value)]
    # A file without a tempo event has no tempo: its 120 is a default.
    return tuple(found) if set_at and found and found[0].bar == 1 else ()


def first_bar_frame(sounding: Sounding, found: TempoFound | None, bpm: float, rate_hz: int) -> int:
    """Where bar 1 begins: at the first sound, or at the first bar line of the sound behind it, where that is sure."""
    start = sounding.start_frame
    if start <= AT_START_S * rate_hz:
        start = 0
    octaves = (0.5, 1.0, 2.0)
    if found is None or not found.bars_sure or all(abs(found.bpm * one / bpm - 1) > _SAME for one in octaves):
        return start
    bar_s = found.beats * 60 / found.bpm
    start_s = start / rate_hz
    bars = math.ceil((start_s - NEAR_BAR_S - found.first_beat_s) / bar_s)
    line_s = found.first_beat_s + bars * bar_s
    return start if abs(line_s - start_s) <= NEAR_BAR_S else round(line_s * rate_hz)
