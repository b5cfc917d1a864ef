"""Tags, tempo, markers and time references, written by libraries that are not ours."""

import io
import struct
from pathlib import Path

import numpy as np
import pytest
from mutagen import id3
from mutagen.aiff import AIFF
from mutagen.flac import FLAC
from mutagen.mp3 import MP3
from mutagen.mp4 import MP4
from mutagen.oggvorbis import OggVorbis
from wavinfo import WavInfoReader

from ripe_press.core.formats.reading.reader import SourceReader
from ripe_press.core.tags.embedded import Embedded, read_embedded
from ripe_press.core.tags.riff_notes import append_chunks, chunk, marker_chunks
from ripe_press.core.timeline import Marker
from support.av_files import encode
from support.signals import noise, ramp16, write

RATE = 44_100
MARKERS = (Marker(0, "Verse"), Marker(20_000, "Brücke"), Marker(40_000, "Close"))


def found(path: Path) -> Embedded:
    with SourceReader(path) as reader:
        facts = reader.facts
    return read_embedded(path, facts.rate_hz, facts.frames)


def some_tags() -> id3.ID3:
    tags = id3.ID3()
    tags.add(id3.TIT2(encoding=3, text="Millrace"))
    tags.add(id3.TPE1(encoding=3, text="The Sluicekeepers"))
    tags.add(id3.TBPM(encoding=3, text="84"))
    tags.add(id3.CHAP(element_id="a", start_time=500, end_time=900, sub_frames=[id3.TIT2(encoding=3, text="Verse")]))
    return tags


def test_markers_in_a_wav_file_come_back_and_others_read_them(tmp_path: Path) -> None:
    path = write(tmp_path / "mix.wav", noise(RATE), RATE, "PCM_16")
    append_chunks(path, marker_chunks(MARKERS))
    assert found(path).markers == MARKERS
    others = WavInfoReader(str(path)).cues
    assert others is not None
    assert [cue.sample_offset for cue in others.cues] == [0, 20_000, 40_000]
    with SourceReader(path) as reader:
        assert reader.facts.frames == RATE


def test_broadcast_and_sampler_chunks(tmp_path: Path) -> None:
    path = write(tmp_path / "mix.wav", noise(RATE), RATE, "PCM_16")
    bext = struct.pack("<256s32s32s10s8sQH", b"Nine Weirs, side A", b"Weir & Lantern", b"", b"", b"", 3_600 * RATE, 1)
    smpl = struct.pack("<9I", 0, 0, 0, 60, 0, 0, 0, 1, 0) + struct.pack("<6I", 0, 0, 1_000, 2_999, 0, 0)
    info = b"INFO" + chunk(b"INAM", b"Millrace\0")
    append_chunks(path, chunk(b"bext", bext.ljust(602, b"\0")) + chunk(b"smpl", smpl) + chunk(b"LIST", info))
    seen = found(path)
    assert seen.time_reference == 3_600 * RATE
    # The last sample of a loop is part of it.
    assert seen.loop == (1_000, 3_000)
    assert dict(seen.tags) == {"comment": "Nine Weirs, side A", "artist": "Weir & Lantern", "title": "Millrace"}


