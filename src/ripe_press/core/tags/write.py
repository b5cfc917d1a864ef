"""Writing the tags of a file that is closed: each container in its own way."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from ripe_press.core.errors import Interrupted
from ripe_press.core.formats._file import sync
from ripe_press.core.formats.capabilities import CAPABILITIES, STORED_BITS, Container, Encoding
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.tags import riff_notes
from ripe_press.core.tags.codes import compact_isrc
from ripe_press.core.tags.cover import Cover, prepared_cover
from ripe_press.core.tags.forms import APE, COMMENTS, FREE_FORM, MP4, TOTALS, whole_tempo
from ripe_press.core.tags.gain import r128_text, replaygain_texts
from ripe_press.core.tags.id3 import id3_bytes, id3_frames
from ripe_press.core.tags.riff_notes import SOFTWARE
from ripe_press.core.tags.sheet import COVER, FileTags, of_total


def write_tags(
    path: Path,
    container: Container,
    encoding: Encoding,
    rate_hz: int,
    channels: int,
    tags: FileTags,
    found: SignalResult | None = None,
) -> None:
    """Adds everything to a closed file and syncs it; ``found`` is what was measured of its samples.

    Raises: Interrupted ``tags.failed``; Unreadable for a cover that is gone.
    """
    cover = prepared_cover(tags.cover) if tags.cover and CAPABILITIES[container].pictures else None
    gain = gain_texts(container, tags, found)
    try:
        _WRITERS[CAPABILITIES[container].tag_form](
            path, container, encoding, rate_hz, channels, tags, found, cover, gain
        )
        sync(path)
    except OSError as error:
        message = (
            f"The tags of {path.name!r} could not be written: {error.strerror}. Free space or choose another folder."
        )
        raise Interrupted("tags.failed", message, path=str(path)) from error


def gain_texts(container: Container, tags: FileTags, found: SignalResult | None) -> dict[str, str]:
    """Loudness for players, in the container's own manner; nothing where it was not asked for."""
    kind = CAPABILITIES[container].gain_tags
    if not tags.gain_tags or not kind or found is None:
        return {}
    return r128_text(found) if kind == "r128" else replaygain_texts(found)


def chunk_bytes(container: Container, encoding: Encoding, rate_hz: int, channels: int, tags: FileTags) -> int:
    """How many bytes the tags add to a file of plain samples, to the byte."""
    cover = prepared_cover(tags.cover) if tags.cover and CAPABILITIES[container].pictures else None
    return len(_chunks(container, encoding, rate_hz, channels, tags, cover))


def _chunks(
    container: Container, encoding: Encoding, rate_hz: int, channels: int, tags: FileTags, cover: Cover | None
) -> bytes:
    if not tags.has_any:
        return b""
    form = CAPABILITIES[container].tag_form
    if form == "caf":
        return riff_notes.caf_chunks(tags)
    # Markers have places of their own in these files, and would stand there twice.
    id3 = id3_bytes(replace(tags, markers=()), rate_hz, cover)
    if form == "aiff":
        return riff_notes.aiff_chunks(tags, id3)
    ixml = b""
    if form == "broadcast":
        ixml = riff_notes.ixml_chunk(tags, rate_hz, STORED_BITS[encoding], channels)
    return riff_notes.riff_chunks(tags, rate_hz, id3, ixml)


def _write_chunks(
    path: Path, container: Container, encoding: Encoding, rate_hz: int, channels: int, tags: FileTags,
    found: SignalResult | None, cover: Cover | None, _gain: dict[str, str],
) -> None:  # fmt: skip
    if chunks := _chunks(container, encoding, rate_hz, channels, tags, cover):
        riff_notes.append_chunks(path, chunks)
    if container == "bwf":
        riff_notes.fill_bext(path, riff_notes.bext_body(tags, found))


def _write_id3(
    path: Path, _container: Container, _encoding: Encoding, rate_hz: int, _channels: int, tags: FileTags,
    _found: SignalResult | None, cover: Cover | None, gain: dict[str, str],
) -> None:  # fmt: skip
    made = id3_frames(tags, rate_hz, cover, gain)
    if made:
        old = tags.id3_version == "2.3"
        # Players that know no more than version 2.3 may look for the block at the end too.
        made.save(str(path), v2_version=3 if old else 4, v1=2 if old else 0)


