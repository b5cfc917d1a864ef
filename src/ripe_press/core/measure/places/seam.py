"""How a loop sounds where its end meets its start: a step, a sudden sound, a hole, a jump in level.

A sudden sound is measured as spectral flux: the sum of all rises of the spectrum from one window to the next. A seam
may be as sudden as the mix is at either of the places that it joins, or as the loop mostly is.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.units import db_of_power

Curve = NDArray[np.float64]

MOST_FLUX = 1.15
"""A seam up to so many times as sudden as the music itself is not heard as one (our own choice, set by measurement)."""
MOST_STEP = 1.5
MOST_HOLE_DB = -12.0
AROUND_S = 0.25
_STEP_S = 0.02
_LEVEL_S = 0.05
_LEAST_STEP = 3e-5
"""The step of 16 bits: a smaller one is not a click."""
MOST_ELSEWHERE_S = 8.0
_HEARD_ABOVE_DBFS = -50.0


@dataclass(frozen=True, slots=True)
class Seam:
    """Ratios and levels at a seam: a step of 1 is as steep as the sound around it mostly is, a flux of 1 as sudden.

    ``level_db`` is how much louder it is after the seam than before, ``hole_db`` how far the level falls at it.
    """

    step: float
    flux: float
    level_db: float
    hole_db: float

    @property
    def clean(self) -> bool:
        """Whether it is not heard."""
        return self.step < MOST_STEP and self.flux <= MOST_FLUX and self.hole_db > MOST_HOLE_DB


def window_frames(rate_hz: int) -> int:
    """The length of a window of the flux: about 11 ms."""
    return 1 << round(math.log2(rate_hz * 0.0107))


def least_frames(rate_hz: int) -> int:
    """The shortest loop whose seam can be judged: a level before it and one after."""
    return 2 * round(_LEVEL_S * rate_hz)


def flux(mono: Curve, rate_hz: int) -> Curve:
    """The rises of the spectrum from each quarter of a window to the next, all together."""
    size = window_frames(rate_hz)
    if len(mono) < size * 2:
        return np.zeros(1)
    windows = np.lib.stride_tricks.sliding_window_view(mono, size)[:: size // 4] * np.hanning(size)
    magnitude = np.abs(np.fft.rfft(windows, axis=1))
    return np.asarray(np.maximum(0.0, np.diff(magnitude, axis=0)).sum(axis=1))


def _level(sound: Block) -> float:
    return db_of_power(float((sound**2).mean())) if len(sound) else -np.inf


class SeamMeter:
    """Keeps of a loop what its seam is judged by: its first and last quarter second, and how sudden it mostly is."""

    def __init__(self, rate_hz: int) -> None:
        self._rate_hz = rate_hz
        self._around = round(AROUND_S * rate_hz)
        self._first: list[Block] = []
        self._have = 0
        self._last: Block | None = None
        self._flux: list[Curve] = []
        self._measured = 0

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        if not len(block):
            return
        if self._have < self._around:
            self._first.append(block[: self._around - self._have].copy())
            self._have += len(self._first[-1])
        joined = block if self._last is None else np.concatenate((self._last, block))
        self._last = joined[-self._around :].copy()
        if self._measured < MOST_ELSEWHERE_S * self._rate_hz:
            self._flux.append(flux(block.mean(axis=1), self._rate_hz))
            self._measured += len(block)

    def result(self, own: float = 1.0) -> Seam | None:
        """The finished measure; ``own`` is `OwnSound.ratio` of the mix. None for a loop too short to have a seam."""
        if self._last is None or self._have < least_frames(self._rate_hz):
            return None
        usual = float(np.percentile(np.concatenate(self._flux), 95))
        return seam_of(self._last, np.concatenate(self._first), self._rate_hz, usual * max(1.0, own))


def seam_of(end: Block, start: Block, rate_hz: int, reference: float, crossfade: int = 0) -> Seam:
    """The seam between the end of a loop and its start, ``(frames, channels)`` each; ``reference`` is a usual flux."""
    size = window_frames(rate_hz)
    reach = crossfade + 2 * size
    mono = np.concatenate((end[-reach - size :].mean(axis=1), start[: 2 * size].mean(axis=1)))
    near = round(_STEP_S * rate_hz)
    jump = np.abs(start[0] - end[-1])
    moves = np.concatenate((np.abs(np.diff(end[-near:], axis=0)), np.abs(np.diff(start[:near], axis=0))))
    steep = np.maximum(np.percentile(moves, 99, axis=0), _LEAST_STEP)
    wide, short = round(_LEVEL_S * rate_hz), max(1, round(0.005 * rate_hz))
    before, after = _level(end[-wide:]), _level(start[:wide])
    sides = min(_level(end[-4 * short : -short]), _level(start[short : 4 * short]))
    middle = _level(np.concatenate((end[-short:], start[:short])))
    return Seam(
        float((jump / steep).max()), float(flux(mono, rate_hz).max()) / max(reference, 1e-9),
        after - before if np.isfinite(before) and np.isfinite(after) else 0.0,
        min(0.0, middle - sides) if sides > _HEARD_ABOVE_DBFS else 0.0,
    )  # fmt: skip
