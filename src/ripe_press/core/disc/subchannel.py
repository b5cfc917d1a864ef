"""The Q subchannel: where on a disc each frame is, and the codes that are spread between.

Source: ECMA-130 section 22 and IEC 60908 clause 17 (from memory of the texts; values checked in tests/published).
Frames count from the start of the image; the two seconds before it are -150 to -1.
"""

from binascii import crc_hqx
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ripe_press.core.disc.frames import PAUSE_FRAMES
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND

Q_BYTES = 12
LEAD_OUT_TRACK = 0xAA
_CODE_EVERY = 98
_CATALOG_AT, _ISRC_AT = 10, 60
"""Of every 98 frames one has the barcode and one the ISRC: nine of any ten have their place, as it is asked."""


@dataclass(frozen=True, slots=True)
class OnDisc:
    """A track as the subchannel has it: the frames of its indexes from 0 or 1 on, its code, and its control bits."""

    number: int
    indexes: tuple[tuple[int, int], ...]
    isrc: str = ""
    control: int = 0

    @property
    def first(self) -> int:
        """Where its pause begins, or else itself."""
        return self.indexes[0][1]

    @property
    def start(self) -> int:
        """Where it begins to count."""
        return dict(self.indexes)[1]


@dataclass(frozen=True, slots=True)
class QPosition:
    """What a frame of Q says of where it is."""

    track: int
    index: int
    relative: int
    absolute: int
    control: int


def control_of(flags: Sequence[str]) -> int:
    """The control bits of a track's flags: 1 pre-emphasis, 2 copying permitted, 8 four channels."""
    return sum({"PRE": 1, "DCP": 2, "4CH": 8}[one] for one in flags)


def q_frames(tracks: Sequence[OnDisc], lead_out: int, catalog: str = "") -> Iterator[bytes]:
    """The Q of every frame from -150 up to, without, the lead-out."""
    at = 0
    for frame in range(-PAUSE_FRAMES, lead_out):
        while at + 1 < len(tracks) and frame >= tracks[at + 1].first:
            at += 1
        track = tracks[at]
        slot = frame % _CODE_EVERY
        if catalog and slot == _CATALOG_AT:
            yield catalog_q(catalog, frame, track.control)
        elif track.isrc and slot == _ISRC_AT and frame >= track.start:
            yield isrc_q(track.isrc, frame, track.control)
        else:
            yield place_q(_place(track, frame))


def _place(track: OnDisc, frame: int) -> QPosition:
    index = max((number for number, begins in track.indexes if begins <= frame), default=0)
    relative = frame - track.start if index else track.start - frame
    return QPosition(track.number, index, relative, frame, track.control)


def place_q(place: QPosition) -> bytes:
    """Mode 1: track, index, the time in the track (counted down in a pause) and on the disc."""
    number = place.track if place.track == LEAD_OUT_TRACK else _bcd(place.track)
    head = [place.control << 4 | 1, number, _bcd(place.index)]
    return _with_crc(bytes([*head, *_msf(place.relative), 0, *_msf(place.absolute + PAUSE_FRAMES)]))


def catalog_q(catalog: str, frame: int, control: int = 0) -> bytes:
    """Mode 2: thirteen digits, and the frame of the second."""
    digits = bytes(int(catalog[at : at + 2].ljust(2, "0"), 16) for at in range(0, 13, 2))
    return _with_crc(bytes([control << 4 | 2]) + digits + b"\0" + bytes([_frame_of_second(frame)]))


def isrc_q(isrc: str, frame: int, control: int = 0) -> bytes:
    """Mode 3: five letters of six bits and seven digits, and the frame of the second."""
    bits = 0
    for one in isrc[:5]:
        bits = bits << 6 | ord(one) - 0x30
    packed = (bits << 2).to_bytes(4, "big") + bytes(int(isrc[at : at + 2].ljust(2, "0"), 16) for at in range(5, 12, 2))
    return _with_crc(bytes([control << 4 | 3]) + packed + bytes([_frame_of_second(frame)]))


def read_q(data: bytes) -> QPosition | str | None:
    """What a frame says: its place, or a code; None where its checksum does not hold."""
    if len(data) != Q_BYTES or crc_hqx(data[:10], 0) ^ 0xFFFF != int.from_bytes(data[10:], "big"):
        return None
    mode, body = data[0] & 15, data[1:10]
    if mode == 1:
        number = body[0] if body[0] == LEAD_OUT_TRACK else _plain(body[0])
        return QPosition(number, _plain(body[1]), _frames(body[2:5]), _frames(body[6:9]) - PAUSE_FRAMES, data[0] >> 4)
    digits = body.hex()
    if mode == 2:
        return digits[:13]
    bits = int.from_bytes(body[:4], "big") >> 2
    letters = "".join(chr((bits >> shift & 63) + 0x30) for shift in (24, 18, 12, 6, 0))
    return letters + digits[8:15]


def _with_crc(data: bytes) -> bytes:
    return data + (crc_hqx(data, 0) ^ 0xFFFF).to_bytes(2, "big")


def _bcd(value: int) -> int:
    return value // 10 << 4 | value % 10


def _plain(bcd: int) -> int:
    return (bcd >> 4) * 10 + (bcd & 15)


def _msf(frames: int) -> tuple[int, int, int]:
    seconds, rest = divmod(frames, CD_FRAMES_PER_SECOND)
    return _bcd(seconds // 60), _bcd(seconds % 60), _bcd(rest)


def _frames(msf: bytes) -> int:
    minutes, seconds, frames = (_plain(one) for one in msf)
    return (minutes * 60 + seconds) * CD_FRAMES_PER_SECOND + frames


def _frame_of_second(frame: int) -> int:
    return _bcd((frame + PAUSE_FRAMES) % CD_FRAMES_PER_SECOND)
