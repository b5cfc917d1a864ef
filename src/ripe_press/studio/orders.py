"""Orders for the press: deliveries of a mix, and the places of their files.

Kept apart from the shelf and the workers, so that a command that presses one file starts without them.
"""

from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from ripe_press.core.briefs.library import brief_of
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.edges import Edges, Stretch
from ripe_press.core.engine.resolve import Delivery, resolve
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.naming import numbered
from ripe_press.core.press import PressOrder


def make_order(facts: SourceFacts, title: str, deliveries: Sequence[Delivery], folder: Path) -> PressOrder:
    """An order for files in ``folder``; a name that is taken gets a number, so that nothing is replaced."""
    paths: list[st.Path] = []
    targets: list[Path] = []
    for delivery in deliveries:
        path = resolve(delivery, facts, title)
        name = next(station.file_name for station in path if isinstance(station, st.Name))
        targets.append(numbered(folder / name, frozenset(targets)))
        paths.append(path)
    briefs = tuple(delivery.brief for delivery in deliveries)
    return PressOrder(tuple(paths), briefs, tuple(str(target) for target in targets))


def order_seconds(order: PressOrder) -> float:
    """Seconds of mix that an order reads, for speeds as a multiple of real time."""
    source = next(station for station in order.paths[0] if isinstance(station, st.Source))
    cuts = [station for path in order.paths for station in path if isinstance(station, st.Range)]
    span = max(cut.read_end for cut in cuts) - min(cut.start_frame for cut in cuts)
    return span / source.rate_hz


def ticket_row(deliveries: Sequence[Delivery]) -> dict[str, Any]:
    """A ticket as the record keeps it: everything that is needed to press it again."""
    return {"deliveries": [asdict(delivery) for delivery in deliveries]}


def kept_ticket(row: dict[str, Any]) -> tuple[Delivery, ...]:
    """The deliveries of a kept ticket; the first tickets held one range and the names of briefs."""
    if "deliveries" not in row:
        edges = Edges(**row.get("edges", {}))
        stretch = Stretch(row["start_frame"], row["end_frame"], edges, row.get("ring_frames", 0))
        return tuple(brief_of(brief).delivery(stretch) for brief in row["briefs"])
    return tuple(Delivery(**{**one, "stretch": _stretch(one["stretch"])}) for one in row["deliveries"])


def _stretch(row: dict[str, Any]) -> Stretch:
    return Stretch(**{**row, "edges": Edges(**row["edges"])})
