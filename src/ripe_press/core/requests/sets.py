"""Sets: deliveries of a ticket, for use on other mixes. A set is a bench with its ticket, ranges and clash alone."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from ripe_press.core.requests.bench import Bench, NamedRange, TicketLine
from ripe_press.core.requests.delivery import NO_CHANGES, Changes
from ripe_press.core.requests.edges import NO_EDGES
from ripe_press.core.requests.part import THE_MIX
from ripe_press.core.tags.sheet import OF_ONE_RECORDING


def set_of(bench: Bench, edges: bool = True) -> Bench:
    """The deliveries of a bench, with the ``edges`` of their ranges; tags of one recording stay with the mix."""
    used = {line.range_id for line in bench.ticket}
    ranges = tuple(one if edges else replace(one, edges=NO_EDGES) for one in bench.ranges if one.id in used)
    return Bench(ranges, ticket=tuple(_shared(line) for line in bench.ticket), clash=bench.clash)


def _shared(line: TicketLine) -> TicketLine:
    if not line.changes.tags:
        return line
    kept = tuple(one for one in line.changes.tags if one[0] not in OF_ONE_RECORDING)
    return replace(line, changes=replace(line.changes, tags=kept))


def set_for(briefs: Mapping[str, Changes]) -> Bench:
    """One delivery of the whole mix for each brief, with its changes."""
    lines = tuple(TicketLine(f"d{at}", brief, "r1", changes=own) for at, (brief, own) in enumerate(briefs.items(), 1))
    return Bench((NamedRange("r1", 0, 1),), ticket=lines)


FIRST_SET = set_for(dict.fromkeys(("audio-cd", "archive"), NO_CHANGES))
"""A CD-ready file, and the archive copy that every ticket should have."""


BLANK_SET = set_for({"blank": NO_CHANGES})
"""One delivery with every setting as in the mix."""


def ticket_of(own: Bench, like: Bench, whole: tuple[int, int]) -> Bench:
    """The bench of a mix with the deliveries of a set or of another mix; ranges, tags and chain stay its own.

    A delivery takes the range of the same name where there is one, and else the ``whole``, from frame to frame, with
    the edges that it has there. Deliveries that become equal count once. Sign-offs go.
    """
    like = set_of(like)
    ranges = list(own.ranges)
    named = {one.name: one.id for one in reversed(own.ranges) if one.name}
    lines: dict[TicketLine, TicketLine] = {}
    for line in like.ticket:
        theirs = like.range_of(line.range_id)
        range_id = named.get(theirs.name)
        if range_id is None:
            same = next((r for r in ranges if (r.start_frame, r.end_frame, r.edges) == (*whole, theirs.edges)), None)
            if same is None:
                free = next(f"w{at}" for at in range(1, len(ranges) + 2) if f"w{at}" not in {r.id for r in ranges})
                same = NamedRange(free, *whole, edges=theirs.edges)
                ranges.append(same)
            range_id = same.id
        made = replace(line, range_id=range_id)
        lines.setdefault(replace(made, id=""), made)
    return replace(own, ranges=tuple(ranges), ticket=tuple(lines.values()), clash=like.clash, signed=())


def usable(like: Bench, known: Callable[[str], bool]) -> Bench:
    """The deliveries of a set that any mix can have: to ``known`` briefs, and of the mix itself."""
    return replace(like, ticket=tuple(one for one in like.ticket if known(one.brief) and one.part == THE_MIX))


def opened(own: Bench, like: Bench, whole: tuple[int, int]) -> Bench:
    """A new bench with the deliveries of a set, and with the ranges that they are of alone."""
    made = ticket_of(own, like, whole)
    used = {line.range_id for line in made.ticket}
    return replace(made, ranges=tuple(one for one in made.ranges if one.id in used) or own.ranges)
