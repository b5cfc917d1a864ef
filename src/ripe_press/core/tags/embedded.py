"""What a mix already carries besides sound: tags, tempo, markers, loop points, the time it begins at.

Chunks of WAV, RF64 and AIFF are read here; everything else by mutagen. Sources, from memory of the texts: EBU Tech
3285 (bext), Microsoft's Multimedia Programming Interface (cue, adtl, INFO) and New Multimedia Data Types (smpl),
Apple's AIFF 1.3 (MARK, INST), id3v2-chapters-1.0 (CHAP).
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

from ripe_press.core.formats import riff as _riff
from ripe_press.core.tags.bounds import sane_chunk, sane_tags
from ripe_press.core.tags.forms import (
    APE,
    CAF,
    COMMENTS,
    EXACT,
    FREE_FORM,
    ID3,
    INFO,
    LOOP_LENGTH,
    LOOP_START,
    MP4,
    TOTALS,
    short_key,
    whole_tempo,
)
from ripe_press.core.tags.sheet import FIELDS, cleaned_text
from ripe_press.core.timeline import MOST_MARKERS, MOST_NAME, Marker

MOST_CHUNK_BYTES = 1 << 26
"""A cover in a tag may have some megabytes; a larger chunk is not a tag."""

_ID3 = {name: field for field, name in ID3.items() if field in FIELDS} | {"TYER": "date", "WXXX": "web"}
_LOOP = (LOOP_START, LOOP_LENGTH)
_ID3_EXACT = {f"TXXX:{name}": field for field, name in EXACT.items()}
_MP4 = {name.replace("©", "\xa9"): field for field, name in MP4.items() if field in FIELDS}
# Beside our own names those that others use.
_COMMENTS = {name.lower(): field for field, name in COMMENTS.items() if field in FIELDS} | {
    "album artist": "album_artist", "track": "track", "disc": "disc", "year": "date", "initialkey": "key",
    "organization": "publisher", "label": "publisher", "description": "comment", "subtitle": "version",
    "ean/upc": "barcode", "tempo": "tempo", "unsyncedlyrics": "lyrics",
}  # fmt: skip
_APE = {name.lower(): field for field, name in APE.items() if field in FIELDS}
_CAF = {name: field for field, name in CAF.items()} | {"year": "date"}
_INFO = {name.encode(): field for field, name in INFO.items()}
_GAIN = (
    "replaygain_track_gain", "replaygain_track_peak", "r128_track_gain", "replaygain_album_gain",
    "replaygain_album_peak", "r128_album_gain",
)  # fmt: skip
_BEXT_LEVELS = ("loudness_lufs", "loudness_range_lu", "true_peak_dbtp", "max_momentary_lufs", "max_short_term_lufs")
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
    gain: tuple[tuple[str, str], ...] = ()
    """Loudness for players, as stored in the file."""
    broadcast: tuple[tuple[str, str], ...] = ()
    """Version, loudness and coding history of a broadcast chunk."""


def read_embedded(path: Path, rate_hz: int, frames: int) -> Embedded:
    """All readable metadata; damaged parts are skipped, because a mix is not rejected for its tags."""
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
        self.loop_marks: tuple[int, ...] = ()
        """In AIFF a loop goes from one marker to another, by their numbers."""
        self.loop_texts: dict[str, str] = {}
        self.time_reference: int | None = None
        self.gain: dict[str, str] = {}
        self.broadcast: dict[str, str] = {}
        self.fallbacks: dict[str, str] = {}
        self.exact: dict[str, str] = {}
        """Texts stored together with a shorter form."""
        self.chunks: set[bytes] = set()
        self.read_whole = False
        """Whether nothing is left to be read by the library, which takes a while to load."""

    def tag(self, field: str, text: str) -> None:
        cleaned = cleaned_text(text, field in ("comment", "lyrics"))[: FIELDS[field].most]
        if cleaned:
            self.tags.setdefault(field, cleaned)

    def plain(self, field: str, text: str) -> None:
        """A text of a chunk that has few letters: what the ID3 chunk says of the same field is better."""
        if self.chunks & {b"id3 ", b"ID3 "}:
            self.fallbacks.setdefault(field, text)
        else:
            self.tag(field, text)

    def mark(self, frame: float, name: str) -> None:
        if math.isfinite(frame) and 0 <= frame <= self.frames and len(self.markers) < MOST_MARKERS:
            place = round(frame)
            text = " ".join(name.split())[:MOST_NAME] or f"Marker {len(self.markers) + 1}"
            self.markers.setdefault((place, text), Marker(place, text))

    def set_loop(self, first: int, end: int) -> None:
        if first < end <= self.frames:
            self.loop = (first, end)

    def result(self) -> Embedded:
        start, length = (self.loop_texts.get(name, "") for name in _LOOP)
        if start.isdecimal() and length.isdecimal() and len(start + length) < 40:
            self.set_loop(int(start), int(start) + int(length))
        for field, text in self.fallbacks.items():
            self.tag(field, text)
        for field, text in self.exact.items():
            # A later change of the short form alone is intended.
            shorten = {"tempo": whole_tempo, "key": short_key}[field]
            short = self.tags.get(field)
            if not short or shorten(text) == shorten(short):
                self.tags.pop(field, None)
                self.tag(field, text)
        tempo = None
        try:
            tempo = float(self.tags.get("tempo", "").replace(",", "."))
        except ValueError:
            self.tags.pop("tempo", None)
        markers = tuple(sorted(self.markers.values(), key=lambda marker: marker.frame))
        return Embedded(
            tuple(self.tags.items()), tempo if tempo and 10 <= tempo <= 1000 else None, markers, self.loop,
            self.time_reference, tuple(self.gain.items()), tuple(self.broadcast.items()),
        )  # fmt: skip


def _read_chunks(path: Path, notes: _Notes) -> None:
    size = path.stat().st_size
    with path.open("rb") as file:
        head = file.read(12)
        wave = head[:4] in (b"RIFF", b"RF64") and head[8:12] == b"WAVE"
        aiff = head[:4] == b"FORM" and head[8:12] in (b"AIFF", b"AIFC")
        if head[:4] == b"caff":
            _read_caf(file, size, notes)
            notes.read_whole = True
        if not wave and not aiff:
            return
        cues: dict[int, int] = {}
        labels: dict[int, str] = {}
        found = list(_riff.walk(file, size, big_endian=aiff))
        if len(found) == _riff.MOST_CHUNKS:
            # Far more than any program writes: not notes.
            notes.read_whole = True
            return
        notes.chunks = {one.name for one in found}
        for chunk in found:
            if chunk.size <= MOST_CHUNK_BYTES:
                with suppress(Exception):
                    _read_chunk(file, chunk, notes, cues, labels)
        for number, frame in cues.items():
            if number not in notes.loop_marks:
                notes.mark(frame, labels.get(number, ""))
        if notes.loop_marks and set(notes.loop_marks) <= set(cues):
            first, end = (cues[number] for number in notes.loop_marks)
            notes.set_loop(first, end)
        notes.read_whole = True


def _read_caf(file: BinaryIO, size: int, notes: _Notes) -> None:
    """The information chunk: a count, then pairs of strings ended by zeros."""
    at = 8
    for _ in range(_riff.MOST_CHUNKS):
        if at + 12 > size:
            return
        file.seek(at)
        name, length = struct.unpack(">4sq", file.read(12))
        if name == b"info" and 4 <= length <= MOST_CHUNK_BYTES:
            texts = file.read(length)[4:].split(b"\0")
            for key, text in zip(texts[::2], texts[1::2], strict=False):
                if _text(key) in _CAF:
                    notes.tag(_CAF[_text(key)], _text(text))
        if length < 0:
            return
        at += 12 + length


Cues = dict[int, int]
Labels = dict[int, str]


def _read_chunk(file: BinaryIO, chunk: _riff.Chunk, notes: _Notes, cues: Cues, labels: Labels) -> None:
    if chunk.name in _TEXTS:
        file.seek(chunk.offset)
        notes.plain(_TEXTS[chunk.name], _text(file.read(chunk.size)))
    elif chunk.name in _READERS:
        file.seek(chunk.offset)
        _READERS[chunk.name](file.read(chunk.size), notes, cues, labels)


def _read_bext(body: bytes, notes: _Notes, _cues: Cues, _labels: Labels) -> None:
    # A broadcast chunk has few letters and no accents: whatever else the file says of these is better.
    notes.fallbacks.setdefault("comment" if b"id3 " not in notes.chunks else "title", _text(body[:256]))
    notes.fallbacks.setdefault("artist", _text(body[256:288]))
    notes.time_reference, version = struct.unpack_from("<QH", body, 338)
    notes.broadcast["version"] = str(version)
    if version >= 2:
        levels = zip(_BEXT_LEVELS, struct.unpack_from("<5h", body, 412), strict=True)
        notes.broadcast |= {name: f"{value / 100:.2f}" for name, value in levels if value != 0x7FFF}
    if history := _text(body[602:]).strip():
        notes.broadcast["coding_history"] = history


def _read_cue(body: bytes, _notes: _Notes, cues: Cues, _labels: Labels) -> None:
    for number in range(min(struct.unpack_from("<I", body)[0], MOST_MARKERS)):
        name, _, _, _, _, offset = struct.unpack_from("<II4sIII", body, 4 + 24 * number)
        cues[name] = offset


def _read_list(body: bytes, notes: _Notes, _cues: Cues, labels: Labels) -> None:
    for name, part in _parts(body[4:]):
        if body[:4] == b"adtl" and name == b"labl":
            labels[struct.unpack_from("<I", part)[0]] = _text(part[4:])
        elif body[:4] == b"INFO" and name in _INFO:
            notes.plain(_INFO[name], _text(part))


def _read_smpl(body: bytes, notes: _Notes, _cues: Cues, _labels: Labels) -> None:
    if struct.unpack_from("<I", body, 28)[0]:
        _, _, first, last = struct.unpack_from("<IIII", body, 36)
        # The last sample of the loop is part of it; the end of a range is not.
        notes.set_loop(first, last + 1)


def _read_id3_chunk(body: bytes, notes: _Notes, _cues: Cues, _labels: Labels) -> None:
    from mutagen.id3 import ID3

    if sane_chunk(body):
        _read_id3(ID3(fileobj=io.BytesIO(body)), notes)


def _read_mark(body: bytes, _notes: _Notes, cues: Cues, labels: Labels) -> None:
    at = 2
    for _ in range(struct.unpack_from(">H", body)[0]):
        number, frame, length = struct.unpack_from(">hIB", body, at)
        cues[number], labels[number] = frame, _text(body[at + 7 : at + 7 + length])
        at += 7 + length + (length + 1) % 2


def _read_inst(body: bytes, notes: _Notes, _cues: Cues, _labels: Labels) -> None:
    mode, first, last = struct.unpack_from(">hhh", body, 8)
    if mode:
        notes.loop_marks = (first, last)


_TEXTS = {b"NAME": "title", b"AUTH": "artist", b"ANNO": "comment", b"(c) ": "copyright"}
_READERS: dict[bytes, Callable[[bytes, _Notes, Cues, Labels], None]] = {
    b"bext": _read_bext, b"cue ": _read_cue, b"LIST": _read_list, b"smpl": _read_smpl, b"id3 ": _read_id3_chunk,
    b"ID3 ": _read_id3_chunk, b"MARK": _read_mark, b"INST": _read_inst,
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
    if notes.read_whole or not sane_tags(path):
        return
    import mutagen
    from mutagen import id3, mp4
    from mutagen.apev2 import APEv2

    found: Any = mutagen.File(path)
    if found is None or found.tags is None:
        return
    if isinstance(found, mp4.MP4):
        _read_mp4(found, notes)
    elif isinstance(found.tags, id3.ID3):
        _read_id3(found.tags, notes)
    else:
        _read_comments(found.tags, notes, _APE if isinstance(found.tags, APEv2) else _COMMENTS)


def _read_id3(tags: Any, notes: _Notes) -> None:
    for frame in tags.values():
        kind = frame.FrameID
        named = f"TXXX:{frame.desc}" if kind == "TXXX" else kind
        if kind == "CHAP":
            title = frame.sub_frames.get("TIT2")
            notes.mark(frame.start_time * notes.rate_hz / 1000, str(title) if title else "")
        elif named in _ID3_EXACT:
            notes.exact[_ID3_EXACT[named]] = str(frame)
        elif named in _ID3:
            notes.tag(_ID3[named], frame.url if kind in ("WOAR", "WXXX") else str(frame))
        elif kind == "TXXX" and frame.desc.lower() in _GAIN:
            notes.gain[frame.desc.lower()] = str(frame)
        elif kind == "TXXX" and frame.desc.upper() in _LOOP:
            notes.loop_texts[frame.desc.upper()] = str(frame)


def _read_mp4(found: Any, notes: _Notes) -> None:
    for key, values in found.tags.items():
        field = _MP4.get(key)
        name = key.removeprefix(FREE_FORM).lower()
        field = field or (_COMMENTS.get(name) if key.startswith(FREE_FORM) else None)
        if not values or key == "covr":
            continue
        first = values[0]
        if name in _GAIN:
            notes.gain[name] = _text(bytes(first))
        elif key.startswith(FREE_FORM) and name.upper() in _LOOP:
            notes.loop_texts[name.upper()] = _text(bytes(first))
        elif key == FREE_FORM + EXACT["tempo"]:
            notes.exact["tempo"] = _text(bytes(first))
        elif field and isinstance(first, tuple):
            notes.tag(field, "/".join(str(one) for one in first if one))
        elif field:
            notes.tag(field, _text(bytes(first)) if isinstance(first, bytes) else str(first))
    for chapter in found.chapters or ():
        if not chapter.title and not chapter.start:
            # An unnamed chapter at 0 only starts the list; it is not a marker.
            continue
        notes.mark(chapter.start * notes.rate_hz, chapter.title)


def _read_comments(tags: Any, notes: _Notes, fields: Mapping[str, str]) -> None:
    values: Mapping[str, str] = {key.lower(): first_of(value) for key, value in dict(tags).items()}
    text: Callable[[str], str] = lambda key: values.get(key, "")  # noqa: E731
    for key in sorted(values, key=lambda one: (one not in fields, one)):
        if key in fields or key in _COMMENTS:
            field = fields.get(key) or _COMMENTS[key]
            total = text(TOTALS[field].lower()) if field in TOTALS else ""
            notes.tag(field, f"{text(key)}/{total}" if total and "/" not in text(key) else text(key))
        elif key in _GAIN:
            notes.gain[key] = text(key)
        elif key.upper() in _LOOP:
            notes.loop_texts[key.upper()] = text(key)
        elif (chapter := _CHAPTER.match(key)) and not chapter[2] and (time := _CHAPTER_TIME.match(text(key))):
            seconds = int(time[1]) * 3600 + int(time[2]) * 60 + float(time[3])
            notes.mark(seconds * notes.rate_hz, text(f"{key}name"))


def constant_bit_rate(path: Path) -> bool | None:
    """Whether every frame of an MP3 has the same bit rate; None where its head does not say."""
    from mutagen import MutagenError
    from mutagen.mp3 import MP3, BitrateMode

    try:
        mode: Any = getattr(MP3(str(path)).info, "bitrate_mode", BitrateMode.UNKNOWN)
    except MutagenError:
        return None
    return None if mode == BitrateMode.UNKNOWN else bool(mode == BitrateMode.CBR)


def first_of(value: Any) -> str:
    """The one text of a tag, or the first of several."""
    return str(value[0]) if isinstance(value, list) and value else str(value)
