"""Inner loops of the peak pyramid and of sums over channels. Arrays in, arrays out."""

import math
from typing import Any

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True)
def reduce(block: Any, frames_per_bin: int, out: Any) -> None:
    """Minimum, maximum and mean square of every ``frames_per_bin`` frames, written to ``(bins, channels, 3)``."""
    frames, channels = block.shape
    for number in range(out.shape[0]):
        start = number * frames_per_bin
        end = min(frames, start + frames_per_bin)
        part = block[start:end]
        for channel in range(channels):
            low = high = part[0, channel]
            power = 0.0
            for frame in range(part.shape[0]):
                value = part[frame, channel]
                low = min(low, value)
                high = max(high, value)
                power += value * value
            out[number, channel, 0] = np.float32(low)
            out[number, channel, 1] = np.float32(high)
            out[number, channel, 2] = np.float32(power / (end - start))


@njit(cache=True, nogil=True, fastmath=True)
def add_products(block: Any, sums: Any, products: Any) -> None:
    """Add the sums of every channel, and the products of every two, to the given arrays."""
    frames, channels = block.shape
    for one in range(channels):
        total = 0.0
        for frame in range(frames):
            total += block[frame, one]
        sums[one] += total
        for other in range(one, channels):
            total = 0.0
            for frame in range(frames):
                total += block[frame, one] * block[frame, other]
            products[one, other] += total


@njit(cache=True, nogil=True)
def count_levels(block: Any, floor_db: float, counts: Any) -> None:
    """Counts samples by their level, a decibel each from ``floor_db`` on; what lies below is counted nowhere."""
    frames, channels = block.shape
    for frame in range(frames):
        for channel in range(channels):
            value = abs(block[frame, channel])
            if value > 0.0:
                at = math.floor(20.0 * math.log10(value) - floor_db)
                if at >= 0:
                    counts[min(at, counts.shape[0] - 1)] += 1
