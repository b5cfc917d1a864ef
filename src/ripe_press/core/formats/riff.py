"""The chunk layer shared by RIFF files: writing headers, and walking the chunks of a file that comes in.

Sources: Microsoft and IBM, Multimedia Programming Interface 1.0 (RIFF, 1991); EBU Tech 3306 (RF64, 2009);
written from memory of the texts and checked against readers that are not ours (tests/published).
"""

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from typing import BinaryIO

MAX_32 = 0xFFFF_FFFF
DS64_BYTES = 28
MOST_CHUNKS = 2_000


def chunk_header(name: bytes, size: int) -> bytes:
    """Eight bytes: the four-letter name and the size, little-endian."""
    return name + struct.pack("<I", size)


def ds64_body(riff_size: int, data_size: int, frames: int) -> bytes:
    """The body of a ds64 chunk: the 64-bit sizes, and an empty table."""
    return struct.pack("<QQQI", riff_size, data_size, frames, 0)


@dataclass(frozen=True, slots=True)
class Chunk:
    """A chunk as the file declares it; ``offset`` is where its body begins."""

    name: bytes
    offset: int
    size: int


def walk(file: BinaryIO, file_bytes: int, big_endian: bool = False) -> Iterator[Chunk]:
    """The chunks after a 12-byte RIFF, RF64 or FORM header, as declared, until the file or sense ends.

    In RF64 the size of the data chunk is taken from ds64. Behind more chunks than any program writes it ends, too.
    """
    order = ">" if big_endian else "<"
    at = 12
    data_size_64: int | None = None
    walked = 0
    while at + 8 <= file_bytes and walked < MOST_CHUNKS:
        walked += 1
        file.seek(at)
        head = file.read(8)
        if len(head) < 8:
            return
        name, size = head[:4], struct.unpack(order + "I", head[4:])[0]
        if name == b"ds64" and size >= DS64_BYTES - 4:
            data_size_64 = struct.unpack("<QQ", file.read(16))[1]
        if name == b"data" and size == MAX_32 and data_size_64 is not None:
            size = data_size_64
        yield Chunk(name, at + 8, size)
        at += 8 + size + size % 2
