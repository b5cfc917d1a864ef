"""What each channel of a file is for: read from where its container says it.

Sources, from memory of the texts: Microsoft, WAVEFORMATEXTENSIBLE (speaker masks); Apple, Core Audio Format 1.0 and its
channel layouts (in AIFF, too); RFC 9639, 8.6.2 and 9.1.3 (FLAC); Vorbis I, 4.3.9, and RFC 7845, 5.1.1 (Ogg); AIFF 1.3,
3.0. Channels without a label from these are None: the user is asked.
"""

import struct
from pathlib import Path
from typing import BinaryIO

from ripe_press.core.formats import riff as _riff

Layout = tuple[str, ...]
"""Roles in the order of the file's channels: L R C LFE, Lb Rb (back), Cb (back centre), Ls Rs (side)."""

_BY_BIT = ("L", "R", "C", "LFE", "Lb", "Rb", "Lc", "Rc", "Cb", "Ls", "Rs")
"""The bits of a speaker mask, lowest first: the order of the channels."""

_FLAC: dict[int, Layout] = {
    3: ("L", "R", "C"),
    4: ("L", "R", "Lb", "Rb"),
    5: ("L", "R", "C", "Lb", "Rb"),
    6: ("L", "R", "C", "LFE", "Lb", "Rb"),
    7: ("L", "R", "C", "LFE", "Cb", "Ls", "Rs"),
    8: ("L", "R", "C", "LFE", "Lb", "Rb", "Ls", "Rs"),
}
_OGG: dict[int, Layout] = {
    3: ("L", "C", "R"),
    4: ("L", "R", "Lb", "Rb"),
    5: ("L", "C", "R", "Lb", "Rb"),
    6: ("L", "C", "R", "Lb", "Rb", "LFE"),
    7: ("L", "C", "R", "Ls", "Rs", "Cb", "LFE"),
    8: ("L", "C", "R", "Ls", "Rs", "Lb", "Rb", "LFE"),
}
_CUSTOMARY: dict[int, Layout] = {6: _FLAC[6], 8: _FLAC[8]}
"""What WAV without a mask holds all but always (common practice, no source); other numbers mean more than one thing."""

_CORE_AUDIO_LABELS = {
    1: "L", 2: "R", 3: "C", 4: "LFE", 5: "Ls", 6: "Rs", 7: "Lc", 8: "Rc", 9: "Cb", 10: "Ls", 11: "Rs",
    33: "Lb", 34: "Rb",
}  # fmt: skip
_CORE_AUDIO_TAGS: dict[int, str] = {
    108: "L R Lb Rb", 113: "L R C", 114: "C L R", 115: "L R C Cb", 116: "C L R Cb", 117: "L R C Ls Rs",
    118: "L R Ls Rs C", 119: "L C R Ls Rs", 120: "C L R Ls Rs", 121: "L R C LFE Ls Rs", 122: "L R Ls Rs C LFE",
    123: "L C R Ls Rs LFE", 124: "C L R Ls Rs LFE", 125: "L R C LFE Ls Rs Cb", 128: "L R C LFE Ls Rs Lb Rb",
    131: "L R Cb", 132: "L R Ls Rs", 133: "L R LFE", 134: "L R LFE Cb", 135: "L R LFE Ls Rs", 136: "L R C LFE",
    137: "L R C LFE Cb",
}  # fmt: skip
_BITMAP_TAG, _DESCRIPTIONS_TAG = 1, 0
_LIBRARY_NAMES = {
    "FL": "L", "FR": "R", "FC": "C", "LFE": "LFE", "BL": "Lb", "BR": "Rb", "FLC": "Lc", "FRC": "Rc", "BC": "Cb",
    "SL": "Ls", "SR": "Rs",
}  # fmt: skip


def of_mask(mask: int, channels: int) -> Layout | None:
    """The layout of a speaker mask; None when it names another number of channels, or places that are not known."""
    bits = [bit for bit in range(32) if mask >> bit & 1]
    if len(bits) != channels or bits[-1] >= len(_BY_BIT):
        return None
    return tuple(_BY_BIT[bit] for bit in bits)


def mask_of(layout: Layout) -> int:
    """The speaker mask of a layout."""
    return sum(1 << _BY_BIT.index(role) for role in layout)


def wave_order(layout: Layout) -> list[int]:
    """Where each channel of a file lies when they are put into the order of WAV."""
    return sorted(range(len(layout)), key=lambda at: _BY_BIT.index(layout[at]))


def of_names(names: list[str]) -> Layout | None:
    """The layout by the names that the decoding library has for channels."""
    known = all(name in _LIBRARY_NAMES for name in names) and len(set(names)) == len(names)
    return tuple(_LIBRARY_NAMES[name] for name in names) if known and names else None


def customary(channels: int) -> Layout | None:
    """The order that is most often meant by a number of channels, for who says that they are to be folded down."""
    return _FLAC.get(channels)


