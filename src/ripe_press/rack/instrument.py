"""The instrument's sound: percussion and a few tones, synthesised from sines and noise."""

from typing import cast

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.live.score import DRUMS, Note, Score
from ripe_press.rack.wire import Frames

Line = NDArray[np.float64]

LONGEST_S = 8.0
"""A note rings no longer."""
_CLICK_FRAMES = 64
KICK, SNARE, HATS = (35, 36), (37, 38, 39, 40), (42, 44, 46)
CYMBALS, TOMS = (49, 51, 52, 53, 55, 57, 59), (41, 43, 45, 47, 48, 50)
"""Keys of percussion (General MIDI Percussion Key Map)."""


class Instrument:
    """Plays a score, or a click, from a frame of its own clock on; between them it is silent."""

    def __init__(self, rate_hz: int, channels: int, score: Score, latency_frames: int = 0) -> None:
        self._rate_hz = rate_hz
        self._channels = channels
        self._score = score
        self._latency = latency_frames
        self._at = 0
        self._waiting: list[tuple[int, Note | None]] = []
        self._sounding: list[tuple[int, Frames]] = []

    def cue(self, what: str, at_frame: int) -> None:
        """Begins with the score, or gives a click, at a frame; as late as its works make it."""
        start = at_frame + self._latency
        if what == "click":
            self._waiting.append((start, None))
        else:
            self._waiting += [(start + round(one.start_s * self._rate_hz), one) for one in self._score.notes]
        self._waiting.sort(key=lambda one: one[0], reverse=True)

    def process(self, frames: int) -> Frames:
        """The next frames of what it plays."""
        end = self._at + frames
        while self._waiting and self._waiting[-1][0] < end:
            start, note = self._waiting.pop()
            self._sounding.append((start, click() if note is None else sound_of(note, self._rate_hz)))
        out = np.zeros((frames, self._channels), dtype=np.float32)
        for start, sound in self._sounding:
            first, last = max(start, self._at), min(start + len(sound), end)
            if first < last:
                out[first - self._at : last - self._at] += sound[first - start : last - start, : self._channels]
        self._sounding = [one for one in self._sounding if one[0] + len(one[1]) > end]
        self._at = end
        return out


def click() -> Frames:
    """A click that starts at full height, so that its first sample is detectable."""
    frames = 0.5 * np.exp(-np.arange(_CLICK_FRAMES) / 12) * np.cos(np.arange(_CLICK_FRAMES) * 0.9)
    return np.repeat(frames[:, None], 2, axis=1).astype(np.float32)


def sound_of(note: Note, rate_hz: int) -> Frames:
    """A note as it sounds, two channels."""
    gain = (note.velocity / 127) ** 1.5 * 0.35
    mono = _drum(note.key, rate_hz) if note.channel == DRUMS else _voice(note, rate_hz)
    pan = 0.5 if note.channel == DRUMS and note.key in KICK else 0.5 + 0.3 * np.sin(note.key * 1.7)
    sides = np.array([np.cos(pan * np.pi / 2), np.sin(pan * np.pi / 2)]) * np.sqrt(2)
    return cast("Frames", (mono[:, None] * sides * gain).astype(np.float32))


def _drum(key: int, rate_hz: int) -> Line:
    def times(seconds: float) -> Line:
        return np.arange(round(seconds * rate_hz)) / rate_hz

    noise = np.random.default_rng(key)
    if key in KICK:
        at = times(0.35)
        return cast("Line", np.sin(2 * np.pi * (48 * at + 1.9 * (1 - np.exp(-at * 38)))) * np.exp(-at * 11))
    if key in SNARE:
        at = times(0.25)
        skin, wires = np.sin(2 * np.pi * 190 * at), noise.standard_normal(len(at))
        return np.asarray((0.5 * skin + 0.35 * wires) * np.exp(-at * 19))
    if key in TOMS:
        at = times(0.4)
        return cast("Line", np.sin(2 * np.pi * (60 + 4 * key) * at * np.exp(-at * 0.8)) * np.exp(-at * 9))
    ring = 1.4 if key in CYMBALS else 0.3 if key == HATS[-1] else 0.06
    at = times(min(LONGEST_S, ring * 4))
    bright = np.diff(noise.standard_normal(len(at) + 1)) * 0.3
    return np.asarray(bright * np.exp(-at / ring))


def _voice(note: Note, rate_hz: int) -> Line:
    """Plucked, bowed or a bass, by the family of the program (General MIDI Sound Set, groups of eight)."""
    held = max(0.05, min(LONGEST_S, note.end_s - note.start_s))
    family = note.program // 8
    slow = family in (5, 6, 11)
    release, attack, decay = (0.35, 0.12, 0.0) if slow else (0.12, 0.004, 1.6 if family == 4 else 2.6)
    at = np.arange(round((held + release) * rate_hz)) / rate_hz
    hz = 440.0 * 2 ** ((note.key - 69) / 12)
    harmonics = [(n, n ** (-1.2 if slow or family == 4 else -1.8)) for n in range(1, 9) if n * hz < 0.45 * rate_hz]
    wave = sum(weight * np.sin(2 * np.pi * hz * n * at) for n, weight in harmonics)
    shape = np.minimum(1, at / attack) * np.exp(-at * decay) * np.clip((held + release - at) / release, 0, 1)
    return np.asarray(wave * shape if harmonics else np.zeros(len(at)))