@pytest.mark.parametrize("kind", ["wav", "mp3", "aiff"])
def test_id3_in_every_container_that_has_it(tmp_path: Path, kind: str) -> None:
    path = tmp_path / f"mix.{kind}"
    if kind == "wav":
        write(path, noise(RATE), RATE, "PCM_16")
        body = io.BytesIO()
        some_tags().save(body)
        append_chunks(path, chunk(b"id3 ", body.getvalue()))
    elif kind == "mp3":
        write(path, noise(RATE), RATE, "MPEG_LAYER_III", "MP3")
        file = MP3(path)
        file.tags = some_tags()
        file.save()
    else:
        write(path, noise(RATE), RATE, "PCM_16", "AIFF")
        aiff = AIFF(path)
        aiff.add_tags()
        for frame in some_tags().values():
            aiff.tags.add(frame)
        aiff.save()
    seen = found(path)
    assert dict(seen.tags) == {"title": "Millrace", "artist": "The Sluicekeepers", "tempo": "84"}
    assert seen.tempo_bpm == 84.0
    assert seen.markers == (Marker(RATE // 2, "Verse"),)


@pytest.mark.parametrize(("container", "subtype", "kind"), [("FLAC", "PCM_16", FLAC), ("OGG", "VORBIS", OggVorbis)])
def test_comments_and_chapters(tmp_path: Path, container: str, subtype: str, kind: type) -> None:
    path = write(tmp_path / "mix", noise(RATE), RATE, subtype, container)
    file = kind(path)
    file["title"], file["bpm"], file["albumartist"] = "Millrace", "92,5", "The Sluicekeepers"
    file["chapter001"], file["chapter001name"] = "00:00:00.250", "Verse"
    file.save()
    seen = found(path)
    assert dict(seen.tags)["album_artist"] == "The Sluicekeepers"
    assert (seen.tempo_bpm, seen.markers) == (92.5, (Marker(11_025, "Verse"),))


def test_items_of_mp4(tmp_path: Path) -> None:
    path = encode(tmp_path / "mix.m4a", ramp16(RATE), RATE, "alac", "ipod", "s16p")
    file = MP4(path)
    file["\xa9nam"], file["tmpo"], file["trkn"] = "Millrace", [84], [(3, 12)]
    file.save()
    seen = found(path)
    assert dict(seen.tags) == {"title": "Millrace", "tempo": "84", "track": "3/12"}
    assert seen.tempo_bpm == 84.0


def test_aiff_markers(tmp_path: Path) -> None:
    path = write(tmp_path / "mix.aiff", noise(RATE), RATE, "PCM_16", "AIFF")
    body = struct.pack(">H", 2)
    for number, (frame, name) in enumerate([(441, b"Verse"), (882, b"Refrain!")], 1):
        body += struct.pack(">hIB", number, frame, len(name)) + name + b"\0" * ((len(name) + 1) % 2)
    with path.open("r+b") as file:
        file.seek(0, 2)
        file.write(b"MARK" + struct.pack(">I", len(body)) + body)
    assert found(path).markers == (Marker(441, "Verse"), Marker(882, "Refrain!"))


def test_damage_never_keeps_a_mix_out(tmp_path: Path) -> None:
    path = write(tmp_path / "mix.wav", noise(4_800), 48_000, "PCM_16")
    body = io.BytesIO()
    some_tags().save(body)
    append_chunks(path, marker_chunks(MARKERS[:1]) + chunk(b"id3 ", body.getvalue()) + chunk(b"bext", b"x" * 9))
    whole = np.frombuffer(path.read_bytes(), dtype=np.uint8)
    notes = len(whole) - (48 + 4_800 * 4)
    random = np.random.default_rng(5)
    for _ in range(400):
        mutant = whole.copy()
        places = len(whole) - random.integers(1, notes, 6)
        mutant[places] = random.integers(0, 256, 6)
        (tmp_path / "mutant.wav").write_bytes(mutant.tobytes())
        seen = read_embedded(tmp_path / "mutant.wav", 48_000, 4_800)
        assert all(0 <= marker.frame <= 4_800 and marker.name for marker in seen.markers)
        assert seen.tempo_bpm is None or 10 <= seen.tempo_bpm <= 1000


def test_rf64_with_a_chunk_of_odd_size_before_its_sound_is_read(tmp_path: Path) -> None:
    path = write(tmp_path / "mix.rf64", ramp16(9_600), 48_000, "PCM_16", "RF64")
    data = path.read_bytes()
    at = data.index(b"data")
    path.write_bytes(data[:at] + b"odd " + struct.pack("<I", 3) + b"abc\0" + data[at:])
    with SourceReader(path) as reader:
        assert (reader.facts.container, reader.facts.frames, reader.facts.bit_depth) == ("rf64", 9_600, 16)
        read = np.concatenate(list(reader.blocks(777, 8_000, 1_000)))
    assert np.array_equal(read * 32768, ramp16(9_600)[777:8_000])
