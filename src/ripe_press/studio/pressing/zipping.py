"""Several files as one ZIP, written while it is sent."""

import io
import os
import zipfile
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import IO, Any, cast

BLOCK = 1 << 18


class _Sent(io.RawIOBase):
    """An output that keeps one block until it is taken."""

    def __init__(self) -> None:
        self._parts: list[bytes] = []

    def write(self, data: Any) -> int:
        self._parts.append(bytes(data))
        return len(data)

    def take(self) -> bytes:
        """The bytes written since the last call."""
        taken, self._parts = b"".join(self._parts), []
        return taken


def zipped(paths: Sequence[Path]) -> Iterator[bytes]:
    """The bytes of a ZIP with the files, stored and not compressed, below the folder that they share."""
    root = Path(os.path.commonpath([one.parent for one in paths]))
    sent = _Sent()
    with zipfile.ZipFile(cast("IO[bytes]", sent), "w", zipfile.ZIP_STORED) as archive:
        for path in paths:
            about = zipfile.ZipInfo.from_file(path, str(path.relative_to(root)))
            with path.open("rb") as file, archive.open(about, "w", force_zip64=True) as entry:
                while block := file.read(BLOCK):
                    entry.write(block)
                    yield sent.take()
        yield sent.take()
    yield sent.take()
