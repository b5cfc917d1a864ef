"""The tempo beside a file, read back by its library: every bar lies where it does in the sound, as MIDI can hold it."""

import io
from fractions import Fraction

import mido
import pytest

from ripe_press.core.handoff.tempo_midi import TICKS, tempo_midi
from ripe_press.core.timeline import Marker, TempoChange, TempoMap

RATE = 48_000


def read(data: bytes) -> mido.MidiFile:
    return mido.MidiFile(file=io.BytesIO(data), charset="utf-8")


def seconds_of(file: mido.MidiFile, kind: str) -> list[tuple[float, mido.MetaMessage]]:
    now, tempo, found = Fraction(0), 500_000, []
    for event in file.tracks[0]:
        now += Fraction(event.time * tempo, 1_000_000 * file.ticks_per_beat)
        if event.type == "set_tempo":
            tempo = event.tempo
        if event.type == kind:
            found.append((float(now), event))
    return found


def test_it_says_tempo_metre_key_and_markers_from_the_bar_that_the_file_begins_on() -> None:
    tempo = TempoMap((TempoChange(1, 84), TempoChange(9, 126, 3, 8), TempoChange(13, 60, 2, 2)), 150_000)
    start = tempo.bar_frame(5, RATE)
    places = [tempo.bar_frame(bar, RATE) for bar in (5, 7, 9, 11, 13, 15)]
    markers = [Marker(frame, f"Bar “{at}”") for at, frame in enumerate(places)]
    end = tempo.bar_frame(16, RATE)
    file = read(tempo_midi(tempo, RATE, start, end, "Mühlrad", "Bbm", [Marker(0, "before"), *markers]))
    assert (file.type, file.ticks_per_beat) == (1, TICKS)
    said = [(event.numerator, event.denominator) for _, event in seconds_of(file, "time_signature")]
    assert said == [(4, 4), (3, 8), (2, 2)]
    assert [event.key for _, event in seconds_of(file, "key_signature")] == ["Bbm"]
    assert [event.name for _, event in seconds_of(file, "track_name")] == ["Mühlrad"]
    heard = seconds_of(file, "marker")
    assert [event.text for _, event in heard] == [one.name for one in markers]
    for (seconds, _), frame in zip(heard, places, strict=True):
        # Half a microsecond a quarter note at most, and half a frame for the bar line.
        assert abs(seconds - (frame - start) / RATE) < 80 * 0.5e-6 + 0.5 / RATE
    assert abs(file.length - (end - start) / RATE) < 1e-3


@pytest.mark.parametrize("bpm", [83.5, 120, 123.4, 174])
def test_ten_minutes_of_one_tempo_stay_within_the_format_error(bpm: float) -> None:
    tempo = TempoMap((TempoChange(1, bpm),))
    end = tempo.bar_frame(int(bpm * 10 / 4) + 1, RATE)
    quarters = bpm * 10
    file = read(tempo_midi(tempo, RATE, 0, end, "x"))
    assert abs(file.length - end / RATE) <= quarters * 0.5e-6 + 1 / RATE


def test_a_key_that_has_no_name_there_is_left_out_and_a_file_before_bar_one_begins_on_a_bar() -> None:
    tempo = TempoMap((TempoChange(1, 120),), 100_000)
    start = tempo.bar_line_before(0, RATE)
    assert start == 100_000 - 2 * 96_000
    file = read(tempo_midi(tempo, RATE, start, 200_000, "x", "H dorian", [Marker(100_000, "One")]))
    assert seconds_of(file, "key_signature") == []
    ((seconds, _),) = seconds_of(file, "marker")
    assert seconds == pytest.approx(4.0)
