"""The instruments of the demo: each gives one note as mono float32, from a few partials and a decay."""

from collections.abc import Callable
from functools import cache

import numpy as np
from numpy.typing import NDArray

Mono = NDArray[np.float32]
Note = Callable[[int, float], Mono]
"""(rate in Hz, MIDI note number or other pitch) to samples."""


def frequency_of(midi: float) -> float:
    """Equal temperament, A4 = 69 = 440 Hz (ISO 16)."""
    return float(440.0 * 2.0 ** ((midi - 69.0) / 12.0))


def _partials(rate_hz: int, seconds: float, partials: list[tuple[float, float, float]], attack_s: float) -> Mono:
    """A sum of decaying sines: (frequency in Hz, amplitude, time in s to fall to 1/e)."""
    times = np.arange(int(seconds * rate_hz), dtype=np.float32) / np.float32(rate_hz)
    out = np.zeros(len(times), dtype=np.float32)
    for number, (hz, amplitude, fall_s) in enumerate(partials):
        if hz < 0.45 * rate_hz:
            # Phase in double precision: a float32 phase would be noise after a few seconds.
            phase = (np.arange(len(times)) * (hz / rate_hz) + 0.13 * number) % 1.0
            wave = np.sin(phase.astype(np.float32) * np.float32(2 * np.pi))
            out += np.float32(amplitude) * wave * np.exp(times * np.float32(-1.0 / fall_s))
    rise = max(2, int(attack_s * rate_hz))
    out[:rise] *= np.linspace(0.0, 1.0, rise, dtype=np.float32)
    fade = min(len(out), int(0.05 * rate_hz))
    out[-fade:] *= np.linspace(1.0, 0.0, fade, dtype=np.float32)
    return out


@cache
def plucked(rate_hz: int, midi: float) -> Mono:
    """A plucked string: slightly stretched harmonics, the high ones gone first."""
    hz = frequency_of(midi)
    partials = [
        (hz * k * np.sqrt(1 + 1.2e-4 * k * k), np.sin(np.pi * k * 0.21) / k, 1.5 / (1 + 0.28 * k)) for k in range(1, 19)
    ]
    return _partials(rate_hz, 2.6, partials, 0.0015)


@cache
def marimba(rate_hz: int, midi: float) -> Mono:
    """A wooden bar: its tuned fourth harmonic and a short knock."""
    hz = frequency_of(midi)
    return _partials(
        rate_hz,
        1.1,
        [(hz, 1.0, 0.30), (hz * 3.98, 0.32, 0.085), (hz * 10.6, 0.16, 0.022), (hz * 19.1, 0.07, 0.01)],
        0.001,
    )


@cache
def bass(rate_hz: int, midi: float) -> Mono:
    """A round bass string."""
    hz = frequency_of(midi)
    return _partials(rate_hz, 1.7, [(hz * k, 1.0 / k**1.5, 0.75 / k**0.5) for k in range(1, 8)], 0.006)


@cache
def hand_drum(rate_hz: int, stroke: float) -> Mono:
    """A hand drum: stroke 0 is the deep centre, 1 the dry rim."""
    random = np.random.default_rng(int(stroke * 100) + 7)
    length = int(0.6 * rate_hz)
    times = np.arange(length, dtype=np.float64) / rate_hz
    pitch = 62.0 + 130.0 * stroke + 60.0 * np.exp(-times / 0.02)
    skin = np.sin(2 * np.pi * np.cumsum(pitch) / rate_hz) * np.exp(-times / (0.16 - 0.08 * stroke))
    noise = random.standard_normal(length)
    noise[1:] -= (0.5 + 0.4 * stroke) * noise[:-1]
    slap = noise * np.exp(-times / (0.006 + 0.01 * stroke)) * (0.12 + 0.3 * stroke)
    return (skin * (1 - 0.5 * stroke) + slap).astype(np.float32)


def syllable(
    rate_hz: int, hz: float, seconds: float, vowel: tuple[float, float, float], breath: float, seed: int
) -> Mono:
    """A spoken syllable: harmonics of a gliding pitch under three formants (Hz), and a breath of noise before it."""
    length = int(seconds * rate_hz)
    shape = np.sin(np.pi * np.linspace(0, 1, length) ** 0.6) ** 0.7
    glide = hz * np.linspace(1.06, 0.9, length)
    turns = np.cumsum(glide) / rate_hz
    voice = np.zeros(length)
    for k in range(1, int(5200 / hz)):
        near = sum(
            gain / (1 + ((hz * k - formant) / width) ** 2)
            for formant, width, gain in zip(vowel, (70, 110, 170), (1.0, 0.6, 0.3), strict=True)
        )
        voice += near / k**0.35 * np.sin(2 * np.pi * ((turns * k) % 1.0))
    noise = np.random.default_rng(seed).standard_normal(int(0.09 * rate_hz))
    noise[1:] -= 0.85 * noise[:-1]
    hiss = noise * np.hanning(len(noise)) * breath
    out = np.zeros(length + len(hiss) // 2)
    out[: len(hiss)] += hiss[: len(out)]
    out[-length:] += voice * shape
    return out.astype(np.float32)
