"""Every field in every format, read back by a library other than the one that wrote it."""

import io
import os
import struct
from pathlib import Path
from typing import Any

import av
import pytest
import tinytag
import wavinfo
from mutagen.id3 import APIC, ID3, TBPM, TIT2, TKEY
from PIL import Image

from ripe_press.core.formats.capabilities import CAPABILITIES, Container
from ripe_press.core.tags.cover import prepared_cover
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.core.tags.forms import CAF, EXACT, carried, has_id3, held_values, mapping, not_held, short_key
from ripe_press.core.tags.pictures import read_cover
from ripe_press.core.tags.riff_notes import append_chunks
from ripe_press.core.tags.sheet import COVER, FIELDS, FileTags
from ripe_press.core.tags.write import write_tags
from ripe_press.core.timeline import Marker
from support import ROOT
from support.formats import SHEET, full_tags, read_file, samples_for, write_file

FRAMES = 48_000
DOC = ROOT / "docs" / "tags.md"


@pytest.fixture(scope="module")
def cover(tmp_path_factory: pytest.TempPathFactory) -> str:
    path = tmp_path_factory.mktemp("cover") / "cover.png"
    Image.new("RGB", (60, 60), (116, 48, 90)).save(path)
    return str(path)


def made(folder: Path, container: Container, tags: FileTags) -> Path:
    samples = samples_for("lossy" if CAPABILITIES[container].lossy else "s24", FRAMES, 2)
    return write_file(folder / f"{container}{CAPABILITIES[container].suffix}", container, samples, tags=tags)


def by_tinytag(path: Path) -> dict[str, str]:
    """Fields as a reader that only reads sees them."""
    found = tinytag.TinyTag.get(path, image=True)
    other: dict[str, Any] = {key.lower(): value for key, value in found.other.items()}

    def more(*keys: str) -> str:
        return next(
            (str(other[key][0] if isinstance(other[key], list) else other[key]) for key in keys if key in other), ""
        )

    def pair(number: int | None, total: int | None) -> str:
        return "" if number is None else f"{number}/{total}" if total else str(number)

    texts = {
        "title": found.title, "artist": found.artist, "album_artist": found.albumartist, "album": found.album,
        "track": pair(found.track, found.track_total), "disc": pair(found.disc, found.disc_total),
        "date": found.year, "genre": found.genre, "composer": found.composer, "comment": found.comment,
        "tempo": more("bpm"), "key": more("initial_key", "key", "initialkey"), "publisher": more("publisher"),
        "copyright": more("copyright"), "isrc": more("isrc"), "barcode": more("barcode"), "language": more("language"),
        "lyrics": more("lyrics"), "contact_name": more("contact_name"), "contact_phone": more("contact_phone"),
        "contact_email": more("contact_email"), "web": more("url", "website"),
        "version": more("version", "subtitle", "set_subtitle"),
    }  # fmt: skip
    if found.images.front_cover:
        texts[COVER] = "there"
    return {name: str(text) for name, text in texts.items() if text}


_AV_NAMES = {
    "album_artist": ("album_artist", "album artist"), "track": ("track", "track number"),
    "disc": ("disc", "disc number"), "date": ("date", "year", "recorded date"), "tempo": ("tbpm", "bpm", "tempo"),
    "key": ("tkey", "initialkey", "key signature"),
    "isrc": ("tsrc", "isrc"), "version": ("tit3", "subtitle", "version"), "comment": ("comment", "comments"),
    "language": ("language", "tlan"), "barcode": ("barcode", "ean/upc"), "web": ("related", "web address"),
}  # fmt: skip


def by_av(path: Path) -> dict[str, str]:
    """Fields as the FFmpeg libraries see them."""
    with av.open(str(path)) as file:
        raw = {key.lower(): value for key, value in {**file.streams.audio[0].metadata, **file.metadata}.items()}
        pictures = [one for one in file.streams.video if one.disposition & one.disposition.__class__.attached_pic]
    texts = {}
    for field in FIELDS:
        spaced = field.replace("_", " ")
        for name in (*_AV_NAMES.get(field, ()), field, spaced, CAF[field].lower()):
            if name in raw:
                texts[field] = raw[name]
                break
    texts.update(("lyrics", value) for key, value in raw.items() if key.startswith("lyrics"))
    if pictures:
        texts[COVER] = "there"
    return texts


