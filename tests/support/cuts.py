"""Generated cuts with known truth: what follows the end of a range, and where noisy recordings begin and end.

Everything is made here from seeds, with no code of the product: decaying partials, sung tones, drums, drones, rooms as
decaying noise, applause as a cloud of claps. Rates are low, for only levels matter.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from support import sampled

RATE_HZ = 11_025
Mono = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Cut:
    """A signal, the frame it is cut at, and what truly follows: ``tail``, ``music``, or ``ask``."""

    kind: str
    truth: str
    sound: Mono
    frame: int


def note(hz: float, seconds: float, fall_s: float, harmonics: int = 8) -> Mono:
    """A struck or plucked note."""
    t = np.arange(int(seconds * RATE_HZ)) / RATE_HZ
    out = sum(np.sin(2 * np.pi * hz * k * t) / k**1.2 * np.exp(-t * k**0.5 / fall_s) for k in range(1, harmonics + 1))
    rise = int(0.004 * RATE_HZ)
    out[:rise] *= np.linspace(0, 1, rise)
    return np.asarray(out)


def sung(hz: float, seconds: float, random: np.random.Generator) -> Mono:
    """A sung tone: harmonics under a slow vibrato, rising and falling softly."""
    t = np.arange(int(seconds * RATE_HZ)) / RATE_HZ
    phase = 2 * np.pi * np.cumsum(hz * (1 + 0.01 * np.sin(2 * np.pi * 5.3 * t + random.uniform(0, 6)))) / RATE_HZ
    out = sum(np.sin(phase * k) / k for k in range(1, 9))
    return np.asarray(out * np.minimum(1, np.minimum(t, seconds - t) / min(0.12, seconds / 3)))


def drum(random: np.random.Generator, deep: bool) -> Mono:
    """A drum stroke."""
    t = np.arange(int(0.5 * RATE_HZ)) / RATE_HZ
    if deep:
        return np.asarray(1.5 * np.sin(2 * np.pi * (50 * t - 4 * np.exp(-t / 0.03))) * np.exp(-t / 0.12))
    return np.asarray(random.standard_normal(len(t)) * np.exp(-t / 0.05))


def put(out: Mono, sound: Mono, at: int, gain: float = 1.0) -> None:
    """Adds a sound at a frame, as far as it fits."""
    if at < len(out):
        part = sound[: len(out) - at]
        out[at : at + len(part)] += gain * part


def room(sound: Mono, rt60_s: float, wet: float, random: np.random.Generator) -> Mono:
    """The sound with a room behind it that falls by 60 dB in ``rt60_s``; longer by that."""
    n = int(min(rt60_s * 1.3, 11) * RATE_HZ)
    response = random.standard_normal(n) * np.exp(-6.9078 * np.arange(n) / RATE_HZ / rt60_s)
    response /= np.sqrt((response**2).sum())
    size = 1 << (len(sound) + n).bit_length()
    late = np.fft.irfft(np.fft.rfft(sound, size) * np.fft.rfft(response, size), size)[: len(sound) + n]
    out = wet * late
    out[: len(sound)] += sound
    return out


def music(random: np.random.Generator, seconds: float, style: str, bpm: float) -> Mono:
    """Music that continues to its end, where its last notes are cut."""
    out = np.zeros(int(seconds * RATE_HZ))
    beat = 60 / bpm
    scale = 55 * 2 ** (random.integers(0, 12) / 12) * np.array([1, 9 / 8, 5 / 4, 3 / 2, 5 / 3, 2, 9 / 4, 5 / 2, 3, 4])
    for step in range(int(seconds / beat * 2)):
        at = int((step * beat / 2 + random.normal(0, 0.004)) * RATE_HZ)
        if at < 0:
            continue
        if style == "band":
            put(out, drum(random, step % 4 == 0), at, 0.5 if step % 2 == 0 else 0.15)
            put(out, note(random.choice(scale[4:]), 1.2, 0.5), at, 0.3 * random.uniform(0.4, 1))
            if step % 4 == 0:
                put(out, note(scale[random.integers(3)], 1.5, 0.9), at, 0.6)
        elif style == "strings" and random.random() < 0.7:
            put(out, note(random.choice(scale[3:]), 2.5, 1.2), at, 0.4 * random.uniform(0.5, 1))
        elif style == "drums":
            put(out, drum(random, step % 4 in (0, 3)), at, random.uniform(0.3, 0.7))
        elif style == "choir" and step % 2 == 0:
            put(out, sung(random.choice(scale[4:8]), 2.2 * beat, random), at, 0.3)
        elif style == "vocals" and random.random() < 0.75:
            put(out, sung(random.choice(scale[5:9]), random.uniform(0.3, 0.9), random), at, 0.5)
    return out / max(1e-9, np.abs(out).max())


def applause(random: np.random.Generator, seconds: float) -> Mono:
    """Many hands, each clap a short resonance of the palms, swelling up and dying down."""
    n = int(seconds * RATE_HZ)
    t = np.arange(int(0.012 * RATE_HZ)) / RATE_HZ
    cloud = np.zeros(n)
    for hz in np.geomspace(500, 3_500, 8):
        claps = random.standard_normal(n) * (random.random(n) < 0.008)
        cloud += np.convolve(claps, np.sin(2 * np.pi * hz * t) * np.exp(-t / 0.0015), "same")
    share = np.linspace(0, 1, n)
    return np.asarray(cloud * np.minimum(1, share / 0.1) * np.minimum(1, (1 - share) / 0.5))


def drone(random: np.random.Generator, seconds: float) -> Mono:
    """A held chord that swells a little."""
    t = np.arange(int(seconds * RATE_HZ)) / RATE_HZ
    root = random.uniform(60, 180)
    parts = [np.sin(2 * np.pi * root * ratio * t + random.uniform(0, 6)) for ratio in (1, 1.501, 2, 3.003)]
    return np.asarray(sum(parts) / 4 * (1 + 0.15 * np.sin(2 * np.pi * 0.2 * t + random.uniform(0, 6))))


_STYLES = ("band", "strings", "drums", "choir")


def _noise(random: np.random.Generator, frames: int, level_dbfs: float) -> Mono:
    return np.asarray(random.standard_normal(frames) * 10 ** (level_dbfs / 20) / np.sqrt(2))


def _ending(random: np.random.Generator, noise_dbfs: float | None) -> Cut:
    """A piece that ends, with its room behind it; cut where its last bar ends."""
    seconds = float(random.uniform(8, 14))
    style = str(random.choice(_STYLES))
    piece = music(random, seconds, style, float(random.uniform(60, 160)))
    rt60 = float(np.exp(random.uniform(np.log(0.4), np.log(8))))
    whole = np.concatenate((0.7 * room(piece, rt60, float(random.uniform(0.15, 0.5)), random), np.zeros(4 * RATE_HZ)))
    if noise_dbfs is not None:
        whole += _noise(random, len(whole), noise_dbfs)
    return Cut(f"ends, {style}", "tail", whole, len(piece) + int(random.uniform(-0.02, 0.08) * RATE_HZ))


def _ringing(random: np.random.Generator) -> Cut:
    """A piece whose last chord decays freely."""
    piece = music(random, float(random.uniform(6, 10)), str(random.choice(_STYLES)), float(random.uniform(60, 160)))
    whole = np.concatenate((piece, np.zeros(8 * RATE_HZ)))
    at = len(piece)
    for hz in random.choice([110, 138.6, 164.8, 220, 277.2, 329.6], 4, replace=False):
        put(
            whole, note(float(hz), 8, float(random.uniform(0.4, 2.0))), at + int(random.uniform(0, 0.05) * RATE_HZ), 0.4
        )
    whole = 0.6 * room(whole, float(random.uniform(0.5, 2.5)), 0.25, random)
    return Cut("last chord rings", "tail", whole, at + int(random.uniform(0.3, 2.0) * RATE_HZ))


def _middle(random: np.random.Generator, at_bar: bool) -> Cut:
    bpm, style = float(random.uniform(60, 160)), str(random.choice(_STYLES))
    piece = room(music(random, 20, style, bpm), float(random.uniform(0.3, 2.5)), 0.25, random)
    at = round(4 * 240 / bpm * RATE_HZ) if at_bar and 960 / bpm < 15 else int(random.uniform(6, 15) * RATE_HZ)
    return Cut(f"mid-song, {style}", "music", 0.7 * piece, at)


def _quiet_outro(random: np.random.Generator) -> Cut:
    first = music(random, 10, "band", 120.0)
    outro = music(random, 10, str(random.choice(("strings", "choir"))), float(random.uniform(60, 100)))
    whole = np.concatenate((first, outro * 10 ** (-random.uniform(15, 35) / 20)))
    return Cut("quiet outro continues", "music", 0.7 * room(whole, 1.2, 0.25, random), len(first))


def _fade_out(random: np.random.Generator) -> Cut:
    piece = music(random, 18, str(random.choice(_STYLES)), float(random.uniform(70, 150)))
    fade = 10 ** (-np.clip((np.arange(len(piece)) / RATE_HZ - 10) / 12, 0, 1) * 60 / 20)
    return Cut("within a fade-out", "music", 0.7 * piece * fade, int(random.uniform(9, 14) * RATE_HZ))


def _a_cappella(random: np.random.Generator) -> Cut:
    piece = room(music(random, 20, "vocals", float(random.uniform(60, 120))), 1.5, 0.3, random)
    return Cut("a cappella continues", "music", 0.6 * piece, int(random.uniform(5, 14) * RATE_HZ))


def _drone(random: np.random.Generator) -> Cut:
    piece = np.concatenate((music(random, 10, "band", 100.0), np.zeros(10 * RATE_HZ)))
    whole = room(piece, 1.0, 0.3, random)
    whole[: 20 * RATE_HZ] += drone(random, 20) * 10 ** (-random.uniform(12, 40) / 20)
    return Cut("a drone continues", "ask", 0.7 * whole, 10 * RATE_HZ)


def _applause_after(random: np.random.Generator) -> Cut:
    piece = np.concatenate((music(random, 10, str(random.choice(_STYLES)), 110.0), np.zeros(12 * RATE_HZ)))
    whole = room(piece, float(random.uniform(0.8, 2.5)), 0.35, random)
    put(whole, applause(random, 9), int((10 + random.uniform(0.5, 2.5)) * RATE_HZ), 10 ** (-random.uniform(3, 15) / 20))
    return Cut("applause after the end", "ask", 0.7 * whole + _noise(random, len(whole), -60), 10 * RATE_HZ)


def _little_left(random: np.random.Generator) -> Cut:
    cut = _ending(random, None)
    return Cut("little left", "ask", cut.sound[: cut.frame + int(random.uniform(0.3, 1.2) * RATE_HZ)], cut.frame)


PLAN: tuple[tuple[Callable[[np.random.Generator], Cut], int], ...] = (
    (lambda random: _ending(random, None), 70),
    (lambda random: _ending(random, float(random.uniform(-62, -42))), 45),
    (_ringing, 45),
    (lambda random: _middle(random, True), 45),
    (lambda random: _middle(random, False), 45),
    (_quiet_outro, 40),
    (_fade_out, 35),
    (_a_cappella, 40),
    (_drone, 18),
    (_applause_after, 18),
    (_little_left, 19),
)


def cuts(seed: int = 1) -> Iterator[Cut]:
    """Every cut of the plan: 420, each from a seed of its own; a sample of each kind."""
    number = 0
    for make, count in PLAN:
        yield from (
            make(np.random.default_rng((seed, one))) for one in sampled(range(number + 1, number + count + 1), 7)
        )
        number += count


@dataclass(frozen=True, slots=True)
class Recording:
    """A noisy recording, and the frames where the music in it begins and ends."""

    kind: str
    sound: Mono
    start: int
    end: int


def recordings(seed: int = 1, count: int = 60) -> Iterator[Recording]:
    """Noise from −70 to −40 dBFS, white, pink or hum, drifting by up to 3 dB; half with knocks before the music."""
    for number in sampled(range(count), 5):
        random = np.random.default_rng((seed, 9_000 + number))
        lead, dead, length = random.uniform(1.5, 6), random.uniform(3, 24), random.uniform(25, 60)
        style = str(random.choice(("band", "strings", "choir")))
        piece = room(music(random, float(length), style, float(random.uniform(70, 140))), 1.2, 0.3, random)
        if number % 3 == 0:
            soft = int(1.5 * RATE_HZ)
            piece[:soft] *= np.linspace(0, 1, soft) ** 2
        piece *= 0.5 / np.abs(piece).max()
        frames = int(lead * RATE_HZ) + len(piece) + int(dead * RATE_HZ)
        level = float(random.uniform(-70, -40))
        kind = ("white", "pink", "hum")[number % 3]
        noise = random.standard_normal(frames)
        if kind == "pink":
            spectrum = np.fft.rfft(noise)
            spectrum /= np.sqrt(np.maximum(np.arange(len(spectrum)), 20.0))
            noise = np.fft.irfft(spectrum, frames)
        if kind == "hum":
            t = np.arange(frames) / RATE_HZ
            noise = 0.3 * noise + np.sin(2 * np.pi * 50 * t) + 0.5 * np.sin(2 * np.pi * 150 * t)
        noise *= 10 ** (level / 20) / np.sqrt(2) / np.sqrt((noise**2).mean())
        noise *= 10 ** (np.linspace(0, random.uniform(-3, 3), frames) / 20)
        clean = np.zeros(frames)
        at = int(lead * RATE_HZ)
        clean[at : at + len(piece)] = piece
        whole = clean + noise
        if number % 2:
            for _ in range(2):
                place = int(random.uniform(0.2, lead - 0.8) * RATE_HZ)
                put(whole, drum(random, True)[: int(0.15 * RATE_HZ)], place, 10 ** (-30 / 20))
        start, end = _audible(clean, noise)
        yield Recording(f"{kind}, {style}, {level:.0f} dBFS", whole, start, end)


def _audible(clean: Mono, noise: Mono) -> tuple[int, int]:
    """From where to where the clean music passes the noise in its best third of an octave or so."""
    size, hop = 512, 110
    window = np.hanning(size)
    bands = np.geomspace(80, 5000, 21) * size / RATE_HZ

    def levels(sound: Mono) -> NDArray[np.float64]:
        starts = range(0, len(sound) - size, hop)
        power = np.array([np.abs(np.fft.rfft(sound[at : at + size] * window)) ** 2 for at in starts])
        edges = np.maximum(1, np.round(bands).astype(int))
        return np.stack([power[:, a : max(b, a + 1)].sum(axis=1) for a, b in pairwise(edges)], axis=1)

    level = np.median(levels(noise), axis=0)
    heard = np.flatnonzero((levels(clean) > level).any(axis=1))
    return int(heard[0]) * hop + size // 2, int(heard[-1]) * hop + size // 2
