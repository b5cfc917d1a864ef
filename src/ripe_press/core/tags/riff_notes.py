"""Chunks that carry tags, markers and loops in RIFF, AIFF and CAF files, and adding them to one that is written.

Sources, from memory of the texts: Microsoft and IBM, Multimedia Programming Interface 1.0 (LIST INFO, cue, adtl) and
New Multimedia Data Types (smpl); EBU Tech 3285 v2 (bext) and R 98 (coding history); the iXML specification 1.61;
Apple, AIFF 1.3 (NAME, AUTH, ANNO, MARK, INST) and Core Audio Format 1.0 (info); the ``id3 `` chunk is common
practice, no source. Read back in the tests by readers that are not ours.
"""

import struct
import xml.etree.ElementTree as ET
from collections.abc import Sequence
from pathlib import Path

from ripe_press.core.errors import Unsupported
from ripe_press.core.formats import riff as _riff
from ripe_press.core.formats.riff import MAX_32, chunk_header
from ripe_press.core.formats.writing.caf import caf_chunk
from ripe_press.core.formats.writing.wav import BEXT_BYTES
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.tags.forms import AIFF_TEXTS, CAF, INFO, ascii_text, old_text
from ripe_press.core.tags.gain import broadcast_word
from ripe_press.core.tags.sheet import FIELDS, FileTags
from ripe_press.core.timeline import Marker
from ripe_press.core.words import quoted

SOFTWARE = "Ripe Press"
_MIDDLE_C = 60
_FORWARD = 1
"""How AIFF says that a loop is played from its start to its end, over and over."""


def chunk(name: bytes, body: bytes) -> bytes:
    """A whole chunk, padded to an even length; the padding does not count in its size."""
    return chunk_header(name, len(body)) + body + b"\0" * (len(body) % 2)


def marker_chunks(markers: Sequence[Marker]) -> bytes:
    """A cue chunk with the places and a LIST chunk with the names, numbered from 1."""
    points, labels = [], []
    for number, marker in enumerate(markers, 1):
        points.append(struct.pack("<II4sIII", number, marker.frame, b"data", 0, 0, marker.frame))
        labels.append(chunk(b"labl", struct.pack("<I", number) + marker.name.encode() + b"\0"))
    cue = chunk(b"cue ", struct.pack("<I", len(points)) + b"".join(points))
    return cue + chunk(b"LIST", b"adtl" + b"".join(labels))


def loop_chunk(loop: tuple[int, int], rate_hz: int) -> bytes:
    """A smpl chunk with one loop, played for ever; its last sample belongs to it, the end of a range does not."""
    head = struct.pack("<IIIIIIIII", 0, 0, round(1e9 / rate_hz), _MIDDLE_C, 0, 0, 0, 1, 0)
    return chunk(b"smpl", head + struct.pack("<IIIIII", 0, 0, loop[0], loop[1] - 1, 0, 0))


def info_chunk(tags: FileTags) -> bytes:
    """LIST INFO with every field that has a place there, and who wrote it.

    In ASCII as far as that goes, which every reader takes for the same letters.
    """
    texts = [(INFO[field].encode(), text) for field, text in tags.values if field in INFO]
    parts = [chunk(name, old_text(text) + b"\0") for name, text in [*texts, (b"ISFT", SOFTWARE)]]
    return chunk(b"LIST", b"INFO" + b"".join(parts))


