"""A look at a file's head before any library opens it: is it sound, is it whole, is it sane?"""

import os
import struct
from pathlib import Path
from typing import BinaryIO

from ripe_press.core.errors import NotFound, Unreadable
from ripe_press.core.formats import riff as _riff
from ripe_press.core.words import quoted

_STREAMED_SIZES = (0, 0x7FFF_FFFF, 0xFFFF_FFFF)
"""Sizes that programs leave in a header when they could not go back to it (common practice, no source)."""

_ROOM_BYTES = 64 << 30
"""For notes, pictures and video beside the sound of a file: so much is read through in a minute or two."""
_HOLE_BYTES = 1 << 30
_W64 = b"riff\x2e\x91\xcf\x11\xa5\xd6\x28\xdb"
_MOST_PAGE_BYTES = 65_307
_END_OF_STREAM = 0x04


def check_head(path: Path) -> None:
    """Refuses what a library would accept in silence or explain badly.

    Raises: NotFound ``source.missing``; Unreadable ``source.empty``, ``source.no-channels``, ``source.no-audio``
    or ``source.truncated``.
    """
    if not path.is_file():
        message = f"File not found: {quoted(path)}. Check the path."
        raise NotFound("source.missing", message, path=str(path))
    size = path.stat().st_size
    if size == 0:
        message = f"{quoted(path.name)} is empty (0 bytes). Export or copy it again."
        raise Unreadable("source.empty", message, path=str(path))
    _check_holes(path, path.stat())
    try:
        with path.open("rb") as file:
            head = file.read(12)
            if head[:4] in (b"RIFF", b"RF64") and head[8:12] == b"WAVE":
                _check_wave(path, file, size, head)
            elif head[:4] == b"FORM" and head[8:12] in (b"AIFF", b"AIFC"):
                _check_aiff(path, file, size)
            elif head[:4] == b"OggS":
                _check_ogg(path, file, size)
            elif head == _W64:
                _check_w64(path, file, size)
    except struct.error as error:
        message = f"{quoted(path.name)} is truncated: its header is incomplete. Export or copy it again."
        raise Unreadable("source.truncated", message, path=str(path)) from error
    except OSError as error:
        message = f"{quoted(path.name)} could not be read: {error.strerror}."
        raise Unreadable("source.unreadable", message, path=str(path)) from error


def _check_holes(path: Path, state: os.stat_result) -> None:
    """A file that is little but a hole says that it is long, and libraries go through all of it."""
    there = state.st_blocks * 512
    if state.st_size > _HOLE_BYTES and there < state.st_size // 64:
        message = (
            f"{quoted(path.name)} declares {state.st_size:,} bytes; only {there:,} are on the disk. "
            "Copy or export it again."
        )
        raise Unreadable("source.hole", message, declared=state.st_size, there=there)


def check_share(path: Path, frames: int, channels: int) -> None:
    """Check that the content of a file is its audio, not other data after it.

    Raises: Unreadable ``source.not-all-sound``.
    """
    size, most = path.stat().st_size, frames * channels * 8 + _ROOM_BYTES
    if size > most:
        message = (
            f"{quoted(path.name)} has {size:,} bytes; its {frames:,} samples need max {most - _ROOM_BYTES:,}. "
            "Export it again without the rest."
        )
        raise Unreadable("source.not-all-sound", message, bytes=size, frames=frames)


def _check_wave(path: Path, file: BinaryIO, size: int, head: bytes) -> None:
    declared_whole = struct.unpack("<I", head[4:8])[0]
    channels = None
    for chunk in _riff.walk(file, size):
        if chunk.name == b"fmt " and chunk.size >= 16:
            file.seek(chunk.offset)
            channels = struct.unpack("<HH", file.read(4))[1]
            _check_channels(path, channels)
        if chunk.name == b"data":
            streamed = chunk.size in _STREAMED_SIZES and declared_whole in _STREAMED_SIZES
            _check_data(path, chunk, size, streamed)
            return
    _refuse_without_data(path)


def _check_aiff(path: Path, file: BinaryIO, size: int) -> None:
    for chunk in _riff.walk(file, size, big_endian=True):
        if chunk.name == b"COMM" and chunk.size >= 8:
            file.seek(chunk.offset)
            _check_channels(path, struct.unpack(">h", file.read(2))[0])
        if chunk.name == b"SSND":
            _check_data(path, chunk, size, streamed=False)
            return
    _refuse_without_data(path)


def _check_w64(path: Path, file: BinaryIO, size: int) -> None:
    """The library reads through chunks of zero length, 24 bytes at a time, to the end of the file.

    Source: Sony Media Software, Wave64 (from memory of the text): 16 bytes of name, 8 of size with both.
    """
    at = 40
    for _ in range(_riff.MOST_CHUNKS):
        file.seek(at)
        head = file.read(24)
        if len(head) < 24:
            return
        length = struct.unpack("<q", head[16:])[0]
        if length < 24:
            break
        at += length + -length % 8
    message = f"{quoted(path.name)} is damaged after {min(at, size):,} bytes. Export it again."
    raise Unreadable("source.damaged", message, path=str(path))


def _check_ogg(path: Path, file: BinaryIO, size: int) -> None:
    """The last page of a whole stream carries the end-of-stream flag (RFC 3533, section 6)."""
    file.seek(max(0, size - 2 * _MOST_PAGE_BYTES))
    rest = file.read()
    at = rest.rfind(b"OggS")
    if at < 0 or len(rest) < at + 27 or not rest[at + 5] & _END_OF_STREAM:
        message = f"{quoted(path.name)} is truncated: its last page is missing. Export or copy it again."
        raise Unreadable("source.truncated", message, path=str(path))


def _check_channels(path: Path, channels: int) -> None:
    if channels < 1:
        message = f"{quoted(path.name)} has no channels. Export the mix again."
        raise Unreadable("source.no-channels", message, path=str(path))


def _check_data(path: Path, chunk: _riff.Chunk, size: int, streamed: bool) -> None:
    there = size - chunk.offset
    if chunk.size > there and not streamed:
        message = (
            f"{quoted(path.name)} is truncated: its header declares {chunk.size:,} bytes of audio "
            f"and {max(there, 0):,} are there. Copy or export it again."
        )
        raise Unreadable("source.truncated", message, path=str(path), declared=chunk.size, there=there)


def _refuse_without_data(path: Path) -> None:
    message = f"{quoted(path.name)} has no audio. Export the mix again."
    raise Unreadable("source.no-audio", message, path=str(path))


def read_by_av(path: Path) -> bool:
    """Whether a file begins like MP4, WavPack or a bare AAC stream, which libsndfile does not read."""
    with path.open("rb") as file:
        head = file.read(12)
    # ADTS: twelve set bits, then a layer of 00; MP3 has a layer of its own there (ISO/IEC 13818-7, 6.2).
    bare_aac = len(head) > 1 and head[0] == 0xFF and head[1] & 0xF6 == 0xF0
    return head[4:8] == b"ftyp" or head[:4] == b"wvpk" or bare_aac


def holds_opus(path: Path) -> bool:
    """Whether the first packet of an Ogg stream is that of Opus (RFC 7845, section 5.1)."""
    with path.open("rb") as file:
        head = file.read(36)
    return head[:4] == b"OggS" and head[28:] == b"OpusHead"


def begins_with(path: Path, head: bytes) -> bool:
    """Whether the first bytes of a file are these."""
    with path.open("rb") as file:
        return file.read(len(head)) == head
