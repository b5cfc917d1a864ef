"""Where each container keeps each field: the one table that writing, reading, the page and the docs go by.

Sources, from memory of the texts: id3.org, ID3v2.3 and ID3v2.4 frames; Xiph, Vorbis comment field names (fields
beyond those, and all of MP4 and APEv2, as several programs write them: common practice, no source); Microsoft,
Multimedia Programming Interface 1.0 (INFO); Apple, AIFF 1.3 and Core Audio Format 1.0; EBU Tech 3285 (bext).
"""

import math
import re
import unicodedata
from dataclasses import replace
from functools import cache, lru_cache

from ripe_press.core.formats.capabilities import CAPABILITIES, MAX_32, Capability, Container, TagForm
from ripe_press.core.tags.codes import compact_isrc
from ripe_press.core.tags.sheet import COVER, FIELDS, FileTags, Id3Version, of_total
from ripe_press.core.units import print_count
from ripe_press.core.words import quoted

ID3: dict[str, str] = {
    "title": "TIT2", "version": "TIT3", "artist": "TPE1", "album_artist": "TPE2", "album": "TALB", "track": "TRCK",
    "disc": "TPOS", "date": "TDRC", "genre": "TCON", "tempo": "TBPM", "key": "TKEY", "composer": "TCOM",
    "publisher": "TPUB", "copyright": "TCOP", "isrc": "TSRC", "barcode": "TXXX:BARCODE", "language": "TLAN",
    "comment": "COMM", "lyrics": "USLT", "contact_name": "TXXX:CONTACT_NAME", "contact_phone": "TXXX:CONTACT_PHONE",
    "contact_email": "TXXX:CONTACT_EMAIL", "web": "WOAR", COVER: "APIC",
}  # fmt: skip

COMMENTS: dict[str, str] = {
    "title": "TITLE", "version": "VERSION", "artist": "ARTIST", "album_artist": "ALBUMARTIST", "album": "ALBUM",
    "track": "TRACKNUMBER", "disc": "DISCNUMBER", "date": "DATE", "genre": "GENRE", "tempo": "BPM", "key": "KEY",
    "composer": "COMPOSER", "publisher": "PUBLISHER", "copyright": "COPYRIGHT", "isrc": "ISRC", "barcode": "BARCODE",
    "language": "LANGUAGE", "comment": "COMMENT", "lyrics": "LYRICS", "contact_name": "CONTACT_NAME",
    "contact_phone": "CONTACT_PHONE", "contact_email": "CONTACT_EMAIL", "web": "WEBSITE",
    COVER: "METADATA_BLOCK_PICTURE",
}  # fmt: skip
TOTALS = {"track": "TRACKTOTAL", "disc": "DISCTOTAL"}

FREE_FORM = "----:com.apple.iTunes:"
"""The name space that programs of every kind use for MP4 items without a code of their own."""

MP4: dict[str, str] = {
    "title": "©nam", "version": f"{FREE_FORM}SUBTITLE", "artist": "©ART", "album_artist": "aART", "album": "©alb",
    "track": "trkn", "disc": "disk", "date": "©day", "genre": "©gen", "tempo": "tmpo",
    "key": f"{FREE_FORM}initialkey", "composer": "©wrt", "publisher": f"{FREE_FORM}PUBLISHER", "copyright": "cprt",
    "isrc": f"{FREE_FORM}ISRC", "barcode": f"{FREE_FORM}BARCODE", "language": f"{FREE_FORM}LANGUAGE",
    "comment": "©cmt", "lyrics": "©lyr", "contact_name": f"{FREE_FORM}CONTACT_NAME",
    "contact_phone": f"{FREE_FORM}CONTACT_PHONE", "contact_email": f"{FREE_FORM}CONTACT_EMAIL",
    "web": f"{FREE_FORM}WEBSITE", COVER: "covr",
}  # fmt: skip

APE: dict[str, str] = {
    "title": "Title", "version": "Subtitle", "artist": "Artist", "album_artist": "Album Artist", "album": "Album",
    "track": "Track", "disc": "Disc", "date": "Year", "genre": "Genre", "tempo": "BPM", "key": "InitialKey",
    "composer": "Composer", "publisher": "Publisher", "copyright": "Copyright", "isrc": "ISRC", "barcode": "EAN/UPC",
    "language": "Language", "comment": "Comment", "lyrics": "Lyrics", "contact_name": "Contact Name",
    "contact_phone": "Contact Phone", "contact_email": "Contact Email", "web": "Related",
    COVER: "Cover Art (Front)",
}  # fmt: skip

