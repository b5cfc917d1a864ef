"""Time beyond the clock: markers, a tempo map with changes of tempo and metre, CD frames, times in any unit."""

import re
from dataclasses import dataclass
from fractions import Fraction
from typing import Annotated, Literal, get_args

from annotated_types import Ge, Le

from ripe_press.core.errors import BadInput
from ripe_press.core.units import parse_time
from ripe_press.core.words import quoted

CD_FRAMES_PER_SECOND = 75
DISC_HZ = 44_100
CD_FRAME_SAMPLES = DISC_HZ // CD_FRAMES_PER_SECOND
"""IEC 60908: 75 frames of 588 stereo samples a second."""

MOST_MARKERS = 10_000
MOST_NAME = 120

_BARS = re.compile(r"^b(\d+)(?:\.(\d+)(\.\d+)?)?$")
_OLD_BARS = re.compile(r"^(\d+)\|(?:(\d+))?(?:\|(\d*\.?\d+))?$")
"""How bars were written before: still read."""
_CD = re.compile(r"^(?:(\d+):)?(?:(\d+):)?(\d+)\s*cdf$")
_METRE = re.compile(r"^(\d{1,2})/(1|2|4|8|16|32)$")


NoteValue = Literal[1, 2, 4, 8, 16, 32]


@dataclass(frozen=True, slots=True)
class Marker:
    """A marker."""

    frame: int
    name: str


@dataclass(frozen=True, slots=True)
class TempoChange:
    """From bar ``bar`` (counted from 1): tempo in quarter notes per minute, and beats of this note value per bar."""

    bar: Annotated[int, Ge(1)]
    tempo_bpm: float
    beats: Annotated[int, Ge(1), Le(99)] = 4
    unit: NoteValue = 4

    @property
    def beat_s(self) -> Fraction:
        """Length of one beat, exactly."""
        return Fraction(60) / Fraction(str(self.tempo_bpm)) * 4 / self.unit


@dataclass(frozen=True, slots=True)
class TempoMap:
    """Tempo map. ``first_bar_frame`` is the first sample of bar 1; changes start at bars.

    Positions are computed as fractions and rounded once, so bar n starts where a loop of n − 1 bars ends.
    """

    changes: tuple[TempoChange, ...]
    first_bar_frame: int = 0

    def __post_init__(self) -> None:
        bars = [change.bar for change in self.changes]
        if not bars or bars[0] != 1 or bars != sorted(set(bars)):
            message = "Start the tempo map at bar 1 and put each change at a later bar."
            raise BadInput("tempo.order", message, bars=bars)
        for change in self.changes:
            if not 10 <= change.tempo_bpm <= 1000 or change.beats < 1:
                message = f"{change.tempo_bpm} bpm is out of range. Use 10 to 1000 bpm."
                raise BadInput("tempo.range", message, tempo_bpm=change.tempo_bpm)

    def frame_of(self, bar: int, beat: int, fraction: Fraction, rate_hz: int) -> int:
        """The nearest frame to a place; bar and beat count from 1. Raises: BadInput ``bars.outside``."""
        change, at_s = self._change_at(bar)
        if bar < 1 or not 1 <= beat <= change.beats or not 0 <= fraction < 1:
            message = f"Bar {bar} has beats 1 to {change.beats}; not {bar}|{beat}|{float(fraction):g}."
            raise BadInput("bars.outside", message, bar=bar, beat=beat)
        seconds = at_s + ((bar - change.bar) * change.beats + beat - 1 + fraction) * change.beat_s
        return self.first_bar_frame + int(seconds * rate_hz + Fraction(1, 2))

    def bar_frame(self, bar: int, rate_hz: int) -> int:
        """Where a bar begins."""
        return self.frame_of(bar, 1, Fraction(0), rate_hz)

    def last_bar_line(self, frame: int, rate_hz: int) -> int:
        """The last bar that begins at or before a frame; 0 or less before bar 1."""
        bar = self.place_of(frame, rate_hz)[0]
        # A bar line is rounded to a frame and may lie a hair before the exact place.
        return bar + 1 if self.bar_frame(max(1, bar + 1), rate_hz) <= frame else bar

    def bar_at(self, frame: int, rate_hz: int) -> int | None:
        """The bar that begins exactly at this frame, if one does."""
        bar = self.last_bar_line(frame, rate_hz)
        return bar if bar >= 1 and self.bar_frame(bar, rate_hz) == frame else None

    def grid(self, end_frame: int, rate_hz: int, most: int = 20_000) -> list[tuple[int, int]]:
        """(frame, beats) of every bar from bar 1 up to a frame: where it begins, and how many beats it has."""
        bars: list[tuple[int, int]] = []
        for bar in range(1, most + 1):
            change, _ = self._change_at(bar)
            frame = self.bar_frame(bar, rate_hz)
            if frame > end_frame:
                break
            bars.append((frame, change.beats))
        return bars

    def place_of(self, frame: int, rate_hz: int) -> tuple[int, int, float]:
        """Bar, beat and fraction of a beat at a frame; before bar 1 the bars count 0, −1, …"""
        seconds = Fraction(frame - self.first_bar_frame, rate_hz)
        change, at_s = self.changes[0], Fraction(0)
        for later in self.changes[1:]:
            begins = at_s + (later.bar - change.bar) * change.beats * change.beat_s
            if seconds < begins:
                break
            change, at_s = later, begins
        beats = (seconds - at_s) / change.beat_s
        bar, rest = divmod(beats, change.beats)
        return change.bar + int(bar), int(rest) + 1, float(rest - int(rest))

    def seconds_between(self, first: int, last: int) -> float:
        """How long it is from the beginning of a bar to that of another."""
        places = []
        for bar in (first, last):
            change, at_s = self._change_at(bar)
            places.append(at_s + (bar - change.bar) * change.beats * change.beat_s)
        return float(places[1] - places[0])

    def change_at(self, bar: int) -> TempoChange:
        """Tempo and metre of a bar; before bar 1 those of bar 1."""
        return self._change_at(max(1, bar))[0]

    def bar_line_before(self, frame: int, rate_hz: int) -> int:
        """The start of the bar that contains a frame; before bar 1 the first bars continue backwards, so the result may
        be negative.
        """
        bar = self.last_bar_line(frame, rate_hz)
        if bar >= 1:
            return self.bar_frame(bar, rate_hz)
        first = self.changes[0]
        return self.first_bar_frame - int((1 - bar) * first.beats * first.beat_s * rate_hz + Fraction(1, 2))

    def _change_at(self, bar: int) -> tuple[TempoChange, Fraction]:
        change, at_s = self.changes[0], Fraction(0)
        for later in self.changes[1:]:
            if later.bar > bar:
                break
            at_s += (later.bar - change.bar) * change.beats * change.beat_s
            change = later
        return change, at_s


