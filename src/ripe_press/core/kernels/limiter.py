"""Inner loops of the finishing chain and the limiter. Arrays in, arrays out."""

from typing import Any

import numpy as np
from numba import njit

SEGMENT = 128
SLOW = np.float32(0.05)
"""The bend of a sine of 1.5 kHz at 44.1 kHz, about."""
COARSELY = 4


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


@njit(cache=True, nogil=True, fastmath=True)
def refine(samples: Any, phases: Any, near: Any, sure: Any, found: Any, out: Any) -> None:
    """The same for places alone where a coarse search has ``found``, one value longer at either end, ``near`` or more.

    On a slow wave, of which it is exact, its highest places alone. Peaks below ``sure`` may be found lower.
    """
    taps = phases.shape[1]
    for index in range(len(out)):
        here = found[index + 1]
        if here < near:
            continue
        before, after = found[index], found[index + 2]
        if (here < before or here < after) and abs(before - 2 * here + after) < SLOW * here:
            continue
        around = samples[index : index + taps]
        highest = out[index]
        for first in range(COARSELY):
            if first == 1 and highest < sure:
                # A quarter of the places between two samples misses a peak by half a decibel at most.
                break
            for phase in range(first, phases.shape[0], COARSELY):
                weights = phases[phase]
                total = np.float32(0.0)
                for tap in range(taps):
                    total += weights[tap] * around[tap]
                highest = max(highest, abs(total))
        out[index] = highest


@njit(cache=True, nogil=True)
def extreme(values: Any, width: int, highest: bool, out: Any) -> None:
    """The least, or the highest, of every ``width`` values in a row, in one time for all widths.

    Source: M. van Herk, 1992; J. Gil and M. Werman, 1993: from the ends of blocks of ``width`` inwards (from memory).
    """
    count = len(values)
    ending = np.empty(count)
    # Two loops each: a branch or a sign inside costs half as much again.
    for start in range(0, count, width):
        last = min(start + width, count) - 1
        found = values[last]
        if highest:
            for index in range(last, start - 1, -1):
                found = max(found, values[index])
                ending[index] = found
        else:
            for index in range(last, start - 1, -1):
                found = min(found, values[index])
                ending[index] = found
    for start in range(0, count, width):
        found = values[start]
        for index in range(start, min(start + width, count)):
            at = index - width + 1
            if highest:
                found = max(found, values[index])
                if at >= 0:
                    out[at] = max(found, ending[at])
            else:
                found = min(found, values[index])
                if at >= 0:
                    out[at] = min(found, ending[at])


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
    full = length * np.int64(1073741824)
    for index in range(len(wanted)):
        if wanted[index] == 1.0 and gain == 1.0 and sums[0] == full and sums[1] == full:
            # At rest, which is most of the time: the rings hold ones alone.
            out[index] = 1.0
            continue
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
def foresee(peaks: Any, energies: Any, slow: Any, limit: float, beside: float, out: Any) -> None:
    """Adds to ``out`` the energies of one side's steps, as they are behind a limiter.

    A step with a peak above ``limit`` is turned down as its peak asks, behind the gains ``slow``, and the steps beside
    it by a part ``beside`` of that.
    """
    before = 0.0
    held = limit / max(peaks[0] * slow[0], limit) if len(out) else 1.0
    for step in range(len(out)):
        after = 1.0
        if step + 1 < len(out):
            after = limit / max(peaks[step + 1] * slow[step + 1], limit)
        gain = min(held, 1.0 - beside * max(before, 1.0 - after))
        out[step] += energies[step] * (slow[step] * gain) ** 2
        before, held = 1.0 - held, after
