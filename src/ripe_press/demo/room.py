"""A room with a real tail: noise that decays, darker as it goes, and convolution with it."""

import numpy as np
from numpy.typing import NDArray

Stereo = NDArray[np.float32]


def room_response(rate_hz: int, seconds: float, rt60_s: float, seed: int) -> Stereo:
    """An impulse response ``(frames, 2)``: sixty decibels down after ``rt60_s``, faster for high frequencies."""
    random = np.random.default_rng(seed)
    frames = int(seconds * rate_hz)
    times = np.arange(frames)[:, None] / rate_hz
    bright = random.standard_normal((frames, 2))
    # A running sum over 24 frames is the dull half of the room: it lasts, the bright half is soon gone.
    dark = np.cumsum(bright, axis=0)
    dark[24:] -= dark[:-24].copy()
    out = bright * np.exp(-times * 6.91 / (0.35 * rt60_s)) * 0.5 + dark / 4.9 * np.exp(-times * 6.91 / rt60_s)
    out *= np.minimum(1.0, times / 0.012)
    response: Stereo = (out / np.sqrt((out**2).sum(axis=0))).astype(np.float32)
    return response


def convolve(send: NDArray[np.float32], response: Stereo) -> Stereo:
    """A mono send through the room, same length as the send, by overlap-add in single precision."""
    taps = len(response)
    size = 1 << (taps * 3).bit_length()
    step = size - taps + 1
    spectrum = np.fft.rfft(response, size, axis=0)
    out = np.zeros((len(send) + size, 2), dtype=np.float32)
    for start in range(0, len(send), step):
        piece = np.fft.rfft(send[start : start + step], size)
        out[start : start + size] += np.fft.irfft(piece[:, None] * spectrum, size, axis=0)
    return out[: len(send)]