def by_tinytag_as_riff(path: Path) -> dict[str, str]:
    """The same for RF64, which that reader does not open: a copy with its head turned back into plain WAV."""
    data = bytearray(path.read_bytes())
    riff, sound = struct.unpack_from("<QQ", data, 20)
    data[:8] = b"RIFF" + struct.pack("<I", riff)
    data[12:16] = b"JUNK"
    place = data.index(b"data\xff\xff\xff\xff")
    data[place + 4 : place + 8] = struct.pack("<I", sound)
    plain = path.with_name("plain.wav")
    plain.write_bytes(data)
    return by_tinytag(plain)


# Which reader: one that did not write it, and reads this container.
READERS: dict[Container, Any] = {
    "wav": by_tinytag, "bwf": by_tinytag, "aiff": by_tinytag, "mp3": by_tinytag, "flac": by_tinytag,
    "alac": by_tinytag, "aac": by_tinytag, "vorbis": by_tinytag, "opus": by_tinytag, "video": by_tinytag,
    "rf64": by_tinytag_as_riff, "caf": by_av, "wavpack": by_av,
}  # fmt: skip


def survived(container: Container, path: Path) -> dict[str, str]:
    found: dict[str, str] = READERS[container](path)
    if READERS[container] is not by_av:
        # It has no name for one frame of ID3, which the other reader shows.
        found |= {field: text for field, text in by_av(path).items() if field == "version"}
    return found


@pytest.mark.parametrize("container", list(CAPABILITIES))
def test_every_field_is_read_back_by_another_library(tmp_path: Path, container: Container, cover: str) -> None:
    tags = full_tags(cover)
    path = made(tmp_path, container, tags)
    found, held = survived(container, path), held_values(container, tags)
    assert {field: found.get(field) for field in held} == held
    assert (COVER in found) == bool(mapping(container)[COVER])


@pytest.mark.parametrize("container", list(CAPABILITIES))
def test_our_own_reader_gives_back_everything(tmp_path: Path, container: Container, cover: str) -> None:
    tags = full_tags(cover)
    path = made(tmp_path, container, tags)
    found = read_embedded(path, 48_000, FRAMES)
    assert dict(found.tags) == held_values(container, tags)
    if CAPABILITIES[container].pictures:
        assert read_cover(path) == prepared_cover(cover).data
    else:
        assert read_cover(path) == b""
    if CAPABILITIES[container].markers:
        assert [one.name for one in found.markers] == ["Intro", "Refrain é"]
        assert found.markers[1].frame == pytest.approx(9_600, abs=48)
    assert bool(found.gain) == bool(CAPABILITIES[container].gain_tags)


@pytest.mark.parametrize("container", list(CAPABILITIES))
def test_tags_leave_the_sound_alone(tmp_path: Path, container: Container, cover: str) -> None:
    samples = samples_for("lossy" if CAPABILITIES[container].lossy else "s24", FRAMES, 1)
    plain = read_file(write_file(tmp_path / "plain", container, samples))
    tagged = read_file(write_file(tmp_path / "tagged", container, samples, tags=full_tags(cover)))
    assert (plain == tagged).all()


@pytest.mark.parametrize("container", ["wav", "aiff", "mp3"])
def test_id3_version_2_3_is_read_by_others(tmp_path: Path, container: Container) -> None:
    path = made(tmp_path, container, full_tags(id3_version="2.3"))
    found = by_tinytag(path)
    assert (found["title"], found["artist"], found["isrc"]) == (
        dict(SHEET)["title"],
        "The Sluicekeepers",
        "QZWLT2600001",
    )
    assert found["date"].startswith("2026")
    assert dict(read_embedded(path, 48_000, FRAMES).tags)["date"] == "2026-09-18"


