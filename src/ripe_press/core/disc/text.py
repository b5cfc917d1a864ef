"""CD-Text packs: reading them, whether they are whole, and writing them.

Source: MMC-3 Annex J (from memory of the text; packs checked by a general-purpose reader in tests/published).
"""

from binascii import crc_hqx
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from ripe_press.core.disc.cue_writer import in_ascii
from ripe_press.core.errors import BadInput

PACK_BYTES = 18
_KINDS = {0x80: "TITLE", 0x81: "PERFORMER", 0x82: "SONGWRITER", 0x83: "COMPOSER", 0x84: "ARRANGER", 0x85: "MESSAGE"}
_CODES, _SIZES = 0x8E, 0x8F
_CHARSETS = {0x00: "latin-1", 0x01: "ascii", 0x80: "shift_jis"}
_DOUBLE = 0x80
_PAYLOAD = 12
_ENGLISH = 0x09
MOST_PACKS = 253
"""Of a block of 256 three are left for the sizes."""
MOST_CHARACTERS = 160


def pack_crc(first_16: bytes) -> int:
    """The checksum of a pack: x^16 + x^12 + x^5 + 1, from 0, inverted."""
    return crc_hqx(first_16, 0) ^ 0xFFFF


@dataclass(frozen=True, slots=True)
class DiscText:
    """The first block of texts: by kind, that of the disc (0) and of every track; and the codes of 8E packs."""

    texts: dict[str, dict[int, str]]
    codes: dict[int, str]
    """The barcode (0) and the ISRC of every track."""


def read_text(data: bytes) -> tuple[DiscText, tuple[str, ...]]:
    """The packs of a CD-Text file, and its faults as sentences."""
    faults: list[str] = []
    if len(data) % PACK_BYTES == 1:
        faults.append("One byte after the last pack. Remove it.")
        data = data[:-1]
    elif len(data) % PACK_BYTES == 4:
        faults.append("Starts with the 4 header bytes of a drive. Remove them.")
        data = data[4:]
    packs = [data[at : at + PACK_BYTES] for at in range(0, len(data) - PACK_BYTES + 1, PACK_BYTES)]
    if len(data) % PACK_BYTES or not packs:
        faults.append(f"Its {len(data):,} bytes are not complete packs of {PACK_BYTES} bytes.")
    faults += _broken(packs)
    first = [pack for pack in packs if (pack[3] >> 4) & 7 == 0]
    faults += _counts(first)
    charset = next((pack[4] for pack in first if pack[0] == _SIZES and pack[1] == 0), 0)
    if charset not in _CHARSETS:
        faults.append(f"Unsupported character set 0x{charset:02X}.")
    texts = {name: dict(_texts(first, kind, charset)) for kind, name in _KINDS.items()}
    found = DiscText({name: one for name, one in texts.items() if one}, dict(_texts(first, _CODES, 0x01)))
    return found, tuple(faults)


def _broken(packs: list[bytes]) -> Iterator[str]:
    for at, pack in enumerate(packs):
        if pack_crc(pack[:16]) != int.from_bytes(pack[16:], "big"):
            yield f"Pack {at} is damaged: wrong checksum."
    expected = 0
    for at, pack in enumerate(packs):
        block = (pack[3] >> 4) & 7
        before = (packs[at - 1][3] >> 4) & 7 if at else block
        expected = 0 if block != before or not at else expected + 1
        if pack[2] != expected:
            yield f"Pack {at} counts {pack[2]}, and expected {expected}: a pack is missing or swapped."
            return


def _counts(packs: list[bytes]) -> Iterator[str]:
    sizes = b"".join(pack[4:16] for pack in packs if pack[0] == _SIZES)
    if len(sizes) != 36:
        yield "The three size packs are missing."
        return
    for kind in range(0x80, 0x90):
        there = sum(pack[0] == kind for pack in packs)
        if sizes[4 + kind - 0x80] != there:
            yield f"Size packs declare {sizes[4 + kind - 0x80]} packs of type {kind:02X}, and has {there}."
    if packs and sizes[20] != packs[-1][2]:
        yield f"Size packs declare the last pack as number {sizes[20]}, and that is {packs[-1][2]}."


