"""What a mix already carries besides sound: tags, tempo, markers, loop points, the time it begins at.

Chunks of WAV, RF64 and AIFF are read here; everything else by mutagen. Sources, from memory of the texts: EBU Tech
3285 (bext), Microsoft's Multimedia Programming Interface (cue, adtl, INFO) and New Multimedia Data Types (smpl),
Apple's AIFF 1.3 (MARK), id3v2-chapters-1.0 (CHAP).
"""

import io
import math
import re
import struct
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

from ripe_press.core.formats import _riff
from ripe_press.core.timeline import MOST_MARKERS, MOST_NAME, Marker

MOST_TEXT = 2000
_MOST_CHUNK_BYTES = 1 << 22

_ID3 = {
    "TIT2": "title", "TPE1": "artist", "TPE2": "album_artist", "TALB": "album", "TRCK": "track", "TPOS": "disc",
    "TDRC": "date", "TYER": "date", "TCON": "genre", "TBPM": "tempo", "TKEY": "key", "TCOM": "composer",
    "TPUB": "publisher", "TCOP": "copyright", "TSRC": "isrc", "TLAN": "language", "COMM": "comment",
}  # fmt: skip
_MP4 = {
    "\xa9nam": "title", "\xa9ART": "artist", "aART": "album_artist", "\xa9alb": "album", "trkn": "track",
    "disk": "disc", "\xa9day": "date", "\xa9gen": "genre", "tmpo": "tempo", "\xa9wrt": "composer",
    "cprt": "copyright", "\xa9cmt": "comment",
}  # fmt: skip
_COMMENTS = {
    "title": "title", "artist": "artist", "albumartist": "album_artist", "album artist": "album_artist",
    "album": "album", "tracknumber": "track", "track": "track", "discnumber": "disc", "disc": "disc", "date": "date",
    "year": "date", "genre": "genre", "bpm": "tempo", "key": "key", "initialkey": "key", "composer": "composer",
    "publisher": "publisher", "organization": "publisher", "copyright": "copyright", "isrc": "isrc",
    "language": "language", "comment": "comment", "description": "comment",
}  # fmt: skip
_INFO = {
    b"INAM": "title", b"IART": "artist", b"IPRD": "album", b"ICMT": "comment", b"ICRD": "date", b"IGNR": "genre",
    b"ICOP": "copyright", b"ITRK": "track",
}  # fmt: skip
_CHAPTER = re.compile(r"^chapter(\d{3})(name)?$")
_CHAPTER_TIME = re.compile(r"^(\d+):(\d\d):(\d\d(?:\.\d+)?)$")


@dataclass(frozen=True, slots=True)
class Embedded:
    """Tags as (field, text) in the order found; frames count in the mix; None where the file says nothing."""

    tags: tuple[tuple[str, str], ...] = ()
    tempo_bpm: float | None = None
    markers: tuple[Marker, ...] = ()
    loop: tuple[int, int] | None = None
    time_reference: int | None = None
    """Samples from midnight to the first frame (bext)."""


def read_embedded(path: Path, rate_hz: int, frames: int) -> Embedded:
    """Everything that can be read; what is damaged is left out, for a mix is not refused for its tags."""
    notes = _Notes(rate_hz, frames)
    for read in (_read_chunks, _read_by_mutagen):
        try:
            read(path, notes)
        except Exception:  # noqa: S112 - the libraries raise whatever a damaged byte leads them to
            continue
    return notes.result()


class _Notes:
    def __init__(self, rate_hz: int, frames: int) -> None:
        self.rate_hz = rate_hz
        self.frames = frames
        self.tags: dict[str, str] = {}
        self.markers: dict[tuple[int, str], Marker] = {}
        self.loop: tuple[int, int] | None = None
        self.time_reference: int | None = None

    def tag(self, field: str, text: str) -> None:
        cleaned = "".join(one for one in text if one.isprintable() or one == "\n").strip()[:MOST_TEXT]
        if cleaned:
            self.tags.setdefault(field, cleaned)

    def mark(self, frame: float, name: str) -> None:
        if math.isfinite(frame) and 0 <= frame <= self.frames and len(self.markers) < MOST_MARKERS:
            place = round(frame)
            text = " ".join(name.split())[:MOST_NAME] or f"Marker {len(self.markers) + 1}"
            self.markers.setdefault((place, text), Marker(place, text))

    def result(self) -> Embedded:
        tempo = None
        try:
            tempo = float(self.tags.get("tempo", "").replace(",", "."))
        except ValueError:
            self.tags.pop("tempo", None)
        markers = tuple(sorted(self.markers.values(), key=lambda marker: marker.frame))
        return Embedded(
            tuple(self.tags.items()), tempo if tempo and 10 <= tempo <= 1000 else None, markers, self.loop,
            self.time_reference,
        )  # fmt: skip


def _read_chunks(path: Path, notes: _Notes) -> None:
    size = path.stat().st_size
    with path.open("rb") as file:
        head = file.read(12)
        wave = head[:4] in (b"RIFF", b"RF64") and head[8:12] == b"WAVE"
        aiff = head[:4] == b"FORM" and head[8:12] in (b"AIFF", b"AIFC")
        if not wave and not aiff:
            return
        cues: dict[int, int] = {}
        labels: dict[int, str] = {}
        for chunk in list(_riff.walk(file, size, big_endian=aiff)):
            if chunk.size <= _MOST_CHUNK_BYTES:
                with suppress(Exception):
                    _read_chunk(file, chunk, notes, cues, labels)
        for number, frame in cues.items():
            notes.mark(frame, labels.get(number, ""))


