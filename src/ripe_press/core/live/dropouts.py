"""Detect dropouts: gaps of the counters, missing return signal, jumps in time."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Kind = Literal["counter", "silent", "slip"]
Frames = NDArray[np.float32]

WINDOW_FRAMES = 16
"""The length of a window in the search for silence."""
LEAST_WINDOWS = 2
SENT_LOUD = 1e-3
"""Where less is sent, −60 dBFS, nothing is missed (our own choice)."""
MISSING = 0.05
"""A return below a twentieth of its usual level, for the same sent signal, is missing."""
SEGMENT_FRAMES = 16_384
MOST_SLIP_FRAMES = 2_048
LEAST_SLIP_FRAMES = 3


@dataclass(frozen=True, slots=True)
class Dropout:
    """Samples of a capture that differ from the send, and how they were detected.

    A slip is the number of samples lost (positive) or doubled (negative) near ``start_frame``.
    """

    kind: Kind
    start_frame: int
    frames: int


def silent_stretches(sent: Frames, heard: Frames, start_frame: int) -> Iterator[Dropout]:
    """Where nothing came back though something was sent. Both are ``(frames, channels)``, in step with each other."""
    windows = len(sent) // WINDOW_FRAMES
    if not windows:
        return
    whole = windows * WINDOW_FRAMES
    went, came = (_levels(one[:whole]) for one in (sent, heard))
    loud = went > SENT_LOUD
    if not loud.any():
        return
    usual = float(np.median(came[loud] / went[loud]))
    missing = loud & (came < MISSING * usual * went)
    edges = np.flatnonzero(np.diff(np.concatenate(([0], missing.astype(np.int8), [0]))))
    for first, last in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        if last - first >= LEAST_WINDOWS:
            start, end = _to_the_frame(heard, first * WINDOW_FRAMES, last * WINDOW_FRAMES)
            yield Dropout("silent", start_frame + start, end - start)


def _levels(frames: Frames) -> NDArray[np.float64]:
    """The RMS of every window, in the louder channel."""
    parts = frames.reshape(-1, WINDOW_FRAMES, frames.shape[1]).astype(np.float64)
    return np.asarray(np.sqrt(np.square(parts).mean(axis=1)).max(axis=1), dtype=np.float64)


def _to_the_frame(heard: Frames, start: int, end: int) -> tuple[int, int]:
    """A stretch that is silent in whole windows, out to the frames at which sound ends and begins again."""
    floor = float(np.abs(heard[start:end]).max(initial=0.0)) * 4 + 1e-7
    while start > 0 and float(np.abs(heard[start - 1]).max()) <= floor:
        start -= 1
    while end < len(heard) and float(np.abs(heard[end]).max()) <= floor:
        end += 1
    return start, end


def lag_of(sent: Frames, heard: Frames) -> int | None:
    """Delay of the return in samples; None if it cannot be determined."""
    one, other = (frames.mean(axis=1).astype(np.float64) for frames in (sent, heard))
    if min(float(np.abs(one).max(initial=0.0)), float(np.abs(other).max(initial=0.0))) < SENT_LOUD:
        return None
    size = 1 << (2 * len(one) - 1).bit_length()
    # A slow change correlates at every lag: only the change from sample to sample shows the true one.
    spectra = [np.fft.rfft(np.diff(one), size), np.fft.rfft(np.diff(other), size)]
    cross = spectra[1] * np.conj(spectra[0])
    alike = np.fft.irfft(cross / (np.abs(cross) + 1e-3 * float(np.abs(cross).max())), size)
    reach = np.concatenate((alike[-MOST_SLIP_FRAMES:], alike[: MOST_SLIP_FRAMES + 1]))
    best = int(np.argmax(reach))
    rest = float(np.sqrt(np.mean(np.square(np.delete(reach, slice(max(0, best - 8), best + 9))))))
    return best - MOST_SLIP_FRAMES if reach[best] > 8 * rest else None


def slips(lags: list[tuple[int, int]]) -> list[Dropout]:
    """Jumps in time, from (frame, lag) of at least three segments in order.

    What all of them do alike is drift; a jump that stays is a slip, one that does not is chance.
    """
    if len(lags) < 3:
        return []
    at, lag = (np.array(one, dtype=np.float64) for one in zip(*lags, strict=True))
    usual = float(np.median(np.diff(lag) / np.diff(at)))
    left = lag - usual * at
    found = []
    for number in range(1, len(lags)):
        before, after = left[number - 1], left[number]
        stays = number + 1 >= len(lags) or abs(left[number + 1] - after) < LEAST_SLIP_FRAMES
        stays &= number < 2 or abs(before - left[number - 2]) < LEAST_SLIP_FRAMES
        if abs(after - before) >= LEAST_SLIP_FRAMES and stays:
            found.append(Dropout("slip", lags[number][0], round(float(before - after))))
    return found
