"""The outboard unit's sound: a gentle compressor that saturates; late, with a converter's noise, by its own clock."""

from dataclasses import dataclass

import numpy as np
import soxr

from ripe_press.rack.wire import Frames

_STEP_FRAMES = 64
_THRESHOLD, _RATIO = 0.2, 2.0
_DRIVE = 0.8
_RELEASE_S = 0.15


@dataclass(frozen=True, slots=True)
class Character:
    """What a unit does to sound. Its clients cannot read it."""

    latency_frames: int = 0
    drift_ppm: float = 0.0
    noise_dbfs: float = -float("inf")
    warm: bool = False


class Outboard:
    """Sound in, sound out: later, processed, and by a clock of its own."""

    def __init__(self, rate_hz: int, channels: int, character: Character, seed: int = 7) -> None:
        self._channels = channels
        self._character = character
        self._noise = np.random.default_rng(seed)
        self._floor = 10 ** (character.noise_dbfs / 20)
        self._gain = 1.0
        self._release = float(np.exp(-_STEP_FRAMES / (_RELEASE_S * rate_hz)))
        self._held = np.zeros((0, channels), dtype=np.float32)
        self._line = np.zeros((character.latency_frames, channels), dtype=np.float32)
        self._clock = None
        if character.drift_ppm:
            # A faster clock takes more samples of the same sound.
            faster = rate_hz * (1 + character.drift_ppm * 1e-6)
            self._clock = soxr.ResampleStream(rate_hz, faster, channels, dtype="float32", quality="VHQ")

    def process(self, sent: Frames, *, last: bool = False) -> Frames:
        """What leaves for what came."""
        out = self._warmed(sent) if self._character.warm else sent
        delayed = np.concatenate((self._line, out))
        out, self._line = delayed[: len(sent)], delayed[len(sent) :]
        if self._clock is not None:
            out = self._clock.resample_chunk(np.ascontiguousarray(out), last=last).reshape(-1, self._channels)
        if self._floor:
            out = out + self._noise.standard_normal(out.shape).astype(np.float32) * np.float32(self._floor)
        return out

    def _warmed(self, sent: Frames) -> Frames:
        """Compressed two to one above −14 dBFS, by steps of 64 frames, and bent like tape."""
        out = np.empty_like(sent)
        for at in range(0, len(sent), _STEP_FRAMES):
            step = sent[at : at + _STEP_FRAMES]
            peak = float(np.abs(step).max(initial=0.0))
            wanted = (peak / _THRESHOLD) ** (1 / _RATIO - 1) if peak > _THRESHOLD else 1.0
            # Down at once, up slowly.
            gain = wanted if wanted < self._gain else wanted + (self._gain - wanted) * self._release
            ramp = np.linspace(self._gain, gain, len(step), endpoint=False, dtype=np.float32)[:, None]
            out[at : at + _STEP_FRAMES] = np.tanh(step * ramp * _DRIVE) / _DRIVE
            self._gain = gain
        return out
