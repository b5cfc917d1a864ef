"""Passages that are hard on an encoder, found by measuring: loudest, most transient, most tonal, quietest."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block

Array = NDArray[np.float64]
Why = Literal["loudest", "most transient", "most tonal", "quietest", "between"]

STEP_FRAMES = 1024
_SUB_FRAMES = 64
_BEFORE = 16
_RISE_DB, _MOST_RISE_DB = 9.0, 40.0
"""A smaller rise is not an attack; out of silence, every rise is infinite."""
_RANGE_DB = 50.0
_TONAL_EVERY = 4
_TONAL_TO_HZ = 16_000
_SILENT = 10 ** (-60 / 10) / 2
"""The mean square of −60 dBFS: a passage below it is not difficult."""


@dataclass(frozen=True, slots=True)
class LadderPassage:
    """Samples ``start_frame`` to ``end_frame`` of the measured audio, and the reason for the choice."""

    start_frame: int
    end_frame: int
    why: Why


class PassageMeter:
    """Measures how loud, transient and tonal every 1,024 frames are, and chooses passages of so many seconds."""

    def __init__(self, rate_hz: int, seconds: float) -> None:
        self._length = round(seconds * rate_hz / STEP_FRAMES)
        self._rest: Array = np.zeros(0)
        self._last = 0.0
        self._subs: Array = np.zeros(_BEFORE)
        """Energies of the differences of the last sub-steps."""
        self._powers: list[Array] = []
        self._steepness: list[Array] = []
        self._attacks: list[Array] = []
        self._flatness: list[Array] = []
        self._steps = 0
        self._window = np.hanning(2 * STEP_FRAMES)
        self._lines = min(STEP_FRAMES, int(_TONAL_TO_HZ * 2 * STEP_FRAMES / rate_hz))

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        mono = block[:, 0] if block.shape[1] == 1 else (block[:, 0] + block[:, 1]) / 2
        mono = np.concatenate((self._rest, mono))
        steps = len(mono) // STEP_FRAMES
        self._rest = mono[steps * STEP_FRAMES :]
        if steps:
            self._measure(mono[: steps * STEP_FRAMES], steps)

    def _measure(self, mono: Array, steps: int) -> None:
        self._powers.append(np.square(mono).reshape(steps, -1).mean(axis=1))
        steep = np.square(np.diff(mono, prepend=self._last)).reshape(-1, _SUB_FRAMES).sum(axis=1)
        self._last = float(mono[-1])
        sums = np.cumsum(np.concatenate(([0.0], self._subs, steep)))
        before = (sums[_BEFORE:-1] - sums[: -_BEFORE - 1]) / _BEFORE
        rise = 10 * np.log10(np.maximum(steep, 1e-20) / np.maximum(before, 1e-20))
        self._subs = np.concatenate((self._subs, steep))[-_BEFORE:]
        self._attacks.append(np.clip(rise - _RISE_DB, 0, _MOST_RISE_DB).reshape(steps, -1).max(axis=1))
        self._steepness.append(steep.reshape(steps, -1).max(axis=1))
        flatness = np.full(steps, np.nan)
        for step in range(-self._steps % _TONAL_EVERY, steps - 1, _TONAL_EVERY):
            part = mono[step * STEP_FRAMES : (step + 2) * STEP_FRAMES] * self._window
            power = np.square(np.abs(np.fft.rfft(part)))[1 : self._lines] + 1e-20
            flatness[step] = 10 * np.log10(np.exp(np.log(power).mean()) / power.mean())
        self._flatness.append(flatness)
        self._steps += steps

    def result(self) -> tuple[LadderPassage, ...]:
        """One passage for each reason and one between them, apart from each other; all there is where that is short."""
        total = self._steps * STEP_FRAMES + len(self._rest)
        length = self._length
        if self._steps < 6 * length:
            return (LadderPassage(0, total, "between"),)
        power, steepness, attacks, flatness = (
            np.concatenate(one) for one in (self._powers, self._steepness, self._attacks, self._flatness)
        )
        attacks = np.where(steepness > steepness.max() * 10 ** (-_RANGE_DB / 10), attacks, 0.0)
        levels = _means(power, length)
        sounding = levels > _SILENT
        known = ~np.isnan(flatness)
        flat = _means(np.where(known, flatness, 0.0), length) / np.maximum(_means(known.astype(float), length), 1e-9)
        wishes: tuple[tuple[Why, Array], ...] = (
            ("loudest", levels), ("most transient", _means(attacks, length)),
            ("most tonal", np.where(sounding, -flat, -np.inf)), ("quietest", np.where(sounding, -levels, -np.inf)),
        )  # fmt: skip
        taken: list[tuple[int, Why]] = []
        free = np.ones(len(levels), dtype=bool)
        for why, score in wishes:
            ranked = np.where(free, score, -np.inf)
            if not np.isfinite(ranked.max()):
                continue
            taken.append((_take(free, int(np.argmax(ranked)), length), why))
        if free.any():
            middles = np.flatnonzero(free)
            taken.append((_take(free, int(middles[len(middles) // 2]), length), "between"))
        return tuple(
            LadderPassage(first * STEP_FRAMES, (first + length) * STEP_FRAMES, why) for first, why in sorted(taken)
        )


def _take(free: NDArray[np.bool_], place: int, length: int) -> int:
    free[max(0, place - length + 1) : place + length] = False
    return place


def _means(values: Array, length: int) -> Array:
    sums = np.concatenate(([0.0], np.cumsum(values)))
    out: Array = (sums[length:] - sums[:-length]) / length
    return out
