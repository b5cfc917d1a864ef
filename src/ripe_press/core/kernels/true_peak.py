"""Inner loop of the true peak: the largest value between the samples. Arrays in, numbers out."""

from typing import Any

import numpy as np
from numba import njit

SEGMENT = 128
"""Samples that are judged together: when even their largest cannot reach the peak so far, they are left out."""


@njit(cache=True, nogil=True, fastmath=True)
def search(samples: Any, phases: Any, reach: Any, floor: Any) -> tuple[Any, int]:
    """The largest absolute interpolated value above ``floor``, and the sample it follows; (floor, -1) if none.

    ``samples`` is float32 and holds taps − 1 samples of the past before the block; ``phases`` ``(n, taps)`` are the
    interpolation filters between two samples; ``reach`` is the most that any of them can make of samples of
    size 1. Index 0 of the result is the first sample of the block.
    """
    taps = phases.shape[1]
    frames = len(samples) - taps + 1
    best = np.float32(floor)
    place = -1
    out = np.empty(SEGMENT, np.float32)
    for start in range(0, frames, SEGMENT):
        count = min(SEGMENT, frames - start)
        largest = np.float32(0.0)
        reached = samples[start : start + count + taps - 1]
        for index in range(len(reached)):
            largest = max(largest, abs(reached[index]))
        if largest * reach <= best:
            continue
        for phase in range(phases.shape[0]):
            for index in range(count):
                out[index] = 0.0
            # Four taps at a time: the sums are loaded and stored a quarter as often. Slices, because an index that
            # may be negative for all the compiler knows keeps it from using vectors.
            for tap in range(0, taps, 4):
                w0, w1 = phases[phase, tap], phases[phase, tap + 1]
                w2, w3 = phases[phase, tap + 2], phases[phase, tap + 3]
                first = start + tap
                s0, s1 = samples[first : first + count], samples[first + 1 : first + 1 + count]
                s2, s3 = samples[first + 2 : first + 2 + count], samples[first + 3 : first + 3 + count]
                for index in range(count):
                    out[index] += w0 * s0[index] + w1 * s1[index] + w2 * s2[index] + w3 * s3[index]
            top = np.float32(0.0)
            for index in range(count):
                top = max(top, abs(out[index]))
            if top > best:
                best = top
                for index in range(count):
                    if abs(out[index]) == top:
                        place = start + index
                        break
    return best, place
