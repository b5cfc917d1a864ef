"""Tags that cost minutes or gigabytes are left unread, by everyone who reads tags; ordinary ones are not."""

import struct
import time
import zlib
from pathlib import Path

import pytest
from mutagen.id3 import ID3, TIT2, TXXX

from ripe_press.core.formats import riff as _riff
from ripe_press.core.tags.bounds import sane_tags
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.core.tags.pictures import read_cover
from support.formats import write_file
from support.signals import noise, write


def syncsafe(size: int) -> bytes:
    return bytes(size >> shift & 0x7F for shift in (21, 14, 7, 0))


def tagged(mp3: Path, frames: bytes, version: int = 3) -> Path:
    sound = mp3.read_bytes()
    mp3.write_bytes(b"ID3" + bytes((version, 0, 0)) + syncsafe(len(frames)) + frames + sound)
    return mp3


@pytest.fixture
def mp3(tmp_path: Path) -> Path:
    return write_file(tmp_path / "Weir.mp3", "mp3", noise(48_000, level=0.1), rate_hz=48_000)


def test_an_ordinary_tag_is_read(mp3: Path) -> None:
    tags = ID3()
    tags.add(TIT2(encoding=3, text="Weir"))
    for at in range(50):
        tags.add(TXXX(encoding=3, desc=f"note {at}", text="x" * 200))
    tags.save(mp3)
    assert sane_tags(mp3)
    assert dict(read_embedded(mp3, 48_000, 48_000).tags)["title"] == "Weir"


def bomb(version: int) -> bytes:
    packed = zlib.compress(bytes(300 << 20))
    length = struct.pack(">I", len(packed) + 4) if version == 3 else syncsafe(len(packed) + 4)
    return b"TXXX" + length + bytes((0, 0x80 if version == 3 else 0x09)) + struct.pack(">I", 300 << 20) + packed


@pytest.mark.parametrize("frames", [bomb(3), bomb(4), (b"TXXX" + struct.pack(">IH", 3, 0) + b"\0a\0") * 300_000])
def test_a_tag_that_would_cost_minutes_or_gigabytes_is_left_unread(mp3: Path, frames: bytes) -> None:
    tagged(mp3, frames, 4 if frames[9:10] == b"\x09" else 3)
    began = time.monotonic()
    assert not sane_tags(mp3)
    assert read_embedded(mp3, 48_000, 48_000).tags == ()
    assert read_cover(mp3) == b""
    assert time.monotonic() - began < 30


def test_a_file_of_a_million_chunks_is_not_walked_to_its_end(tmp_path: Path) -> None:
    path = write(tmp_path / "Weir.wav", noise(4_800), 48_000, "PCM_16")
    path.write_bytes(path.read_bytes() + b"LIST\0\0\0\0" * 1_000_000)
    with path.open("rb") as file:
        assert len(list(_riff.walk(file, path.stat().st_size))) == _riff.MOST_CHUNKS
    began = time.monotonic()
    assert read_embedded(path, 48_000, 4_800).tags == ()
    assert time.monotonic() - began < 20
