"""Arithmetic of the disc against its standards.

IEC 60908 and ECMA-130 (frames, times), MMC-3 Annex J (CD-Text packs and their checksum), GS1 (check digit): values
from memory of the texts, worked out by a second implementation; CRC-16 of "123456789" as printed in tables of CRCs.
"""

import pytest

from ripe_press.core.disc.frames import CAPACITY_FRAMES, FRAME_SAMPLES, parse_frames, print_frames
from ripe_press.core.disc.text import pack_crc, read_text
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
def test_what_is_no_time_is_refused(text: str) -> None:
    with pytest.raises(BadInput, match="no time of a disc"):
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


def test_every_way_in_which_packs_are_spoilt_is_told() -> None:
    data = album()
    for spoilt, told in (
        (data[:40] + bytes([data[40] ^ 1]) + data[41:], "damaged"),
        (data[:18] + data[36:54] + data[18:36] + data[54:], "missing or swapped"),
        (data[:-54], "tell its size"),
        (data + b"\0", "A byte follows"),
        (b"\x00\xc8\x00\x00" + data, "a drive's answer"),
        (data[:-7], "no whole number of packs"),
    ):
        _, faults = read_text(spoilt)
        assert any(told in one for one in faults), (told, faults)
