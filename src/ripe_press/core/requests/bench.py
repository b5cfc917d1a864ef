"""The bench of a mix: its ranges, markers and tempo map. Frozen values, no files."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any, ClassVar

from annotated_types import Ge, Len, Lt, MaxLen

from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.naming import Clash, check_pattern
from ripe_press.core.requests.delivery import NO_CHANGES, Changes
from ripe_press.core.requests.edges import NO_EDGES, Edges, SilenceLevel
from ripe_press.core.requests.making import LEAVE, STRICT, checked_level
from ripe_press.core.requests.part import THE_MIX, Part
from ripe_press.core.stations.finish import Finish
from ripe_press.core.tags.embedded import Embedded
from ripe_press.core.tags.sheet import Values, in_order
from ripe_press.core.timeline import MOST_MARKERS, MOST_NAME, Marker, TempoMap
from ripe_press.core.units import print_clock
from ripe_press.core.words import quoted

LOOKS = 6
"""So many ranges look different from each other: a colour and a pattern each."""

MOST_RANGES = 200
MOST_DELIVERIES = 200


MOST_LINES = 400
"""Far more ranges or deliveries than a mix has, and as many as a request answers quickly."""


@dataclass(frozen=True, slots=True)
class NamedRange:
    """A range of a mix with its edges, in samples. An empty name gives an automatic one."""

    id: Annotated[str, Len(1, 40)]
    start_frame: int
    end_frame: int
    name: str = ""
    look: Annotated[int, Ge(0), Lt(LOOKS)] = 0
    edges: Edges = NO_EDGES


@dataclass(frozen=True, slots=True)
class FinishChain:
    """The finishing chain: DC offset removal, high-pass in Hz (0 = off), gain in dB, limiter in dBTP (None = off)."""

    remove_dc: bool = False
    high_pass_hz: Annotated[float, Ge(0)] = 0.0
    gain_db: float = 0.0
    ceiling_dbtp: float | None = None


@dataclass(frozen=True, slots=True)
class TicketLine:
    """A delivery on the ticket: range, brief, enabled or disabled, and changed settings."""

    id: Annotated[str, Len(1, 40)]
    brief: Annotated[str, MaxLen(80)]
    range_id: Annotated[str, MaxLen(40)]
    on: bool = True
    group: Annotated[str, MaxLen(40)] = ""
    changes: Changes = NO_CHANGES
    part: Part = THE_MIX
    """What of the mix it is of."""


@dataclass(frozen=True, slots=True)
class SignOff:
    """An accepted finding, by its rule, for some deliveries while they go to these briefs; with name and reason."""

    rule: Annotated[str, Len(1, 80)]
    lines: Annotated[tuple[Annotated[str, MaxLen(40)], ...], MaxLen(MOST_LINES)]
    briefs: Annotated[tuple[Annotated[str, MaxLen(80)], ...], MaxLen(MOST_LINES)]
    by: Annotated[str, Len(1, 200)]
    because: Annotated[str, Len(1, 1000)]


@dataclass(frozen=True, slots=True)
class Bench:
    """Ranges in order (at least one), markers by time, tempo map, finishing chain, ticket."""

    ranges: Annotated[tuple[NamedRange, ...], MaxLen(MOST_LINES)]
    markers: Annotated[tuple[Marker, ...], MaxLen(MOST_MARKERS)] = ()
    tempo: TempoMap | None = None
    finish: FinishChain = FinishChain()
    ticket: Annotated[tuple[TicketLine, ...], MaxLen(MOST_LINES)] = ()
    tags: Values = ()
    """The tag sheet of the mix."""
    cover: Annotated[str, MaxLen(80)] = ""
    """The file name of its picture, in the mix's own folder."""
    clash: Clash = "keep-both"
    silence_dbfs: SilenceLevel | None = None
    """What counts as silence; None is 10 dB above the noise floor of the mix, −70 dBFS at least."""
    folder: Annotated[str, MaxLen(1000)] = ""
    """Where its files go, as a full path; empty is the usual folder."""
    signed: Annotated[tuple[SignOff, ...], MaxLen(200)] = ()
    """Sign-offs: files with these findings are sent without another question."""
    __pydantic_config__: ClassVar[Any] = STRICT

    def range_of(self, range_id: str) -> NamedRange:
        """The range with this id. Raises: NotFound ``range.unknown``."""
        for one in self.ranges:
            if one.id == range_id:
                return one
        message = "Range not found on the Bench."
        raise NotFound("range.unknown", message, range=range_id)


def bench_from(
    embedded: Embedded, frames: int, tempo: TempoMap | None = None, title: str = "", cover: str = ""
) -> Bench:
    """The bench of a mix that was just added, with the markers and the tags that its file carries, and its tempo."""
    sheet = in_order({"title": title, **dict(embedded.tags)})
    return Bench((NamedRange("r1", 0, frames),), embedded.markers, tempo, tags=sheet, cover=cover)


def bench_offsets(bench: Bench, measured: Sequence[float]) -> tuple[float, ...]:
    """Offset of each channel, where the chain of a bench removes it."""
    return tuple(measured) if bench.finish.remove_dc else ()


