"""Samples above full scale, and runs held at full scale: where, how long, in which channel."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block

RUN_AT_FULL_SCALE = 3
"""So many consecutive samples at the last code count as clipped (common practice, no source)."""

MOST_RUNS_KEPT = 20_000
ONE_PLACE_S = 0.005
"""Runs no further apart are heard, and listed, as one (our own choice)."""


@dataclass(frozen=True, slots=True)
class ClippedRun:
    """Consecutive clipped samples of one channel; ``overs`` of them lie above full scale."""

    start_frame: int
    frames: int
    channel: int
    overs: int


@dataclass(frozen=True, slots=True)
class ClippingResult:
    """All clipped samples counted, and the first runs by time; ``complete`` when no run was left out."""

    clipped_samples: int
    overs: int
    runs: tuple[ClippedRun, ...]
    complete: bool

    def within(self, start_frame: int, end_frame: int) -> "ClippingResult":
        """The part of it that lies inside a stretch, from the kept runs; a run cut by an edge counts in part."""
        runs = []
        for run in self.runs:
            begin = max(run.start_frame, start_frame)
            inside = min(run.start_frame + run.frames, end_frame) - begin
            if inside > 0:
                runs.append(ClippedRun(begin, inside, run.channel, min(run.overs, inside)))
        return ClippingResult(
            sum(run.frames for run in runs), sum(run.overs for run in runs), tuple(runs), self.complete
        )

    def places(self, rate_hz: int) -> "tuple[ClippedRun, ...]":
        """Runs a few milliseconds apart, in whatever channel, as one place each: the first run's channel stands."""
        found: list[ClippedRun] = []
        for run in sorted(self.runs, key=lambda one: one.start_frame):
            last = found[-1] if found else None
            if last and run.start_frame - (last.start_frame + last.frames) <= ONE_PLACE_S * rate_hz:
                end = max(last.start_frame + last.frames, run.start_frame + run.frames)
                found[-1] = replace(last, frames=end - last.start_frame, overs=last.overs + run.overs)
            else:
                found.append(run)
        return tuple(found)

    def moved(self, frames: int) -> "ClippingResult":
        """The same, every place so many frames later."""
        if not frames:
            return self
        return replace(self, runs=tuple(replace(run, start_frame=run.start_frame + frames) for run in self.runs))


NOTHING_CLIPPED = ClippingResult(0, 0, (), True)


def full_scale_of(bit_depth: int | None, is_float: bool) -> float:
    """The level at which a source is clipped: 1.0 for float and lossy, the last code for integers.

    Beyond 16 bits the last code of 16 is taken, because 16-bit material is often carried in wider files.
    """
    if is_float or bit_depth is None:
        return 1.0
    return float(1.0 - 2.0 ** (1 - min(bit_depth, 16)))


class ClippingMeter:
    """Counts a run when it is at least three samples long or holds a sample above 1.0.

    Places count from ``first_frame``, the place of the first block in the mix.
    """

    def __init__(self, channels: int, full_scale: float = 1.0, first_frame: int = 0) -> None:
        self._full_scale = full_scale
        self._frames = first_frame
        self._open: list[ClippedRun | None] = [None] * channels
        self._runs: list[ClippedRun] = []
        self._clipped = 0
        self._overs = 0
        self._complete = True

    def process(self, block: Block) -> None:
        """Takes the next block into account; a block that stays below full scale costs two reductions."""
        if len(block):
            if block.max() >= self._full_scale or block.min() <= -self._full_scale:
                for channel in range(block.shape[1]):
                    self._search(np.abs(block[:, channel]), channel)
            else:
                self._close_all()
        self._frames += len(block)

    def _search(self, levels: NDArray[np.float64], channel: int) -> None:
        flags = np.concatenate(([False], levels >= self._full_scale, [False]))
        edges = np.flatnonzero(flags[1:] != flags[:-1])
        starts, ends = edges[0::2], edges[1::2]
        over_before = np.concatenate(([0], np.cumsum(levels > 1.0)))
        held = self._open[channel]
        if held and (len(starts) == 0 or starts[0] != 0):
            self._close(channel)
        for start, end in zip(starts.tolist(), ends.tolist(), strict=True):
            overs = int(over_before[end] - over_before[start])
            held = self._open[channel]
            if held and start == 0:
                run = ClippedRun(held.start_frame, held.frames + end, channel, held.overs + overs)
            else:
                run = ClippedRun(self._frames + start, end - start, channel, overs)
            self._open[channel] = run
            if end < len(levels):
                self._close(channel)

    def _close(self, channel: int) -> None:
        run, self._open[channel] = self._open[channel], None
        if run is None or (run.frames < RUN_AT_FULL_SCALE and not run.overs):
            return
        self._clipped += run.frames
        self._overs += run.overs
        if len(self._runs) < MOST_RUNS_KEPT:
            self._runs.append(run)
        else:
            self._complete = False

    def _close_all(self) -> None:
        for channel in range(len(self._open)):
            self._close(channel)

    def result(self) -> ClippingResult:
        """The finished measure, runs in order of time."""
        self._close_all()
        runs = tuple(sorted(self._runs, key=lambda run: (run.start_frame, run.channel)))
        return ClippingResult(self._clipped, self._overs, runs, self._complete)
