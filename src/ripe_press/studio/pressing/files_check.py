"""Check of pressed files: each present and unchanged, moved, changed or missing."""

from collections.abc import Iterable
from concurrent.futures import wait
from pathlib import Path

from ripe_press.core.errors import Cancelled, RipePressError
from ripe_press.store.pressings import Pressings, StoredFile
from ripe_press.studio.jobs import Events, Jobs, JobState, Work, WorkerPool
from ripe_press.studio.log import logger
from ripe_press.studio.pressing import tasks

_LOG = logger("checks")
_LOOK_S = 0.1


class Checks(Jobs[None]):
    """Checks the files of pressings in workers and records the result of each."""

    def __init__(self, record: Pressings, root: Path, heavy: WorkerPool, events: Events) -> None:
        super().__init__("pressings", events)
        self._record, self._root, self._heavy = record, root, heavy

    def look(self, number: int, files: Iterable[StoredFile]) -> JobState[None] | None:
        """Begins to look for the files of a pressing that were named, unless that is running."""
        wanted = [(file.number, file.report) for file in files if file.state == "named" and file.report]
        if not wanted:
            return None

        def run(work: Work[None]) -> None:
            futures = {
                self._heavy.submit(tasks.look_for_file, one.path, one.bytes, one.sha256, str(self._root)): file
                for file, one in wanted
            }
            for at, (future, file) in enumerate(futures.items()):
                work.tell(at, len(futures))
                while not future.done() and not work.should_stop():
                    wait([future], _LOOK_S)
                # Cancelled futures are those of a pool that was shut down.
                if work.should_stop() or future.cancelled():
                    for left in futures:
                        left.cancel()
                    raise Cancelled("job.cancelled", f"Cancelled after {at} of {len(futures)}.")
                try:
                    found = future.result()
                    self._record.set_found(number, file, found.found, found.path)
                except (RipePressError, OSError) as error:
                    # An unchecked file is not recorded: its earlier result and date are kept.
                    _LOG.warning("file could not be looked for", pressing=number, file=file, why=str(error))

        return self.start(number, run)
