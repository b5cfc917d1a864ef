"""One reading for all that is made of a file: a stem pressed alone, in a sum, and in the sum of everything."""

from collections.abc import Iterator
from contextlib import ExitStack
from itertools import tee
from types import TracebackType
from typing import Self

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.sources.source import AudioSource, Reader


class Sharing:
    """Files that several readings go through in step, on one thread.

    A file is read once for all readers of the same frames and block size that join before `seal`; later readers, and
    those of other frames, read for themselves. A block is let go of when the last of them has taken it.
    """

    def __init__(self) -> None:
        self._stack = ExitStack()
        self._readers: dict[AudioSource, Reader] = {}
        self._reading: dict[tuple[AudioSource, int, int | None, int], Iterator[Block | Exception]] = {}
        self._sealed = False

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._stack.close()

    def seal(self) -> None:
        """Close a running reading to new readers."""
        self._sealed = True
        self._reading.clear()

    def reader(self, source: AudioSource) -> Reader:
        """A reader of a file that reads with the others where it can."""
        return SharedReader(self, source)

    def blocks(
        self, source: AudioSource, start_frame: int, end_frame: int | None, block_frames: int
    ) -> Iterator[Block]:
        """The frames of a file, read once for all who ask for the same."""
        if self._sealed:
            with source.open() as own:
                yield from own.blocks(start_frame, end_frame, block_frames)
            return
        key = source, start_frame, end_frame, block_frames
        if key not in self._reading:
            # Readers go through a file one way at a time: every stretch that is asked for has its own.
            opened = self._stack.enter_context(source.open())
            self._reading[key] = _with_error(opened.blocks(start_frame, end_frame, block_frames))
        self._reading[key], mine = tee(self._reading[key])
        for block in mine:
            if isinstance(block, Exception):
                raise block
            yield block


def _with_error(blocks: Iterator[Block]) -> Iterator[Block | Exception]:
    """The blocks, with an error as the last of them, so that every reader gets it."""
    try:
        yield from blocks
    except Exception as error:
        yield error


class SharedReader:
    """A file among others that are read in step. Closing it closes the shared file."""

    def __init__(self, sharing: Sharing, source: AudioSource) -> None:
        self._sharing = sharing
        self._source = source

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        return

    def close(self) -> None:
        """Nothing of its own is open."""

    def blocks(
        self, start_frame: int = 0, end_frame: int | None = None, block_frames: int = BLOCK_FRAMES
    ) -> Iterator[Block]:
        """The frames, shared. Raises: as the file does."""
        return self._sharing.blocks(self._source, start_frame, end_frame, block_frames)
