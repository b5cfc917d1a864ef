"""From a running order to the files of its pressing: each entry for each brief, and the tracks of a disc."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from ripe_press.core.briefs.library import DISC_TRACK
from ripe_press.core.engine.resolve import Mix, check_range
from ripe_press.core.engine.runs import RunEntry, resolve_run
from ripe_press.core.errors import BadInput, RipePressError
from ripe_press.core.requests.bench import NamedRange, TicketLine
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.document import Document, MixRequest
from ripe_press.core.requests.edges import NO_EDGES, Edges, Stretch
from ripe_press.core.requests.making import LEAVE
from ripe_press.core.requests.order_timeline import Length
from ripe_press.core.requests.running_order import OrderEntry, OrderLine, RunningOrder
from ripe_press.core.stations import Range
from ripe_press.core.tags.sheet import Values, in_order, merged
from ripe_press.studio.planning.knowledge import Knowledge
from ripe_press.studio.planning.resolved import RejectedDelivery, Resolved, brief_of_line, mix_of, stretch_of

DISC_LINE = OrderLine(DISC_TRACK.id)


@dataclass(frozen=True, slots=True)
class EntryMix:
    """An entry with its mix, and the mix's measurements."""

    number: int
    entry: OrderEntry
    wish: MixRequest
    known: Knowledge
    mix: Mix
    stretch: Stretch
    cut: Range


def resolved_order(
    document: Document, order: RunningOrder, knowledge_of: Callable[[MixRequest], Knowledge]
) -> tuple[list[Resolved], list[RejectedDelivery]]:
    """Every file of a running order, brief by brief and entry by entry, and what of it cannot be made."""
    placed = placed_entries(document, order, knowledge_of)
    briefs = document.briefs_by_id | {DISC_TRACK.id: DISC_TRACK}
    found: list[Resolved] = []
    refused: list[RejectedDelivery] = []
    for at, line in enumerate((*order.lines, *((DISC_LINE,) if order.disc else ())), 1):
        for run in order.runs:
            entries = [placed[number] for number in run]
            ticket = TicketLine(f"{entries[0].entry.id}.{at}", line.brief, entries[0].entry.id, changes=line.changes)
            try:
                brief = brief_of_line(ticket, briefs)
                made = [_run_entry(document, order, one, line, brief, at, run) for one in entries]
                files = resolve_run(made, order.on_cd_frames or line is DISC_LINE)
            except RipePressError as error:
                refused.append(RejectedDelivery(ticket, error))
                continue
            for one, of_entry in zip(entries, files, strict=True):
                lines = replace(ticket, id=f"{one.entry.id}.{at}", range_id=one.entry.id)
                found += [Resolved(file, lines, brief, one.mix, one.known, one.wish) for file in of_entry]
    return found, refused


def placed_entries(
    document: Document, order: RunningOrder, knowledge_of: Callable[[MixRequest], Knowledge]
) -> list[EntryMix]:
    """The entries with their mixes and ranges.

    Raises: BadInput ``order.mix`` for a mix missing from the document, ``range.…`` for an invalid range.
    """
    known = [knowledge_of(wish) for wish in document.mixes]
    found = []
    for number, entry in enumerate(order.entries):
        if entry.mix >= len(document.mixes):
            message = f"Entry {number + 1} is of mix {entry.mix}, and the document has {len(document.mixes)} mixes."
            raise BadInput("order.mix", message, mix=entry.mix)
        wish = document.mixes[entry.mix]
        mix = mix_of(wish, known[entry.mix])
        title, facts = title_of(entry, wish), known[entry.mix].facts
        notes = replace(mix.notes, values=tags_of(order, number, wish.bench.tags, title))
        part = NamedRange(entry.id, entry.start_frame, entry.end_frame, edges=_edges(order, number))
        stretch = stretch_of(known[entry.mix], part)
        check_range(stretch, facts)
        cut = stretch.cut(facts)
        mix = replace(mix, title=title, notes=notes)
        found.append(EntryMix(number, entry, wish, known[entry.mix], mix, stretch, cut))
    return found


def title_of(entry: OrderEntry, wish: MixRequest) -> str:
    """What an entry is called: by its own name, or by that of its mix."""
    return entry.title or entry.text("title") or dict(wish.bench.tags).get("title") or wish.source.title


def tags_of(order: RunningOrder, number: int, mix: Values, title: str) -> Values:
    """The tag sheet of an entry: its mix's, overridden by the order's, then by its own; album and track number are
    computed.
    """
    entry = order.entries[number]
    hidden = int(order.hidden_first)
    track = {"track": f"{number + 1 - hidden}/{len(order.entries) - hidden}"} if number >= hidden else {}
    shared = {name: text for name, text in order.tags if name not in ("title", "track", "isrc")}
    own = {"album": order.title} if order.title else {}
    values = merged(mix, in_order({**own, **shared, **track, "title": title}))
    return merged(values, entry.tags)


def lengths_of(placed: Sequence[EntryMix]) -> tuple[Length, ...]:
    """How long the entries are."""
    return tuple(Length(one.cut.frames, one.known.facts.rate_hz) for one in placed)


def _edges(order: RunningOrder, number: int) -> Edges:
    """The edges of an entry; a loop plays once, and no tail is mixed into a gapless next entry."""
    # Room tone is not carried across joins: silence in an order is digital.
    edges = replace(order.entries[number].edges, room_tone=False)
    goes_on = number + 1 < len(order.entries) and order.entries[number + 1].runs_on
    if edges.end in ("fold", "crossfade") or (goes_on and edges.end != "stop"):
        return replace(edges, end=NO_EDGES.end)
    return edges


def _run_entry(
    document: Document, order: RunningOrder, one: EntryMix, line: OrderLine, brief: Brief, at: int, run: Sequence[int]
) -> RunEntry:
    entry = one.entry
    delivery = line.changes.applied_to(brief.delivery(one.stretch, one.known.facts))
    level = delivery.level if order.level.level == LEAVE else order.level.level
    together = order.level.together
    called = order.title or "the order"
    group = f"{called}, {brief.title}"
    if together == "each":
        group = f"{group}, {run[0] + 1} to {run[-1] + 1}" if len(run) > 1 else ""
    number = one.number + 1 - int(order.hidden_first)
    pattern, digits = delivery.label_pattern, len(str(len(order.entries)))
    if "{track}" not in pattern and "{number}" not in pattern:
        # They are listed in their order wherever they go.
        folders, slash, name = pattern.rpartition("/")
        pattern = f"{folders}{slash}{{number}} {name}"
    delivery = replace(
        delivery, level=level, group=group if level != LEAVE else "", whole=together == "whole", id=f"{entry.id}.{at}",
        number=number, day=document.day, album=f"{at}" if delivery.gain_tags else "",
        label_pattern=pattern, style=replace(delivery.style, digits=max(delivery.style.digits, digits)),
    )  # fmt: skip
    return RunEntry(delivery, one.mix, one.cut)
