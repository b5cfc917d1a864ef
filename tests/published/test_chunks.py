"""Chunks and boxes against the texts that define them.

Sources, from memory of the texts: Apple, AIFF 1.3, and IEEE 754 (80-bit extended); EBU Tech 3285 v2 (bext) and 3306
(RF64); ISO/IEC 14496-12 (boxes, edit list); RFC 3533 (Ogg pages), RFC 7845 (Opus in Ogg), the Vorbis I
specification; id3.org, ID3v2.3 and 2.4 main structure. Where a library knows a structure, it is asked as well.
"""

import struct
from pathlib import Path

import pytest
import wavinfo
from mutagen.ogg import OggPage

from ripe_press.core.formats.riff import walk
from ripe_press.core.formats.writing.aiff import extended
from ripe_press.core.formats.writing.caf import caf_bytes
from ripe_press.core.formats.writing.wav import WavWriter
from ripe_press.core.tags.riff_notes import append_chunks, chunk
from ripe_press.core.tags.sheet import FileTags
from support.formats import LOUDNESS, full_tags, samples_for, write_file


@pytest.mark.parametrize(
    ("rate_hz", "octets"),
    [(8_000, "400bfa00000000000000"), (44_100, "400eac44000000000000"), (48_000, "400ebb80000000000000"),
     (96_000, "400fbb80000000000000"), (1, "3fff8000000000000000")],
)  # fmt: skip
def test_rates_in_aiff_are_80_bit_extended_numbers(rate_hz: int, octets: str) -> None:
    """44 100 Hz is 400E AC44 0000 0000 0000: the value that every AIFF file of a CD has."""
    assert extended(rate_hz).hex() == octets


@pytest.mark.parametrize(("container", "big"), [("wav", False), ("bwf", False), ("rf64", False), ("aiff", True)])
@pytest.mark.parametrize("frames", [1_000, 1_001])
def test_chunks_fill_the_file_to_the_byte(tmp_path: Path, container: str, big: bool, frames: int) -> None:
    """Every chunk begins at an even place, and the last ends where the file ends; sizes leave the padding out."""
    tags = full_tags(loop=(0, frames), markers=())
    path = write_file(tmp_path / "file", container, samples_for("s24", frames, 1), tags=tags)  # type: ignore[arg-type]
    size = path.stat().st_size
    data = path.read_bytes()
    with path.open("rb") as file:
        chunks = list(walk(file, size, big))
    assert all(one.offset % 2 == 0 for one in chunks)
    last = chunks[-1]
    assert last.offset + last.size + last.size % 2 == size
    whole = struct.unpack(">I" if big else "<I", data[4:8])[0]
    assert whole == (0xFFFF_FFFF if container == "rf64" else size - 8)
    sound = next(one for one in chunks if one.name in (b"data", b"SSND"))
    assert sound.size == frames * 3 + (8 if big else 0)


def test_aiff_common_chunk(tmp_path: Path) -> None:
    data = write_file(tmp_path / "file", "aiff", samples_for("s20", 500, 2), "s20", 44_100).read_bytes()
    assert data[8:12] == b"AIFF"
    assert struct.unpack(">4sIhIh", data[12:28]) == (b"COMM", 18, 2, 500, 20)
    floating = write_file(tmp_path / "float", "aiff", samples_for("f32", 500, 2), "f32").read_bytes()
    assert floating[8:24] == b"AIFCFVER" + struct.pack(">II", 4, 0xA2805140)


def test_caf_describes_its_chunks(tmp_path: Path) -> None:
    """Core Audio Format 1.0: the description, big-endian, of little-endian samples; the data behind an edit count."""
    data = write_file(tmp_path / "file", "caf", samples_for("s24", 500, 2), "s24", 44_100).read_bytes()
    assert data[:8] == b"caff\0\1\0\0"
    described = struct.unpack(">d4sIIIII", data[20:52])
    assert described == (44_100.0, b"lpcm", 2, 6, 1, 2, 24)
    place = data.index(b"data")
    assert struct.unpack(">qI", data[place + 4 : place + 16]) == (4 + 3_000, 0)
    assert len(data) == caf_bytes("s24", 2, 500) == place + 16 + 3_000