def read_layout(path: Path, channels: int) -> Layout | None:
    """What the channels of a file with more than two are for, as far as the file says.

    For WAV, RF64, AIFF, CAF, FLAC and Ogg; for others the decoder knows (`of_names`).
    """
    if channels <= 2:
        return None
    size = path.stat().st_size
    with path.open("rb") as file:
        head = file.read(16)
        found: Layout | None = None
        try:
            if head[:4] in (b"RIFF", b"RF64"):
                found = _of_wave(file, size, channels)
            elif head[:4] == b"riff":
                found = _of_w64(file, size, channels)
            elif head[:4] == b"FORM":
                found = _of_aiff(file, size, channels)
            elif head[:4] == b"caff":
                found = _of_caf(file, size)
            elif head[:4] == b"fLaC":
                found = _of_flac(file, channels)
            elif head[:4] == b"OggS":
                found = _of_ogg(file, channels)
        except struct.error:
            # A damaged chunk says nothing; whether the file can be read at all is another's question.
            found = None
    return found if found and len(found) == channels and len(set(found)) == channels else None


def _of_wave(file: BinaryIO, size: int, channels: int) -> Layout | None:
    for chunk in _riff.walk(file, size):
        if chunk.name == b"fmt ":
            file.seek(chunk.offset)
            return _of_format(file.read(min(chunk.size, 40)), channels)
    return None


def _of_format(body: bytes, channels: int) -> Layout | None:
    if len(body) >= 24 and struct.unpack("<H", body[:2])[0] == 0xFFFE:
        return of_mask(struct.unpack("<I", body[20:24])[0], channels)
    return _CUSTOMARY.get(channels)


def _of_w64(file: BinaryIO, size: int, channels: int) -> Layout | None:
    """Chunks with names of 16 bytes and sizes of 8 that count their own head, each at a multiple of 8."""
    at = 40
    while at + 24 <= size:
        file.seek(at)
        name, length = struct.unpack("<16sQ", file.read(24))
        if name[:4] == b"fmt ":
            return _of_format(file.read(40), channels)
        at += max(24, length + -length % 8)
    return None


def _of_aiff(file: BinaryIO, size: int, channels: int) -> Layout | None:
    for chunk in _riff.walk(file, size, big_endian=True):
        if chunk.name == b"CHAN":
            file.seek(chunk.offset)
            return _of_core_audio(file.read(min(chunk.size, 4096)))
    # The standard itself knows three channels for certain; four and six have two meanings.
    return ("L", "R", "C") if channels == 3 else None


def _of_caf(file: BinaryIO, size: int) -> Layout | None:
    at = 8
    while at + 12 <= size:
        file.seek(at)
        name, length = struct.unpack(">4sq", file.read(12))
        if name == b"chan":
            return _of_core_audio(file.read(min(max(length, 0), 4096)))
        if name == b"data" and length < 0:
            return None
        at += 12 + length
    return None


def _of_core_audio(body: bytes) -> Layout | None:
    tag, bitmap, count = struct.unpack(">III", body[:12])
    if tag >> 16 == _BITMAP_TAG:
        return of_mask(bitmap, bitmap.bit_count())
    if tag >> 16 == _DESCRIPTIONS_TAG:
        labels = [struct.unpack(">I", body[12 + 20 * at : 16 + 20 * at])[0] for at in range(min(count, 64))]
        known = all(label in _CORE_AUDIO_LABELS for label in labels)
        return tuple(_CORE_AUDIO_LABELS[label] for label in labels) if known else None
    words = _CORE_AUDIO_TAGS.get(tag >> 16)
    return tuple(words.split()) if words else None


_COMMENT_BLOCK = 4
_MASK_FIELD = b"WAVEFORMATEXTENSIBLE_CHANNEL_MASK="


def _of_flac(file: BinaryIO, channels: int) -> Layout | None:
    file.seek(4)
    while len(head := file.read(4)) == 4:
        length = int.from_bytes(head[1:], "big")
        if head[0] & 0x7F == _COMMENT_BLOCK:
            body = file.read(length)
            at = body.upper().find(_MASK_FIELD)
            if at >= 0:
                text = body[at + len(_MASK_FIELD) :][:10].split(b"\0")[0].decode("ascii", "replace")
                digits = text[:2] + "".join(one for one in text[2:] if one in "0123456789abcdefABCDEF")
                try:
                    return of_mask(int(digits, 16), channels)
                except ValueError:
                    return None
        else:
            file.seek(length, 1)
        if head[0] & 0x80:
            break
    return _FLAC.get(channels)


def _of_ogg(file: BinaryIO, channels: int) -> Layout | None:
    file.seek(0)
    first = file.read(300)
    at = first.find(b"OpusHead")
    if at >= 0 and first[at + 18] != 1:
        # Family 1 is the order of Vorbis; family 255 has no channel labels.
        return None
    return _OGG.get(channels)