INFO: dict[str, str] = {
    "title": "INAM", "artist": "IART", "album": "IPRD", "track": "ITRK", "date": "ICRD", "genre": "IGNR",
    "copyright": "ICOP", "language": "ILNG", "comment": "ICMT",
}  # fmt: skip
AIFF_TEXTS: dict[str, str] = {"title": "NAME", "artist": "AUTH", "copyright": "(c) ", "comment": "ANNO"}
BEXT: dict[str, str] = {
    "title": "bext Description", "artist": "bext Originator", "isrc": "bext OriginatorReference",
    "date": "bext OriginationDate",
}  # fmt: skip
CAF: dict[str, str] = {
    "title": "title", "version": "version", "artist": "artist", "album_artist": "album artist", "album": "album",
    "track": "track number", "disc": "disc number", "date": "recorded date", "genre": "genre", "tempo": "tempo",
    "key": "key signature", "composer": "composer", "publisher": "publisher", "copyright": "copyright",
    "isrc": "ISRC", "barcode": "barcode", "language": "language", "comment": "comments", "lyrics": "lyrics",
    "contact_name": "contact name", "contact_phone": "contact phone", "contact_email": "contact e-mail",
    "web": "web address",
}  # fmt: skip

_FORMS: dict[TagForm, tuple[dict[str, str], ...]] = {
    "riff": (ID3, INFO),
    "broadcast": (ID3, INFO, BEXT),
    "text-chunks": (ID3, AIFF_TEXTS),
    "id3": (ID3,),
    "comments": (COMMENTS,),
    "mp4": (MP4,),
    "ape": (APE,),
    "strings": (CAF,),
}
_WHOLE_TEMPO: tuple[TagForm, ...] = ("riff", "broadcast", "text-chunks", "id3", "mp4")
EXACT: dict[str, str] = {"tempo": "TEMPO", "key": "KEY"}
"""Where a form keeps less than the text (whole beats, three letters), the full text is stored under this name: a TXXX
frame of ID3, a free-form item of MP4. It is read first, as long as the two agree.
"""
_TEMPO_LIMIT = 1 << 15
"""MP4 has sixteen bits for it."""
_YEAR_AND_MONTH = 7


@cache
def mapping(container: Container) -> dict[str, tuple[str, ...]]:
    """For every field, and the cover, the names it goes by in this container; no names where it has no place."""
    tables = _FORMS[CAPABILITIES[container].tag_form]
    found: dict[str, tuple[str, ...]] = {}
    for field in (*FIELDS, COVER):
        names = [table[field].removeprefix(FREE_FORM) for table in tables if field in table]
        found[field] = tuple(names)
    return found


def has_id3(container: Container) -> bool:
    """Whether tags of a container are ID3, so that its version matters."""
    return ID3 in _FORMS[CAPABILITIES[container].tag_form]


@lru_cache(maxsize=512)
def carried(container: Container, tags: FileTags) -> FileTags:
    """The tags that a container can store, in its form."""
    can = CAPABILITIES[container]
    return replace(
        tags,
        values=tuple(held_values(container, tags).items()),
        cover=tags.cover if can.pictures else "",
        markers=tuple(one for one in tags.markers if can.markers and one.frame <= _last_place(can)),
        loop=tags.loop if tags.loop and can.loop and tags.loop[1] <= _last_place(can) else None,
    )


def _last_place(can: Capability) -> float:
    """The last possible frame of a marker: chunks of WAV, RF64 too, count frames in 32 bits."""
    return MAX_32 if can.markers in ("cue", "chunk") else math.inf


def held_values(container: Container, tags: FileTags) -> dict[str, str]:
    """The texts as stored in the container and read back from it."""
    names = mapping(container)
    kept = {field: _kept(container, field, text, tags.id3_version) for field, text in tags.values if names[field]}
    return {field: text for field, text in kept.items() if text is not None}


def _kept(container: Container, field: str, text: str, id3_version: Id3Version) -> str | None:
    """A text in the form in which a container keeps it; None where that form cannot express it."""
    form, id3 = CAPABILITIES[container].tag_form, has_id3(container)
    match field:
        case "isrc":
            return compact_isrc(text)
        case "tempo":
            return None if whole_tempo(text) is None else text
        case "date" if id3 and id3_version == "2.3" and len(text) == _YEAR_AND_MONTH:
            return text[:4]
        case "track" | "disc" if form in ("comments", "mp4"):
            number, total = of_total(text)
            if not number:
                return text if form == "comments" else None
            return f"{number}/{total}" if total else str(number)
        case _:
            return text


LOOP_START, LOOP_LENGTH = "LOOPSTART", "LOOPLENGTH"
"""Loop points as text, in samples, where a container has no chunk for them (common practice, no source)."""