def test_bext_of_version_2_as_a_reader_of_broadcast_files_has_it(tmp_path: Path) -> None:
    """EBU Tech 3285 v2, 2.3: loudness in hundredths; time reference in samples from midnight, 64 bits."""
    day = 22 * 3600 * 48_000 + 5
    history = "A=PCM,F=96000,W=24,M=stereo,T=mix\r\nA=PCM,F=48000,W=24,M=stereo,T=Ripe Press\r\n"
    tags = full_tags(time_reference=day * 10, coding_history=history)
    path = write_file(tmp_path / "file.wav", "bwf", samples_for("s24", 4_800, 2), tags=tags)
    bext = wavinfo.WavInfoReader(str(path)).bext
    assert (bext.version, bext.time_reference) == (2, day * 10)
    assert bext.description.startswith("Muhle - Eel's race")
    assert (bext.originator, bext.originator_ref, bext.originator_date) == (
        "The Sluicekeepers", "QZWLT2600001", "2026-09-18",
    )  # fmt: skip
    assert bext.coding_history.startswith(history)
    found = (
        bext.loudness_value, bext.loudness_range, bext.max_true_peak, bext.max_momentary_loudness,
        bext.max_shortterm_loudness,
    )  # fmt: skip
    assert found == pytest.approx((-9.3, 6.4, 0.3, -7.5, -8.25))
    with path.open("rb") as file:
        place = next(one for one in walk(file, path.stat().st_size) if one.name == b"bext")
    assert place.size % 2 == 0
    raw = path.read_bytes()[place.offset : place.offset + place.size]
    assert struct.unpack_from("<5h", raw, 412) == (-930, 640, 30, -750, -825)


def test_loudness_that_is_not_known_is_7fff(tmp_path: Path) -> None:
    from ripe_press.core.tags.riff_notes import bext_body

    assert struct.unpack_from("<5h", bext_body(FileTags(), None), 412) == (0x7FFF,) * 5
    assert LOUDNESS.integrated_lufs == -9.3


def test_rf64_sizes_are_in_ds64(tmp_path: Path) -> None:
    """EBU Tech 3306: both 32-bit sizes are all ones, the real ones are in ds64, right after the name."""
    frames = 1_001
    path = write_file(tmp_path / "file", "rf64", samples_for("s24", frames, 2), tags=full_tags())
    data = path.read_bytes()
    assert (data[:8], data[12:16]) == (b"RF64\xff\xff\xff\xff", b"ds64")
    riff, sound, samples = struct.unpack("<QQQ", data[20:44])
    assert (riff, sound, samples) == (len(data) - 8, frames * 6, frames)


def test_wav_whose_tags_pass_the_32_bit_sizes_becomes_rf64(tmp_path: Path) -> None:
    """A sparse file just below the limit: adding tags turns its head, and its sound stays where it was."""
    path = tmp_path / "long.wav"
    frames = (0xFFFF_FFFF - 200) // 4
    writer = WavWriter(path, "s16", 48_000, 2, frames)
    head = writer.header(frames)
    writer.frames = frames
    writer._file.truncate(len(head) + frames * 4)
    writer._file.seek(0, 2)
    writer.close()
    with path.open("rb") as file:
        assert file.read(4) == b"RIFF"
    append_chunks(path, chunk(b"LIST", b"INFO" + chunk(b"INAM", b"x" * 400)))
    with path.open("rb") as file:
        begin = file.read(len(head))
        chunks = list(walk(file, path.stat().st_size))
    assert (begin[:4], begin[12:16], begin[-8:]) == (b"RF64", b"ds64", b"data\xff\xff\xff\xff")
    assert struct.unpack("<QQQ", begin[20:44]) == (path.stat().st_size - 8, frames * 4, frames)
    assert [one.name for one in chunks] == [b"ds64", b"fmt ", b"data", b"LIST"]


def boxes(data: bytes, start: int = 0, end: int | None = None) -> list[tuple[str, int, int]]:
    found, at = [], start
    while at + 8 <= (len(data) if end is None else end):
        size, name = struct.unpack_from(">I4s", data, at)
        found.append((name.decode("latin-1"), at + 8, at + size))
        at += size
    return found


