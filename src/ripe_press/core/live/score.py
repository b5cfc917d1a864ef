"""A Standard MIDI File as notes in seconds: what an instrument plays."""

import io
from dataclasses import dataclass

from ripe_press.core.errors import Unreadable

DRUMS = 9
"""The channel of percussion, counted from 0 (General MIDI System Level 1)."""
MOST_NOTES = 200_000
LONGEST_S = 6 * 3600.0


@dataclass(frozen=True, slots=True)
class Note:
    """A note: start and end in seconds, pitch, velocity and channel."""

    start_s: float
    end_s: float
    channel: int
    program: int
    key: int
    velocity: int


@dataclass(frozen=True, slots=True)
class Score:
    """Notes by time, and how long the file is, to the last event that it has."""

    notes: tuple[Note, ...]
    seconds: float


def read_score(data: bytes) -> Score:
    """The notes of a file, of all tracks together, with every change of tempo counted in.

    A note that is never ended ends with the file. Raises: Unreadable ``score.unreadable``, ``score.too-long``.
    """
    import mido

    try:
        file = mido.MidiFile(file=io.BytesIO(data))
        messages = list(file) if file.type != 2 else None
    except (OSError, EOFError, ValueError, IndexError, KeyError, AttributeError, TypeError) as error:
        message = f"Cannot read MIDI file: {error or type(error).__name__}."
        raise Unreadable("score.unreadable", message) from error
    if messages is None:
        message = "MIDI format 2 is not supported. Save the file as format 0 or 1."
        raise Unreadable("score.unreadable", message)
    now = 0.0
    sounding: dict[tuple[int, int], list[tuple[float, int, int]]] = {}
    programs = dict.fromkeys(range(16), 0)
    notes: list[Note] = []
    for event in messages:
        now += event.time
        if now > LONGEST_S or len(notes) > MOST_NOTES:
            message = "The MIDI file is over 6 h or 200,000 notes. Shorten it."
            raise Unreadable("score.too-long", message)
        if event.type == "program_change":
            programs[event.channel] = event.program
        elif event.type == "note_on" and event.velocity:
            begun = (now, programs[event.channel], event.velocity)
            sounding.setdefault((event.channel, event.note), []).append(begun)
        elif event.type in ("note_on", "note_off"):
            open_ones = sounding.get((event.channel, event.note), [])
            if open_ones:
                # The one that began first ends first.
                start, program, velocity = open_ones.pop(0)
                notes.append(Note(start, now, event.channel, program, event.note, velocity))
    for (channel, key), left in sounding.items():
        notes += [Note(start, now, channel, program, key, velocity) for start, program, velocity in left]
    return Score(tuple(sorted(notes, key=lambda one: (one.start_s, one.channel, one.key))), now)
