"""Writing the tags of a file that is closed: each container in its own way."""

import base64
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from ripe_press.core.disk import not_written
from ripe_press.core.errors import Interrupted
from ripe_press.core.formats.capabilities import CAPABILITIES, STORED_BITS, Container, Encoding, TagForm
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.tags import riff_notes
from ripe_press.core.tags.cover import Cover, prepared_cover
from ripe_press.core.tags.forms import APE, COMMENTS, EXACT, FREE_FORM, MP4, TOTALS, carried, loop_texts, whole_tempo
from ripe_press.core.tags.gain import r128_text, replaygain_texts
from ripe_press.core.tags.id3 import id3_bytes, id3_frames
from ripe_press.core.tags.riff_notes import SOFTWARE
from ripe_press.core.tags.sheet import COVER, FileTags, of_total
from ripe_press.core.whole_files import sync


@dataclass(frozen=True, slots=True)
class _Written:
    """The target file, and its tags in the form of its container."""

    path: Path
    container: Container
    encoding: Encoding
    rate_hz: int
    channels: int
    tags: FileTags
    cover: Cover | None
    found: SignalResult | None = None
    album: SignalResult | None = None

    @property
    def gain(self) -> dict[str, str]:
        """Loudness for players, in the container's own manner, and loop points where they stand as text."""
        kind = CAPABILITIES[self.container].gain_tags
        loop = loop_texts(self.tags.loop)
        if not self.tags.gain_tags or not kind or self.found is None:
            return loop
        texts = r128_text if kind == "r128" else replaygain_texts
        return texts(self.found) | (texts(self.album, "ALBUM") if self.album else {}) | loop


def write_tags(
    path: Path,
    container: Container,
    encoding: Encoding,
    rate_hz: int,
    channels: int,
    tags: FileTags,
    found: SignalResult | None = None,
    album: SignalResult | None = None,
) -> None:
    """Write all supported tags to a closed file and sync it.

    ``found`` has the measurements of its samples, ``album`` those of its album.

    Raises: Interrupted ``tags.failed``; NotFound for a missing cover.
    """
    kept = carried(container, tags)
    cover = prepared_cover(kept.cover) if kept.cover else None
    try:
        _WRITERS[CAPABILITIES[container].tag_form](
            _Written(path, container, encoding, rate_hz, channels, kept, cover, found, album)
        )
        sync(path)
    except OSError as error:
        raise Interrupted("tags.failed", f"With its tags {not_written(path, error)}", path=str(path)) from error


def chunk_bytes(container: Container, encoding: Encoding, rate_hz: int, channels: int, tags: FileTags) -> int:
    """How many bytes the tags add to a file of plain samples, to the byte."""
    kept = carried(container, tags)
    cover = prepared_cover(kept.cover) if kept.cover else None
    return len(_chunks(_Written(Path(), container, encoding, rate_hz, channels, kept, cover)))


def _chunks(file: _Written) -> bytes:
    tags, form = file.tags, CAPABILITIES[file.container].tag_form
    if not tags.has_any:
        return b""
    if form == "strings":
        return riff_notes.caf_chunks(tags)
    # Markers have places of their own in these files, and would be there twice.
    id3 = id3_bytes(replace(tags, markers=()), file.rate_hz, file.cover)
    if form == "text-chunks":
        return riff_notes.aiff_chunks(tags, id3)
    ixml = b""
    if form == "broadcast":
        ixml = riff_notes.ixml_chunk(tags, file.rate_hz, STORED_BITS[file.encoding], file.channels)
    return riff_notes.riff_chunks(tags, file.rate_hz, id3, ixml)


def _write_chunks(file: _Written) -> None:
    if chunks := _chunks(file):
        riff_notes.append_chunks(file.path, chunks)
    if CAPABILITIES[file.container].states_loudness:
        riff_notes.fill_bext(file.path, riff_notes.bext_body(file.tags, file.found))


def _write_id3(file: _Written) -> None:
    made = id3_frames(file.tags, file.rate_hz, file.cover, file.gain)
    if made:
        old = file.tags.id3_version == "2.3"
        # Players that know no more than version 2.3 may look for the block at the end too.
        made.save(str(file.path), v2_version=3 if old else 4, v1=2 if old else 0)


