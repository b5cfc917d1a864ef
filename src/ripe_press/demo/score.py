"""The demo's music: bars of chords, and patterns over them, from a seeded generator."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ripe_press.demo.instruments import Note, bass, hand_drum, marimba, plucked

CHORDS = (
    (38, 0, 3, 7),
    (34, 0, 4, 7),
    (41, 0, 4, 7),
    (36, 0, 5, 7),
    (38, 0, 3, 10),
    (43, 0, 3, 7),
    (34, 0, 4, 11),
    (33, 0, 5, 7),
)
"""Root as a MIDI number, and the chord's steps above it."""

PARTS: dict[str, Note] = {"Strings": plucked, "Marimba": marimba, "Bass": bass, "Hand drum": hand_drum}
_PAN = {"Strings": -0.35, "Marimba": 0.4, "Bass": 0.0, "Hand drum": 0.12}
_SEND = {"Strings": 0.9, "Marimba": 0.8, "Bass": 0.15, "Hand drum": 0.5}
_LEVEL = {"Strings": 0.30, "Marimba": 0.34, "Bass": 0.42, "Hand drum": 0.55}


@dataclass(frozen=True, slots=True)
class Section:
    """Some bars in which some parts play, at one intensity between 0 and 1."""

    bars: int
    parts: tuple[str, ...]
    intensity: float


@dataclass(slots=True)
class Band:
    """The parts as they are played: a stereo track each, and a mono send to the room."""

    rate_hz: int
    frames: int
    tracks: dict[str, NDArray[np.float32]] = field(default_factory=dict)
    send: NDArray[np.float32] = field(default_factory=lambda: np.zeros(0, dtype=np.float32))

    def __post_init__(self) -> None:
        self.tracks = {name: np.zeros((self.frames, 2), dtype=np.float32) for name in PARTS}
        self.send = np.zeros(self.frames, dtype=np.float32)

    def strike(self, part: str, at_s: float, pitch: float, gain: float) -> None:
        """Adds one note at a time in seconds."""
        note = PARTS[part](self.rate_hz, pitch)
        start = max(0, round(at_s * self.rate_hz))
        note = note[: max(0, self.frames - start)] * np.float32(gain * _LEVEL[part])
        angle = (_PAN[part] + 1) * np.pi / 4
        track = self.tracks[part][start : start + len(note)]
        track[:, 0] += note * np.float32(np.cos(angle))
        track[:, 1] += note * np.float32(np.sin(angle))
        self.send[start : start + len(note)] += note * np.float32(_SEND[part])


def play(band: Band, sections: tuple[Section, ...], tempo_bpm: float, start_s: float, seed: int) -> float:
    """Plays the sections, four beats a bar, and gives the time in seconds at which the last bar ends."""
    random = np.random.default_rng(seed)
    beat_s = 60.0 / tempo_bpm
    bar = 0
    for section in sections:
        for _ in range(section.bars):
            _play_bar(band, section, CHORDS[bar % len(CHORDS)], start_s + 4 * beat_s * bar, beat_s, random)
            bar += 1
    end_s = start_s + 4 * beat_s * bar
    root, *steps = CHORDS[0]
    for number, step in enumerate(steps):
        band.strike("Strings", end_s + 0.02 * number, root + 12 + step, 1.0)
    band.strike("Bass", end_s, root, 1.1)
    return end_s


def _play_bar(
    band: Band,
    section: Section,
    chord: tuple[int, ...],
    at_s: float,
    beat_s: float,
    random: np.random.Generator,
) -> None:
    root, *steps = chord
    gain = 0.35 + 0.75 * section.intensity
    for eighth in range(8):
        time = at_s + eighth * beat_s / 2 + random.normal(0, 0.004) + 0.004
        accent = gain * (1.15 if eighth % 4 == 0 else 0.8 + 0.15 * random.random())
        if "Strings" in section.parts:
            band.strike("Strings", time, root + 12 + steps[eighth % len(steps)] + 12 * (eighth % 3 == 2), accent)
        if "Marimba" in section.parts and random.random() < 0.45 + 0.5 * section.intensity:
            band.strike(
                "Marimba",
                time,
                root + 24 + steps[int(random.integers(len(steps)))] + 12 * int(random.integers(2)),
                accent,
            )
        if "Bass" in section.parts and eighth in (0, 3, 6):
            band.strike("Bass", time, root + (7 if eighth == 6 else 0), gain)
        if "Hand drum" in section.parts:
            if eighth in (0, 3, 4):
                band.strike("Hand drum", time, 0.0, gain * (1.2 if eighth == 0 else 0.7))
            elif random.random() < 0.5:
                band.strike("Hand drum", time, 1.0, 0.6 * accent)
