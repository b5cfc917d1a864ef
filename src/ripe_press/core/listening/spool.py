"""Decode a file once, from its start, to samples with random access.

Some codecs give other samples when decoding starts in the middle (AAC generates its noise from the first packet;
measured). Not yet decoded parts are silent.
"""

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.errors import Cancelled
from ripe_press.core.sources.source import open_file
from ripe_press.core.words import quoted

_BYTES = 4


def spool(
    path: Path,
    downmix: str,
    target: Path,
    should_stop: Callable[[], bool] = lambda: False,
    progress: Callable[[int], None] = lambda _frames: None,
) -> None:
    """Decodes a file into 32-bit float samples, channels interleaved; ``progress`` hears how many frames there are.

    Raises: Unreadable, Unsupported as opening and decoding do; Cancelled ``voice.cancelled``.
    """
    done = 0
    with open_file(path, downmix, counted=False) as reader, target.open("wb", buffering=0) as out:
        for block in reader.blocks():
            if should_stop():
                message = f"{quoted(path.name)} is no longer open."
                raise Cancelled("voice.cancelled", message)
            out.write(block.astype("<f4").tobytes())
            done += len(block)
            progress(done)


def spooled_frames(target: Path, channels: int) -> int:
    """How many frames have been decoded."""
    try:
        return target.stat().st_size // (_BYTES * channels)
    except OSError:
        return 0


class Spooled:
    """The samples decoded so far; zeros after them."""

    def __init__(self, target: Path, frames: int, channels: int) -> None:
        self._target, self._frames, self._channels = target, frames, channels

    def close(self) -> None:
        """Nothing is held open."""

    def blocks(self, start_frame: int = 0, end_frame: int | None = None) -> Iterator[Block]:
        """The frames from one up to, without, another."""
        end = self._frames if end_frame is None else min(end_frame, self._frames)
        while start_frame < end:
            frames = min(BLOCK_FRAMES, end - start_frame)
            block = np.zeros((frames, self._channels))
            found = self._read(start_frame, frames)
            block[: len(found)] = found
            yield block
            start_frame += frames

    def _read(self, start: int, frames: int) -> Block:
        try:
            flat = np.fromfile(
                self._target, dtype="<f4", count=frames * self._channels, offset=start * self._channels * _BYTES
            )
        except OSError:
            return np.zeros((0, self._channels))
        whole = len(flat) // self._channels * self._channels
        return flat[:whole].reshape(-1, self._channels).astype(np.float64)
