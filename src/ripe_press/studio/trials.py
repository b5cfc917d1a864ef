"""Trials of codecs and levels: run when the page asks for one, and kept.

So a pressing can be held against what was told, and the ticket tells what was found.
"""

import threading
from collections import OrderedDict
from dataclasses import replace

from ripe_press.core.engine import stations as st
from ripe_press.core.engine.levels import Shortfall, first_gain
from ripe_press.core.engine.size import Forecast
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.trial import Trial, size_after
from ripe_press.studio import tasks
from ripe_press.studio.workers import WorkerPool

_KEPT = 200


class Trials:
    """Trials by the stations that were tried; tags and names do not matter to them."""

    def __init__(self, pool: WorkerPool) -> None:
        self._pool = pool
        self._lock = threading.Lock()
        self._kept: OrderedDict[st.Path, Trial] = OrderedDict()
        self._levels: OrderedDict[st.Path, Shortfall | None] = OrderedDict()

    def of(self, path: st.Path, expected: SignalResult) -> Trial:
        """The trial of a path, made now unless it is kept; ``expected`` gives a level its gain beforehand."""
        key = _key(path)
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        settled = tuple(_settled(one, expected) for one in path)
        found = self._pool.submit(tasks.try_codec, settled).result()
        with self._lock:
            self._kept[key] = found
            while len(self._kept) > _KEPT:
                self._kept.popitem(last=False)
        return found

    def level(self, path: st.Path) -> tasks.LevelFound:
        """The level of a path as it will be pressed, measured behind gain and limiter."""
        found = self._pool.submit(tasks.try_level, path).result()
        self.found_level(path, found.short)
        return found

    def found_level(self, path: st.Path, short: Shortfall | None) -> None:
        """Keeps whether the level of a path is reached, as a trial or a pressing found it."""
        with self._lock:
            if key := _level_key(path):
                self._levels[key] = short
            while len(self._levels) > _KEPT:
                self._levels.popitem(last=False)

    def short(self, path: st.Path) -> Shortfall | None:
        """How far the level of a path falls short; None where it does not, or nobody knows."""
        with self._lock:
            return self._levels.get(_level_key(path))

    def known(self, path: st.Path) -> Forecast | None:
        """The size of a path whose sound was tried, with its tags as they are now; None where it was not."""
        with self._lock:
            found = self._kept.get(_key(path))
        return size_after(path, found) if found else None


def _settled(station: st.Station, expected: SignalResult) -> st.Station:
    if isinstance(station, st.Level) and station.gain_db is None:
        return replace(station, gain_db=first_gain(station, expected))
    return station


def _key(path: st.Path) -> st.Path:
    return tuple(one for one in path if not isinstance(one, st.Tags | st.Name))


def _level_key(path: st.Path) -> st.Path:
    """The stations up to the level, which alone decide what it comes to."""
    at = next((number for number, one in enumerate(path) if isinstance(one, st.Level)), -1)
    return path[: at + 1]
