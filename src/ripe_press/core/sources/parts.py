"""What sources that are made of several others have in common, and their readers."""

from collections.abc import Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from typing import Self

from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.sources.source import Source


@dataclass(frozen=True, slots=True)
class PartedSource(Source):
    """Several sources, of which one is made: it is what they are."""

    parts: tuple[Source, ...]
    facts: SourceFacts

    def stamp(self) -> object:
        """The stamps of every part. Raises: Conflict ``source.changed``."""
        return tuple(part.stamp() for part in self.parts)

    def check(self) -> None:
        """Checks every part once. Raises: Conflict ``source.changed``."""
        for part in dict.fromkeys(self.parts):
            part.check()


class ReaderOfParts:
    """Closes with itself whatever it has opened."""

    def __init__(self) -> None:
        self._stack = ExitStack()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Lets go of every part."""
        self._stack.close()


def fingerprint_of(parts: Sequence[Source]) -> str:
    """A text that is the same for the same parts; empty where one of them has no fingerprint yet."""
    return "\n".join(one.fingerprint for one in parts) if all(one.fingerprint for one in parts) else ""
