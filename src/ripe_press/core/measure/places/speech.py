"""What platforms for spoken word check: RMS level, noise floor, and the room tone before and after the speech.

Levels are plain RMS, a full-scale sine at −3 dBFS, as such platforms state them (common practice, no source).
"""

import math
from dataclasses import dataclass

import numpy as np

from ripe_press.core.measure.loudness import LoudnessResult
from ripe_press.core.measure.places.tail import STEP_S, levels_dbfs
from ripe_press.core.units import db_of_power

_SINE_DB = 10 * math.log10(2)
_QUIETEST_S = 0.5
_ABOVE_NOISE_DB = 12.0
_BELOW_SPEECH_DB = 12.0
_HELD_S = 0.1


@dataclass(frozen=True, slots=True)
class Speech:
    """RMS of all of it, RMS of the quietest half second, and seconds before and after the speech."""

    rms_dbfs: float
    noise_dbfs: float
    head_s: float
    tail_s: float

    def raised(self, gain_db: float) -> "Speech":
        """The same at another gain."""
        return Speech(self.rms_dbfs + gain_db, self.noise_dbfs + gain_db, self.head_s, self.tail_s)


def speech_of(loudness: LoudnessResult) -> Speech:
    """Measurements of a spoken recording, from its energies."""
    rms = db_of_power(float(loudness.plain.mean())) - _SINE_DB if len(loudness.plain) else -math.inf
    levels = levels_dbfs(loudness) - _SINE_DB
    width = round(_QUIETEST_S / STEP_S)
    if len(levels) < width:
        return Speech(rms, -math.inf, 0.0, 0.0)
    powers = np.convolve(10 ** (levels / 10), np.ones(width) / width, "valid")
    noise = 10 * math.log10(float(powers.min())) if powers.min() > 1e-16 else -math.inf
    speaks = levels > max(-70.0, min(noise + _ABOVE_NOISE_DB, rms - _BELOW_SPEECH_DB))
    held = round(_HELD_S / STEP_S)
    runs = np.flatnonzero(np.convolve(speaks, np.ones(held), "valid") >= held)
    if not len(runs):
        return Speech(rms, noise, 0.0, 0.0)
    return Speech(rms, noise, float(runs[0]) * STEP_S, float(len(levels) - runs[-1] - held) * STEP_S)
