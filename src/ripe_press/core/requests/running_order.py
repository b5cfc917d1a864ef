"""A running order: mixes, or ranges of them, in the order in which they leave together. Frozen values, no files."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Annotated, Any, ClassVar, Literal

from annotated_types import Ge, Le, Len, MaxLen

from ripe_press.core.errors import BadInput
from ripe_press.core.requests.delivery import NO_CHANGES, Changes
from ripe_press.core.requests.edges import NO_EDGES, Edges
from ripe_press.core.requests.making import LEAVE, STRICT, LevelRequest, checked_level
from ripe_press.core.tags.sheet import Values, in_order
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND, Marker

MOST_ENTRIES = 400
USUAL_GAP_FRAMES = 2 * CD_FRAMES_PER_SECOND
"""Two seconds (common practice, no source)."""
MOST_GAP_FRAMES = 10 * 60 * CD_FRAMES_PER_SECOND
MOST_INDEXES = 98

Together = Literal["loudest", "whole", "each"]
"""*Loudest*: the same gain for all, such that the loudest meets the level. *Whole*: the same for all, such that all of
it together does. *Each*: every entry alone; gapless ones stay together.
"""


DiscText = tuple[tuple[Literal["songwriter", "arranger", "message"], Annotated[str, MaxLen(160)]], ...]
"""CD-Text of a track or of the disc, in addition to the tag sheet."""


@dataclass(frozen=True, slots=True)
class OrderEntry:
    """A track of a running order. ``runs_on`` (gapless) and ``gap_frames`` (CD frames) are the join before it."""

    id: Annotated[str, Len(1, 40)]
    mix: Annotated[int, Ge(0)]
    """Which mix: its place in the document, or on a shelf its number there."""
    start_frame: Annotated[int, Ge(0)]
    end_frame: Annotated[int, Ge(1)]
    title: Annotated[str, MaxLen(300)] = ""
    """Where it is empty it is called as its mix is."""
    runs_on: bool = False
    gap_frames: Annotated[int, Ge(0), Le(MOST_GAP_FRAMES)] = USUAL_GAP_FRAMES
    edges: Edges = NO_EDGES
    tags: Values = ()
    """On top of the sheet of its mix and of that of the order."""
    indexes: Annotated[tuple[Annotated[int, Ge(0)], ...], MaxLen(MOST_INDEXES)] = ()
    """Further indexes of its track on a disc, in frames of the mix."""
    disc_text: DiscText = ()
    pre_emphasis: bool = False
    may_copy: bool = False

    def text(self, field: str) -> str:
        """The text of a field of its own tags."""
        return dict(self.tags).get(field, "")


@dataclass(frozen=True, slots=True)
class OneLevel:
    """The level of all tracks and its method; *leave* uses the level of each brief."""

    level: LevelRequest = LEAVE
    together: Together = "loudest"


@dataclass(frozen=True, slots=True)
class OrderLine:
    """A brief for all tracks, with the changed settings."""

    brief: Annotated[str, MaxLen(80)]
    changes: Changes = NO_CHANGES


@dataclass(frozen=True, slots=True)
class RunningOrder:
    """A running order: tracks, common settings, briefs and disc."""

    entries: Annotated[tuple[OrderEntry, ...], MaxLen(MOST_ENTRIES)]
    title: Annotated[str, MaxLen(300)] = ""
    tags: Values = ()
    """The sheet of the whole: album artist, barcode, date and what else all of them share."""
    level: OneLevel = OneLevel()
    on_cd_frames: bool = True
    """Whether gapless joins are cut at seventy-fifths of a second in files too, as on a disc."""
    hidden_first: bool = False
    """Whether the first entry lies hidden in the pause of track 1 of a disc."""
    disc_text: DiscText = ()
    lines: Annotated[tuple[OrderLine, ...], MaxLen(40)] = ()
    disc: bool = False
    folder: Annotated[str, MaxLen(1000)] = ""
    """Where its files go, as a full path; empty is the usual folder."""
    __pydantic_config__: ClassVar[Any] = STRICT

    @property
    def runs(self) -> list[tuple[int, ...]]:
        """The numbers of gapless entries, together; most are alone."""
        found: list[tuple[int, ...]] = []
        for number, entry in enumerate(self.entries):
            if number and entry.runs_on:
                found[-1] = (*found[-1], number)
            else:
                found.append((number,))
        return found


def checked_order(order: RunningOrder) -> RunningOrder:
    """The order itself, its tags in the order of the sheet.

    Raises: BadInput ``order.empty``, ``order.twice``, ``range.empty``, ``level.range``, ``tags.…``.
    """
    if not order.entries:
        message = "The running order is empty. Add a mix or split one at its markers."
        raise BadInput("order.empty", message)
    if len({one.id for one in order.entries}) < len(order.entries):
        message = "Two entries have the same ID."
        raise BadInput("order.twice", message)
    for number, one in enumerate(order.entries, 1):
        if one.end_frame <= one.start_frame:
            message = f"Entry {number} is empty: its end is before its start."
            raise BadInput("range.empty", message, start_frame=one.start_frame, end_frame=one.end_frame)
    checked_level(order.level.level)
    entries = tuple(replace(one, tags=in_order(one.tags)) for one in order.entries)
    return replace(order, entries=entries, tags=in_order(order.tags))


def entries_between(
    markers: Sequence[Marker], frames: int, mix: int, *, from_start: bool = True
) -> tuple[OrderEntry, ...]:
    """A long mix split at its markers into gapless entries, each named after its marker.

    What lies before the first marker is an entry too, where ``from_start`` is wanted. Raises: BadInput ``marker.none``.
    """
    places = sorted({one.frame: one for one in reversed(markers)}.values(), key=lambda one: one.frame)
    places = [one for one in places if one.frame < frames]
    if not places:
        message = "No markers to split at. Add some or give a marker file."
        raise BadInput("marker.none", message)
    if places[0].frame and from_start:
        places.insert(0, Marker(0, ""))
    ends = [*(one.frame for one in places), frames]
    return tuple(
        OrderEntry(f"e{number}", mix, start, end, marker.name, runs_on=number > 1)
        for number, (marker, (start, end)) in enumerate(zip(places, pairwise(ends), strict=True), 1)
    )
