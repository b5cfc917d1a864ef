"""Codec comparisons, running and finished: one for each compared piece of audio."""

import hashlib
import threading
from concurrent.futures import Executor
from pathlib import Path
from typing import Any

from ripe_press.core.engine.resolve import Mix, PlannedFile
from ripe_press.core.ladder import climb
from ripe_press.studio.jobs import Events, JobFolder, Jobs, JobState, Work
from ripe_press.studio.listening.ladder import ladder_report


class Ladders(Jobs[dict[str, Any]]):
    """Compares codecs in a worker, and keeps the results by their audio: range, chain and channels of a mix."""

    def __init__(self, passing: Path, pool: Executor, events: Events) -> None:
        super().__init__("ladders", events)
        self._passing, self._pool = passing, pool
        self._asking = threading.Lock()

    def climb(self, file: PlannedFile, mix: Mix) -> tuple[str, JobState[dict[str, Any]]]:
        """The key and the comparison for the audio of a file; the first request, and one after an error, starts it."""
        path = file.path
        heard = (path.source, path.cut, path.finish, path.channels, path.source.of.facts.content_sum)
        key = hashlib.sha256(repr(heard).encode()).hexdigest()[:16]

        def run(work: Work[dict[str, Any]]) -> dict[str, Any]:
            return work.in_worker(self._pool, self._passing, climb_in_job, file, mix)

        with self._asking:
            state = self.of(key) or self.begin(key, run)
        if state.state in ("failed", "cancelled"):
            self.forget(key)
        return key, state


def climb_in_job(file: PlannedFile, mix: Mix, job: str) -> dict[str, Any]:
    """Encode the passages at every bit rate and report progress; stops on request."""
    folder = JobFolder(Path(job))
    return ladder_report(climb(file.wish, mix, folder.should_stop, folder.report))
