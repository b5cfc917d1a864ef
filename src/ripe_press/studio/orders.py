"""Orders for the press: deliveries of a mix, and the places of their files.

Kept apart from the shelf and the workers, so that a command that presses one file starts without them.
"""

from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from ripe_press.core.briefs.library import Brief, brief_from, brief_of
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.delivery import Delivery, LevelWish
from ripe_press.core.engine.edges import Edges, Stretch
from ripe_press.core.engine.notes import NO_NOTES, MixNotes, TagWish
from ripe_press.core.engine.resolve import NO_FINISH, resolve
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.naming import Clash, NameStyle, Placed, place, safe_stem
from ripe_press.core.press import PressOrder
from ripe_press.core.tags.sheet import Values
from ripe_press.core.timeline import Marker


@dataclass(frozen=True, slots=True)
class Ticket:
    """Everything that is needed to press: deliveries, the briefs they are made to, the finishing chain."""

    deliveries: tuple[Delivery, ...]
    briefs: Mapping[str, Brief]
    finish: st.Finish = NO_FINISH
    notes: MixNotes = NO_NOTES
    clash: Clash = "keep-both"


@dataclass(frozen=True, slots=True)
class Wanted:
    """A file of a ticket: its path, the brief it is made to, and where it goes."""

    delivery: Delivery
    path: st.Path
    brief: Brief
    placed: Placed


def wanted_files(
    facts: SourceFacts, title: str, ticket: Ticket, folder: Path, sub_folders: bool = False
) -> tuple[Wanted, ...]:
    """Every file of a ticket with its place, clashes settled. With ``sub_folders`` a brief's drop-off is a folder."""
    found = []
    for delivery in ticket.deliveries:
        brief = ticket.briefs[delivery.brief]
        place_of = folder / safe_stem(brief.drop_off) if sub_folders and brief.drop_off else folder
        for path in resolve(delivery, facts, title, ticket.finish, ticket.notes):
            name = next(station.file_name for station in path if isinstance(station, st.Name))
            found.append((delivery, path, brief, place_of / name))
    placed = place([target for *_, target in found], ticket.clash)
    return tuple(Wanted(*one[:3], where) for one, where in zip(found, placed, strict=True))


def make_order(facts: SourceFacts, title: str, ticket: Ticket, folder: Path, sub_folders: bool = False) -> PressOrder:
    """An order for files in ``folder``, with names that are taken handled as the ticket says.

    Raises: BadInput ``press.nothing`` or ``press.all-there``.
    """
    if not ticket.deliveries:
        message = "Nothing is set out to be pressed. Add a delivery, or switch one on."
        raise BadInput("press.nothing", message)
    order = order_of(wanted_files(facts, title, ticket, folder, sub_folders), ticket.finish)
    if not order.paths:
        message = "Every file of this ticket is there already, and those are skipped. Nothing was pressed."
        raise BadInput("press.all-there", message)
    return order


def order_of(wanted: Iterable[Wanted], finish: st.Finish) -> PressOrder:
    """An order for the files that are not to be skipped."""
    made = [one for one in wanted if not one.placed.skipped]
    return PressOrder(
        tuple(one.path for one in made), tuple(one.brief for one in made),
        tuple(str(one.placed.path) for one in made), finish, tuple(one.placed.replaces for one in made),
    )  # fmt: skip


def order_seconds(order: PressOrder) -> float:
    """Seconds of mix that an order reads, for speeds as a multiple of real time."""
    source = next(station for station in order.paths[0] if isinstance(station, st.Source))
    cuts = [station for path in order.paths for station in path if isinstance(station, st.Range)]
    span = max(cut.read_end for cut in cuts) - min(cut.start_frame for cut in cuts)
    return span / source.rate_hz


def ticket_row(ticket: Ticket) -> dict[str, Any]:
    """A ticket as the record keeps it: everything that is needed to press it again."""
    return {
        "deliveries": [asdict(delivery) for delivery in ticket.deliveries],
        "briefs": {name: asdict(brief) for name, brief in ticket.briefs.items()},
        "finish": asdict(ticket.finish),
        "notes": asdict(ticket.notes),
        "clash": ticket.clash,
    }


def kept_ticket(row: dict[str, Any], facts: SourceFacts) -> Ticket:
    """A kept ticket; the first tickets held one range and the names of briefs."""
    if "deliveries" not in row:
        edges = Edges(**row.get("edges", {}))
        stretch = Stretch(row["start_frame"], row["end_frame"], edges, row.get("ring_frames", 0))
        briefs = {name: brief_of(name) for name in row["briefs"]}
        return Ticket(tuple(brief.delivery(stretch, facts) for brief in briefs.values()), briefs)
    finish = dict(row.get("finish") or {})
    finish["offsets"] = tuple(finish.get("offsets") or ())
    if isinstance(row.get("briefs"), dict):
        briefs = {name: brief_from(one) for name, one in row["briefs"].items()}
    else:
        briefs = {one["brief"]: brief_of(one["brief"]) for one in row["deliveries"]}
    deliveries = tuple(_delivery(one) for one in row["deliveries"])
    return Ticket(
        deliveries, briefs, st.Finish(**finish), notes_of(row.get("notes") or {}), row.get("clash", "keep-both")
    )


def notes_of(row: Mapping[str, Any]) -> MixNotes:
    """What a mix had beside its sound, from plain values."""
    markers = tuple(Marker(**one) for one in row.get("markers", ()))
    return MixNotes(pairs(row.get("values", ())), row.get("cover", ""), markers, row.get("time_reference"))


def pairs(rows: Iterable[Iterable[str]]) -> Values:
    """Fields and texts out of lists of two, as JSON has them."""
    return tuple((str(name), str(text)) for name, text in rows)


def _delivery(row: dict[str, Any]) -> Delivery:
    # Channels used to be a number, and there was no level.
    channels = row.get("channels", "keep")
    wish = row.get("tags") or {}
    return Delivery(
        **{
            **row,
            "stretch": _stretch(row["stretch"]),
            "level": LevelWish(**(row.get("level") or {})),
            "channels": channels if isinstance(channels, str) else "stereo",
            "tags": TagWish(**{**wish, "departures": pairs(wish.get("departures", ()))}),
            "style": NameStyle(**(row.get("style") or {})),
        }
    )


def _stretch(row: dict[str, Any]) -> Stretch:
    return Stretch(**{**row, "edges": Edges(**row["edges"])})
