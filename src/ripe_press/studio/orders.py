"""Orders for the press: which part of a mix, to which briefs, under which names.

Kept apart from the shelf and the workers, so that a command that presses one file starts without them.
"""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ripe_press.core.briefs.library import brief_of
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.edges import NO_EDGES, Edges
from ripe_press.core.engine.resolve import resolve
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.naming import numbered
from ripe_press.core.press import PressOrder


@dataclass(frozen=True, slots=True)
class Stretch:
    """What part of a mix leaves: frames, edges, and how long the tail rings when the edges ask for that."""

    start_frame: int
    end_frame: int
    edges: Edges = NO_EDGES
    ring_frames: int = 0


def make_order(facts: SourceFacts, title: str, briefs: tuple[str, ...], stretch: Stretch, folder: Path) -> PressOrder:
    """An order for files in ``folder``; a name that is taken gets a number, so that nothing is replaced."""
    paths: list[st.Path] = []
    targets: list[Path] = []
    for brief in briefs:
        delivery = brief_of(brief).delivery(stretch.start_frame, stretch.end_frame, stretch.edges)
        path = resolve(delivery, facts, title, stretch.ring_frames)
        name = next(station.file_name for station in path if isinstance(station, st.Name))
        targets.append(numbered(folder / name, frozenset(targets)))
        paths.append(path)
    return PressOrder(tuple(paths), briefs, tuple(str(target) for target in targets))


def order_seconds(order: PressOrder) -> float:
    """Seconds of mix that an order reads, for speeds as a multiple of real time."""
    source = next(station for station in order.paths[0] if isinstance(station, st.Source))
    cuts = [station for path in order.paths for station in path if isinstance(station, st.Range)]
    span = max(cut.read_end for cut in cuts) - min(cut.start_frame for cut in cuts)
    return span / source.rate_hz


def kept_stretch(ticket: dict[str, Any]) -> Stretch:
    """The stretch of a ticket as the record keeps it; tickets from before edges were kept have none."""
    edges = Edges(**ticket.get("edges", {}))
    return Stretch(ticket["start_frame"], ticket["end_frame"], edges, ticket.get("ring_frames", 0))
