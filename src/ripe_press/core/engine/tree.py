"""Paths merged into a tree by equal prefixes."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ripe_press.core.engine.stations import Path, Station


@dataclass(frozen=True, slots=True)
class Node:
    """A station, what follows it, and the numbers of the paths that run through it."""

    station: Station
    children: tuple["Node", ...]
    paths: tuple[int, ...]


def merge(paths: Sequence[Path]) -> tuple[Node, ...]:
    """The roots of the tree, in the order in which their first path stands in the ticket."""
    return _merge([(number, path) for number, path in enumerate(paths)])


def _merge(numbered: Sequence[tuple[int, Path]]) -> tuple[Node, ...]:
    groups: dict[Station, list[tuple[int, Path]]] = {}
    for number, path in numbered:
        if path:
            groups.setdefault(path[0], []).append((number, path[1:]))
    return tuple(
        Node(station, _merge(members), tuple(number for number, _ in members)) for station, members in groups.items()
    )


def every_node(roots: Sequence[Node]) -> Iterator[Node]:
    """All nodes, parents before children."""
    for node in roots:
        yield node
        yield from every_node(node.children)