def loop_texts(loop: tuple[int, int] | None) -> dict[str, str]:
    """A loop, first and behind the last sample, as texts by their names; nothing for none."""
    return {LOOP_START: str(loop[0]), LOOP_LENGTH: str(loop[1] - loop[0])} if loop else {}


MARKERS = "markers"
LOOP = "loop"
"""Names in `not_held` for content without a field in the sheet."""


@lru_cache(maxsize=512)
def not_held(container: Container, tags: FileTags) -> tuple[tuple[str, str], ...]:
    """(Field, sentence) for every part of the tags that this container drops, or that some readers see otherwise."""
    can, names = CAPABILITIES[container], mapping(container)
    given = dict(tags.values)
    lost = [
        (field, f"{can.title} cannot store {FIELDS[field].named}; not written.") for field in given if not names[field]
    ]
    if tags.cover and not names[COVER]:
        lost.append((COVER, f"{can.title} cannot store a cover picture; not written."))
    kept = carried(container, tags)
    if count := len(tags.markers) - len(kept.markers):
        lost.append((MARKERS, f"{can.title} cannot store {print_count(count, 'marker')}; not written."))
    if tags.loop and not kept.loop:
        lost.append((LOOP, f"{can.title} cannot store loop points; not written."))
    tempo = given.get("tempo", "")
    whole = whole_tempo(tempo)
    if tempo and whole is None:
        lost.append(("tempo", f"Tempo {quoted(tempo)} is not a number; not written."))
    elif tempo and can.tag_form in _WHOLE_TEMPO and tempo != str(whole):
        lost.append(
            ("tempo", f"{tempo} bpm is stored as text; programs that read whole numbers only show {whole} bpm.")
        )
    key = given.get("key", "")
    if key and has_id3(container) and short_key(key) != key:
        seen = f"show {short_key(key)}" if short_key(key) else "show no key"
        lost.append(("key", f"{quoted(key)} is stored as text; programs that read ID3 keys only {seen}."))
    lost += _seen_in_ascii(container, given)
    if can.tag_form == "mp4":
        lost += [
            (field, f"{can.title} stores {field} as a number; {quoted(given[field])} is not written.")
            for field in TOTALS
            if field in given and not of_total(given[field])[0]
        ]
    return tuple(lost)


def whole_tempo(text: str) -> int | None:
    """A tempo as a whole number for most containers; None if it is not a number or out of range."""
    try:
        whole = round(float(text.replace(",", ".")))
    except (ValueError, OverflowError):
        return None
    return whole if 0 < whole < _TEMPO_LIMIT else None


_KEY = re.compile(r"^([A-G]) ?(#|♯|b|♭| ?sharp| ?flat)? ?-?(m|min|minor|moll|M|maj|major|dur)?\.?$")


def short_key(text: str) -> str | None:
    """A key in ID3 form, ``F#m`` for ``F♯ minor``; None for an invalid key (id3.org, TKEY: three letters)."""
    found = _KEY.match(text.strip())
    if not found:
        return None
    sign = {"#": "#", "♯": "#", "sharp": "#", "": ""}.get((found[2] or "").strip(), "b")
    return found[1] + sign + ("m" if (found[3] or "")[:2] in ("m", "mi", "mo") else "")


def ascii_text(text: str) -> str:
    """A text in ASCII: accents are removed, other characters become question marks."""
    plain = unicodedata.normalize("NFKD", text.replace("–", "-").replace("−", "-").replace("’", "'"))
    return "".join(one for one in plain if not unicodedata.combining(one)).encode("ascii", "replace").decode()


def old_text(text: str) -> bytes:
    """A text for chunks without Unicode: ASCII if only accents are lost, else UTF-8.

    Programs use different code pages, and a row of question marks would be useless.
    """
    plain = ascii_text(text)
    return plain.encode() if plain.count("?") == text.count("?") else text.encode()


def _seen_in_ascii(container: Container, given: dict[str, str]) -> list[tuple[str, str]]:
    """The old text chunks of WAV and AIFF know no Unicode: what programs see that read nothing else."""
    form = CAPABILITIES[container].tag_form
    table, named = (AIFF_TEXTS, "the text chunks of AIFF") if form == "text-chunks" else (INFO, "INFO")
    if form not in ("riff", "broadcast", "text-chunks"):
        return []
    found = []
    for field, text in given.items():
        if field in table and not text.isascii():
            raw = old_text(text)
            seen = f"show {quoted(raw.decode())}" if raw.isascii() else "may show other letters"
            found.append((field, f"Programs that read {named} only {seen}; the full text is in the ID3 chunk."))
    return found
