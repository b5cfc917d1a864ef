"""Checksums of an image: SHA-256 of every file, CRC-32 of every second of the image.

The list is readable by `sha256sum --check`; the seconds are in comments. A change is located to its second.
"""

import hashlib
import zlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from ripe_press.core.disc.frames import FRAME_BYTES
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND

ENDING = " SHA-256.txt"
_OTHER_ENDING = ".sha256"
SECOND_BYTES = FRAME_BYTES * CD_FRAMES_PER_SECOND
_MARK = "# crc32 of seconds from"
_A_LINE = 10


class SecondSums:
    """CRC-32 of every second of a stream of bytes."""

    def __init__(self) -> None:
        self._crcs: list[int] = []
        self._crc = self._filled = 0

    def update(self, data: bytes) -> None:
        """Takes the next bytes into account."""
        view = memoryview(data)
        while view:
            part = view[: SECOND_BYTES - self._filled]
            self._crc = zlib.crc32(part, self._crc)
            self._filled += len(part)
            view = view[len(part) :]
            if self._filled == SECOND_BYTES:
                self._end()

    def result(self) -> tuple[int, ...]:
        """All of them; the last may be of less than a second."""
        if self._filled:
            self._end()
        return tuple(self._crcs)

    def _end(self) -> None:
        self._crcs.append(self._crc)
        self._crc = self._filled = 0


@dataclass(frozen=True, slots=True)
class ListedSums:
    """What a list says: the digest of each file by its name, and of every second of the image, where it has them."""

    files: Mapping[str, str] = field(default_factory=dict)
    seconds: tuple[int, ...] = ()


def write_sums(files: Iterable[tuple[str, str]], seconds: Sequence[int]) -> str:
    """The list as text."""
    lines = [f"{digest}  {name}" for name, digest in files]
    lines += [
        f"{_MARK} {at}: {' '.join(f'{one:08X}' for one in seconds[at : at + _A_LINE])}"
        for at in range(0, len(seconds), _A_LINE)
    ]
    return "\n".join(lines) + "\n"


def sums_beside(cue: Path) -> Path | None:
    """The list of checksums beside a cue sheet; None where there is none."""
    places = (cue.with_name(f"{cue.stem}{ENDING}"), cue.with_suffix(_OTHER_ENDING))
    return next((one for one in places if one.is_file()), None)


def digest_of(path: Path) -> str:
    """SHA-256 of a file. Raises: OSError."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def read_sums(path: Path) -> ListedSums:
    """A list of this product or of `sha256sum`. Raises: OSError."""
    files: dict[str, str] = {}
    seconds: list[int] = []
    for line in path.read_text(encoding="utf-8", errors="replace").splitlines():
        if line.startswith(_MARK):
            words = line.partition(":")[2].split()
            seconds += [int(one, 16) for one in words if all(letter in "0123456789ABCDEF" for letter in one)]
            continue
        digest, _, name = line.partition(" ")
        if len(digest) == 64 and not line.startswith("#"):
            files[name.lstrip(" *")] = digest.lower()
    return ListedSums(files, tuple(seconds))


def changed_second(image: Path, seconds: Sequence[int]) -> int | None:
    """The first second of an image that is not as listed; None where all are, or none is listed. Raises: OSError."""
    if not seconds:
        return None
    with image.open("rb") as file:
        for at, wanted in enumerate(seconds):
            if zlib.crc32(file.read(SECOND_BYTES)) != wanted:
                return at
        return len(seconds) if file.read(1) else None
