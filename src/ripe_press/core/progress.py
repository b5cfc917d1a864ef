"""Progress of long work: a function called with the amount done and the whole, in one unit."""

from collections.abc import Callable

Progress = Callable[[int, int], None]


def no_progress(_done: int, _total: int) -> None:
    """Ignore progress."""
