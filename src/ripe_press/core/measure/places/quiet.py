"""Places in a long signal: where it is silent, and where it has become quiet between one piece and the next."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.measure.loudness import LoudnessResult

SILENT_DBFS = -70.0
"""A hundredth of a second below this counts as silence (our own choice, stated wherever shown)."""
LEAST_APART_S = 30.0
FALLEN_DB = 10.0
"""What falls so far below the usual level between two pieces is applause, or a room, falling away (our own choice)."""
_SMOOTH_S = 1.0


@dataclass(frozen=True, slots=True)
class QuietPlace:
    """A place where a cut would be least heard, in seconds, and how loud it is there; silence is ``-inf``."""

    at_s: float
    level_dbfs: float


def longest_silence(loudness: LoudnessResult, start_s: float, end_s: float) -> tuple[float, float]:
    """Where the longest silence between two times begins, and how long it is, in seconds."""
    silent = _levels(loudness.within(start_s, end_s)) < SILENT_DBFS
    edges = np.flatnonzero(np.diff(np.concatenate(([False], silent, [False])).astype(np.int8)))
    if not len(edges):
        return 0.0, 0.0
    starts, ends = edges[0::2], edges[1::2]
    longest = int(np.argmax(ends - starts))
    begins, length = int(starts[longest]), int(ends[longest] - starts[longest])
    return start_s + begins * loudness.stretch_s, length * loudness.stretch_s


def quiet_places(loudness: LoudnessResult) -> tuple[QuietPlace, ...]:
    """Where a long mix may be cut: the quietest moment of every stretch that lies 10 dB below the usual level.

    Places are at least 30 s apart and from either end; of two that are nearer the quieter one stays.
    """
    step, levels = loudness.stretch_s, _levels(loudness)
    width = max(1, round(_SMOOTH_S / step))
    if len(levels) < 2 * width:
        return ()
    power = np.convolve(10 ** (levels / 10), np.ones(width) / width, mode="same")
    smooth = 10 * np.log10(np.maximum(power, 1e-20))
    low = smooth < float(np.median(smooth)) - FALLEN_DB
    edges = np.flatnonzero(np.diff(np.concatenate(([False], low, [False])).astype(np.int8)))
    length_s = len(levels) * step
    found = [
        QuietPlace((start + int(np.argmin(smooth[start:end]))) * step, float(smooth[start:end].min()))
        for start, end in zip(edges[0::2].tolist(), edges[1::2].tolist(), strict=True)
    ]
    found = [one for one in found if LEAST_APART_S <= one.at_s <= length_s - LEAST_APART_S]
    kept: list[QuietPlace] = []
    for one in sorted(found, key=lambda place: place.level_dbfs):
        if all(abs(one.at_s - other.at_s) >= LEAST_APART_S for other in kept):
            kept.append(one)
    return tuple(sorted(kept, key=lambda place: place.at_s))


def _levels(loudness: LoudnessResult) -> NDArray[np.float64]:
    power = loudness.plain.mean(axis=1) if len(loudness.plain) else np.zeros(0)
    levels: NDArray[np.float64] = 10 * np.log10(np.maximum(2 * power, 1e-20))
    return levels