def test_info_and_ixml_are_read_by_a_reader_of_broadcast_files(tmp_path: Path) -> None:
    info = wavinfo.WavInfoReader(str(made(tmp_path, "bwf", full_tags())), info_encoding="utf-8")
    # ASCII, which it takes for the same letters in any code page.
    assert (info.info.title, info.info.artist, info.info.copyright) == (
        "Muhle - Eel's race", "The Sluicekeepers", "2026 Weir & Lantern",
    )  # fmt: skip
    assert info.ixml.project == "Nine Weirs"
    assert [one.name for one in info.ixml.track_list] == ["Left", "Right"]
    assert [cue.position for cue in info.cues.cues] == [0, 9_600]
    assert [label.text for label in info.cues.labels] == ["Intro", "Refrain é"]


CHAPTERS: tuple[Container, ...] = ("mp3", "aac", "alac", "video", "vorbis", "opus", "flac")


@pytest.mark.parametrize("container", CHAPTERS)
def test_markers_are_chapters_to_another_reader(tmp_path: Path, container: Container) -> None:
    """They begin where the markers stand; the last one ends with the file."""
    path = made(tmp_path, container, full_tags(frames=FRAMES))
    with av.open(str(path)) as file:
        chapters = [
            (one["metadata"]["title"], float(one["start"] * one["time_base"]), float(one["end"] * one["time_base"]))
            for one in file.chapters()
        ]
    assert [name for name, *_ in chapters] == ["Intro", "Refrain é"]
    assert [start for _, start, _ in chapters] == pytest.approx([0, 0.2], abs=0.001)
    assert chapters[0][2] == pytest.approx(0.2, abs=0.001)
    assert chapters[1][2] == pytest.approx(1.0, abs=0.01)


def test_markers_of_aiff_are_in_their_chunk(tmp_path: Path) -> None:
    """AIFF 1.3, Marker Chunk: number, place in frames, name as a pascal string; read by hand."""
    data = made(tmp_path, "aiff", full_tags()).read_bytes()
    at = data.index(b"MARK")
    size, count = struct.unpack_from(">IH", data, at + 4)
    assert count == 2
    first = struct.unpack_from(">hIB5s", data, at + 10)
    assert first == (1, 0, 5, b"Intro")
    second = struct.unpack_from(">hIB10s", data, at + 10 + 12)
    assert second == (2, 9_600, 10, "Refrain é".encode())
    assert size == 2 + 12 + 6 + 12


def test_loop_points_of_aiff_are_two_markers(tmp_path: Path) -> None:
    """AIFF 1.3, Instrument Chunk: base note, keys and velocities, gain, then the loop from marker to marker."""
    path = made(tmp_path, "aiff", full_tags(loop=(100, FRAMES)))
    data = path.read_bytes()
    at = data.index(b"INST")
    assert struct.unpack_from(">I", data, at + 4) == (20,)
    assert struct.unpack_from(">bbbbbbhhhh", data, at + 8) == (60, 0, 0, 127, 1, 127, 0, 1, 3, 4)
    found = read_embedded(path, 48_000, FRAMES)
    assert found.loop == (100, FRAMES)
    assert [one.name for one in found.markers] == ["Intro", "Refrain é"]


@pytest.mark.parametrize("container", ["wav", "rf64", "aiff"])
def test_a_tag_with_a_cover_of_megabytes_is_read(tmp_path: Path, container: Container) -> None:
    """Other programs embed pictures as they come."""
    path = write_file(tmp_path / "file", container, samples_for("s24", 1_000, 2))
    tag = ID3()
    tag.add(TIT2(encoding=3, text="Millrace"))
    tag.add(APIC(encoding=0, mime="image/jpeg", type=3, desc="", data=b"\xff\xd8" + bytes(6_000_000)))
    out = io.BytesIO()
    tag.save(out)
    body = out.getvalue()
    head = b"ID3 " + struct.pack(">I", len(body)) if container == "aiff" else b"id3 " + struct.pack("<I", len(body))
    append_chunks(path, head + body + b"\0" * (len(body) % 2))
    assert dict(read_embedded(path, 48_000, 1_000).tags) == {"title": "Millrace"}
    assert len(read_cover(path)) == 6_000_002


