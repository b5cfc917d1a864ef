"""What can be pressed: a value that knows its facts and can be opened, as often as it is needed.

All audio is read through this interface; a new kind of source is a class of its own in this package, tested by the
contract in `tests/contracts/test_sources.py`.
"""

from abc import ABC, abstractmethod
from collections.abc import Iterator
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING, Protocol, Self

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.formats.reading.header_check import read_by_av
from ripe_press.core.formats.reading.reader import SourceReader

if TYPE_CHECKING:
    from ripe_press.core.sources.sharing import Sharing


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
