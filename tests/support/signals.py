"""Signals made from seeds, and files written by a library that is not ours."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import soundfile

from ripe_press.core.blocks import BLOCK_FRAMES, Block


def sine(hz: float, seconds: float, rate_hz: int, amplitude: float = 0.5, channels: int = 2) -> Block:
    frames = round(seconds * rate_hz)
    wave = amplitude * np.sin(2 * np.pi * hz * np.arange(frames) / rate_hz)
    return np.repeat(wave[:, None], channels, axis=1)


def noise(frames: int, channels: int = 2, seed: int = 1, level: float = 0.1) -> Block:
    return np.random.default_rng(seed).standard_normal((frames, channels)) * level


def ramp16(frames: int, channels: int = 2) -> np.ndarray:
    """Every 16-bit code in turn, so that a wrong code anywhere is seen."""
    codes = (np.arange(frames * channels) * 7919) % 65536 - 32768
    return codes.reshape(frames, channels).astype(np.int16)


def write(path: Path, samples: np.ndarray, rate_hz: int, subtype: str = "FLOAT", format: str = "WAV") -> Path:
    soundfile.write(path, samples, rate_hz, subtype=subtype, format=format)
    return path


def rms_db(samples: np.ndarray) -> float:
    """RMS in dB re 1.0."""
    return float(10 * np.log10(np.mean(np.square(samples)) + 1e-300))


def sine_levels_db(samples: np.ndarray, hz: list[float], rate_hz: int) -> list[float]:
    """The peak level in dBFS of each sine in a mono signal of whole periods (least squares)."""
    turns = 2j * np.pi * np.arange(len(samples)) / rate_hz
    return [20 * np.log10(2 * abs(np.mean(samples * np.exp(-turns * one))) + 1e-300) for one in hz]


def in_blocks(samples: Block, block_frames: int = BLOCK_FRAMES) -> Iterator[Block]:
    """An array cut into blocks."""
    for start in range(0, len(samples), block_frames):
        yield samples[start : start + block_frames]


def piece(seconds: float = 40.0, seed: int = 1, head_s: float = 0.5, rate_hz: int = 48_000) -> Block:
    """Noise that swells and beats as music does, behind a silence."""
    rng = np.random.default_rng(seed)
    steps = np.cumsum(rng.normal(0, 2.0, int(seconds * 4) + 2))
    levels = -20 + 8 * np.tanh(steps / 8)
    at = np.linspace(0, len(levels) - 1, int(seconds * rate_hz))
    swell = 10 ** (np.interp(at, np.arange(len(levels)), levels) / 20)
    beats = np.repeat(10 ** (rng.uniform(-10, 0, int(seconds * 6) + 1) / 20), rate_hz // 6 + 1)[: len(swell)]
    sound = noise(len(swell), seed=seed, level=1.0) * (swell * beats)[:, None]
    return np.concatenate((np.zeros((int(head_s * rate_hz), 2)), sound))
