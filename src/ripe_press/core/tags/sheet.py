"""The tag sheet: tags of a mix for all containers, as plain text under our own field names."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from ripe_press.core.errors import BadInput
from ripe_press.core.timeline import Marker
from ripe_press.core.words import quoted

Id3Version = Literal["2.3", "2.4"]
Values = tuple[tuple[str, str], ...]
"""Fields and their texts, in the order of the sheet; a field without text is not there."""


OF_ONE_RECORDING = ("title", "version", "track", "isrc", "lyrics", "tempo", "key")
"""Fields that are true of one mix alone: they never go to another with its ticket."""


@dataclass(frozen=True, slots=True)
class Field:
    """A line of the sheet; ``hint`` says how it is written."""

    name: str
    title: str
    hint: str = ""
    most: int = 300

    @property
    def named(self) -> str:
        """The title inside a sentence: ``album artist``, ``ISRC``."""
        return self.title if self.title.isupper() else self.title.lower()


FIELDS: dict[str, Field] = {
    one.name: one
    for one in (
        Field("title", "Title"),
        Field("version", "Version", "mix or edit: radio edit, v3"),
        Field("artist", "Artist"),
        Field("album_artist", "Album artist"),
        Field("album", "Album"),
        Field("track", "Track", "3 or 3/12", 9),
        Field("disc", "Disc", "1 or 1/2", 9),
        Field("date", "Date", "2026, 2026-11 or 2026-11-23", 10),
        Field("genre", "Genre"),
        Field("tempo", "Tempo", "bpm", 8),
        Field("key", "Key", "A, Bbm, F#m", 20),
        Field("composer", "Composer"),
        Field("publisher", "Publisher"),
        Field("copyright", "Copyright", "2026 Weir & Lantern"),
        Field("isrc", "ISRC", "QZ-WLT-26-00001", 15),
        Field("barcode", "Barcode", "8, 12, 13 or 14 digits", 14),
        Field("language", "Language", "three letters: eng, deu, zxx for none", 3),
        Field("comment", "Comment", most=2000),
        Field("lyrics", "Lyrics", most=20_000),
        Field("contact_name", "Contact name"),
        Field("contact_phone", "Contact phone", most=60),
        Field("contact_email", "Contact e-mail", most=200),
        Field("web", "Web address", "https://…", 500),
    )
}

COVER = "cover"
"""The picture counts as a field, though it is not text."""


@dataclass(frozen=True, slots=True)
class FileTags:
    """Everything that one file is to carry besides sound; a container may have no place for some of it.

    Frames and ``time_reference`` count at the file's own rate, and ``frames`` is the file's length. ``cover`` is the
    path of a picture. ``coding_history`` is that of a broadcast chunk. With ``gain_tags`` loudness is written for
    players; a broadcast chunk always has it.
    """

    values: Values = ()
    cover: str = ""
    id3_version: Id3Version = "2.4"
    markers: tuple[Marker, ...] = ()
    loop: tuple[int, int] | None = None
    gain_tags: bool = False
    time_reference: int | None = None
    coding_history: str = ""
    frames: int = 0

    def text(self, field: str) -> str:
        """The text of a field, empty where there is none."""
        return dict(self.values).get(field, "")

    @property
    def has_any(self) -> bool:
        """Whether there is anything to write."""
        return bool(self.values or self.cover or self.markers or self.loop or self.gain_tags or self.coding_history)


NO_TAGS = FileTags()


def in_order(values: Mapping[str, str] | Iterable[tuple[str, str]]) -> Values:
    """Texts trimmed and put in the order of the sheet, empty ones left out.

    Raises: BadInput ``tags.unknown-field`` or ``tags.too-long``.
    """
    given = dict(values)
    for name, text in given.items():
        if name not in FIELDS:
            message = f"{quoted(name)} is not a tag field. Available: {', '.join(FIELDS)}."
            raise BadInput("tags.unknown-field", message, field=name)
        if len(text) > FIELDS[name].most:
            message = f"{FIELDS[name].title} takes {FIELDS[name].most:,} characters max; this has {len(text):,}."
            raise BadInput("tags.too-long", message, field=name)
    cleaned = {name: cleaned_text(text, name in ("comment", "lyrics")) for name, text in given.items()}
    return tuple((name, cleaned[name]) for name in FIELDS if cleaned.get(name))


def cleaned_text(text: str, lines: bool) -> str:
    """Without control characters; line ends only where a field has lines."""
    kept = "".join(one for one in text.replace("\r\n", "\n") if one.isprintable() or one in "\n\t")
    return kept.strip() if lines else " ".join(kept.split())


def merged(sheet: Values, departures: Values) -> Values:
    """The sheet with the texts of a delivery in the place of its own; an empty text takes a field away."""
    return in_order({**dict(sheet), **dict(departures)})


def of_total(text: str) -> tuple[int, int]:
    """``3/12`` as numbers; 0 where there is none."""
    found = re.match(r"^\s*(\d{1,4})\s*(?:/\s*(\d{1,4}))?\s*$", text)
    return (int(found[1]), int(found[2] or 0)) if found else (0, 0)
