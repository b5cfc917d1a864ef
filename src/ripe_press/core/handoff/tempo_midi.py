"""The tempo map of a file as a Standard MIDI File, for other programs.

MIDI stores a tempo as whole microseconds per quarter note (Standard MIDI Files 1.0, meta event 51 hex), so the error
after n quarter notes is at most n half microseconds.
"""

import io
from collections.abc import Sequence
from fractions import Fraction

from ripe_press.core.timeline import Marker, TempoMap

TICKS = 960
"""Ticks a quarter note."""
_KEYS = frozenset(
    note + minor
    for notes, minor in (("A Ab B Bb C C# Cb D Db E Eb F F# G Gb", ""), ("A A# Ab B Bb C C# D D# E Eb F F# G G#", "m"))
    for note in notes.split()
)
"""Keys that the file format has a name for (meta event 59 hex)."""


def tempo_midi(
    tempo: TempoMap, rate_hz: int, start_frame: int, end_frame: int, title: str, key: str = "",
    markers: Sequence[Marker] = (),
) -> bytes:  # fmt: skip
    """A file of format 1 that begins where a stretch of a mix does: tempo, metre, key and markers up to its end.

    The stretch begins on a bar line; one that begins elsewhere is taken as if it were one.
    """
    from mido import MetaMessage, MidiFile, MidiTrack

    first = tempo.last_bar_line(start_frame, rate_hz)
    begins = tempo.change_at(first)
    events: list[tuple[int, int, MetaMessage]] = [(0, 0, MetaMessage("track_name", name=title[:200]))]

    def change(at: int, bpm: float, beats: int, unit: int) -> None:
        quarter_us = round(Fraction(60_000_000) / Fraction(str(bpm)))
        events.append((at, 1, MetaMessage("set_tempo", tempo=quarter_us)))
        events.append((at, 2, MetaMessage("time_signature", numerator=beats, denominator=unit)))

    change(0, begins.tempo_bpm, begins.beats, begins.unit)
    if key in _KEYS:
        events.append((0, 3, MetaMessage("key_signature", key=key)))
    for later in tempo.changes:
        if later.bar > max(1, first) and tempo.bar_frame(later.bar, rate_hz) < end_frame:
            change(_tick(tempo, first, later.bar, Fraction(0)), later.tempo_bpm, later.beats, later.unit)
    for one in markers:
        if start_frame <= one.frame < end_frame:
            at = _tick(tempo, first, *_place(tempo, one.frame, rate_hz))
            events.append((at, 4, MetaMessage("marker", text=one.name[:200])))
    last = _tick(tempo, first, *_place(tempo, end_frame, rate_hz))
    file = MidiFile(type=1, ticks_per_beat=TICKS, charset="utf-8")
    track = MidiTrack()
    now = 0
    for at, _, event in sorted(events, key=lambda one: one[:2]):
        track.append(event.copy(time=max(0, at - now)))
        now = max(now, at)
    track.append(MetaMessage("end_of_track", time=max(0, last - now)))
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def _place(tempo: TempoMap, frame: int, rate_hz: int) -> tuple[int, Fraction]:
    """The bar of a frame, and how many beats into it; a bar line is one, however it was rounded to a frame."""
    if line := tempo.bar_at(frame, rate_hz):
        return line, Fraction(0)
    bar, beat, part = tempo.place_of(frame, rate_hz)
    return bar, beat - 1 + Fraction(part)


def _tick(tempo: TempoMap, first: int, bar: int, beats: Fraction) -> int:
    """Ticks from the beginning of bar ``first`` to some beats into another bar."""
    quarters = Fraction(0)
    for one in range(first, bar):
        change = tempo.change_at(one)
        quarters += Fraction(4 * change.beats, change.unit)
    quarters += beats * Fraction(4, tempo.change_at(bar).unit)
    return round(quarters * TICKS)
