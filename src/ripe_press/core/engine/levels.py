"""Settling levels: how much gain a target needs, found by walking the very signal that will be written."""

import math
from collections.abc import Callable, Sequence
from dataclasses import replace

from ripe_press.core.engine.stations import Level, Measure, Path
from ripe_press.core.engine.tree import merge
from ripe_press.core.engine.walker import Walker
from ripe_press.core.measure.signal import SignalResult

CLOSE_ENOUGH_LU = 0.03
MOST_ROUNDS = 6
MOST_GAIN_DB = 60.0
"""Silence and nearly silent mixes are not raised without end."""


def settle_levels(paths: Sequence[Path], should_stop: Callable[[], bool] = lambda: False) -> tuple[Path, ...]:
    """The paths with the gain of every level station filled in, met within 0.03 LU where a limiter shapes it.

    The mix is read once for all deliveries whose level depends on the signal, and once more for each round of
    trials behind a limiter. Raises: Interrupted ``press.cancelled``; whatever reading raises.
    """
    open_paths = {number: path for number, path in enumerate(paths) if _level_of(path) is not None}
    if not open_paths:
        return tuple(paths)
    found = _walk([_before(path) for path in open_paths.values()], should_stop)
    measured = dict(zip(open_paths, found, strict=True))
    gains = {number: first_gain(_needed(path), measured[number]) for number, path in open_paths.items()}
    gains |= _behind_limiters(open_paths, gains, measured, should_stop)
    grouped = _same_gain(open_paths, gains)
    return tuple(_with_gain(path, grouped[number]) if number in grouped else path for number, path in enumerate(paths))


def first_gain(level: Level, measured: SignalResult) -> float:
    """The gain in dB that meets a level, as far as gain alone goes; 0 for silence."""
    match level.kind:
        case "peak":
            gain = level.target - measured.sample_peak_dbfs
        case "true-peak":
            gain = level.target - measured.true_peak_dbtp
        case "loudness":
            gain = level.target - measured.integrated_lufs
            if not level.limit:
                gain = min(gain, level.ceiling_dbtp - measured.true_peak_dbtp)
        case _:
            gain = 0.0
    if not math.isfinite(gain):
        return 0.0
    return min(0.0, gain) if level.only_down else min(MOST_GAIN_DB, gain)


def _behind_limiters(
    paths: dict[int, Path], gains: dict[int, float], measured: dict[int, SignalResult], should_stop: Callable[[], bool]
) -> dict[int, float]:
    """Gains for which the limited signal has the loudness that is asked for."""
    trials: dict[int, list[tuple[float, float]]] = {}
    for number, path in paths.items():
        level, gain = _needed(path), gains[number]
        pressed = measured[number].true_peak_dbtp + gain > level.ceiling_dbtp
        if level.limits and pressed and math.isfinite(measured[number].integrated_lufs):
            trials[number] = []
    settled: dict[int, float] = {}
    for _ in range(MOST_ROUNDS):
        waiting = [number for number in trials if number not in settled]
        if not waiting:
            break
        tried = {
            number: _next_trial(_needed(paths[number]).target, gains[number], trials[number]) for number in waiting
        }
        found = _walk([_through(paths[number], tried[number]) for number in waiting], should_stop)
        for number, result in zip(waiting, found, strict=True):
            trials[number].append((tried[number], result.integrated_lufs))
            level = _needed(paths[number])
            reached = abs(result.integrated_lufs - level.target) <= CLOSE_ENOUGH_LU
            if reached or (level.only_down and tried[number] >= 0):
                settled[number] = tried[number]
    for number, tries in trials.items():
        target = _needed(paths[number]).target
        settled.setdefault(number, min(tries, key=lambda one: abs(one[1] - target))[0])
    return settled


def _next_trial(target: float, first: float, tries: list[tuple[float, float]]) -> float:
    """By the secant through the last two trials; the louder it is limited, the less a decibel of gain gives."""
    if not tries:
        return first
    gain, loudness = tries[-1]
    if len(tries) == 1:
        return gain + (target - loudness)
    before, softer = tries[-2]
    slope = (loudness - softer) / (gain - before) if gain != before else 1.0
    return min(MOST_GAIN_DB, gain + (target - loudness) / max(0.05, slope))


def _same_gain(paths: dict[int, Path], gains: dict[int, float]) -> dict[int, float]:
    """Deliveries of a group all get the lowest gain that any of them needs, so that none exceeds what it asked."""
    lowest: dict[str, float] = {}
    for number, path in paths.items():
        group = _needed(path).group
        if group:
            lowest[group] = min(gains[number], lowest.get(group, math.inf))
    return {number: lowest.get(_needed(path).group, gains[number]) for number, path in paths.items()}


def _walk(paths: list[Path], should_stop: Callable[[], bool]) -> list[SignalResult]:
    (root,) = merge(paths)
    report = Walker(root, {}).run(lambda _done, _total: None, should_stop)
    return [report.measured[number] for number in range(len(paths))]


def _level_of(path: Path) -> Level | None:
    return next((one for one in path if isinstance(one, Level) and one.gain_db is None and not one.idle), None)


def _needed(path: Path) -> Level:
    return next(one for one in path if isinstance(one, Level))


def _before(path: Path) -> Path:
    """Everything up to the level station, and a meter."""
    at = next(number for number, one in enumerate(path) if isinstance(one, Level))
    return (*path[:at], Measure())


def _through(path: Path, gain_db: float) -> Path:
    return (*_before(path)[:-1], replace(_needed(path), gain_db=gain_db), Measure())


def _with_gain(path: Path, gain_db: float) -> Path:
    return tuple(replace(one, gain_db=gain_db) if isinstance(one, Level) else one for one in path)
