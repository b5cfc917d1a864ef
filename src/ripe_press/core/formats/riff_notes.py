"""Chunks that carry markers and tags in a WAV file, and adding them to one that is written.

Sources, from memory of the texts: Microsoft and IBM, Multimedia Programming Interface 1.0 (cue, adtl); the ``id3 ``
chunk is common practice, no source. Read back in the tests by readers that are not ours.
"""

import struct
from collections.abc import Sequence
from pathlib import Path

from ripe_press.core.errors import Unsupported
from ripe_press.core.formats._riff import MAX_32, chunk_header
from ripe_press.core.timeline import Marker


def chunk(name: bytes, body: bytes) -> bytes:
    """A whole chunk, padded to an even length; the padding does not count in its size."""
    return chunk_header(name, len(body)) + body + b"\0" * (len(body) % 2)


def marker_chunks(markers: Sequence[Marker]) -> bytes:
    """A cue chunk with the places and a LIST chunk with the names, numbered from 1."""
    points, labels = [], []
    for number, marker in enumerate(markers, 1):
        points.append(struct.pack("<II4sIII", number, marker.frame, b"data", 0, 0, marker.frame))
        labels.append(chunk(b"labl", struct.pack("<I", number) + marker.name.encode() + b"\0"))
    cue = chunk(b"cue ", struct.pack("<I", len(points)) + b"".join(points))
    return cue + chunk(b"LIST", b"adtl" + b"".join(labels))


def append_chunks(path: Path, chunks: bytes) -> None:
    """Adds whole chunks at the end of a RIFF file and mends its size. Raises: Unsupported ``riff.too-long``."""
    with path.open("r+b") as file:
        size = file.seek(0, 2)
        if size + len(chunks) - 8 > MAX_32:
            message = f"{path.name!r} is too long for chunks to be added to it."
            raise Unsupported("riff.too-long", message, bytes=size)
        file.write(b"\0" * (size % 2) + chunks)
        size = file.tell()
        file.seek(4)
        file.write(struct.pack("<I", size - 8))
