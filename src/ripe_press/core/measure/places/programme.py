"""Where a programme begins and ends in a recording that is never silent, and the noise that lies under it.

A print of the noise is taken from the quietest stretches: the level of each band there and how much it varies. A level
above it in a few bands for a while is the programme. The start is looked for with a print of the first half, the end
with one of the second, for noise drifts. Where the quietest stretches are not steady noise, there is neither print nor
result: silence is then decided by level alone.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.measure.bands import BandLevels
from ripe_press.core.measure.loudness import LoudnessResult
from ripe_press.core.measure.places.silence import SILENT_BELOW_DBFS, SilenceResult
from ripe_press.core.measure.places.tail import levels_dbfs

Levels = NDArray[np.floating]

SILENT_ABOVE_NOISE_DB = 10.0
"""Silence is what lies up to here above the noise floor, unless another threshold is set."""
LEAST_NOISE_DBFS = -85.0
"""Noise below this level does not matter."""
MOST_NOISE_DBFS = -30.0
LEAD_S, TRAIL_S = 0.1, 0.5
"""Margin before and after the programme, so that no soft sound is cut."""
_WINDOW_S = 0.25
_QUIETEST = (1 / 12, 1 / 50, 1 / 200)
_LEAST_WINDOWS = 4
_SMOOTHED = 5
_STANDING_OUT = 5
_ON, _OUT = 3.0, 1.4
_HELD_S, _HELD = 0.4, 0.8
_LEAST_SPREAD_DB = 1.0
_STEADY_DB = 3.0
"""How much the bands of steady noise vary at most, in their smoothed levels."""
_BELOW_PROGRAMME_DB = 12.0


_RUN_S = 0.2
"""Shorter sounds above a threshold that was set count as knocks."""


@dataclass(frozen=True, slots=True)
class Sounding:
    """From which frame up to which a mix sounds, the noise under it, and the level that counts as silence.

    ``noise_dbfs`` is None where no noise is separable from the programme. Both levels as a full-scale sine reads 0. The
    frames are equal where nothing sounds.
    """

    start_frame: int
    end_frame: int
    silence_dbfs: float = SILENT_BELOW_DBFS
    noise_dbfs: float | None = None

    @property
    def frames(self) -> tuple[int, int]:
        """Both frames."""
        return self.start_frame, self.end_frame


def sounding_of(
    silence: SilenceResult, loudness: LoudnessResult, bands: BandLevels, rate_hz: int, silence_dbfs: float | None = None
) -> Sounding:
    """Where a mix sounds: above a level that is set, or else where it stands out of its own noise."""
    first, last = silence.sounding
    found = find_programme(bands)
    start_s, end_s = found.start_s, found.end_s
    length_s = silence.frames / rate_hz
    noise = _noise_dbfs(loudness, start_s or 0.0, length_s if end_s is None else end_s, length_s)
    if silence_dbfs is not None:
        above = _above(levels_dbfs(loudness, step_s=loudness.stretch_s), silence_dbfs, loudness.stretch_s)
        if above is None:
            return Sounding(0, 0, silence_dbfs, noise)
        ends = (round(one * rate_hz) for one in above)
        start, end = (min(silence.frames, max(0, one)) for one in ends)
        return Sounding(start, end, silence_dbfs, noise)
    if noise is None or first >= last:
        return Sounding(first, last)
    if start_s is not None:
        first = max(first, round(start_s * rate_hz))
    if end_s is not None:
        last = min(last, round(end_s * rate_hz))
    level = max(SILENT_BELOW_DBFS, noise + SILENT_ABOVE_NOISE_DB)
    return Sounding(first, max(first, last), level, noise)


def _noise_dbfs(loudness: LoudnessResult, start_s: float, end_s: float, length_s: float) -> float | None:
    """The level before and after the programme: of the louder of both."""
    places = [levels_dbfs(loudness, 0.0, start_s), levels_dbfs(loudness, end_s, length_s)]
    found = [float(np.median(one)) for one in places if len(one) >= 2]
    return max(found) if found and max(found) > LEAST_NOISE_DBFS else None


def _above(levels: NDArray[np.floating], threshold: float, step_s: float) -> tuple[float, float] | None:
    """Start and end times in s of levels above a threshold; anything shorter than 0.2 s does not begin or end one."""
    width = round(_RUN_S / step_s)
    on = levels > threshold
    if len(on) < width or not on.any():
        return None
    held = np.flatnonzero(np.convolve(on, np.ones(width), "valid") >= width / 2)
    if not len(held):
        return None
    first = int(held[0]) + int(np.argmax(on[held[0] : held[0] + width]))
    behind = int(held[-1]) + width - int(np.argmax(on[held[-1] : held[-1] + width][::-1]))
    return first * step_s, behind * step_s


@dataclass(frozen=True, slots=True)
class Programme:
    """From where to where it sounds, in seconds, with a little lead and trail; None where that end has no noise."""

    start_s: float | None
    end_s: float | None


@dataclass(frozen=True, slots=True)
class _Print:
    level: Levels
    spread: Levels


def find_programme(bands: BandLevels) -> Programme:
    """Where the programme begins and ends by the prints of its noise."""
    levels = _smooth(bands.paired_db())
    half = len(levels) // 2
    step_s = bands.step_s
    start = end = None
    loud = float(np.percentile(_broad(levels), 90)) if len(levels) else -200.0
    if noise := _print(levels[:half], step_s, loud):
        start = _first(levels[:half], noise, step_s)
    if noise := _print(levels[half:], step_s, loud):
        back = _first(levels[half:][::-1], noise, step_s)
        end = None if back is None else len(levels) - back
    return Programme(
        None if start is None else max(0.0, start * step_s - LEAD_S),
        None if end is None else min(bands.seconds, end * step_s + TRAIL_S),
    )


def _smooth(levels: Levels) -> Levels:
    if len(levels) < _SMOOTHED:
        return levels
    sums = np.cumsum(
        np.concatenate((np.repeat(levels[:1], 3, axis=0), levels, np.repeat(levels[-1:], 2, axis=0))), axis=0
    )
    return np.asarray((sums[_SMOOTHED:] - sums[:-_SMOOTHED]) / _SMOOTHED)


def _broad(levels: Levels) -> Levels:
    return np.asarray(10 * np.log10((10 ** (levels / 10)).sum(axis=1)))


def _print(levels: Levels, step_s: float, loud: float) -> _Print | None:
    width = round(_WINDOW_S / step_s)
    count = len(levels) // width
    if count < 4:
        return None
    windows = levels[: count * width].reshape(count, width, -1)
    broad = _broad(windows.mean(axis=1))
    # Digital silence has no noise.
    sounding = np.flatnonzero(broad > LEAST_NOISE_DBFS)
    if len(sounding) < 4:
        return None
    order = sounding[np.argsort(broad[sounding])]
    # Of a long recording the noise alone may be heard in a few seconds only.
    for share in _QUIETEST:
        quietest = order[: max(_LEAST_WINDOWS, round(len(sounding) * share))]
        level_dbfs = float(np.median(broad[quietest]))
        if level_dbfs > min(MOST_NOISE_DBFS, loud - _BELOW_PROGRAMME_DB):
            return None
        rows = windows[quietest].reshape(-1, levels.shape[1])
        middle = np.median(rows, axis=0)
        # Of what lies below the middle: a knock or a note among the quietest stretches does not count.
        spread = middle - np.percentile(rows, 16, axis=0)
        if float(np.median(spread)) <= _STEADY_DB:
            return _Print(middle.astype(np.float32), np.maximum(_LEAST_SPREAD_DB, spread).astype(np.float32))
    return None


def _first(levels: Levels, noise: _Print, step_s: float) -> int | None:
    """The first step of the programme; None where it sounds from the very beginning, or never."""
    apart = (levels - noise.level) / noise.spread
    z = np.sort(apart, axis=1)[:, -_STANDING_OUT:].mean(axis=1)
    on = z > _ON
    held = round(_HELD_S / step_s)
    if len(on) < held:
        return None
    share = np.convolve(on, np.ones(held) / held, "valid")
    found = np.flatnonzero(share >= _HELD)
    if not len(found):
        return None
    at = int(found[0]) + int(np.argmax(on[found[0] : found[0] + held]))
    # Back to where the sound rises out of the noise.
    while at > 0 and (z[max(0, at - 3) : at] > _OUT).any():
        at -= 1
    return at if at > round(0.05 / step_s) else None
