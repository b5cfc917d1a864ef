"""What sources that are made of several others have in common, and their readers."""

from collections.abc import Iterable, Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from typing import Self

import numpy as np

from ripe_press.core.blocks import Block
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.sources.source import AudioSource


@dataclass(frozen=True, slots=True)
class PartedSource(AudioSource):
    """Several sources, of which one is made: it is what they are."""

    parts: tuple[AudioSource, ...]
    facts: SourceFacts

    def stamp(self) -> object:
        """The stamps of every part. Raises: Conflict ``source.changed``."""
        return tuple(part.stamp() for part in self.parts)

    @property
    def files(self) -> frozenset[AudioSource]:
        """All files read for the parts."""
        return frozenset().union(*(part.files for part in self.parts))

    @property
    def description(self) -> str:
        """What its parts say."""
        return " ".join(dict.fromkeys(part.description for part in self.parts if part.description))

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


def fingerprint_of(parts: Sequence[AudioSource]) -> str:
    """A text that is the same for the same parts; empty where one of them has no fingerprint yet."""
    return "\n".join(one.fingerprint for one in parts) if all(one.fingerprint for one in parts) else ""


def in_blocks(pieces: Iterable[Block], block_frames: int) -> Iterator[Block]:
    """The same frames in blocks of which every one but the last is full."""
    held: list[Block] = []
    room = block_frames
    for piece in pieces:
        while len(piece) >= room:
            yield np.concatenate((*held, piece[:room])) if held else piece[:room]
            held, piece, room = [], piece[room:], block_frames  # noqa: PLW2901
        if len(piece):
            held.append(piece)
            room -= len(piece)
    if held:
        yield np.concatenate(held)


def silence(frames: int, channels: int, block_frames: int) -> Iterator[Block]:
    """So many frames of silence, none where there are none or fewer."""
    while frames > 0:
        yield np.zeros((min(frames, block_frames), channels))
        frames -= block_frames
