"""Test encodings and levels: run at the page's request, and kept.

A pressing is compared with its forecast, and the ticket shows the result.
"""

import threading
from collections import OrderedDict

from ripe_press.core.engine.levels import Shortfall
from ripe_press.core.engine.resolve import PlannedFile
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.stations import Line, Path
from ripe_press.core.stations.size.forecast import Forecast
from ripe_press.core.trial import Trial, size_after
from ripe_press.studio.jobs import WorkerPool
from ripe_press.studio.planning import tasks

_KEPT = 200


class Trials:
    """Trials by the stations that were tried; tags and names do not matter to them."""

    def __init__(self, pool: WorkerPool) -> None:
        self._pool = pool
        self._lock = threading.Lock()
        self._kept: OrderedDict[Line, Trial] = OrderedDict()
        self._levels: OrderedDict[Line, Shortfall | None] = OrderedDict()

    def of(self, path: Path, expected: SignalResult) -> Trial:
        """The trial of a path, made now unless it is kept; ``expected`` gives a level its gain beforehand."""
        key = path.coded
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        found = self._pool.submit(tasks.try_codec, path.settled_about(expected)).result()
        with self._lock:
            self._kept[key] = found
            while len(self._kept) > _KEPT:
                self._kept.popitem(last=False)
        return found

    def level(self, file: PlannedFile) -> tasks.LevelFound:
        """The level of a file as it will be pressed, measured behind gain and limiter."""
        found = self._pool.submit(tasks.try_level, file).result()
        self.found_level(file.path, found.short)
        return found

    def found_level(self, path: Path, short: Shortfall | None) -> None:
        """Keeps whether the level of a path is reached, as a trial or a pressing found it."""
        with self._lock:
            if path.target:
                self._levels[path.to_target] = short
            while len(self._levels) > _KEPT:
                self._levels.popitem(last=False)

    def short(self, path: Path) -> Shortfall | None:
        """How far the level of a path falls short; None if it does not, or if it is unknown."""
        with self._lock:
            return self._levels.get(path.to_target)

    def known(self, path: Path) -> Forecast | None:
        """The size of a path whose sound was tried, with its tags as they are now; None where it was not."""
        with self._lock:
            found = self._kept.get(path.coded)
        return size_after(path, found) if found else None
