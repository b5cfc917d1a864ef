"""Arithmetic of the disc against its standards.

IEC 60908 and ECMA-130 (frames, times), MMC-3 Annex J (CD-Text packs and their checksum), GS1 (check digit): values
from memory of the texts, worked out by a second implementation; CRC-16 of "123456789" as printed in tables of CRCs.
"""

from zlib import crc32

import pytest

from ripe_press.core.disc.frames import CAPACITY_FRAMES, FRAME_SAMPLES, parse_frames, print_frames
from ripe_press.core.disc.subchannel import (
    LEAD_OUT_TRACK,
    OnDisc,
    QPosition,
    catalog_q,
    isrc_q,
    place_q,
    q_frames,
    read_q,
)
from ripe_press.core.disc.text import pack_crc, read_text, write_text
from ripe_press.core.errors import BadInput
from support.discs import album


@pytest.mark.parametrize(
    ("frames", "time"), [(0, "00:00:00"), (525, "00:07:00"), (11_370, "02:31:45"), (333_000, "74:00:00")]
)
def test_a_time_is_minutes_seconds_and_75ths(frames: int, time: str) -> None:
    assert (print_frames(frames), parse_frames(time)) == (time, frames)


def test_a_disc_of_74_minutes_holds_so_many_samples() -> None:
    assert CAPACITY_FRAMES[74] * FRAME_SAMPLES == 195_804_000
    assert print_frames(CAPACITY_FRAMES[80] + 150) == "79:59:74"


@pytest.mark.parametrize("text", ["1:2", "00:60:00", "00:00:75", "0:00:0", "", "aa:bb:cc"])
def test_invalid_time_is_rejected(text: str) -> None:
    with pytest.raises(BadInput, match="not a disc time"):
        parse_frames(text)


def test_the_checksum_is_the_one_of_the_standard() -> None:
    assert pack_crc(b"123456789") == 0xCE3C
    first = bytes.fromhex("800000005468652041 6c62756d004f6e".replace(" ", ""))
    assert pack_crc(first) == 0x38C5


def test_packs_are_read_as_they_are_meant() -> None:
    data = album()
    assert len(data) == 11 * 18
    assert data[18:34].hex() == "80010102650054776f00000000000000" and data[34:36].hex() == "1027"
    found, faults = read_text(data)
    assert faults == ()
    assert found.texts["TITLE"] == {0: "The Album", 1: "One", 2: "Two"}
    assert found.texts["PERFORMER"] == {0: "The Band", 1: "The Band", 2: "The Band"}
    assert found.codes == {0: "4006381333931", 1: "GBAYE0000351", 2: "GBAYE0000352"}


def test_every_fault_of_packs_is_reported() -> None:
    data = album()
    for spoilt, told in (
        (data[:40] + bytes([data[40] ^ 1]) + data[41:], "damaged"),
        (data[:18] + data[36:54] + data[18:36] + data[54:], "missing or swapped"),
        (data[:-54], "size packs are missing"),
        (data + b"\0", "One byte after"),
        (b"\x00\xc8\x00\x00" + data, "header bytes of a drive"),
        (data[:-7], "not complete packs"),
    ):
        _, faults = read_text(spoilt)
        assert any(told in one for one in faults), (told, faults)


@pytest.mark.parametrize(
    ("made", "printed"),
    [
        (place_q(QPosition(2, 1, 0, 525, 3)), "31 02 01 00 00 00 00 00 09 00 06 0D"),
        (place_q(QPosition(2, 0, 150, 375, 3)), "31 02 00 00 02 00 00 00 07 00 E9 91"),
        (place_q(QPosition(1, 0, 150, -150, 0)), "01 01 00 00 02 00 00 00 00 00 F0 D9"),
        (place_q(QPosition(1, 1, 0, 0, 0)), "01 01 01 00 00 00 00 00 02 00 5A 28"),
        (place_q(QPosition(LEAD_OUT_TRACK, 1, 0, 1_375, 0)), "01 AA 01 00 00 00 00 00 20 25 52 9E"),
        (catalog_q("4006381333931", 0), "02 40 06 38 13 33 93 10 00 00 1C 3F"),
        (isrc_q("GBAYE0000351", 33), "03 5D 24 69 54 00 00 35 10 33 AD D4"),
        (isrc_q("USRC17607839", 33), "03 96 38 93 04 76 07 83 90 33 1F AC"),
    ],
)
def test_q_is_that_of_the_standard(made: bytes, printed: str) -> None:
    """ECMA-130 section 22 and IEC 60908 clause 17 (from memory), worked out by a second implementation."""
    assert made == bytes.fromhex(printed)
    assert read_q(made) is not None


def test_every_error_of_one_or_two_bits_is_seen() -> None:
    """ECMA-130: the checksum finds them all, and an empty frame is none."""
    good = int.from_bytes(place_q(QPosition(7, 1, 1_234, 98_765, 2)), "big")
    for first in range(96):
        for second in range(first + 1):
            broken = (good ^ (1 << first) ^ ((1 << second) if second != first else 0)).to_bytes(12, "big")
            assert read_q(broken) is None
    assert read_q(bytes(12)) is None


def test_nine_of_any_ten_frames_say_where_they_are() -> None:
    """IEC 60908 clause 17: mode 1 in nine of ten, codes at least once in a hundred."""
    tracks = [OnDisc(1, ((1, 0),), "GBAYE0000351")]
    modes = [one[0] & 15 for one in q_frames(tracks, 3_000, "4006381333931")][150:]
    for at in range(len(modes) - 100):
        assert sum(mode == 1 for mode in modes[at : at + 10]) >= 9
        assert {2, 3} <= set(modes[at : at + 100])


def test_cd_text_is_written_as_the_worked_example() -> None:
    texts = {"TITLE": ["The Album", "One", "Two"], "PERFORMER": ["The Band", "The Band", "\t"]}
    made = write_text(texts, ["4006381333931", "GBAYE0000351", "GBAYE0000352"])
    assert made == album() and crc32(made) == 0x006572A2
