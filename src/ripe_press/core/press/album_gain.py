"""Files with common album loudness: their tags wait until the last of them was measured."""

import threading
from collections.abc import Sequence
from typing import Protocol, TypeVar

from ripe_press.core.engine.resolve import PlannedFile
from ripe_press.core.measure.signal import SignalResult, together
from ripe_press.core.stations import PathReport


class MeasuredFile(Protocol):
    """A file on its way, and what the walk heard of it."""

    number: int
    fault: Exception | None
    seen: PathReport

    @property
    def planned(self) -> PlannedFile:
        """What it is planned to be."""
        ...


T = TypeVar("T", bound=MeasuredFile)


class AlbumGains:
    """Which files were heard, and which may go on."""

    def __init__(self) -> None:
        self._heard: set[int] = set()
        self._lock = threading.Lock()

    def again(self, one: MeasuredFile) -> None:
        """A file is rendered again: its album waits for it."""
        with self._lock:
            self._heard.discard(one.number)

    def complete(self, walked: Sequence[T], all_files: Sequence[T]) -> list[T]:
        """Of files that were just walked those that may go on, and of their albums all others that waited for them."""
        with self._lock:
            self._heard |= {one.number for one in walked}
            albums = {one.planned.wish.album for one in walked} - {""}
            found = [one for one in walked if not one.planned.wish.album]
            for album in albums:
                members = [one for one in all_files if one.planned.wish.album == album]
                if all(one.number in self._heard or one.fault for one in members):
                    found += members
            return [one for one in found if not one.fault]

    def signal(self, one: T, all_files: Sequence[T]) -> SignalResult | None:
        """Peaks and loudness of all of a file's album; None where it has none."""
        album = one.planned.wish.album
        if not album:
            return None
        members = [other for other in all_files if other.planned.wish.album == album]
        return together([other.seen.signal for other in members if other.seen.signal and not other.fault])
