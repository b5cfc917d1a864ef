"""Inner loops of the finishing chain and the limiter. Arrays in, arrays out."""

from typing import Any

import numpy as np
from numba import njit

SEGMENT = 128


@njit(cache=True, nogil=True)
def biquad(block: Any, out: Any, b: Any, a: Any, state: Any) -> None:
    """A second-order section in transposed direct form II over ``(frames, channels)``; ``state`` is kept."""
    frames, channels = block.shape
    for channel in range(channels):
        z1, z2 = state[channel, 0], state[channel, 1]
        for frame in range(frames):
            x = block[frame, channel]
            y = b[0] * x + z1
            z1 = b[1] * x - a[0] * y + z2
            z2 = b[2] * x - a[1] * y
            out[frame, channel] = y
        state[channel, 0], state[channel, 1] = z1, z2


@njit(cache=True, nogil=True, fastmath=True)
def envelope(samples: Any, phases: Any, reach: Any, threshold: Any, out: Any) -> None:
    """Raises ``out[n]`` to the largest value of the signal between sample n and the next.

    ``samples`` (float32) holds taps / 2 − 1 samples before the first of ``out`` and taps / 2 after the last; the
    number of taps is a multiple of 4. Segments that cannot reach ``threshold`` are left as they are: nothing is
    limited there.
    """
    taps = phases.shape[1]
    frames = len(out)
    sums = np.empty(SEGMENT, np.float32)
    for start in range(0, frames, SEGMENT):
        count = min(SEGMENT, frames - start)
        largest = np.float32(0.0)
        reached = samples[start : start + count + taps - 1]
        for index in range(len(reached)):
            largest = max(largest, abs(reached[index]))
        if largest * reach <= threshold:
            continue
        part = out[start : start + count]
        for phase in range(phases.shape[0]):
            for index in range(count):
                sums[index] = 0.0
            # Four taps at a time and slices, as in the search for true peaks: so the compiler uses vectors.
            for tap in range(0, taps, 4):
                w0, w1 = phases[phase, tap], phases[phase, tap + 1]
                w2, w3 = phases[phase, tap + 2], phases[phase, tap + 3]
                first = start + tap
                s0, s1 = samples[first : first + count], samples[first + 1 : first + 1 + count]
                s2, s3 = samples[first + 2 : first + 2 + count], samples[first + 3 : first + 3 + count]
                for index in range(count):
                    sums[index] += w0 * s0[index] + w1 * s1[index] + w2 * s2[index] + w3 * s3[index]
            for index in range(count):
                part[index] = max(part[index], abs(sums[index]))


@njit(cache=True, nogil=True)
def smooth_gain(wanted: Any, release: float, box: Any, state: Any, sums: Any, out: Any) -> None:
    """From the least gain that is wanted to a smooth one: release, then two moving averages.

    ``box`` ``(2, length)`` are the averages' rings and ``sums`` their sums, in units of 2⁻³⁰, so that rounding errors
    do not add up; ``state`` is (gain, place in the rings). All three go from call to call.
    """
    gain, place = state[0], int(state[1])
    length = box.shape[1]
    # Much faster than a division of integers, with the same result: sums are below 2^53, and the added amount is less
    # than the distance to the next whole number.
    share, nudge = 1.0 / length, 0.25 / length
    for index in range(len(wanted)):
        gain = min(wanted[index], gain + (1.0 - gain) * release)
        # Rounded down: an average must never exceed the required gain.
        value = np.int64(np.floor(gain * 1073741824.0))
        for stage in range(2):
            sums[stage] += value - box[stage, place]
            box[stage, place] = value
            value = np.int64(float(sums[stage]) * share + nudge)
        place = (place + 1) % length
        out[index] = value / 1073741824.0
    state[0], state[1] = gain, place


@njit(cache=True, nogil=True)
def foresee(
    peaks: Any, energies: Any, gain: float, ceiling: float, release: float, hold: int, ahead: int, out: Any
) -> None:
    """Writes to ``out`` the energies of steps as they are behind a gain and a limiter with this ceiling.

    As `smooth_gain` does it a sample: the least gain that is wanted from ``hold`` steps before to ``ahead`` steps
    after, release, and a short average over the look-ahead.
    """
    steps = len(out)
    current = elder = eldest = 1.0
    limit = ceiling / gain
    loud = -1 - hold
    """The last step seen that lies above the limit."""
    seen = 0
    for step in range(steps):
        upto = min(len(peaks), step + ahead + 1)
        while seen < upto:
            if peaks[seen] > limit:
                loud = seen
            seen += 1
        wanted = 1.0
        if loud >= step - hold:
            for at in range(max(0, step - hold), upto):
                if peaks[at] > limit:
                    wanted = min(wanted, limit / peaks[at])
        eldest, elder = elder, current
        current = min(wanted, current + (1.0 - current) * release)
        # Two averages over half the look-ahead each, which is two steps long.
        mean = 0.25 * current + 0.5 * elder + 0.25 * eldest
        out[step] = energies[step] * (gain * mean) ** 2
