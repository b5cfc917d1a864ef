"""The path of an entry as drawn: the part shared with gapless neighbours, and the place of the cut."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from ripe_press.core.engine.tree import node_numbers
from ripe_press.core.errors import NotFound
from ripe_press.core.requests.document import Document, MixRequest
from ripe_press.core.stations import PathFacts, describe
from ripe_press.studio.planning import DISC_LINE, Knowledge, resolved_order


@dataclass(frozen=True, slots=True)
class PathCell:
    """A station on the way; ``shared`` runs once for all gapless entries."""

    kind: str
    label: str
    detail: str
    idle: bool
    sentence: str
    shared: bool


def path_of(document: Document, entry: int, knowledge_of: Callable[[MixRequest], Knowledge]) -> tuple[PathCell, ...]:
    """The stations of an entry, by its place from 0, to the first brief of the order, or else to its disc.

    Raises: NotFound ``order.no-entry``; what cannot be made.
    """
    order = document.order
    if order is None or not 0 <= entry < len(order.entries):
        message = "Entry not found in the running order."
        raise NotFound("order.no-entry", message, entry=entry)
    line = order.lines[0] if order.lines else DISC_LINE
    alone = replace(order, lines=() if line is DISC_LINE else (line,), disc=line is DISC_LINE)
    files, refused = resolved_order(document, alone, knowledge_of)
    ids = {order.entries[at].id for run in order.runs if entry in run for at in run}
    paths = {one.line.range_id: one.planned.path for one in files if one.line.range_id in ids}
    mine = paths.get(order.entries[entry].id)
    if mine is None:
        raise refused[0].error
    numbers = dict(zip(paths, node_numbers(list(paths.values())), strict=True))
    others = {node for name, nodes in numbers.items() if name != order.entries[entry].id for node in nodes}
    cells = describe(mine, PathFacts(target=mine.target))
    return tuple(
        PathCell(cell.kind, cell.label, cell.detail, cell.idle, cell.sentence, node in others)
        for cell, node in zip(cells, numbers[order.entries[entry].id], strict=True)
    )