def bext_body(tags: FileTags, found: SignalResult | None) -> bytes:
    """The broadcast chunk, version 2, in the space reserved by the writer; with loudness if measured.

    Only a complete date is written, and no time, so that the same order gives the same bytes.
    """

    def text(field: str, size: int) -> bytes:
        return ascii_text(tags.text(field)).encode()[:size].ljust(size, b"\0")

    reference = tags.text("isrc").encode("ascii", "replace")[:32].ljust(32, b"\0")
    date = tags.text("date") if len(tags.text("date")) == 10 else ""
    head = text("title", 256) + text("artist", 32) + reference + ascii_text(date).encode()[:10].ljust(10, b"\0")
    words: tuple[int, ...] = (0x7FFF,) * 5
    if found:
        levels = (
            found.integrated_lufs, found.range_lu, found.true_peak_dbtp, found.max_momentary_lufs,
            found.max_short_term_lufs,
        )  # fmt: skip
        words = tuple(broadcast_word(level) for level in levels)
    fixed = head + bytes(8) + struct.pack("<QH", tags.time_reference or 0, 2) + bytes(64)
    fixed += struct.pack("<5h", *words) + bytes(180)
    room = BEXT_BYTES - len(fixed)
    return fixed + ascii_text(tags.coding_history).encode()[: room - 1].ljust(room, b"\0")


def ixml_chunk(tags: FileTags, rate_hz: int, bits: int, channels: int) -> bytes:
    """iXML: project, note, speed, places, the names of the tracks, and the whole sheet as text under USER."""
    root = ET.Element("BWFXML")

    def put(parent: ET.Element, name: str, text: str) -> ET.Element:
        made = ET.SubElement(parent, name)
        made.text = text
        return made

    put(root, "IXML_VERSION", "1.61")
    put(root, "PROJECT", tags.text("album"))
    put(root, "NOTE", tags.text("comment"))
    speed = ET.SubElement(root, "SPEED")
    reference = tags.time_reference or 0
    for name, value in (
        ("FILE_SAMPLE_RATE", rate_hz), ("AUDIO_BIT_DEPTH", bits), ("TIMESTAMP_SAMPLE_RATE", rate_hz),
        ("TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI", reference >> 32),
        ("TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO", reference & MAX_32),
    ):  # fmt: skip
        put(speed, name, str(value))
    if tags.markers:
        points = ET.SubElement(root, "SYNC_POINT_LIST")
        put(points, "SYNC_POINT_COUNT", str(len(tags.markers)))
        for marker in tags.markers:
            point = ET.SubElement(points, "SYNC_POINT")
            for name, text in (
                ("SYNC_POINT_TYPE", "RELATIVE"), ("SYNC_POINT_FUNCTION", "MARKER"), ("SYNC_POINT_COMMENT", marker.name),
                ("SYNC_POINT_LOW", str(marker.frame & MAX_32)), ("SYNC_POINT_HIGH", str(marker.frame >> 32)),
            ):  # fmt: skip
                put(point, name, text)
    tracks = ET.SubElement(root, "TRACK_LIST")
    put(tracks, "TRACK_COUNT", str(channels))
    for number, name in enumerate(("Left", "Right") if channels == 2 else ("Mono",), 1):
        track = ET.SubElement(tracks, "TRACK")
        put(track, "CHANNEL_INDEX", str(number))
        put(track, "INTERLEAVE_INDEX", str(number))
        put(track, "NAME", name)
    put(root, "USER", "\n".join(f"{FIELDS[field].title}: {text}" for field, text in tags.values))
    ET.indent(root)
    return chunk(b"iXML", b'<?xml version="1.0" encoding="UTF-8"?>\n' + ET.tostring(root, encoding="unicode").encode())


def riff_chunks(tags: FileTags, rate_hz: int, id3: bytes, ixml: bytes = b"") -> bytes:
    """Everything that stands behind the samples of a WAV file."""
    # First what holds every letter: some programs take the first text that they find.
    parts = [chunk(b"id3 ", id3) if id3 else b"", info_chunk(tags)]
    if tags.markers:
        parts.append(marker_chunks(tags.markers))
    if tags.loop:
        parts.append(loop_chunk(tags.loop, rate_hz))
    return b"".join((*parts, ixml))