def parse_metre(text: str) -> tuple[int, NoteValue]:
    """``4/4`` as (beats, unit). Raises: BadInput ``metre.unreadable``."""
    found = _METRE.match(text.strip())
    if not found or int(found[1]) < 1:
        message = f"{quoted(text)} is not a metre. Use beats and note value, for example 4/4 or 6/8."
        raise BadInput("metre.unreadable", message, text=text)
    return int(found[1]), next(one for one in get_args(NoteValue) if one == int(found[2]))


def parse_place(text: str, rate_hz: int, tempo: TempoMap | None = None) -> int:
    """The frame of a time typed in any unit.

    Seconds, minutes, hours and samples as `parse_time`; bars as ``b17``, ``b17.2`` or ``b17.2.5`` (bar 17, beat
    2 and a half); CD frames as ``45cdf``, ``31:45cdf`` or ``2:31:45cdf`` (minutes, seconds, frames).

    Raises: BadInput ``time.unreadable``, ``time.field-range``, ``bars.no-tempo``, ``bars.outside``.
    """
    cleaned = text.strip().lower()
    if found := _BARS.match(cleaned) or _OLD_BARS.match(cleaned):
        if tempo is None:
            message = f"{quoted(text)} is in bars, but the mix has no tempo. Set the tempo first."
            raise BadInput("bars.no-tempo", message, text=text)
        return tempo.frame_of(int(found[1]), int(found[2] or 1), Fraction(found[3] or 0), rate_hz)
    if found := _CD.match(cleaned):
        return _cd_place(text, [int(part) for part in found.groups() if part is not None], rate_hz)
    return parse_time(text, rate_hz)


def _cd_place(text: str, parts: list[int], rate_hz: int) -> int:
    *clock, frames = parts
    seconds = clock[-1] if clock else 0
    minutes = clock[0] if len(clock) == 2 else 0
    if (clock and frames >= CD_FRAMES_PER_SECOND) or (len(clock) == 2 and seconds > 59):
        message = f"{quoted(text)} is out of range. Use 0 to 59 s and 0 to 74 CD frames."
        raise BadInput("time.field-range", message, text=text)
    whole = (minutes * 60 + seconds) * CD_FRAMES_PER_SECOND + frames
    return (2 * whole * rate_hz + CD_FRAMES_PER_SECOND) // (2 * CD_FRAMES_PER_SECOND)