def test_a_loop_of_aiff_without_length_is_none(tmp_path: Path) -> None:
    """Both of its ends are the same marker; the others are still read."""
    path = made(tmp_path, "aiff", full_tags(loop=(100, FRAMES)))
    data = bytearray(path.read_bytes())
    at = data.index(b"INST") + 16
    data[at : at + 6] = struct.pack(">hhh", 1, 4, 4)
    path.write_bytes(data)
    found = read_embedded(path, 48_000, FRAMES)
    assert found.loop is None
    assert [one.name for one in found.markers] == ["Intro", "loop start", "Refrain é"]


def test_loop_points_are_read_by_a_reader_of_samplers_files(tmp_path: Path) -> None:
    path = made(tmp_path, "wav", full_tags(loop=(0, FRAMES)))
    (loop,) = wavinfo.WavInfoReader(str(path)).smpl.sample_loops
    assert (loop.start, loop.end) == (0, FRAMES - 1)
    # No fraction of a sample, and played for ever.
    assert path.read_bytes().partition(b"smpl")[2][56:64] == bytes(8)
    assert read_embedded(path, 48_000, FRAMES).loop == (0, FRAMES)


def test_fields_without_a_place_are_reported() -> None:
    assert not_held("caf", full_tags("cover.png", loop=(0, FRAMES))) == (
        ("cover", "CAF cannot store a cover picture; not written."),
        ("markers", "CAF cannot store 2 markers; not written."),
        ("loop", "CAF cannot store loop points; not written."),
    )
    far = full_tags(markers=(Marker(0, "Intro"), Marker(1 << 32, "Far")), loop=(0, 1 << 33))
    assert not_held("rf64", far)[:2] == (
        ("markers", "RF64 cannot store 1 marker; not written."),
        ("loop", "RF64 cannot store loop points; not written."),
    )
    assert carried("rf64", far).markers == far.markers[:1]
    assert dict(not_held("wav", far))["title"] == (
        "Programs that read INFO only show “Muhle - Eel's race”; the full text is in the ID3 chunk."
    )
    assert "only may show other letters" in dict(not_held("aiff", FileTags((("title", "決まり"),))))["title"]
    odd = FileTags((("tempo", "84.5"), ("key", "F#minor"), ("track", "A1")), "cover.png")
    told = dict(not_held("aac", odd))
    assert told["tempo"] == "84.5 bpm is stored as text; programs that read whole numbers only show 84 bpm."
    assert "is not written" in told["track"]
    assert dict(not_held("mp3", odd))["key"].endswith("programs that read ID3 keys only show F#m.")
    assert not_held("flac", odd) == ()


@pytest.mark.parametrize("container", list(CAPABILITIES))
@pytest.mark.parametrize("tempo", ["fast", "99999999", "-4", "nan"])
def test_invalid_tempo_is_omitted_everywhere(tmp_path: Path, container: Container, tempo: str) -> None:
    tags = FileTags((("title", "Millrace"), ("tempo", tempo)))
    path = made(tmp_path, container, tags)
    assert dict(read_embedded(path, 48_000, FRAMES).tags) == held_values(container, tags) == {"title": "Millrace"}
    assert "is not a number; not written" in dict(not_held(container, tags))["tempo"]


@pytest.mark.parametrize("container", list(CAPABILITIES))
@pytest.mark.parametrize(("tempo", "key"), [("97.53", "F♯ min"), ("98.5", "B flat minor"), ("120", "Am")])
def test_exact_tempi_and_keys_come_back_as_they_were(
    tmp_path: Path, container: Container, tempo: str, key: str
) -> None:
    tags = FileTags((("title", "Millrace"), ("tempo", tempo), ("key", key)))
    path = made(tmp_path, container, tags)
    found = read_embedded(path, 48_000, FRAMES)
    assert dict(found.tags) == held_values(container, tags) == dict(tags.values)
    assert found.tempo_bpm == float(tempo)
    # Another reader finds the form that it knows.
    seen = survived(container, path)
    whole = str(round(float(tempo)))
    assert seen["tempo"] in (tempo, whole)
    if has_id3(container):
        assert (seen["key"], seen["tempo"]) == (short_key(key), whole)