Cues = dict[int, int]
Labels = dict[int, str]


def _read_chunk(file: BinaryIO, chunk: _riff.Chunk, notes: _Notes, cues: Cues, labels: Labels) -> None:
    if chunk.name in _TEXTS:
        file.seek(chunk.offset)
        notes.tag(_TEXTS[chunk.name], _text(file.read(chunk.size)))
    elif chunk.name in _READERS:
        file.seek(chunk.offset)
        _READERS[chunk.name](file.read(chunk.size), notes, cues, labels)


def _read_bext(body: bytes, notes: _Notes, _cues: Cues, _labels: Labels) -> None:
    notes.tag("comment", _text(body[:256]))
    notes.tag("artist", _text(body[256:288]))
    notes.time_reference = struct.unpack_from("<Q", body, 338)[0]


def _read_cue(body: bytes, _notes: _Notes, cues: Cues, _labels: Labels) -> None:
    for number in range(min(struct.unpack_from("<I", body)[0], MOST_MARKERS)):
        name, _, _, _, _, offset = struct.unpack_from("<II4sIII", body, 4 + 24 * number)
        cues[name] = offset


def _read_list(body: bytes, notes: _Notes, _cues: Cues, labels: Labels) -> None:
    for name, part in _parts(body[4:]):
        if body[:4] == b"adtl" and name == b"labl":
            labels[struct.unpack_from("<I", part)[0]] = _text(part[4:])
        elif body[:4] == b"INFO" and name in _INFO:
            notes.tag(_INFO[name], _text(part))


def _read_smpl(body: bytes, notes: _Notes, _cues: Cues, _labels: Labels) -> None:
    if struct.unpack_from("<I", body, 28)[0]:
        _, _, first, last = struct.unpack_from("<IIII", body, 36)
        if first < last < notes.frames:
            # The last sample of the loop is part of it; the end of a range is not.
            notes.loop = (first, last + 1)


def _read_id3_chunk(body: bytes, notes: _Notes, _cues: Cues, _labels: Labels) -> None:
    from mutagen.id3 import ID3

    _read_id3(ID3(fileobj=io.BytesIO(body)), notes)


def _read_mark(body: bytes, notes: _Notes, _cues: Cues, _labels: Labels) -> None:
    at = 2
    for _ in range(struct.unpack_from(">H", body)[0]):
        _, frame, length = struct.unpack_from(">hIB", body, at)
        notes.mark(frame, _text(body[at + 7 : at + 7 + length]))
        at += 7 + length + (length + 1) % 2


_TEXTS = {b"NAME": "title", b"AUTH": "artist", b"ANNO": "comment"}
_READERS: dict[bytes, Callable[[bytes, _Notes, Cues, Labels], None]] = {
    b"bext": _read_bext, b"cue ": _read_cue, b"LIST": _read_list, b"smpl": _read_smpl, b"id3 ": _read_id3_chunk,
    b"ID3 ": _read_id3_chunk, b"MARK": _read_mark,
}  # fmt: skip


def _parts(body: bytes) -> list[tuple[bytes, bytes]]:
    parts, at = [], 0
    while at + 8 <= len(body):
        name, size = struct.unpack_from("<4sI", body, at)
        parts.append((name, body[at + 8 : at + 8 + size]))
        at += 8 + size + size % 2
    return parts


def _text(raw: bytes) -> str:
    cut = raw.split(b"\0", 1)[0]
    try:
        return cut.decode("utf-8")
    except UnicodeDecodeError:
        return cut.decode("latin-1")


def _read_by_mutagen(path: Path, notes: _Notes) -> None:
    import mutagen
    from mutagen.id3 import ID3
    from mutagen.mp4 import MP4

    found: Any = mutagen.File(path)
    if found is None or found.tags is None:
        return
    if isinstance(found, MP4):
        _read_mp4(found, notes)
    elif isinstance(found.tags, ID3):
        _read_id3(found.tags, notes)
    else:
        _read_comments(found.tags, notes)


def _read_id3(tags: Any, notes: _Notes) -> None:
    for frame in tags.values():
        kind = frame.FrameID
        if kind == "CHAP":
            title = frame.sub_frames.get("TIT2")
            notes.mark(frame.start_time * notes.rate_hz / 1000, str(title) if title else "")
        elif kind in _ID3:
            notes.tag(_ID3[kind], str(frame))


def _read_mp4(found: Any, notes: _Notes) -> None:
    for key, field in _MP4.items():
        values = found.tags.get(key)
        if values:
            first = values[0]
            notes.tag(field, "/".join(str(one) for one in first if one) if isinstance(first, tuple) else str(first))
    for chapter in found.chapters or ():
        notes.mark(chapter.start * notes.rate_hz, chapter.title)


def _read_comments(tags: Any, notes: _Notes) -> None:
    values: Mapping[str, str] = {key.lower(): _first(value) for key, value in dict(tags).items()}
    text: Callable[[str], str] = lambda key: values.get(key, "")  # noqa: E731
    for key in sorted(values):
        if key in _COMMENTS:
            notes.tag(_COMMENTS[key], text(key))
        elif (chapter := _CHAPTER.match(key)) and not chapter[2] and (time := _CHAPTER_TIME.match(text(key))):
            seconds = int(time[1]) * 3600 + int(time[2]) * 60 + float(time[3])
            notes.mark(seconds * notes.rate_hz, text(f"{key}name"))


def _first(value: Any) -> str:
    return str(value[0]) if isinstance(value, list) and value else str(value)