@pytest.mark.parametrize("container", ["aac", "alac", "video"])
def test_mp4_boxes(tmp_path: Path, container: str) -> None:
    """The index stands before the sound, times count samples, and the edit list cuts what the encoder added."""
    frames = 5_000
    samples = samples_for("s24" if container == "alac" else "lossy", frames, 2)
    data = write_file(tmp_path / "file", container, samples, tags=full_tags()).read_bytes()  # type: ignore[arg-type]
    top = boxes(data)
    assert top[-1][2] == len(data)
    names = [name for name, *_ in top]
    assert names[0] == "ftyp"
    assert names.index("moov") < names.index("mdat")
    moov = next(one for one in top if one[0] == "moov")
    inside = {name: (start, end) for name, start, end in boxes(data, moov[1], moov[2]) if name != "trak"}
    assert struct.unpack_from(">I", data, inside["mvhd"][0] + 12)[0] == 48_000
    tracks = [one for one in boxes(data, moov[1], moov[2]) if one[0] == "trak"]
    edits = []
    for _, start, end in tracks:
        for name, first, last in boxes(data, start, end):
            if name == "edts":
                (_, at, _), *_ = boxes(data, first, last)
                edits.append(struct.unpack_from(">II", data, at + 8))
    if container != "alac":
        # 1024 frames of delay are skipped, and exactly the frames that went in are left.
        assert (frames, 1_024) in edits


@pytest.mark.parametrize(("container", "delay"), [("vorbis", 0), ("opus", 312)])
def test_ogg_pages(tmp_path: Path, container: str, delay: int) -> None:
    """Granule positions count to the last frame; in Opus, pre-skip is counted in (RFC 7845, section 4)."""
    frames = 100_000
    path = write_file(tmp_path / "file", container, samples_for("lossy", frames, 2), tags=full_tags())  # type: ignore[arg-type]
    pages = []
    data = path.read_bytes()
    with path.open("rb") as file:
        while file.tell() < len(data):
            at = file.tell()
            page = OggPage(file)
            # The library recomputes the checksum: its result equals the stored one.
            assert page.write() == data[at : file.tell()]
            pages.append(page)
    assert {page.serial for page in pages} == {1}
    assert [page.sequence for page in pages] == list(range(len(pages)))
    assert pages[0].first
    assert pages[-1].last
    assert pages[-1].position == frames + delay
    if container == "opus":
        head = pages[0].packets[0]
        assert head[:8] == b"OpusHead"
        assert struct.unpack_from("<BBHIh", head, 8) == (1, 2, delay, 48_000, 0)
        assert pages[1].packets[0][:8] == b"OpusTags"


@pytest.mark.parametrize(("version", "major"), [("2.3", 3), ("2.4", 4)])
def test_id3_heads_have_syncsafe_sizes(tmp_path: Path, version: str, major: int) -> None:
    tags = full_tags(id3_version=version)
    data = write_file(tmp_path / "file", "mp3", samples_for("lossy", 48_000, 2), tags=tags).read_bytes()
    assert data[:5] == b"ID3" + bytes([major, 0])
    size = data[6:10]
    assert max(size) < 128
    end = 10 + (size[0] << 21 | size[1] << 14 | size[2] << 7 | size[3])
    # What follows is the first packet of the sound: eleven set bits.
    assert data[end] == 0xFF
    assert data[end + 1] & 0xE0 == 0xE0
    assert (data[-128:-125] == b"TAG") == (version == "2.3")


def test_mp3_has_delay_and_padding(tmp_path: Path) -> None:
    """The encoder's own header, of which players read how much to cut (common practice, no source)."""
    frames = 50_000
    data = write_file(tmp_path / "file", "mp3", samples_for("lossy", frames, 2)).read_bytes()
    at = data.index(b"LAME")
    packed = int.from_bytes(data[at + 21 : at + 24], "big")
    delay, padding = packed >> 12, packed & 0xFFF
    packets = struct.unpack_from(">I", data, data.index(b"Info") + 8)[0]
    assert packets * 1_152 - delay - padding == frames
