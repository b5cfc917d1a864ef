"""Settling levels: how much gain a target needs, found by walking the very signal that will be written.

Behind a limiter a loudness is sought on a sketch of the signal and then measured; what the two differ by is counted
in before the next try. The gain is the lowest that gives the loudness. Where the limiter would take off more than the
level allows, or another decibel of gain would win next to nothing, the search ends, and says so.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ripe_press.core.engine.resolve import decided_again
from ripe_press.core.engine.sketch import Sketch
from ripe_press.core.engine.stations import Level, Measure, Path
from ripe_press.core.engine.tree import merge
from ripe_press.core.engine.walker import Walker
from ripe_press.core.measure.signal import SignalResult

CLOSE_ENOUGH_LU = 0.02
MOST_ROUNDS = 6
MOST_GAIN_DB = 60.0
"""Silence and nearly silent mixes are not raised without end."""
LEAST_WON_LU = 0.2
"""What another decibel of gain must win behind a limiter to be worth what it does to the sound (our own choice)."""
UNCHANGED_DB = 0.005
"""A gain that prints as 0.0 dB, and is none: the samples are left as they are."""
_GRID_DB = 0.5

Bound = Literal["reduction", "won", "gain"]
"""What ends a search: the limiter takes off as much as it may, gain wins next to nothing, or gain itself is bounded."""


@dataclass(frozen=True, slots=True)
class Shortfall:
    """A loudness that is not reached: what comes out at the gain that was settled for, and what ended the search."""

    target_lufs: float
    reached_lufs: float
    bound: Bound


@dataclass(frozen=True, slots=True)
class Settlement:
    """The paths with their gains, and by their numbers the levels that fall short of what was asked for."""

    paths: tuple[Path, ...]
    shortfalls: Mapping[int, Shortfall]


def settle_levels(paths: Sequence[Path], should_stop: Callable[[], bool] = lambda: False) -> Settlement:
    """The paths with the gain of every level station filled in.

    The mix is read once for all deliveries whose level depends on the signal, and once more for each round of
    trials behind a limiter: one, mostly. Raises: Interrupted ``press.cancelled``; whatever reading raises.
    """
    open_paths = {number: path for number, path in enumerate(paths) if _level_of(path) is not None}
    if not open_paths:
        return Settlement(tuple(paths), {})
    found = _walk([_before(path) for path in open_paths.values()], should_stop)
    measured = dict(zip(open_paths, found, strict=True))
    gains, shortfalls = {}, {}
    for number, path in open_paths.items():
        level, signal = _needed(path), measured[number].signal
        gains[number] = first_gain(level, signal)
        wanted = level.target - signal.integrated_lufs
        if level.kind == "loudness" and math.isfinite(wanted) and wanted > gains[number] == MOST_GAIN_DB:
            shortfalls[number] = Shortfall(level.target, signal.integrated_lufs + MOST_GAIN_DB, "gain")
    limited = _behind_limiters(open_paths, measured, should_stop)
    gains |= {number: trial.gain_db for number, trial in limited.items()}
    shortfalls |= {number: trial.shortfall for number, trial in limited.items() if trial.shortfall}
    grouped = _same_gain(open_paths, gains)
    settled = [
        _with_gain(path, grouped[number], measured[number]) if number in grouped else path
        for number, path in enumerate(paths)
    ]
    return Settlement(tuple(settled), shortfalls)


def first_gain(level: Level, measured: SignalResult) -> float:
    """The gain in dB that meets a level, as far as gain alone goes and a limiter may follow; 0 for silence."""
    match level.kind:
        case "peak":
            gain = level.target - measured.sample_peak_dbfs
        case "true-peak":
            gain = level.target - measured.true_peak_dbtp
        case "loudness":
            gain = level.target - measured.integrated_lufs
            if math.isfinite(gain):
                # What has no loudness, for it is too short, is not raised to its ceiling instead.
                over = level.max_reduction_db if level.limit else 0.0
                gain = min(gain, level.ceiling_dbtp + over - measured.true_peak_dbtp)
        case _:
            gain = 0.0
    if not math.isfinite(gain):
        return 0.0
    return min(0.0, gain) if level.only_down else min(MOST_GAIN_DB, gain)


@dataclass(frozen=True, slots=True)
class _Heard:
    """What a walk measured in front of a level station, or behind it."""

    signal: SignalResult
    sketch: Sketch | None


@dataclass(slots=True)
class _Search:
    """The search for one level behind its limiter: where to try next, and what was found there."""

    level: Level
    sketch: Sketch
    gain_db: float = 0.0
    aim_lufs: float = 0.0
    """The target; a few hundredths less where gain wins little, for then those cost most."""
    bound: Bound | None = None
    tries: tuple[tuple[float, float, float], ...] = ()
    """(gain, what the sketch foresaw, what was measured), in LUFS."""
    done: bool = False

    def __post_init__(self) -> None:
        self._aim()

    @property
    def shortfall(self) -> Shortfall | None:
        if not self.bound or self.level.only_down:
            return None
        reached = self.tries[-1][2]
        if reached >= self.level.target - 2 * CLOSE_ENOUGH_LU:
            return None
        return Shortfall(self.level.target, reached, self.bound)

    def take(self, measured_lufs: float) -> None:
        """What was measured at ``gain_db``; sets where to try next, unless this is where to stay."""
        self.tries = (*self.tries, (self.gain_db, self._foreseen(self.gain_db), measured_lufs))
        before = self.gain_db
        self._aim()
        off = abs(measured_lufs - self.aim_lufs)
        stays = abs(self.gain_db - before) < CLOSE_ENOUGH_LU / 4
        self.done = stays or (off <= CLOSE_ENOUGH_LU and abs(self.gain_db - before) < 0.1)
        if self.done or len(self.tries) == MOST_ROUNDS:
            # What was measured is kept: the nearest to the target, the softest of those that are as near.
            best = min(self.tries, key=lambda one: (round(abs(one[2] - self.aim_lufs) / CLOSE_ENOUGH_LU), one[0]))
            self.gain_db, self.done = best[0], True
            self.tries = (*(one for one in self.tries if one is not best), best)

    def _aim(self) -> None:
        """The lowest gain that is expected to give the target, or the last before harm."""
        level, target = self.level, self.level.target
        self.aim_lufs = target
        free = level.ceiling_dbtp - self.sketch.peak_dbtp
        most = min(MOST_GAIN_DB, free + level.max_reduction_db)
        if level.only_down:
            most = min(most, 0.0)
        # One grid for the target and for what a decibel wins.
        grid = np.append(np.arange(min(free, most), most, _GRID_DB), most)
        a_decibel = round(1 / _GRID_DB)
        loud: list[float] = []
        for at, gain in enumerate(grid):
            loud.append(self._expected(float(gain)))
            if loud[-1] >= target:
                slope = (loud[-1] - loud[-2]) / _GRID_DB if at else 1.0
                self.bound, self.aim_lufs = None, target - min(0.03, max(0.0, 0.05 - 0.15 * slope))
                self.gain_db = self._between(float(grid[max(0, at - 2)]), float(gain))
                return
            if at >= a_decibel and gain < most and loud[-1] - loud[at - a_decibel] < LEAST_WON_LU:
                self.bound, self.gain_db = "won", float(grid[at - a_decibel])
                return
        self.bound, self.gain_db = "reduction" if most == free + level.max_reduction_db else "gain", most

    def _between(self, low: float, high: float) -> float:
        """Where the target is met, by halving."""
        while high - low > CLOSE_ENOUGH_LU / 8:
            middle = (low + high) / 2
            if self._expected(middle) >= self.aim_lufs:
                high = middle
            else:
                low = middle
        return high

    def _foreseen(self, gain_db: float) -> float:
        return self.sketch.loudness_at(gain_db, self.level.ceiling_dbtp)

    def _expected(self, gain_db: float) -> float:
        """What the sketch foresees, put right by what was measured before."""
        foreseen = self._foreseen(gain_db)
        if not self.tries:
            return foreseen
        known = sorted((gain, measured - sketched) for gain, sketched, measured in self.tries)
        gains, errors = zip(*known, strict=True)
        return foreseen + float(np.interp(gain_db, gains, errors))


def _behind_limiters(
    paths: dict[int, Path], measured: dict[int, _Heard], should_stop: Callable[[], bool]
) -> dict[int, _Search]:
    """Searches for which the limited signal has the loudness that is asked for, or as much as it may have."""
    searches: dict[int, _Search] = {}
    for number, path in paths.items():
        level, found = _needed(path), measured[number]
        if not found.sketch or not math.isfinite(found.signal.integrated_lufs):
            continue
        if found.sketch.peak_dbtp + first_gain(level, found.signal) > level.ceiling_dbtp:
            searches[number] = _Search(level, found.sketch)
    while waiting := [number for number, search in searches.items() if not search.done]:
        found_now = _walk([_through(paths[number], searches[number].gain_db) for number in waiting], should_stop)
        for number, result in zip(waiting, found_now, strict=True):
            searches[number].take(result.signal.integrated_lufs)
    return searches


def _same_gain(paths: dict[int, Path], gains: dict[int, float]) -> dict[int, float]:
    """Deliveries of a group all get the lowest gain that any of them needs, so that none exceeds what it asked."""
    lowest: dict[str, float] = {}
    for number, path in paths.items():
        group = _needed(path).group
        if group:
            lowest[group] = min(gains[number], lowest.get(group, math.inf))
    return {number: lowest.get(_needed(path).group, gains[number]) for number, path in paths.items()}


def _walk(paths: list[Path], should_stop: Callable[[], bool]) -> list[_Heard]:
    (root,) = merge(paths)
    report = Walker(root, {}).run(lambda _done, _total: None, should_stop)
    return [_heard(report.measured[number], report.sketches.get(number)) for number in range(len(paths))]


def _heard(signal: SignalResult, sketch: Sketch | None) -> _Heard:
    if sketch and sketch.peak_linear and not math.isfinite(signal.integrated_lufs):
        # All of it lies below the gate at −70 LUFS, and above it once it is raised.
        raised = sketch.loudness_at(MOST_GAIN_DB, math.inf) - MOST_GAIN_DB
        signal = replace(signal, integrated_lufs=raised)
    return _Heard(signal, sketch)


def _level_of(path: Path) -> Level | None:
    return next((one for one in path if isinstance(one, Level) and one.gain_db is None and not one.idle), None)


def _needed(path: Path) -> Level:
    return next(one for one in path if isinstance(one, Level))


def _before(path: Path) -> Path:
    """Everything up to the level station, and a meter that sketches where a limiter is to be foreseen."""
    at = next(number for number, one in enumerate(path) if isinstance(one, Level))
    level = _needed(path)
    return (*path[:at], Measure(level.max_reduction_db if level.limits else None))


def _through(path: Path, gain_db: float) -> Path:
    return (*_before(path)[:-1], replace(_needed(path), gain_db=gain_db), Measure())


def _with_gain(path: Path, gain_db: float, heard: _Heard) -> Path:
    level = _needed(path)
    peak = heard.sketch.peak_dbtp if heard.sketch else -math.inf
    untouched = abs(gain_db) < UNCHANGED_DB and not (level.limits and peak > level.ceiling_dbtp)
    settled = replace(level, gain_db=0.0 if untouched else gain_db, untouched=untouched)
    made = tuple(settled if one is level else one for one in path)
    return decided_again(made) if untouched else made


_PEAK_MARGIN_DB = 3.0


def foreseen(path: Path, signal: SignalResult) -> Path:
    """A path as it will be, where it is sure before the signal is walked that nothing is to be done at its level.

    Where only a sample peak is known in place of a true peak, a limiter is taken to act from 3 dB below its ceiling.
    """
    level = _level_of(path)
    if level is None or level.group:
        return path
    margin = 0.0 if signal.true_peak_dbtp > signal.sample_peak_dbfs else _PEAK_MARGIN_DB
    limited = level.limits and signal.true_peak_dbtp + margin > level.ceiling_dbtp
    if limited or abs(first_gain(level, signal)) >= UNCHANGED_DB:
        return path
    return decided_again(tuple(replace(one, untouched=True, gain_db=0.0) if one is level else one for one in path))
