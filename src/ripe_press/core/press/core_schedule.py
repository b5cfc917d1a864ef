"""Which files are made on which core: apart, as long as that does not make shared work twice."""

from collections.abc import Sequence

from ripe_press.core.stations import Path, Station

MOST_TWICE = 0.05
"""How much more work may be done than in one walk, so that no core waits for the slowest encoder of another."""


def lanes(paths: Sequence[Path], cores: int) -> list[list[int]]:
    """Path numbers that are rendered together; one lane per core, or one lane.

    The most expensive files first, each in the lane with the least work. Lanes share nothing: if too much would be
    repeated (a conversion, a limiter), all files stay in one lane, whose branches use threads.
    """
    lanes: list[list[int]] = [[] for _ in range(min(cores, len(paths)))]
    loads = [0.0] * len(lanes)
    for number in sorted(range(len(paths)), key=lambda at: -_work([paths[at]])):
        least = loads.index(min(loads))
        lanes[least].append(number)
        loads[least] += paths[number].codec.effort_ms * paths[number].codec.frames
    together = _work(paths)
    apart = sum(_work([paths[at] for at in lane]) for lane in lanes)
    if apart > (1 + MOST_TWICE) * together:
        return [list(range(len(paths)))]
    return [sorted(lane) for lane in lanes]


def _work(paths: Sequence[Path]) -> float:
    """Milliseconds of one core for all stations of a tree, at 48 kHz."""
    seen: set[tuple[Station, ...]] = set()
    total = 0.0
    for path in paths:
        line = tuple(path)
        seconds = path.codec.frames / path.codec.rate_hz
        for end in range(1, len(line) + 1):
            if line[:end] not in seen:
                seen.add(line[:end])
                total += line[end - 1].effort_ms * seconds
    return total