def finish_of(chain: FinishChain, offsets: tuple[float, ...]) -> Finish:
    """The finishing station of a mix whose channels lie off zero by ``offsets``."""
    taken = offsets if chain.remove_dc else ()
    return Finish(chain.gain_db, taken, chain.high_pass_hz, chain.ceiling_dbtp)


def checked(bench: Bench, frames: int, rate_hz: int) -> Bench:
    """The bench in order, with markers by time.

    Raises: BadInput ``range.none``, ``range.twice``, ``range.empty``, ``bench.too-many``, ``bench.name``,
    ``marker.outside``, ``tags.unknown-field``, ``tags.too-long``.
    """
    if not bench.ranges:
        message = "Keep at least one range. Add another first."
        raise BadInput("range.none", message)
    if len(bench.ranges) > MOST_RANGES or len(bench.markers) > MOST_MARKERS:
        message = f"Too many ranges or markers. Maximum: {MOST_RANGES} ranges, {MOST_MARKERS:,} markers."
        raise BadInput("bench.too-many", message, ranges=len(bench.ranges), markers=len(bench.markers))
    if len({one.id for one in bench.ranges}) < len(bench.ranges):
        message = "Two ranges have the same ID."
        raise BadInput("range.twice", message)
    for one in bench.ranges:
        if not 0 <= one.start_frame < one.end_frame <= frames:
            message = "A range needs a start before its end, inside the mix."
            raise BadInput("range.empty", message, start_frame=one.start_frame, end_frame=one.end_frame)
    _check_ticket(bench, rate_hz)
    for marker in bench.markers:
        if not 0 <= marker.frame <= frames:
            message = f"The marker {quoted(marker.name)} at {print_clock(marker.frame, rate_hz)} is outside the mix."
            raise BadInput("marker.outside", message, frame=marker.frame)
    for name in (*(one.name for one in bench.ranges), *(one.name for one in bench.markers)):
        if len(name) > MOST_NAME:
            message = f"The name has {len(name)} characters; maximum {MOST_NAME}."
            raise BadInput("bench.name", message, name=name)
    for line in bench.ticket:
        in_order(line.changes.tags or ())
        check_pattern(line.changes.label_pattern or "{title}")
        checked_level(line.changes.level or LEAVE)
    return replace(
        bench, tags=in_order(bench.tags), markers=tuple(sorted(bench.markers, key=lambda marker: marker.frame))
    )


def _check_ticket(bench: Bench, rate_hz: int) -> None:
    if len(bench.ticket) > MOST_DELIVERIES:
        message = f"{len(bench.ticket)} deliveries; maximum {MOST_DELIVERIES}."
        raise BadInput("bench.too-many", message, deliveries=len(bench.ticket))
    if len({line.id for line in bench.ticket}) < len(bench.ticket):
        message = "Two deliveries have the same ID."
        raise BadInput("delivery.twice", message)
    for line in bench.ticket:
        bench.range_of(line.range_id)
    chain = bench.finish
    if not (-60 <= chain.gain_db <= 60 and 0 <= chain.high_pass_hz < rate_hz / 2 and (chain.ceiling_dbtp or 0) <= 0):
        message = "Finishing out of range. Use gain −60 to 60 dB, high-pass up to half the rate, ceiling up to 0 dBTP."
        raise BadInput("finish.range", message)


def ranges_between(markers: Sequence[Marker], frames: int) -> tuple[NamedRange, ...]:
    """One range from each marker to the next, the last to the end of the mix, each named after its marker.

    Markers at the same place count once. Raises: BadInput ``marker.none``.
    """
    places = sorted({marker.frame: marker for marker in reversed(markers)}.values(), key=lambda one: one.frame)
    places = [marker for marker in places if marker.frame < frames]
    if not places:
        message = "No markers to split at. Add some first."
        raise BadInput("marker.none", message)
    ends = [*(marker.frame for marker in places[1:]), frames]
    return tuple(
        NamedRange(f"m{number}", marker.frame, end, marker.name, (number - 1) % LOOKS)
        for number, (marker, end) in enumerate(zip(places, ends, strict=True), 1)
    )


def between_markers(text: str, markers: Sequence[Marker], frames: int) -> tuple[int, int]:
    """The stretch meant by ``NAME..NAME``; a missing second name means the marker that follows, or the end.

    Raises: BadInput ``marker.none``, ``marker.unknown``, ``range.empty``.
    """
    if not markers:
        message = "The mix has no markers. Use times for start and end."
        raise BadInput("marker.none", message)
    first, dots, second = (part.strip() for part in text.partition(".."))
    start = _place(first, markers)
    if second:
        end = _place(second, markers)
    else:
        later = [marker.frame for marker in markers if marker.frame > start]
        end = min(later, default=frames) if not dots else frames
    return start, end


def _place(name: str, markers: Sequence[Marker]) -> int:
    for marker in markers:
        if marker.name.casefold() == name.casefold():
            return marker.frame
    known = ", ".join(quoted(marker.name) for marker in markers[:20])
    message = f"Unknown marker {quoted(name)}. Available: {known}."
    raise BadInput("marker.unknown", message, name=name)
