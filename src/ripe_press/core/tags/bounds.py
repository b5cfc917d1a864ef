"""Reject oversized tags before a library unpacks them.

Source: ID3 2.3.0 and 2.4.0, sections 3.1 to 3.3 and 3 to 4.1 (from memory of the texts).
"""

import io
from pathlib import Path
from typing import BinaryIO

from ripe_press.core.formats.riff import MOST_CHUNKS, walk

MOST_TAG_BYTES = 32 << 20
MOST_FRAMES = 5_000
MOST_PACKED_BYTES = 64 << 10
"""Of compressed frames together: what zlib makes of them is a thousand times as much at most."""

_COMPRESSED = {3: 0x80, 4: 0x08}
"""The flag in the second byte of a frame's flags, by the version of the tag."""


def sane_id3(file: BinaryIO) -> bool:
    """Whether a tag that begins here can be read at no great cost; yes where there is none."""
    head = file.read(10)
    if len(head) < 10 or head[:3] != b"ID3":
        return True
    version, size = head[3], _syncsafe(head[6:])
    if size > MOST_TAG_BYTES:
        return False
    body = file.read(size)
    header = 10 if version >= 3 else 6
    at = frames = packed = 0
    while at + header <= len(body) and body[at] and frames <= MOST_FRAMES and packed <= MOST_PACKED_BYTES:
        raw = body[at + 4 : at + 8] if version >= 3 else b"\0" + body[at + 3 : at + 6]
        length = _syncsafe(raw) if version == 4 else int.from_bytes(raw, "big")
        if version >= 3 and body[at + 9] & _COMPRESSED.get(version, 0):
            packed += length
        at += header + length
        frames += 1
    return frames <= MOST_FRAMES and packed <= MOST_PACKED_BYTES


def sane_tags(path: Path) -> bool:
    """Whether the tags of a file can be read at no great cost: those in front of it, and those among its chunks."""
    with path.open("rb") as file:
        if not sane_id3(file):
            return False
        file.seek(0)
        form = file.read(4)
        if form not in (b"RIFF", b"RF64", b"FORM"):
            return True
        return sum(1 for _ in walk(file, path.stat().st_size, big_endian=form == b"FORM")) < MOST_CHUNKS


def sane_chunk(body: bytes) -> bool:
    """The same of a tag in a chunk."""
    return sane_id3(io.BytesIO(body))


def _syncsafe(raw: bytes) -> int:
    return raw[0] << 21 | raw[1] << 14 | raw[2] << 7 | raw[3]
