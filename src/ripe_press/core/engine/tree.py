"""Paths merged into a tree by equal prefixes: one root a source."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from ripe_press.core.stations import Codec, Station


@dataclass(frozen=True, slots=True)
class Node:
    """A station, what follows it, and the numbers of the paths that run through it."""

    station: Station
    children: tuple["Node", ...]
    paths: tuple[int, ...]


def merge(paths: Iterable[Iterable[Station]]) -> tuple[Node, ...]:
    """The roots of the tree, ordered by their first path.

    A file is never shared: from the codec on every path is its own, also where two are alike.
    """
    return _merge([(number, tuple(path)) for number, path in enumerate(paths)])


def _merge(numbered: Sequence[tuple[int, tuple[Station, ...]]]) -> tuple[Node, ...]:
    groups: dict[tuple[Station, int], list[tuple[int, tuple[Station, ...]]]] = {}
    for number, path in numbered:
        if path:
            own = number if isinstance(path[0], Codec) else -1
            groups.setdefault((path[0], own), []).append((number, path[1:]))
    return tuple(
        Node(station, _merge(members), tuple(number for number, _ in members))
        for (station, _), members in groups.items()
    )


def node_numbers(paths: Sequence[Iterable[Station]]) -> list[tuple[int, ...]]:
    """For every path a number a station: paths with the same number at a place share that work and all before it."""
    found: list[list[int]] = [[] for _ in paths]
    for number, node in enumerate(every_node(merge(paths))):
        for path in node.paths:
            found[path].append(number)
    return [tuple(row) for row in found]


def every_node(roots: Iterable[Node]) -> Iterator[Node]:
    """All nodes, parents before children."""
    for node in roots:
        yield node
        yield from every_node(node.children)