def _texts(packs: list[bytes], kind: int, charset: int) -> Iterator[tuple[int, str]]:
    """Texts of one kind by track: each continues over packs and ends with a zero."""
    mine = [pack for pack in packs if pack[0] == kind]
    if not mine:
        return
    wide = 2 if mine[0][3] & _DOUBLE else 1
    run = b"".join(pack[4:16] for pack in mine)
    track = mine[0][1]
    before = ""
    while run.strip(b"\0"):
        end = next((at for at in range(0, len(run), wide) if run[at : at + wide] == bytes(wide)), len(run))
        text = run[:end].decode(_CHARSETS.get(charset, "latin-1"), errors="replace")
        # One tab stands for the text of the track before.
        before = before if text == "\t" else text
        yield track, before
        track += 1
        run = run[end + wide :]


def write_text(texts: Mapping[str, Sequence[str]], codes: Sequence[str]) -> bytes:
    """The packs of one block in Latin-1: by type the text of the disc, then of every track; codes the same way.

    A type is given for all tracks or none; a track without text has a space, because readers shift texts otherwise.
    `not_in_latin_1` reports characters that cannot be stored. Raises: BadInput ``disc.text-too-long``.
    """
    rows: list[tuple[int, int, int, bytes]] = []
    for kind, name in _KINDS.items():
        if any(texts.get(name, ())):
            rows += _rows(kind, [in_latin_1(one or " ")[:MOST_CHARACTERS].encode("latin-1") for one in texts[name]])
    if any(codes):
        rows += _rows(_CODES, [one.encode("ascii") for one in codes])
    if len(rows) > MOST_PACKS:
        message = (
            f"CD-Text needs {len(rows)} packs; maximum {MOST_PACKS}. "
            "Shorten texts or remove songwriters, arrangers or messages."
        )
        raise BadInput("disc.text-too-long", message, packs=len(rows))
    if not rows:
        return b""
    tracks = max(len(one) for one in (*texts.values(), codes) if one) - 1
    counts = bytes(sum(row[0] == 0x80 + kind for row in rows) for kind in range(15)) + b"\3"
    last, languages = bytes([len(rows) + 2]).ljust(8, b"\0"), bytes([_ENGLISH]).ljust(8, b"\0")
    sizes = bytes([0, 1, tracks, 0]) + counts + last + languages
    rows += [(_SIZES, at, 0, sizes[_PAYLOAD * at : _PAYLOAD * at + _PAYLOAD]) for at in range(3)]
    return b"".join(_pack(number, *row) for number, row in enumerate(rows))


def not_in_latin_1(text: str) -> str:
    """The letters of a text that CD-Text cannot say."""
    return "".join(dict.fromkeys(one for one in text if not one.encode("latin-1", "ignore")))


def in_latin_1(text: str) -> str:
    """A text as CD-Text can say it: letters that it has not are written as the cue sheet writes them."""
    return "".join(in_ascii(one) if not_in_latin_1(one) else one for one in text)


def _rows(kind: int, texts: Sequence[bytes]) -> Iterator[tuple[int, int, int, bytes]]:
    """Kind, track, position of the first byte in its text, and the bytes; texts continue over packs."""
    owners = [(track, min(at, 15)) for track, text in enumerate(texts) for at in range(len(text) + 1)]
    run = b"\0".join(texts) + b"\0"
    for at in range(0, len(run), _PAYLOAD):
        yield kind, *owners[at], run[at : at + _PAYLOAD]


def _pack(number: int, kind: int, track: int, position: int, payload: bytes) -> bytes:
    head = bytes([kind, track, number, position]) + payload.ljust(_PAYLOAD, b"\0")
    return head + pack_crc(head).to_bytes(2, "big")