def aiff_chunks(tags: FileTags, id3: bytes) -> bytes:
    """Everything that stands behind the samples of an AIFF file: texts, markers with places in frames, ID3."""

    def big(name: bytes, body: bytes) -> bytes:
        return name + struct.pack(">I", len(body)) + body + b"\0" * (len(body) % 2)

    parts = [big(b"ID3 ", id3)] if id3 else []
    parts += [big(AIFF_TEXTS[field].encode(), old_text(text)) for field, text in tags.values if field in AIFF_TEXTS]
    # A loop goes from one marker to another: it has two of its own, behind all others.
    ends = (Marker(tags.loop[0], "loop start"), Marker(tags.loop[1], "loop end")) if tags.loop else ()
    if markers := (*tags.markers, *ends):
        # Names are pascal strings: a byte of length, the text, and a filler that makes both together even.
        names = [marker.name.encode()[:255] for marker in markers]
        marks = [
            struct.pack(">hIB", number, marker.frame, len(name)) + name + b"\0" * ((len(name) + 1) % 2)
            for number, (marker, name) in enumerate(zip(markers, names, strict=True), 1)
        ]
        parts.append(big(b"MARK", struct.pack(">H", len(marks)) + b"".join(marks)))
    if ends:
        last = len(markers)
        whole_keyboard = struct.pack(">bbbbbbh", _MIDDLE_C, 0, 0, 127, 1, 127, 0)
        parts.append(big(b"INST", whole_keyboard + struct.pack(">hhhhhh", _FORWARD, last - 1, last, 0, 0, 0)))
    return b"".join(parts)


def caf_chunks(tags: FileTags) -> bytes:
    """The information chunk of CAF: pairs of strings, each ended by a zero."""
    pairs = [(CAF[field], text) for field, text in tags.values if field in CAF]
    pairs.append(("encoding application", SOFTWARE))
    body = b"".join(f"{key}\0{text}\0".encode() for key, text in pairs)
    return caf_chunk(b"info", struct.pack(">I", len(pairs)) + body)


def fill_bext(path: Path, body: bytes) -> None:
    """Writes a broadcast chunk into the room that was kept for it."""
    with path.open("r+b") as file:
        for one in _riff.walk(file, path.stat().st_size):
            if one.name == b"bext" and one.size == len(body):
                file.seek(one.offset)
                file.write(body)
                return


def append_chunks(path: Path, chunks: bytes) -> None:
    """Adds whole chunks at the end of a RIFF, RF64, FORM or CAF file and mends its size.

    A WAV file that would pass the 32-bit sizes by its tags becomes RF64. Raises: Unsupported ``riff.too-long``.
    """
    with path.open("r+b") as file:
        head = file.read(20)
        kind = head[:4]
        size = file.seek(0, 2)
        pad = 0 if kind == b"caff" else size % 2
        if kind == b"FORM" and size + pad + len(chunks) - 8 > MAX_32:
            message = f"{quoted(path.name)} is too long for metadata chunks."
            raise Unsupported("riff.too-long", message, bytes=size)
        file.write(b"\0" * pad + chunks)
        size = file.tell()
        if kind == b"FORM":
            file.seek(4)
            file.write(struct.pack(">I", size - 8))
        elif kind == b"RF64":
            file.seek(20)
            file.write(struct.pack("<Q", size - 8))
        elif kind == b"RIFF" and size - 8 <= MAX_32:
            file.seek(4)
            file.write(struct.pack("<I", size - 8))
        elif kind == b"RIFF":
            _widen(path, file.fileno(), size)


def _widen(path: Path, descriptor: int, size: int) -> None:
    """RIFF to RF64 in place: the room kept as JUNK becomes ds64."""
    import os

    with path.open("rb") as file:
        data = next(one for one in _riff.walk(file, size) if one.name == b"data")
        form = next(one for one in _riff.walk(file, size) if one.name == b"fmt ")
        file.seek(form.offset + 12)
        (align,) = struct.unpack("<H", file.read(2))
    body = _riff.ds64_body(size - 8, data.size, data.size // align)
    os.pwrite(descriptor, chunk_header(b"RF64", MAX_32), 0)
    os.pwrite(descriptor, chunk_header(b"ds64", len(body)) + body, 12)
    os.pwrite(descriptor, struct.pack("<I", MAX_32), data.offset - 4)
