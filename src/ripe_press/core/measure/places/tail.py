"""What follows a cut: nothing, a tail that decays, or the music, which continues.

A tail only falls; what rises again is music. Levels of 50 ms over the three seconds after the cut, smoothed and held
above the noise of the recording, are examined for how far they climb above their lowest point so far, all together and
in single bands, and for how fast they still fall at the end. Thresholds and error rates: ``docs/detectors.md``.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.measure.bands import BandLevels
from ripe_press.core.measure.loudness import LoudnessResult

Levels = NDArray[np.floating]
After = Literal["nothing", "tail", "music", "unsure"]

SEEN_S = 3.0
LEAST_S = 2.8
"""With less than this after the cut there is too little to tell a tail from music."""
STEP_S = 0.05
_SKIPPED_S = 0.1
_ABOVE_FLOOR_DB = 3.0
_LOWEST_DBFS = -85.0
_QUIET_S = 0.3
_APART_S = 1.0
"""After so long a silence a tail is over, whatever follows."""
_BAND_DEPTH_DB = 45.0
"""Bands that lie further below the loudest do not count."""
_CROWD_S, _CROWD_WAVERS_DB = 1.2, 8.0
_CROWD_LOW_BANDS, _CROWD_LOW_DB, _CROWD_WIDE_DB = 4, -10.0, -24.0


@dataclass(frozen=True, slots=True)
class Tail:
    """What follows a cut. ``decay_s`` is how long a tail, or what may be one, sounds until it has decayed.

    ``music_s`` is how long after the cut the music rises again, where that was found.
    """

    kind: After
    decay_s: float = 0.0
    music_s: float | None = None


NOTHING_FOLLOWS = Tail("nothing")


def levels_dbfs(loudness: LoudnessResult, start_s: float = 0.0, end_s: float = 1e9, step_s: float = STEP_S) -> Levels:
    """RMS of every ``step_s`` between two times, all channels, in dBFS as a full-scale sine reads 0."""
    part = loudness.within(max(0.0, start_s), end_s).plain
    power = part.mean(axis=1) if len(part) else np.zeros(0)
    width = max(1, round(step_s / loudness.stretch_s))
    whole = len(power) // width
    means = power[: whole * width].reshape(whole, width).mean(axis=1)
    return np.asarray(10 * np.log10(np.maximum(2 * means, 1e-20)))


def floor_dbfs(loudness: LoudnessResult) -> float:
    """The level that a hundredth of a recording lies below: its noise, or less."""
    levels = levels_dbfs(loudness)
    return float(np.percentile(levels, 1)) if len(levels) else -200.0


def what_follows(
    loudness: LoudnessResult, bands: BandLevels, cut_s: float, floor: float, below_dbfs: float, limit_s: float
) -> Tail:
    """What follows a cut at a time: ``floor`` is `floor_dbfs` of the whole, ``below_dbfs`` counts as silence.

    A tail is followed for ``limit_s`` at most.
    """
    levels = levels_dbfs(loudness, cut_s, cut_s + max(limit_s, SEEN_S))
    quiet = max(below_dbfs, floor + _ABOVE_FLOOR_DB)
    decay_s = _decay_s(levels, quiet)
    if decay_s <= STEP_S:
        # The rest of the step that contains the cut.
        return NOTHING_FOLLOWS
    seen_s = SEEN_S
    rest = levels[round(decay_s / STEP_S) :][: round(_APART_S / STEP_S)]
    if len(rest) * STEP_S >= _QUIET_S and not (rest > quiet).any():
        # What begins after a pause is another matter.
        seen_s = min(SEEN_S, decay_s + _APART_S)
    heard = levels[round(_SKIPPED_S / STEP_S) : round(seen_s / STEP_S)]
    climb = _climb(heard[:, None], max(floor + _ABOVE_FLOOR_DB, _LOWEST_DBFS))[0]
    in_bands = _climb_in_bands(bands, cut_s, seen_s)
    kind = _kind(climb, in_bands, heard, floor, seen_s < SEEN_S)
    if kind == "music" and _like_applause(bands, cut_s):
        kind = "unsure"
    return Tail(kind, min(decay_s, limit_s), _rise_s(levels, quiet) if kind == "music" else None)


def _decay_s(levels: Levels, quiet: float) -> float:
    """How long it takes until the level stays quiet for a while."""
    loud = levels > quiet
    width = round(_QUIET_S / STEP_S)
    for at in range(len(loud)):
        if not loud[at : at + width].any():
            return at * STEP_S
    return len(loud) * STEP_S


def _smooth(levels: Levels) -> Levels:
    """Means of four steps in a row, column by column."""
    sums = np.cumsum(np.concatenate((np.repeat(levels[:1], 3, axis=0), levels)), axis=0)
    return np.asarray((sums[3:] - np.concatenate((np.zeros_like(sums[:1]), sums[:-4]))) / 4)


def _climb(levels: Levels, held: float) -> Levels:
    """How far each column climbs at most above its lowest point so far."""
    if not len(levels):
        return np.zeros(levels.shape[1])
    found = np.maximum(_smooth(levels), held)
    return np.asarray((found - np.minimum.accumulate(found, axis=0)).max(axis=0))


def _climb_in_bands(bands: BandLevels, cut_s: float, seen_s: float) -> Levels:
    """The same in single bands, the largest first."""
    levels = bands.paired_db(cut_s + _SKIPPED_S, cut_s + seen_s)
    width = max(1, round(STEP_S / bands.step_s))
    whole = len(levels) // width
    if not whole:
        return np.zeros(8)
    powers = (10 ** (levels[: whole * width] / 10)).reshape(whole, width, -1).mean(axis=1)
    means = 10 * np.log10(powers)
    return np.sort(_climb(means, float(_smooth(means).max()) - _BAND_DEPTH_DB))[::-1]


def _like_applause(bands: BandLevels, cut_s: float) -> bool:
    """Return whether the last second is wide-band noise of almost constant level: applause, rain, a crowd."""
    levels = bands.paired_db(cut_s + SEEN_S - _CROWD_S, cut_s + SEEN_S)
    if len(levels) < 20:
        return False
    means = levels.mean(axis=0) - levels.mean(axis=0).max()
    wavers = float(np.median(np.diff(levels[::5], axis=0).std(axis=0)))
    low, rest = means[:_CROWD_LOW_BANDS], means[_CROWD_LOW_BANDS:]
    return bool(low.max() < _CROWD_LOW_DB and rest.min() > _CROWD_WIDE_DB and wavers < _CROWD_WAVERS_DB)


def _kind(climb: float, in_bands: Levels, heard: Levels, floor: float, decayed: bool) -> After:
    enough = len(heard) * STEP_S >= LEAST_S - _SKIPPED_S - STEP_S or decayed
    first, third = float(in_bands[0]), float(in_bands[2])
    if enough and (climb > 5 or third > 10 or first > 15):
        return "music"
    if not enough or climb > 3 or third > 6 or first > 10:
        return "unsure"
    half = heard[len(heard) // 2 :]
    if len(half) < 2 or decayed:
        return "tail"
    slope = float(np.polyfit(np.arange(len(half)) * STEP_S, half, 1)[0])
    above = float(np.median(heard[-20:])) - floor
    return "unsure" if slope > -2.5 and above > 8 else "tail"


def _rise_s(levels: Levels, quiet: float) -> float | None:
    """When the level first climbs by 4 dB above its lowest point."""
    found = np.maximum(_smooth(levels), quiet)
    climbed = np.flatnonzero(found - np.minimum.accumulate(found) > 4)
    return float(climbed[0]) * STEP_S if len(climbed) else None
