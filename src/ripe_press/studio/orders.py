"""Orders for the press: deliveries of a mix, and the places of their files.

Kept apart from the shelf and the workers, so that a command that presses one file starts without them.
"""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from ripe_press.core.briefs.library import Brief, brief_from, brief_of
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.edges import Edges, Stretch
from ripe_press.core.engine.resolve import NO_FINISH, Delivery, LevelWish, resolve
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.naming import numbered, safe_stem
from ripe_press.core.press import PressOrder


@dataclass(frozen=True, slots=True)
class Ticket:
    """Everything that is needed to press: deliveries, the briefs they are made to, the finishing chain."""

    deliveries: tuple[Delivery, ...]
    briefs: Mapping[str, Brief]
    finish: st.Finish = NO_FINISH


def make_order(facts: SourceFacts, title: str, ticket: Ticket, folder: Path, sub_folders: bool = False) -> PressOrder:
    """An order for files in ``folder``; a name that is taken gets a number, so that nothing is replaced.

    With ``sub_folders`` a brief's drop-off is a folder of its own in it. Raises: BadInput ``press.nothing``.
    """
    if not ticket.deliveries:
        message = "Nothing is set out to be pressed. Add a delivery, or switch one on."
        raise BadInput("press.nothing", message)
    paths: list[st.Path] = []
    targets: list[Path] = []
    briefs: list[Brief] = []
    for delivery in ticket.deliveries:
        brief = ticket.briefs[delivery.brief]
        place = folder / safe_stem(brief.drop_off) if sub_folders and brief.drop_off else folder
        for path in resolve(delivery, facts, title, ticket.finish):
            name = next(station.file_name for station in path if isinstance(station, st.Name))
            targets.append(numbered(place / name, frozenset(targets)))
            paths.append(path)
            briefs.append(brief)
    names = tuple(str(target) for target in targets)
    return PressOrder(tuple(paths), tuple(briefs), names, ticket.finish)


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
    return Ticket(deliveries, briefs, st.Finish(**finish))


def _delivery(row: dict[str, Any]) -> Delivery:
    # Channels used to be a number, and there was no level.
    channels = row.get("channels", "keep")
    return Delivery(
        **{
            **row,
            "stretch": _stretch(row["stretch"]),
            "level": LevelWish(**(row.get("level") or {})),
            "channels": channels if isinstance(channels, str) else "stereo",
        }
    )


def _stretch(row: dict[str, Any]) -> Stretch:
    return Stretch(**{**row, "edges": Edges(**row["edges"])})
