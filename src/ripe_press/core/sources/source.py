"""What can be pressed: a value that knows its facts and can be opened, as often as it is needed.

All audio is read through this interface; a new kind of source is a class of its own in this package, tested by the
contract in `tests/contracts/test_sources.py`.
"""

from abc import ABC, abstractmethod
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path
from types import TracebackType
from typing import Protocol, Self

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.formats.reading.header_check import read_by_av
from ripe_press.core.formats.reading.reader import SourceReader


class Reader(Protocol):
    """An open source. Never writes, never holds more than a few blocks."""

    def __enter__(self) -> Self:
        """Itself."""
        ...

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        """Closes."""
        ...

    def blocks(
        self, start_frame: int = 0, end_frame: int | None = None, block_frames: int = BLOCK_FRAMES
    ) -> Iterator[Block]:
        """The frames from ``start_frame`` up to, without, ``end_frame``; every block but the last is full.

        Raises: Unreadable for damaged or non-finite samples.
        """
        ...

    def close(self) -> None:
        """Close the open files."""
        ...


class AudioSource(ABC):
    """A frozen, hashable value: the same value is the same sound."""

    __slots__ = ()
    facts: SourceFacts

    @abstractmethod
    def open(self, sharing: "Sharing | None" = None) -> Reader:
        """Opens it; any number of times, also side by side. With ``sharing`` a file is read once for all its readers,
        in step.

        Raises: as `SourceReader`; Conflict ``source.changed`` where it is not what it was.
        """

    @property
    def files(self) -> "frozenset[AudioSource]":
        """Files on disk that it reads."""
        return frozenset((self,))

    @abstractmethod
    def stamp(self) -> object:
        """A value that changes when its files are rewritten: equal before and after a walk means unchanged."""

    @abstractmethod
    def check(self) -> None:
        """Check that it matches its recorded facts. Raises: Conflict ``source.changed``."""

    @property
    def description(self) -> str:
        """Its description for display; empty for a plain file."""
        return ""

    @property
    def fingerprint(self) -> str:
        """A value that identifies its samples, wherever they are stored; empty until first needed."""
        return f"{self.facts.content_sum}-{self.facts.downmix}" if self.facts.content_sum else ""


class Sharing:
    """Files that several readings go through in step, on one thread.

    A file is read once for all readers of the same frames and block size that join before `seal`; later readers, and
    those of other frames, read for themselves. A block is let go of when the last of them has taken it.
    """

    def __init__(self) -> None:
        self._stack = ExitStack()
        self._readers: dict[AudioSource, Reader] = {}
        self._reading: dict[tuple[AudioSource, int, int | None, int], _Link] = {}
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
            self._reading[key] = _Link(_with_error(opened.blocks(start_frame, end_frame, block_frames)))
        link = self._reading[key]
        while following := link.following():
            link = following
            if isinstance(link.block, Exception):
                raise link.block
            if link.block is not None:
                yield link.block


class _Link:
    """A block of a shared reading, and the way to the next: each is freed once every reader has gone on.

    (`itertools.tee` frees 57 at a time.)
    """

    __slots__ = ("_blocks", "_next", "block")

    def __init__(self, blocks: Iterator[Block | Exception], block: Block | Exception | None = None) -> None:
        self._blocks, self.block = blocks, block
        self._next: _Link | None = None

    def following(self) -> "_Link | None":
        """The next block, read at the first request; None at the end."""
        if self._next is None and (block := next(self._blocks, None)) is not None:
            self._next = _Link(self._blocks, block)
        return self._next


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


def open_file(path: Path, downmix: str = "", *, counted: bool = True) -> SourceReader:
    """Opens a file of which nothing is known yet; ``facts`` of the reader are what it declares.

    Without ``counted`` it can only be read from its start to its end, and where a codec does not say how many frames
    there are, they are not decoded once to be counted. Raises: as `SourceReader`.
    """
    return SourceReader(path, downmix, counted=counted)


def facts_of_file(path: Path, downmix: str = "") -> SourceFacts:
    """What a file declares of itself. Raises: as `SourceReader`."""
    with SourceReader(path, downmix) as reader:
        return reader.facts


def enters_anywhere(path: Path, downmix: str = "") -> bool:
    """Whether a file can be read from any frame on without decoding everything before it. Raises: as `SourceReader`."""
    if read_by_av(path):
        return False
    with SourceReader(path, downmix) as reader:
        return reader.enters_anywhere