def _write_comments(
    path: Path, container: Container, _encoding: Encoding, rate_hz: int, _channels: int, tags: FileTags,
    _found: SignalResult | None, cover: Cover | None, gain: dict[str, str],
) -> None:  # fmt: skip
    import base64

    from mutagen.flac import FLAC, Picture
    from mutagen.oggopus import OggOpus
    from mutagen.oggvorbis import OggVorbis

    opened: Callable[[str], Any] = {"flac": FLAC, "opus": OggOpus}.get(container, OggVorbis)
    file = opened(str(path))
    if file.tags is None:
        file.add_tags()
    file.tags.clear()
    for name, text in _comment_texts(tags, rate_hz).items():
        file.tags[name] = [text]
    for name, text in gain.items():
        file.tags[name] = [text]
    file.tags["ENCODER"] = [SOFTWARE]
    if cover:
        picture = Picture()
        picture.type, picture.mime, picture.data = 3, cover.mime, cover.data
        picture.width, picture.height, picture.depth = cover.width, cover.height, 24
        if container == "flac":
            file.clear_pictures()
            file.add_picture(picture)
        else:
            file.tags[COMMENTS[COVER]] = [base64.b64encode(picture.write()).decode()]
    file.save()
    if container != "flac":
        settle_serial(path)


def _comment_texts(tags: FileTags, rate_hz: int) -> dict[str, str]:
    texts: dict[str, str] = {}
    for field, text in tags.values:
        number, total = of_total(text) if field in TOTALS else (0, 0)
        texts[COMMENTS[field]] = compact_isrc(text) if field == "isrc" else str(number) if number else text
        if total:
            texts[TOTALS[field]] = str(total)
    for count, marker in enumerate(tags.markers, 1):
        milliseconds = round(marker.frame * 1000 / rate_hz)
        seconds, thousandths = divmod(milliseconds, 1000)
        clock = f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}.{thousandths:03d}"
        texts[f"CHAPTER{count:03d}"] = clock
        texts[f"CHAPTER{count:03d}NAME"] = marker.name
    return texts


def settle_serial(path: Path, serial: int = 1) -> None:
    """Gives the stream of an Ogg file a fixed serial number: libraries draw lots for it, and files would differ.

    RFC 3533, section 6: the number stands in every page, and every page has a checksum.
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


def _write_mp4(
    path: Path, _container: Container, _encoding: Encoding, _rate_hz: int, _channels: int, tags: FileTags,
    _found: SignalResult | None, cover: Cover | None, gain: dict[str, str],
) -> None:  # fmt: skip
    from mutagen import mp4

    file = mp4.MP4(str(path))
    if file.tags is None:
        file.add_tags()
    items: Any = file.tags
    for field, text in tags.values:
        key = MP4[field].replace("©", "\xa9")
        if key.startswith(FREE_FORM):
            items[key] = [mp4.MP4FreeForm((compact_isrc(text) if field == "isrc" else text).encode())]
        elif key in ("trkn", "disk"):
            if of_total(text)[0]:
                items[key] = [of_total(text)]
        elif key == "tmpo":
            whole = whole_tempo(text)
            if whole is not None and 0 <= whole < 1 << 15:
                items[key] = [whole]
        else:
            items[key] = [text]
    for name, text in gain.items():
        items[f"{FREE_FORM}{name.lower()}"] = [mp4.MP4FreeForm(text.encode())]
    items["\xa9too"] = [SOFTWARE]
    if cover:
        kind = mp4.MP4Cover.FORMAT_PNG if cover.mime == "image/png" else mp4.MP4Cover.FORMAT_JPEG
        items[MP4[COVER]] = [mp4.MP4Cover(cover.data, kind)]
    file.save()


def _write_ape(
    path: Path, _container: Container, _encoding: Encoding, _rate_hz: int, _channels: int, tags: FileTags,
    _found: SignalResult | None, cover: Cover | None, gain: dict[str, str],
) -> None:  # fmt: skip
    from mutagen import apev2

    texts = {APE[field]: compact_isrc(text) if field == "isrc" else text for field, text in tags.values} | gain
    if not texts and not cover:
        return
    items: Any = apev2.APEv2()
    for name, text in texts.items():
        items[name] = text
    if cover:
        ending = "png" if cover.mime == "image/png" else "jpg"
        # A picture's name, a zero, then the picture.
        items[APE[COVER]] = apev2.APEValue(b"cover." + ending.encode() + b"\0" + cover.data, apev2.BINARY)
    items.save(str(path))


_WRITERS: dict[str, Callable[..., None]] = {
    "riff": _write_chunks,
    "broadcast": _write_chunks,
    "aiff": _write_chunks,
    "caf": _write_chunks,
    "id3": _write_id3,
    "comments": _write_comments,
    "mp4": _write_mp4,
    "ape": _write_ape,
}
