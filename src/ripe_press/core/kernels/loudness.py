"""Inner loop of loudness: K-weighting and energies of short stretches. Arrays in, arrays out."""

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

Array = NDArray[np.float64]


@njit(cache=True, nogil=True, fastmath={"contract", "nsz"})
def accumulate(
    block: Any, shelf: Any, high_pass: Any, state: Any, sums: Any, filled: int, stretch: int, weighted: Any, plain: Any
) -> tuple[int, int]:
    """Filters a block ``(frames, channels)`` and adds up the energy of stretches of ``stretch`` frames.

    ``shelf`` is (b0, b1, b2, a1, a2), ``high_pass`` (a1, a2); ``state`` ``(channels, 4)``, ``sums``
    ``(channels, 2)`` and ``filled`` (frames in the open stretch) go from call to call. The sums of squares of
    finished stretches are written to ``weighted`` and ``plain``, both ``(stretches, channels)``. Gives the number
    of finished stretches and the new ``filled``.
    """
    frames, channels = block.shape
    b0, b1, b2, a1, a2 = shelf[0], shelf[1], shelf[2], shelf[3], shelf[4]
    p1, p2 = high_pass[0], high_pass[1]
    done = 0
    at = 0
    while at < frames:
        count = min(stretch - filled, frames - at)
        for channel in range(channels):
            # Transposed direct form II; both sections in one loop keep the state in registers.
            s1, s2, t1, t2 = state[channel, 0], state[channel, 1], state[channel, 2], state[channel, 3]
            energy, power = 0.0, 0.0
            for frame in range(at, at + count):
                x = block[frame, channel]
                power += x * x
                y = b0 * x + s1
                s1 = b1 * x - a1 * y + s2
                s2 = b2 * x - a2 * y
                z = y + t1
                t1 = -2.0 * y - p1 * z + t2
                t2 = y - p2 * z
                energy += z * z
            state[channel, 0], state[channel, 1], state[channel, 2], state[channel, 3] = s1, s2, t1, t2
            sums[channel, 0] += energy
            sums[channel, 1] += power
        filled += count
        at += count
        if filled == stretch:
            for channel in range(channels):
                weighted[done, channel] = sums[channel, 0]
                plain[done, channel] = sums[channel, 1]
                sums[channel, 0] = 0.0
                sums[channel, 1] = 0.0
            done += 1
            filled = 0
    return done, filled
