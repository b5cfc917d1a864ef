"""Settling levels: how much gain a target needs, found by walking the very signal that will be written.

Behind a limiter a loudness is sought on a sketch of the signal and then measured, mostly by the very walk that writes
the file; what the two differ by is counted in before the next try. The gain is the lowest that gives the loudness. The
search ends, with its reason, where the limiter would reduce more than the level allows, or another decibel of gain
would add almost nothing.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal, NamedTuple

import numpy as np

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.engine.resolve import PlannedFile, decided_again
from ripe_press.core.engine.walker import NO_FILES, walk
from ripe_press.core.measure.signal import SignalResult, together
from ripe_press.core.stations import Level, Line, Path, PathReport, Target
from ripe_press.core.stations.level import MOST_GAIN_DB
from ripe_press.core.stations.size.sketch import Sketch

CLOSE_ENOUGH_LU = 0.02
WRITTEN_ENOUGH_LU = 0.04
"""A file that comes so close to its target is not written again."""
MOST_ROUNDS = 6
LEAST_WON_LU = 0.2
"""What another decibel of gain must win behind a limiter to be worth what it does to the sound (our own choice)."""
UNCHANGED_DB = 0.005
"""A gain that prints as 0.0 dB, and is none: the samples are left as they are."""
_GRID_DB = 0.5

Bound = Literal["reduction", "won", "gain"]
"""The reason a search ends: the limiter at its maximum reduction, almost no loudness from more gain, or the gain limit.
"""


@dataclass(frozen=True, slots=True)
class Shortfall:
    """A target loudness that was not reached: the result at the settled gain, and the reason the search ended."""

    target_lufs: float
    reached_lufs: float
    bound: Bound


@dataclass(frozen=True, slots=True)
class Settlement:
    """The paths with their gains, and by file number the levels that miss their target."""

    paths: tuple[Path, ...]
    shortfalls: Mapping[int, Shortfall]
    searches: "Mapping[int, Search]" = field(default_factory=dict)
    """By file number: the gain is an estimate, to be confirmed by the walk of that path."""


def settle_levels(
    files: Sequence[PlannedFile],
    should_stop: Callable[[], bool] = lambda: False,
    progress: Progress = no_progress,
    trials: bool = False,
) -> Settlement:
    """The paths of files with every level settled; files of one group get the same gain, whatever mix they are of.

    Every mix is read once for all deliveries whose level depends on the signal. Behind a limiter the gain is foreseen,
    to be checked by the walk that writes; for groups, and for all with ``trials``, it is tried before, in walks of
    their own: one, mostly. ``progress`` gets the share of each walk, from 0.

    Raises: Interrupted ``press.cancelled``; whatever reading raises.
    """
    open_paths = {number: file.path for number, file in enumerate(files) if file.path.target}
    if not open_paths:
        return Settlement(tuple(file.path for file in files), {})
    seen = walk([path.before_level() for path in open_paths.values()], NO_FILES, progress, should_stop)
    waiting = {
        number: _Waiting(path.target, _heard(report))
        for (number, path), report in zip(open_paths.items(), seen, strict=True)
        if path.target
    }
    gains, shortfalls = {}, {}
    for number, (target, heard) in waiting.items():
        gains[number] = target.first_gain(heard.signal)
        wanted = target.target - heard.signal.integrated_lufs
        if target.level == "loudness" and math.isfinite(wanted) and wanted > gains[number] == MOST_GAIN_DB:
            shortfalls[number] = Shortfall(target.target, heard.signal.integrated_lufs + MOST_GAIN_DB, "gain")
    searches = _searches({number: one for number, one in waiting.items() if not files[number].wish.whole})
    # A file written with a shared gain need not be as loud as its group; its loudness is measured.
    before = {number: one for number, one in searches.items() if trials or files[number].wish.group}
    _try(before, open_paths, progress, should_stop)
    gains |= {number: one.gain_db for number, one in searches.items()}
    shortfalls |= {number: one.shortfall for number, one in before.items() if one.shortfall}
    gains |= _gains_of_wholes(files, waiting)
    grouped = _same_gain({number: files[number].wish.group for number in waiting}, gains)
    settled = [
        _with_gain(file, waiting[number], grouped[number]) if number in waiting else file.path
        for number, file in enumerate(files)
    ]
    return Settlement(tuple(settled), shortfalls, {at: one for at, one in searches.items() if at not in before})


def walk_settled(file: PlannedFile) -> tuple[Path, PathReport, Shortfall | None]:
    """The path of a file with its level settled, the measured result, and the shortfall.

    Raises: as `settle_levels`.
    """
    settlement = settle_levels([file])
    (path,), search = settlement.paths, settlement.searches.get(0)
    while True:
        (seen,) = walk([path.behind_level(path.settled)])
        if search is None or seen.limited is None:
            return path, seen, settlement.shortfalls.get(0)
        walked, path = path, search.written(path, seen.limited.integrated_lufs)
        if path is walked:
            return path, seen, search.shortfall


@dataclass(frozen=True, slots=True)
class _Heard:
    """What a walk measured in front of a level station, or behind it."""

    signal: SignalResult
    sketch: Sketch | None


class _Waiting(NamedTuple):
    """A level to be settled, and the signal before it."""

    target: Target
    heard: _Heard


@dataclass(slots=True)
class Search:
    """The search for one level before its limiter: the next gain to try, and the results so far."""

    level: Target
    sketch: Sketch
    gain_db: float = 0.0
    aim_lufs: float = 0.0
    """The target; a few hundredths less where gain wins little, for then those cost most."""
    bound: Bound | None = None
    tries: tuple[tuple[float, float, float], ...] = ()
    """(gain in dB, LUFS estimated by the sketch, LUFS measured)."""
    done: bool = False
    """Whether ``gain_db`` is where to stay, and what it gives was measured."""

    def __post_init__(self) -> None:
        self._aim()

    @property
    def shortfall(self) -> Shortfall | None:
        """What it falls short of, once it was measured."""
        if not self.done or not self.bound or self.level.only_down:
            return None
        reached = self.tries[-1][2]
        if reached >= self.level.target - 2 * CLOSE_ENOUGH_LU:
            return None
        return Shortfall(self.level.target, reached, self.bound)

    def written(self, path: Path, measured_lufs: float) -> Path:
        """The path as it should have been, once it was walked; the same where that was near enough."""
        gain_db = self.gain_db
        self.take(measured_lufs)
        if abs(measured_lufs - self.level.target) <= WRITTEN_ENOUGH_LU:
            self.gain_db, self.done = gain_db, True
        return path if self.gain_db == gain_db else replace(path, level=self.level.settled(self.gain_db))

    def take(self, measured_lufs: float) -> None:
        """Add the measured level at ``gain_db``; set the next gain to try, unless the search ends here."""
        if self.done:
            return
        self.tries = (*self.tries, (self.gain_db, self._foreseen(self.gain_db), measured_lufs))
        before = self.gain_db
        self._aim()
        off = abs(measured_lufs - self.aim_lufs)
        stays = abs(self.gain_db - before) < CLOSE_ENOUGH_LU / 4
        self.done = stays or (off <= CLOSE_ENOUGH_LU and abs(self.gain_db - before) < 0.1)
        if self.done or len(self.tries) == MOST_ROUNDS:
            # The kept result is the one nearest to the target; among equals, the lowest gain.
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
        return self.sketch.loudness_at(gain_db, self.level.ceiling_dbtp, self.level.limiting)

    def _expected(self, gain_db: float) -> float:
        """The level the sketch estimates, corrected by earlier measurements."""
        foreseen = self._foreseen(gain_db)
        if not self.tries:
            return foreseen
        known = sorted((gain, measured - sketched) for gain, sketched, measured in self.tries)
        gains, errors = zip(*known, strict=True)
        return foreseen + float(np.interp(gain_db, gains, errors))


def _searches(waiting: Mapping[int, _Waiting]) -> dict[int, Search]:
    """A search for every level whose limiter will act."""
    return {
        number: Search(target, heard.sketch)
        for number, (target, heard) in waiting.items()
        if heard.sketch
        and math.isfinite(heard.signal.integrated_lufs)
        and heard.sketch.peak_dbtp + target.first_gain(heard.signal) > target.ceiling_dbtp
    }


def _try(
    searches: Mapping[int, Search],
    paths: Mapping[int, Path],
    progress: Progress,
    should_stop: Callable[[], bool],
) -> None:
    """Walks until the limited signals have the loudness that is asked for, or as much as they may have."""
    while trying := {number: search for number, search in searches.items() if not search.done}:
        lines = [paths[number].behind_level(search.level.settled(search.gain_db)) for number, search in trying.items()]
        for search, report in zip(trying.values(), walk(lines, NO_FILES, progress, should_stop), strict=True):
            search.take(_heard(report).signal.integrated_lufs)


def _gains_of_wholes(files: Sequence[PlannedFile], waiting: "Mapping[int, _Waiting]") -> dict[int, float]:
    """Gains of files whose group is one programme; a gapless passage shared by several files counts once."""
    groups: dict[str, dict[Line, int]] = {}
    for number in waiting:
        wish, path = files[number].wish, files[number].path
        if wish.group and wish.whole:
            groups.setdefault(wish.group, {}).setdefault(path.before_level(), number)
    heard = {
        group: together([waiting[number].heard.signal for number in numbers.values()])
        for group, numbers in groups.items()
    }
    wishes = {number: files[number].wish for number in waiting}
    return {
        number: one.target.first_gain(heard[wishes[number].group])
        for number, one in waiting.items()
        if wishes[number].group and wishes[number].whole
    }


def _same_gain(groups: Mapping[int, str], gains: Mapping[int, float]) -> dict[int, float]:
    """Deliveries of a group all get the lowest gain that any of them needs, so that none exceeds what it asked."""
    lowest: dict[str, float] = {}
    for number, group in groups.items():
        if group:
            lowest[group] = min(gains[number], lowest.get(group, math.inf))
    return {number: lowest.get(group, gains[number]) for number, group in groups.items()}


def _heard(report: PathReport) -> _Heard:
    sketch = report.sketch
    signal = sketch.signal if sketch else report.signal
    assert signal is not None  # noqa: S101 - the line ends in a meter
    if sketch and sketch.peak_linear and not math.isfinite(signal.integrated_lufs):
        # All of it lies below the gate at −70 LUFS, and above it once it is raised.
        raised = sketch.loudness_at(MOST_GAIN_DB, math.inf) - MOST_GAIN_DB
        signal = replace(signal, integrated_lufs=raised)
    return _Heard(signal, sketch)


def _with_gain(file: PlannedFile, waiting: _Waiting, gain_db: float) -> Path:
    target, heard = waiting
    peak = heard.sketch.peak_dbtp if heard.sketch else -math.inf
    if abs(gain_db) < UNCHANGED_DB and not (target.limits and peak > target.ceiling_dbtp):
        return _left_alone(file)
    return replace(file.path, level=target.settled(gain_db))


def settled_at(file: PlannedFile, gain_db: float | None, backed_off_db: float) -> Path:
    """The path of a file as it was pressed, from its recorded gain and back-off."""
    target = file.path.target
    if target is None or gain_db is None:
        return file.path
    if gain_db == 0 and not backed_off_db:
        return _left_alone(file)
    level = target.settled(gain_db + backed_off_db)
    return replace(file.path, level=level.lowered(backed_off_db) if backed_off_db else level)


def _left_alone(file: PlannedFile) -> Path:
    """The path of a file at whose level nothing is to be done."""
    return decided_again(replace(file, path=replace(file.path, level=Level(0.0))))


_PEAK_MARGIN_DB = 3.0


def foreseen(file: PlannedFile, signal: SignalResult) -> Path:
    """A path as it will be, where it is sure before the signal is walked that nothing is to be done at its level.

    Where only a sample peak is known in place of a true peak, a limiter is taken to act from 3 dB below its ceiling.
    """
    target = file.path.target
    if target is None or file.wish.group or file.path.run:
        return file.path
    margin = 0.0 if signal.true_peak_dbtp > signal.sample_peak_dbfs else _PEAK_MARGIN_DB
    limited = target.limits and signal.true_peak_dbtp + margin > target.ceiling_dbtp
    if limited or abs(target.first_gain(signal)) >= UNCHANGED_DB:
        return file.path
    return _left_alone(file)
