"""The programme of a disc: its tracks as they will lie, with codes, texts and flags, out of a running order."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from ripe_press.core.disc.cue import CueSheet, CueTrack
from ripe_press.core.disc.text import write_text
from ripe_press.core.requests.order_timeline import PlacedEntry
from ripe_press.core.requests.running_order import DiscText, OrderEntry, RunningOrder
from ripe_press.core.tags.codes import barcode_problem, compact_isrc, isrc_problem
from ripe_press.core.tags.sheet import Values
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND
from ripe_press.core.units import frames_after_conversion

_FROM_SHEET = {"TITLE": "title", "PERFORMER": "artist", "COMPOSER": "composer"}
_OWN = ("SONGWRITER", "ARRANGER", "MESSAGE")


@dataclass(frozen=True, slots=True)
class Track:
    """A track in its place, in frames from the start of the image; ``indexes`` are those after the first."""

    number: int
    pause_frame: int
    start_frame: int
    end_frame: int
    indexes: tuple[int, ...]
    texts: dict[str, str]
    isrc: str
    flags: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Programme:
    """The contents of a disc apart from its samples."""

    tracks: tuple[Track, ...]
    texts: dict[str, str]
    barcode: str
    lead_out_frame: int

    def cue(self, image: str, text_file: str) -> CueSheet:
        """The sheet for an image."""
        tracks = [CueTrack(one.number, _indexes(one), dict(one.texts), one.isrc, one.flags) for one in self.tracks]
        return CueSheet(image, "BINARY", self.barcode, text_file, dict(self.texts), tracks)

    def text(self) -> bytes:
        """The CD-Text packs; nothing where there is nothing to say. Raises: as `write_text`."""
        kinds = ("TITLE", "PERFORMER", *_OWN[:1], "COMPOSER", *_OWN[1:])
        texts = {kind: [self.texts.get(kind, ""), *(one.texts.get(kind, "") for one in self.tracks)] for kind in kinds}
        return write_text(texts, [self.barcode, *(one.isrc for one in self.tracks)])


def programme_of(
    order: RunningOrder, laid: Sequence[PlacedEntry], sheets: Sequence[Values], rates_hz: Sequence[int]
) -> Programme:
    """The tracks of a running order; ``sheets`` are the tags of its entries, ``rates_hz`` the rates of the mixes.

    Limits of a disc, such as 99 tracks or invalid codes, are reported as findings: an order may be for files only.
    """
    hidden = int(order.hidden_first and len(order.entries) > 1)
    tracks = []
    for at in range(hidden, len(order.entries)):
        entry, place, sheet = order.entries[at], laid[at], dict(sheets[at])
        first = hidden and at == hidden
        tracks.append(
            Track(
                at + 1 - hidden, 0 if first else place.pause_frame, place.start_frame, place.end_frame,
                _further(entry, place, rates_hz[at]), _texts(sheet, entry.disc_text), isrc_of(sheet), _flags(entry),
            )
        )  # fmt: skip
    shared = dict(order.tags)
    artists = {dict(one).get("artist", "") for one in sheets}
    alike = artists.pop() if len(artists) == 1 else ""
    album = {"title": order.title, "artist": shared.get("album_artist") or shared.get("artist") or alike}
    return Programme(tuple(tracks), _texts(album, order.disc_text), barcode_of(shared), laid[-1].end_frame)


def isrc_of(sheet: dict[str, str]) -> str:
    """The twelve characters of an ISRC; empty for none or an invalid one."""
    code = sheet.get("isrc", "")
    return "" if not code or isrc_problem(code) else compact_isrc(code)


def barcode_of(sheet: dict[str, str]) -> str:
    """Thirteen digits, as a disc has them: a code of twelve gets a zero before it."""
    code = re.sub(r"[\s-]", "", sheet.get("barcode", ""))
    if not code or barcode_problem(code) or len(code) > 13:
        return code[1:] if len(code) == 14 and code[0] == "0" and not barcode_problem(code) else ""
    return code.zfill(13)


def _indexes(track: Track) -> dict[int, int]:
    pause = {0: track.pause_frame} if track.pause_frame < track.start_frame else {}
    return {**pause, 1: track.start_frame, **dict(enumerate(track.indexes, 2))}


def _further(entry: OrderEntry, place: PlacedEntry, rate_hz: int) -> tuple[int, ...]:
    found = {
        place.start_frame + frames_after_conversion(frame - entry.start_frame, rate_hz, CD_FRAMES_PER_SECOND)
        for frame in entry.indexes
        if frame > entry.start_frame
    }
    return tuple(sorted(one for one in found if place.start_frame < one < place.end_frame))


def _texts(sheet: dict[str, str], own: DiscText) -> dict[str, str]:
    found = {kind: sheet.get(field, "") for kind, field in _FROM_SHEET.items()}
    found |= {kind.upper(): text for kind, text in own}
    return {kind: " ".join(text.split()) for kind, text in found.items() if text.strip()}


def _flags(entry: OrderEntry) -> tuple[str, ...]:
    return (*(("DCP",) if entry.may_copy else ()), *(("PRE",) if entry.pre_emphasis else ()))
