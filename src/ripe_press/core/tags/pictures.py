"""The picture that a file carries."""

import base64
import io
from pathlib import Path
from typing import Any

from ripe_press.core.formats import riff as _riff
from ripe_press.core.tags.bounds import sane_chunk, sane_tags
from ripe_press.core.tags.embedded import MOST_CHUNK_BYTES, first_of
from ripe_press.core.tags.forms import APE, COMMENTS
from ripe_press.core.tags.sheet import COVER


def read_cover(path: Path) -> bytes:
    """The first picture that a file carries; empty when it has none, or none that can be read."""
    try:
        return _cover(path)
    except Exception:  # a mix is not refused for its picture
        return b""


def _cover(path: Path) -> bytes:

    import mutagen
    from mutagen.flac import Picture

    if not sane_tags(path):
        return b""
    if (chunk := _id3_chunk(path)) and not sane_chunk(chunk):
        return b""
    if chunk:
        from mutagen.id3 import ID3 as Id3Tags  # noqa: N811 - the name of the library's class

        tags: Any = Id3Tags(fileobj=io.BytesIO(chunk))
    else:
        found: Any = mutagen.File(path)
        tags = found.tags if found is not None else None
        if pictures := getattr(found, "pictures", None):
            return bytes(pictures[0].data)
    for key, value in dict(tags or {}).items():
        if key.startswith("APIC"):
            return bytes(value.data)
        if key == "covr":
            return bytes(value[0])
        if key.lower() == COMMENTS[COVER].lower():
            return bytes(Picture(base64.b64decode(first_of(value))).data)
        if key == APE[COVER]:
            return bytes(value.value).split(b"\0", 1)[1]
    return b""


def _id3_chunk(path: Path) -> bytes:
    """The ID3 chunk of a WAV, RF64 or AIFF file; the library does not open RF64."""
    size = path.stat().st_size
    with path.open("rb") as file:
        head = file.read(4)
        if head in (b"RIFF", b"RF64", b"FORM"):
            for one in list(_riff.walk(file, size, big_endian=head == b"FORM")):
                if one.name.lower() == b"id3 " and one.size <= MOST_CHUNK_BYTES:
                    file.seek(one.offset)
                    return file.read(one.size)
    return b""
