"""Check of pressed files: each present and unchanged, moved, changed or missing."""

import threading
from collections.abc import Iterable
from concurrent.futures import Future
from pathlib import Path

from ripe_press.core.errors import RipePressError
from ripe_press.store.pressings import Pressings, StoredFile
from ripe_press.studio.jobs import Events, WorkerPool
from ripe_press.studio.log import logger
from ripe_press.studio.pressing import tasks

_LOG = logger("checks")


class Checks:
    """Checks the files of pressings in a worker and records the result of each."""

    def __init__(self, record: Pressings, root: Path, heavy: WorkerPool, events: Events) -> None:
        self._record, self._root, self._heavy, self._events = record, root, heavy, events
        self._open: dict[int, int] = {}
        self._lock = threading.Lock()

    def begin(self, number: int, files: Iterable[StoredFile]) -> None:
        """Begins to look for the files of a pressing that were named; an event follows for each."""
        wanted = [(file, file.report) for file in files if file.state == "named" and file.report]
        with self._lock:
            if number in self._open or not wanted:
                return
            self._open[number] = len(wanted)
        for file, report in wanted:
            future = self._heavy.submit(tasks.look_for_file, file.path, report.bytes, report.sha256, str(self._root))
            future.add_done_callback(lambda done, at=file.number: self._note(number, at, done))  # type: ignore[misc]

    def under_way(self, number: int) -> bool:
        """Whether files of this pressing are still being looked for."""
        with self._lock:
            return number in self._open

    def _note(self, number: int, file_number: int, done: "Future[tasks.FileLocation]") -> None:
        try:
            if not done.cancelled():
                found = done.result()
                self._record.set_found(number, file_number, found.found, found.path)
        except (RipePressError, OSError) as error:
            # An unchecked file is not recorded: its earlier result and date are kept.
            _LOG.warning("file could not be looked for", pressing=number, file=file_number, why=str(error))
        finally:
            with self._lock:
                self._open[number] -= 1
                if not self._open[number]:
                    del self._open[number]
            self._events.publish("pressings")
