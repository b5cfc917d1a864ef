"""Standard MIDI Files compared with files made by the library: times, tempo, programs, and invalid files."""

import io
import struct

import mido
import pytest

from ripe_press.core.errors import Unreadable
from ripe_press.core.live.score import DRUMS, LONGEST_S, MOST_NOTES, Note, read_score


def bytes_of(*tracks: list[mido.Message], ticks: int = 480, kind: int = 1) -> bytes:
    file = mido.MidiFile(ticks_per_beat=ticks, type=kind)
    for messages in tracks:
        track = mido.MidiTrack()
        track.extend(messages)
        file.tracks.append(track)
    data = io.BytesIO()
    file.save(file=data)
    return data.getvalue()


def on(key: int, at: int, velocity: int = 100, channel: int = 0) -> mido.Message:
    return mido.Message("note_on", channel=channel, note=key, velocity=velocity, time=at)


def test_tempo_change_moves_later_notes() -> None:
    """Two beats at 120, then at 60 a minute: half a second, then a second a beat (SMF 1.0: set tempo)."""
    tempo = [
        mido.MetaMessage("set_tempo", tempo=500_000, time=0),
        mido.MetaMessage("set_tempo", tempo=1_000_000, time=960),
    ]
    notes = [on(60, 0), on(60, 480, 0), on(62, 480), on(62, 480, 0), on(64, 240), on(64, 240, 0)]
    score = read_score(bytes_of(tempo, notes))
    assert [(one.start_s, one.end_s) for one in score.notes] == [(0.0, 0.5), (1.0, 2.0), (2.5, 3.0)]
    assert score.seconds == 3.0


def test_without_a_tempo_it_is_120_a_minute() -> None:
    (note,) = read_score(bytes_of([on(60, 480), on(60, 480, 0)], kind=0)).notes
    assert (note.start_s, note.end_s) == (0.5, 1.0)


def test_programs_channels_and_notes_that_overlap() -> None:
    drums = [on(36, 0, 90, DRUMS), on(36, 10, 0, DRUMS)]
    melody = [mido.Message("program_change", channel=2, program=33), on(40, 0, 70, 2), on(40, 240, 80, 2)]
    melody += [mido.Message("note_off", channel=2, note=40, time=240), on(40, 240, 0, 2)]
    found = read_score(bytes_of(drums, melody)).notes
    assert found[0] == Note(0.0, 0.25 + 0.25, 2, 33, 40, 70)
    assert found[1] == Note(0.0, 10 / 960, DRUMS, 0, 36, 90)
    assert found[2] == Note(0.25, 0.75, 2, 33, 40, 80)


def test_a_note_that_never_ends_ends_with_the_file() -> None:
    score = read_score(bytes_of([on(60, 0), mido.MetaMessage("end_of_track", time=1920)]))
    assert score.notes[0].end_s == 2.0 == score.seconds


@pytest.mark.parametrize("data", [b"", b"RIFF....WAVE", b"MThd\x00\x00\x00\x06\x00\x01\x00\x01", b"MTh" * 100])
def test_invalid_midi_file_is_reported(data: bytes) -> None:
    with pytest.raises(Unreadable, match="Cannot read MIDI file"):
        read_score(data)


def test_patterns_and_endless_files_are_refused() -> None:
    with pytest.raises(Unreadable, match="MIDI format 2"):
        read_score(bytes_of([on(60, 0)], kind=2))
    # The longest delta that a file can have, three times, at the slowest tempo.
    slow = [mido.MetaMessage("set_tempo", tempo=16_777_215), *[on(60, 0x0FFFFFFF) for _ in range(3)]]
    with pytest.raises(Unreadable, match="over 6 h"):
        read_score(bytes_of(slow, ticks=96))
    assert LONGEST_S == 21_600 and MOST_NOTES == 200_000


def test_running_status_is_read() -> None:
    """Written by hand: a second event without its status byte (SMF 1.0)."""
    body = b"\x00\x90\x3c\x40\x60\x3c\x00\x00\xff\x2f\x00"
    head = struct.pack(">4sIHHH", b"MThd", 6, 0, 1, 96)
    (note,) = read_score(head + b"MTrk" + struct.pack(">I", len(body)) + body).notes
    assert (note.key, note.velocity, note.end_s) == (60, 64, 0.5)
