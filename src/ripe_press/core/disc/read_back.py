"""Compare a disc that was read back with its image, sample by sample.

A drive reads a constant number of samples late or early: its offset is detected first and removed.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.disc.frames import FRAME_BYTES, FRAME_SAMPLES
from ripe_press.core.disc.subchannel import Q_BYTES, OnDisc, QPosition, read_q
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND

MOST_OFFSET = 3_000
"""Samples; drives are off by 6 to 667 (from memory of published tables)."""
MOST_TOLD = 200
_AT_ONCE = CD_FRAMES_PER_SECOND
_WINDOWS = 12

Samples = NDArray[np.int16]
Read = Callable[[int, int], tuple[Sequence[int], bytes]]
"""From a frame on so many: the frames that the drive knows to be wrong, and samples and then Q of all of them."""


@dataclass(frozen=True, slots=True)
class WrongFrame:
    """A frame that is not as it was burnt: on which track, how far into it in seconds, how many samples differ."""

    frame: int
    track: int
    at_s: float
    samples: int
    known: bool
    """Whether the drive knew."""


@dataclass(slots=True)
class ReadBack:
    """What came of it; ``lost_samples`` at one end the drive cannot reach with its offset."""

    offset_samples: int | None = None
    frames: int = 0
    wrong_frames: int = 0
    wrong: list[WrongFrame] = field(default_factory=list)
    lost_samples: int = 0
    places_wrong: int = 0
    """Frames whose Q does not say where they are."""
    catalog: str = ""
    isrcs: dict[int, str] = field(default_factory=dict)

    @property
    def holds(self) -> bool:
        """Whether the disc is the image."""
        return self.offset_samples is not None and not self.wrong_frames and not self.places_wrong


def read_back(
    image: Path,
    tracks: Sequence[OnDisc],
    lead_out: int,
    read: Read,
    progress: Progress = no_progress,
) -> ReadBack:
    """Reads all of a disc and compares it. Raises: OSError for the image; whatever ``read`` raises."""
    found = ReadBack(frames=lead_out)
    with image.open("rb") as file:

        def burnt(first: int, count: int) -> Samples:
            """Samples of the image, zeros outside of it."""
            file.seek(max(0, first) * 4)
            data = file.read(max(0, count + min(0, first)) * 4)
            return np.frombuffer((bytes(max(0, -first) * 4) + data).ljust(count * 4, b"\0"), "<i2").reshape(-1, 2)

        found.offset_samples = _offset(burnt, lead_out, read)
        offset = found.offset_samples or 0
        found.lost_samples = abs(offset)
        for start in range(0, lead_out, _AT_ONCE):
            frames = min(_AT_ONCE, lead_out - start)
            c2, data = read(start, frames)
            heard = np.frombuffer(data[: frames * FRAME_BYTES], "<i2").reshape(-1, 2)
            wanted = burnt(start * FRAME_SAMPLES - offset, frames * FRAME_SAMPLES)
            unlike = (heard != wanted).any(axis=1).reshape(frames, FRAME_SAMPLES).sum(axis=1)
            for at in np.flatnonzero(unlike).tolist():
                found.wrong_frames += 1
                if len(found.wrong) < MOST_TOLD:
                    found.wrong.append(_placed(start + at, int(unlike[at]), tracks, start + at in c2))
            _take_q(found, data[frames * FRAME_BYTES :], start, tracks)
            progress(start + frames, lead_out)
    return found


def _offset(burnt: Callable[[int, int], Samples], lead_out: int, read: Read) -> int | None:
    """By how many samples the drive is late: where a frame that sounds comes to lie; None where none is found."""
    around = -(-MOST_OFFSET // FRAME_SAMPLES)
    for at in _sounding(burnt, lead_out):
        first, last = max(0, at - around), min(lead_out, at + 1 + around)
        _, data = read(first, last - first)
        heard = np.frombuffer(data[: (last - first) * FRAME_BYTES], "<i4")
        wanted = np.frombuffer(burnt(at * FRAME_SAMPLES, FRAME_SAMPLES).tobytes(), "<i4")
        for place in np.flatnonzero(heard[: len(heard) - FRAME_SAMPLES + 1] == wanted[0]).tolist():
            if np.array_equal(heard[place : place + FRAME_SAMPLES], wanted):
                return int(place - (at - first) * FRAME_SAMPLES)
    return None


def _sounding(burnt: Callable[[int, int], Samples], lead_out: int) -> Iterator[int]:
    """Frames spread over the disc in which something sounds, and no sample of the first stands for silence."""
    step = max(1, lead_out // (20 * _WINDOWS))
    given = 0
    for at in range(0, lead_out, step):
        frame = burnt(at * FRAME_SAMPLES, FRAME_SAMPLES)
        if frame[0].any() and np.ptp(frame) > 64:
            yield at
            given += 1
        if given == _WINDOWS:
            return


def _placed(frame: int, samples: int, tracks: Sequence[OnDisc], known: bool) -> WrongFrame:
    track = next((one for one in reversed(tracks) if one.start <= frame), tracks[0])
    return WrongFrame(frame, track.number, (frame - track.start) / CD_FRAMES_PER_SECOND, samples, known)


def _take_q(found: ReadBack, data: bytes, start: int, tracks: Sequence[OnDisc]) -> None:
    for at in range(len(data) // Q_BYTES):
        frame, said = start + at, read_q(data[at * Q_BYTES : (at + 1) * Q_BYTES])
        track = next((one for one in reversed(tracks) if one.first <= frame), tracks[0])
        if isinstance(said, str):
            if len(said) == 13:
                found.catalog = said
            else:
                found.isrcs[track.number] = said
        elif not isinstance(said, QPosition) or (said.absolute, said.track) != (frame, track.number):
            found.places_wrong += 1
