"""What a mix has beside its sound, and what a delivery wants of that."""

from dataclasses import dataclass

from ripe_press.core.tags.sheet import Id3Version, Values
from ripe_press.core.timeline import Marker


@dataclass(frozen=True, slots=True)
class MixNotes:
    """The tag sheet of a mix (texts, and the path of a picture), its markers, and the time it begins at.

    Places are in frames of the mix.
    """

    values: Values = ()
    cover: str = ""
    markers: tuple[Marker, ...] = ()
    time_reference: int | None = None


NO_NOTES = MixNotes()


@dataclass(frozen=True, slots=True)
class TagWish:
    """What a delivery wants of tags: where it departs from the sheet, ID3 version, loudness, markers, loop points."""

    departures: Values = ()
    cover: bool = True
    id3_version: Id3Version = "2.4"
    gain_tags: bool = False
    markers: bool = True
    loop_points: bool = False


PLAIN_TAGS = TagWish()
