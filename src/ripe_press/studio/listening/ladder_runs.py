"""Codec comparisons, running and finished: one for each compared piece of audio."""

import hashlib
import threading
from collections import OrderedDict
from concurrent.futures import CancelledError, Executor, Future
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal

from ripe_press.core.engine.resolve import Mix, PlannedFile
from ripe_press.core.errors import NotFound
from ripe_press.core.ladder import climb
from ripe_press.studio.error_text import sentence_of
from ripe_press.studio.jobs.events import Events
from ripe_press.studio.jobs.folder import JobFolder
from ripe_press.studio.listening.ladder import ladder_report

LadderState = Literal["climbing", "done", "failed"]
_MOST_KEPT = 64


@dataclass(frozen=True, slots=True)
class LadderRun:
    """A ladder: how far it is from 0 to 1, the report once it is *done*, a sentence where it *failed*."""

    id: str
    state: LadderState
    part: float = 0.0
    sentence: str = ""
    report: dict[str, Any] | None = None


@dataclass(slots=True)
class _Climb:
    future: Future[dict[str, Any]]
    job: JobFolder
    ended: bool = field(default=False)


class Ladders:
    """Runs comparisons in a worker, and keeps the results by their audio: range, chain and channels of a mix."""

    def __init__(self, passing: Path, pool: Executor, events: Events) -> None:
        self._passing, self._pool, self._events = passing, pool, events
        self._kept: OrderedDict[str, _Climb] = OrderedDict()
        self._lock = threading.Lock()

    @property
    def busy(self) -> bool:
        """Whether one is being climbed."""
        with self._lock:
            return any(not one.ended for one in self._kept.values())

    def of(self, file: PlannedFile, mix: Mix) -> LadderRun:
        """Return the comparison for the audio of a file; it starts at the first request."""
        path = file.path
        heard = (path.source, path.cut, path.finish, path.channels, path.source.of.facts.content_sum)
        key = hashlib.sha256(repr(heard).encode()).hexdigest()[:16]
        with self._lock:
            begun = key not in self._kept
            if begun:
                job = JobFolder.make(self._passing)
                self._kept[key] = _Climb(self._pool.submit(climb_in_job, file, mix, str(job.path)), job)
                while len(self._kept) > _MOST_KEPT:
                    self._kept.popitem(last=False)
            one = self._kept[key]
        if begun:
            # Listeners are notified of the start; outside the lock, because it may have ended already.
            self._events.publish("ladders")
            one.future.add_done_callback(lambda _: self._end(key, one))
        return self._told(key, one)

    def cancel(self, key: str) -> None:
        """Stops one that is being climbed. Raises: NotFound ``ladder.unknown``."""
        with self._lock:
            one = self._kept.get(key)
        if one is None:
            message = "Bit-rate ladder not found. Start it again."
            raise NotFound("ladder.unknown", message, ladder=key)
        one.job.cancel()
        one.future.cancel()

    def _told(self, key: str, one: _Climb) -> LadderRun:
        if not one.future.done():
            progress = one.job.progress()
            return LadderRun(key, "climbing", progress.done / max(1, progress.total) if progress else 0.0)
        try:
            report = one.future.result()
        except CancelledError:
            self._forget(key)
            return LadderRun(key, "failed", sentence="Cancelled before it started.")
        except Exception as error:
            self._forget(key)
            return LadderRun(key, "failed", sentence=sentence_of(error))
        return LadderRun(key, "done", 1.0, report["sentence"], report)

    def _forget(self, key: str) -> None:
        """Asked for once more, it is tried once more."""
        with self._lock:
            self._kept.pop(key, None)

    def _end(self, key: str, one: _Climb) -> None:
        one.ended = True
        one.job.clear()
        if one.future.cancelled():
            self._forget(key)
        self._events.publish("ladders")


def climb_in_job(file: PlannedFile, mix: Mix, job: str) -> dict[str, Any]:
    """Encode the passages at every bit rate and report progress; stops on request."""
    folder = JobFolder(Path(job))
    return ladder_report(climb(file.wish, mix, folder.should_stop, folder.report))
