"""What a mix has beside its sound."""

from dataclasses import dataclass

from ripe_press.core.tags.sheet import Values
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
