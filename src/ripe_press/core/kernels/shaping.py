"""Inner loop of noise shaping: every sample's error goes into the next. Arrays in, arrays out."""

from typing import Any

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def shape(scaled: Any, noise: Any, coefficients: Any, errors: Any) -> None:
    """Rounds ``scaled`` ``(frames, channels)``, in LSB, in place, with ``noise`` of the same shape added.

    ``errors`` ``(channels, order)`` are the last errors, newest first, and go from call to call. The error is taken
    before anything is clipped to the range of the integers: clipped errors would run away.
    """
    frames, channels = scaled.shape
    order = len(coefficients)
    for channel in range(channels):
        for frame in range(frames):
            wanted = scaled[frame, channel]
            for tap in range(order):
                wanted -= coefficients[tap] * errors[channel, tap]
            code = np.rint(wanted + noise[frame, channel])
            for tap in range(order - 1, 0, -1):
                errors[channel, tap] = errors[channel, tap - 1]
            errors[channel, 0] = code - wanted
            scaled[frame, channel] = code