def _write_comments(file: _Written) -> None:
    from mutagen.flac import FLAC, Picture
    from mutagen.oggopus import OggOpus
    from mutagen.oggvorbis import OggVorbis

    can = CAPABILITIES[file.container]
    openers: dict[str, Callable[[str], Any]] = {".flac": FLAC, ".opus": OggOpus, ".ogg": OggVorbis}
    opened = openers[can.suffix](str(file.path))
    if opened.tags is None:
        opened.add_tags()
    opened.tags.clear()
    for name, text in (_comment_texts(file) | file.gain | {"ENCODER": SOFTWARE}).items():
        opened.tags[name] = [text]
    if cover := file.cover:
        picture = Picture()
        picture.type, picture.mime, picture.data = 3, cover.mime, cover.data
        picture.width, picture.height, picture.depth = cover.width, cover.height, 24
        if can.pictures_are_text:
            opened.tags[COMMENTS[COVER]] = [base64.b64encode(picture.write()).decode()]
        else:
            opened.clear_pictures()
            opened.add_picture(picture)
    opened.save()
    if can.pictures_are_text:
        settle_serial(file.path)


def _comment_texts(file: _Written) -> dict[str, str]:
    texts: dict[str, str] = {}
    for field, text in file.tags.values:
        number, total = of_total(text) if field in TOTALS else (0, 0)
        texts[COMMENTS[field]] = str(number) if number else text
        if total:
            texts[TOTALS[field]] = str(total)
    for count, marker in enumerate(file.tags.markers, 1):
        milliseconds = round(marker.frame * 1000 / file.rate_hz)
        seconds, thousandths = divmod(milliseconds, 1000)
        clock = f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}.{thousandths:03d}"
        texts[f"CHAPTER{count:03d}"] = clock
        texts[f"CHAPTER{count:03d}NAME"] = marker.name
    return texts


def settle_serial(path: Path, serial: int = 1) -> None:
    """Set a fixed serial number in an Ogg file; libraries choose a random one, and files would differ.

    RFC 3533, section 6: every page has the number and a checksum.
    """
    from mutagen.ogg import OggPage

    with path.open("r+b") as file:
        while True:
            at = file.tell()
            try:
                page = OggPage(file)
            except EOFError:
                return
            page.serial = serial
            after = file.tell()
            file.seek(at)
            file.write(page.write())
            file.seek(after)


def _write_mp4(file: _Written) -> None:
    from mutagen import mp4

    opened = mp4.MP4(str(file.path))
    if opened.tags is None:
        opened.add_tags()
    items: Any = opened.tags
    for field, text in file.tags.values:
        key = MP4[field].replace("©", "\xa9")
        if key.startswith(FREE_FORM):
            items[key] = [mp4.MP4FreeForm(text.encode())]
        elif key in ("trkn", "disk"):
            items[key] = [of_total(text)]
        elif key == "tmpo":
            whole = whole_tempo(text) or 0
            items[key] = [whole]
            if text != str(whole):
                items[FREE_FORM + EXACT[field]] = [mp4.MP4FreeForm(text.encode())]
        else:
            items[key] = [text]
    for name, text in file.gain.items():
        items[f"{FREE_FORM}{name.lower()}"] = [mp4.MP4FreeForm(text.encode())]
    items["\xa9too"] = [SOFTWARE]
    if file.tags.frames and CAPABILITIES[file.container].lossy:
        items[f"{FREE_FORM}iTunSMPB"] = [mp4.MP4FreeForm(_gapless(file.tags.frames).encode())]
    if cover := file.cover:
        kind = mp4.MP4Cover.FORMAT_PNG if cover.mime == "image/png" else mp4.MP4Cover.FORMAT_JPEG
        items[MP4[COVER]] = [mp4.MP4Cover(cover.data, kind)]
    opened.save()


AAC_PRIMING = AAC_PACKET = 1024
"""Frames that the encoder puts before the first, and frames of a packet (measured; the edit list says the same)."""


def _gapless(frames: int) -> str:
    """Priming, padding and length, in hexadecimal, for players that read no edit list (common practice, no source)."""
    padding = -(AAC_PRIMING + frames) % AAC_PACKET
    return f" 00000000 {AAC_PRIMING:08X} {padding:08X} {frames:016X}" + " 00000000" * 8


def _write_ape(file: _Written) -> None:
    from mutagen import apev2

    texts = {APE[field]: text for field, text in file.tags.values} | file.gain
    if not texts and not file.cover:
        return
    items: Any = apev2.APEv2()
    for name, text in texts.items():
        items[name] = text
    if cover := file.cover:
        ending = "png" if cover.mime == "image/png" else "jpg"
        # A picture's name, a zero, then the picture.
        items[APE[COVER]] = apev2.APEValue(b"cover." + ending.encode() + b"\0" + cover.data, apev2.BINARY)
    items.save(str(file.path))


_WRITERS: dict[TagForm, Callable[[_Written], None]] = {
    "riff": _write_chunks,
    "broadcast": _write_chunks,
    "text-chunks": _write_chunks,
    "strings": _write_chunks,
    "id3": _write_id3,
    "comments": _write_comments,
    "mp4": _write_mp4,
    "ape": _write_ape,
}
