"""Putting the image of a disc together from its tracks, each in its place; between them digital silence."""

import hashlib
import os
import zlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.disc.frames import FRAME_BYTES
from ripe_press.core.disc.sums import SecondSums
from ripe_press.core.disk import write_failed
from ripe_press.core.errors import Cancelled
from ripe_press.core.sources.source import open_file

_SAMPLE_BYTES = 4


@dataclass(frozen=True, slots=True)
class LaidFile:
    """A 16-bit file of a track, and the frame of the disc that it begins at."""

    path: Path
    start_frame: int


@dataclass(frozen=True, slots=True)
class Assembled:
    """Written files: SHA-256 of the image, CRC-32 of every track and of every second."""

    sha256: str
    crcs: tuple[int, ...]
    bytes: int
    seconds: tuple[int, ...] = ()


def assemble(
    target: Path,
    laid: Sequence[LaidFile],
    lead_out_frame: int,
    progress: Progress = no_progress,
    should_stop: Callable[[], bool] = lambda: False,
) -> Assembled:
    """Writes the image: 16-bit stereo, little-endian, without a header; on the disk when this comes back.

    Raises: Cancelled ``disc.cancelled``; Interrupted ``write.failed``; as reading does.
    """
    try:
        return _assembled(target, laid, lead_out_frame, progress, should_stop)
    except OSError as error:
        raise write_failed(target, error) from error


def _assembled(
    target: Path,
    laid: Sequence[LaidFile],
    lead_out_frame: int,
    progress: Progress,
    should_stop: Callable[[], bool],
) -> Assembled:
    total = lead_out_frame * FRAME_BYTES
    digest, seconds, crcs, at = hashlib.sha256(), SecondSums(), [], 0

    def hashed(data: bytes) -> None:
        digest.update(data)
        seconds.update(data)

    with target.open("xb") as image:
        for one in laid:
            begins = one.start_frame * FRAME_BYTES
            at += _silence(image.write, hashed, begins - at)
            crc = 0
            with open_file(one.path) as reader:
                for block in reader.blocks():
                    if should_stop():
                        raise Cancelled("disc.cancelled", "Disc cancelled. No image was kept.")
                    data = np.rint(block * 32768.0).astype("<i2").tobytes()
                    image.write(data)
                    hashed(data)
                    crc = zlib.crc32(data, crc)
                    at += len(data)
                    progress(at, total)
            crcs.append(crc)
        _silence(image.write, hashed, total - at)
        image.flush()
        os.fsync(image.fileno())
    progress(total, total)
    return Assembled(digest.hexdigest(), tuple(crcs), total, seconds.result())


def _silence(write: Callable[[bytes], object], hashed: Callable[[bytes], object], size: int) -> int:
    left = size
    while left > 0:
        data = bytes(min(left, 1 << 20))
        write(data)
        hashed(data)
        left -= len(data)
    return size
