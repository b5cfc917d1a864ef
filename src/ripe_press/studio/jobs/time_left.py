"""Effort of a pressing, progress of each file, and time left."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from ripe_press.core.press import Event, OrderedFile
from ripe_press.core.stations import Path as StationPath
from ripe_press.studio.jobs.folder import FileProgress, JobProgress

ENDED = ("named", "left-out", "failed")
_PROOF_MS = 5.0
_SETTLING_MS = 8.0
"""Milliseconds of one core for a second of a file to be read back, and to be heard for its level, roughly."""
_START_SECONDS = 0.5
_SURE_AFTER = 0.25
"""Share of the work after which only the measured speed of this pressing counts."""
_FIRST_TOLD_SECONDS = 0.25
_SECONDS_BETWEEN = 0.1


@dataclass(frozen=True, slots=True)
class FileEffort:
    """What a file takes, in milliseconds of one core: to settle its level, to make it, to read it back."""

    settling: float
    making: float
    proving: float

    @property
    def all(self) -> float:
        """Of the file, from its beginning to its name."""
        return self.settling + self.making + self.proving


def effort_of(path: StationPath) -> FileEffort:
    """The expected effort of a file, from the costs of its stations on a common machine."""
    seconds, target = path.codec.frames / path.codec.rate_hz, path.target
    # One pass to measure the input of a level, and usually one more for the effect of a limiter on it.
    settling = _SETTLING_MS * seconds * (1 + target.limits) if target else 0.0
    return FileEffort(settling, seconds * sum(one.effort_ms for one in path), _PROOF_MS * seconds)


def wall_seconds(left_ms: Sequence[float], cores: int) -> float:
    """Time for the remaining files on all cores: at least that of the longest, and at least an even share of all."""
    return max(max(left_ms, default=0.0), sum(left_ms) / cores) / 1000


def foretold_seconds(efforts_ms: Sequence[float], cores: int) -> float:
    """How long a pressing takes at the common pace, with what even the shortest needs to begin and to end."""
    return _START_SECONDS + wall_seconds(efforts_ms, cores)


class TimeLeft:
    """Reads the reports of a pressing and publishes its progress, at most ten times a second, and at its end.

    ``pace`` is how much longer than ``wall_seconds`` pressings took here before; ``clock`` counts seconds of work;
    ``numbers`` are those of the files in their document, where an order is not all of it.
    """

    def __init__(
        self,
        files: Sequence[OrderedFile],
        report: Callable[[JobProgress], None],
        *,
        cores: int,
        numbers: Sequence[int] = (),
        pace: float = 1.0,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self._report = report
        self._cores, self._pace, self._clock = cores, pace, clock
        none = FileEffort(0.0, 0.0, 0.0)
        self._efforts = [none if one.kept else effort_of(one.path) for one in files]
        self._numbers = numbers or range(len(files))
        self._lengths = [one.path.codec.frames / one.path.codec.rate_hz for one in files]
        self._done = [0.0] * len(files)
        self._making_since: dict[int, float] = {}
        self._speeds: dict[int, float] = {}
        self._began, self._told_at = clock(), 0.0
        self._foretold: list[float] = []
        self._total = wall_seconds([one.all for one in self._efforts], cores)

    def __call__(self, event: Event) -> None:
        """Takes what happened into account and reports it."""
        part = min(1.0, event.done / event.total) if event.total else 0.0
        for at in event.files:
            self._done[at] = max(self._done[at], self._done_by(at, event.state, part))
        now = self._clock()
        if event.state in ENDED or now - self._told_at >= _SECONDS_BETWEEN:
            self._told_at = now
            self._report(self._progress(now - self._began))

    def off_by(self) -> float | None:
        """Mean error of the predicted time, as a share of the whole; None without a prediction."""
        took = self._clock() - self._began
        if not self._foretold or took <= 0:
            return None
        return sum(abs(one - took) for one in self._foretold) / len(self._foretold) / took

    def _done_by(self, at: int, state: str, part: float) -> float:
        effort = self._efforts[at]
        if state == "settling":
            return part * effort.settling
        if state == "making":
            since = self._making_since.setdefault(at, self._clock())
            if (took := self._clock() - since) > 0:
                self._speeds[at] = part * self._lengths[at] / took
            return effort.settling + part * effort.making
        return effort.settling + effort.making + effort.proving * (1.0 if state in ENDED else part)

    def _progress(self, elapsed: float) -> JobProgress:
        left = self._left_seconds(elapsed)
        if elapsed >= _FIRST_TOLD_SECONDS:
            self._foretold.append(elapsed + left)
        files = tuple(
            FileProgress(self._numbers[at], done / effort.all if effort.all else 0.0, self._speeds.get(at))
            for at, (done, effort) in enumerate(zip(self._done, self._efforts, strict=True))
        )
        total = max(1, round(sum(one.all for one in self._efforts)))
        return JobProgress(min(total, round(sum(self._done))), total, elapsed, left, files)

    def _left_seconds(self, elapsed: float) -> float:
        """At the speed of this pressing so far; at its beginning, at the speed of those before it."""
        left = wall_seconds([one.all - done for one, done in zip(self._efforts, self._done, strict=True)], self._cores)
        made = self._total - left
        if made <= 0:
            return left * self._pace
        sure = min(1.0, made / self._total / _SURE_AFTER)
        return left * ((1 - sure) * self._pace + sure * elapsed / made)