def test_a_tempo_that_was_changed_by_another_program_counts(tmp_path: Path) -> None:
    path = made(tmp_path, "mp3", FileTags((("title", "Millrace"), ("tempo", "97.53"), ("key", "F♯ min"))))
    changed = ID3(path)
    changed["TBPM"], changed["TKEY"] = TBPM(encoding=3, text="120"), TKEY(encoding=3, text="Bb")
    changed.save(path)
    found = read_embedded(path, 48_000, FRAMES)
    assert (found.tempo_bpm, dict(found.tags)["key"]) == (120.0, "Bb")


@pytest.mark.parametrize(
    ("text", "short"),
    [("F♯ min", "F#m"), ("Bb", "Bb"), ("B flat minor", "Bbm"), ("C major", "C"), ("Am", "Am"), ("A", "A"),
     ("D♭ Dur", None), ("D♭ dur", "Db"), ("H", None), ("8A", None), ("E minor.", "Em"), ("G M", "G")],
)  # fmt: skip
def test_keys_in_three_letters(text: str, short: str | None) -> None:
    assert short_key(text) == short


def test_no_tags_change_no_byte_of_plain_samples(tmp_path: Path) -> None:
    for container in ("wav", "rf64", "aiff", "caf"):
        path = write_file(tmp_path / container, container, samples_for("s24", 1_001, 1))
        before = path.read_bytes()
        write_tags(path, container, "s24", 48_000, 1, FileTags())
        assert path.read_bytes() == before


def document(folder: Path, cover: str) -> str:
    """What survives where, as it was found just now."""
    lines = [
        "# Tags by format",
        "",
        "`tests/core/tags/test_write.py` writes every field in every format and reads it back with a library that did",
        "not write it. A cell has the name of the field in this format; an empty cell means not supported.",
        "",
        "| field | " + " | ".join(CAPABILITIES[one].title for one in CAPABILITIES) + " |",
        "|---" * (len(CAPABILITIES) + 1) + "|",
    ]
    tags = full_tags(cover)
    files = {container: made(folder, container, tags) for container in CAPABILITIES}
    found = {container: survived(container, path) for container, path in files.items()}
    for field in (*FIELDS, COVER):
        cells = []
        for container in CAPABILITIES:
            names = ", ".join(mapping(container)[field])
            cells.append(names if field in found[container] else "")
        title = FIELDS[field].title if field in FIELDS else "Cover"
        lines.append(f"| {title} | " + " | ".join(cells) + " |")
    own = [read_embedded(path, 48_000, FRAMES) for path in files.values()]
    markers = [
        CAPABILITIES[one].markers if len(seen.markers) == 2 else "" for one, seen in zip(CAPABILITIES, own, strict=True)
    ]
    lines.append(f"| Markers | {' | '.join(markers)} |")
    loudness = [
        ", ".join(dict(seen.gain)) or ("bext" if "loudness_lufs" in dict(seen.broadcast) else "") for seen in own
    ]
    lines.append(f"| Loudness | {' | '.join(loudness)} |")
    lines += ["", "Markers and loudness are read back by the project's own reader; `test_write.py` and"]
    lines += ["`tests/published/test_chunks.py` use other readers.", ""]
    lines += [
        "ID3 and MP4 store tempo in whole bpm, ID3 a key in three letters. The exact value is also stored as text",
        f"(`TXXX:{EXACT['tempo']}`, `TXXX:{EXACT['key']}`, `{EXACT['tempo']}` in MP4) and read first.",
        "INFO and AIFF text chunks have ASCII without accents; the full text is in the ID3 chunk.",
        "",
    ]
    return "\n".join(lines)


def test_table_in_the_docs_equals_the_result(tmp_path: Path, cover: str) -> None:
    """RIPE_PRESS_WRITE_DOCS rewrites the table."""
    text = document(tmp_path, cover)
    if os.environ.get("RIPE_PRESS_WRITE_DOCS"):
        DOC.write_text(text)
    assert DOC.read_text() == text
