"""Background jobs of the application: one kind, whatever they do."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from concurrent.futures import Executor, wait
from dataclasses import dataclass
from pathlib import Path
from typing import Generic, TypeVar

from ripe_press.core.errors import Cancelled, Conflict
from ripe_press.core.words import JobStateName
from ripe_press.studio.error_text import sentence_of
from ripe_press.studio.jobs.events import Events, Topic
from ripe_press.studio.jobs.folder import JobFolder
from ripe_press.studio.log import logger

T = TypeVar("T")
W = TypeVar("W")
_LOG = logger("jobs")
_LOOK_SECONDS = 0.1
_MOST_KEPT = 256


@dataclass(frozen=True, slots=True)
class JobState(Generic[T]):
    """The state of a job: ``done`` of ``total``, in whatever unit, and its step; at its end a result or a sentence."""

    state: JobStateName
    done: int = 0
    total: int = 0
    doing: str = ""
    sentence: str = ""
    result: T | None = None

    @property
    def part(self) -> float:
        """From 0 to 1."""
        return 1.0 if self.state == "done" else self.done / max(1, self.total)


def running(folder: JobFolder) -> JobState[None]:
    """The state of a job that reports to a folder."""
    progress = folder.progress()
    return JobState("running", progress.done, progress.total) if progress else JobState("running")


class Work(Generic[T]):
    """A job from the inside: reports progress, and knows whether to stop."""

    def __init__(self, tell: Callable[[JobState[T]], None]) -> None:
        self._tell = tell
        self._stop = threading.Event()

    def cancel(self) -> None:
        """Ask it to stop."""
        self._stop.set()

    def should_stop(self) -> bool:
        """Whether it was asked to stop."""
        return self._stop.is_set()

    def tell(self, done: int, total: int, doing: str = "") -> None:
        """Report progress."""
        self._tell(JobState("running", done, total, doing))

    def in_worker(self, pool: Executor, passing: Path, run: Callable[..., W], *args: object, follow: bool = True) -> W:
        """Run a function in a worker, with the path of a job folder as its last argument.

        With ``follow`` its progress is that of the job. Raises: as the function; Cancelled ``job.cancelled``.
        """
        folder = JobFolder.make(passing)
        try:
            future = pool.submit(run, *args, str(folder.path))
            # One that was cancelled in its queue is done at once; `wait` alone would wait for its turn.
            while not future.done():
                wait([future], _LOOK_SECONDS)
                if self.should_stop():
                    folder.cancel()
                    future.cancel()
                if follow and (progress := folder.progress()):
                    self.tell(progress.done, progress.total)
            if future.cancelled():
                raise Cancelled("job.cancelled", "Cancelled before it started.")
            return future.result()
        finally:
            folder.clear()


class Jobs(Generic[T]):
    """Runs jobs on threads, one at a time for each key, or for all; the last of each is kept until the end."""

    def __init__(
        self,
        topic: Topic,
        events: Events,
        *,
        alone: bool = False,
        busy: str = "Already running.",
    ) -> None:
        self._topic, self._events, self._alone, self._busy = topic, events, alone, busy
        self._states: OrderedDict[Hashable, JobState[T]] = OrderedDict()
        self._running: dict[Hashable, tuple[Work[T], threading.Thread]] = {}
        self._lock = threading.Lock()

    @property
    def busy(self) -> bool:
        """Whether any runs."""
        with self._lock:
            return bool(self._running)

    def runs(self, key: Hashable) -> bool:
        """Whether the job of a key runs."""
        with self._lock:
            return key in self._running

    def of(self, key: Hashable) -> JobState[T] | None:
        """The last job of a key."""
        with self._lock:
            return self._states.get(key)

    def begin(self, key: Hashable, run: Callable[[Work[T]], T]) -> JobState[T]:
        """Start a job. Raises: Conflict ``job.running``."""
        with self._lock:
            if key in self._running or (self._alone and self._running):
                raise Conflict("job.running", self._busy)
            return self._begin(key, run)

    def start(self, key: Hashable, run: Callable[[Work[T]], T]) -> JobState[T]:
        """The job of a key where it runs, otherwise a new one."""
        with self._lock:
            return self._states.get(key, JobState("running")) if key in self._running else self._begin(key, run)

    def once(self, key: Hashable, run: Callable[[Work[T]], T]) -> JobState[T]:
        """The job of a key, started if there is none; one without a result is returned once, then started again."""
        with self._lock:
            state = self._states.get(key)
            if state is None:
                return self._begin(key, run)
            if state.state in ("failed", "cancelled"):
                del self._states[key]
            return state

    def _begin(self, key: Hashable, run: Callable[[Work[T]], T]) -> JobState[T]:
        """Under the lock."""
        work: Work[T] = Work(lambda state: self._set(key, state))
        thread = threading.Thread(target=self._run, args=(key, run, work), name=self._topic, daemon=True)
        self._running[key] = work, thread
        state: JobState[T] = JobState("running")
        self._states[key] = state
        self._states.move_to_end(key)
        while len(self._states) > _MOST_KEPT:
            self._states.popitem(last=False)
        thread.start()
        self._events.publish(self._topic)
        return state

    def cancel(self, key: Hashable) -> bool:
        """Ask a job to stop; whether it runs."""
        with self._lock:
            running = self._running.get(key)
        if running:
            running[0].cancel()
        return running is not None

    def forget(self, key: Hashable) -> None:
        """Drop the state of a job that has ended."""
        with self._lock:
            if key not in self._running:
                self._states.pop(key, None)

    def close(self, seconds: float = 10.0) -> None:
        """Ask all to stop, and wait a while for them."""
        with self._lock:
            running = list(self._running.values())
        for work, _ in running:
            work.cancel()
        for _, thread in running:
            thread.join(seconds)

    def _run(self, key: Hashable, run: Callable[[Work[T]], T], work: Work[T]) -> None:
        try:
            result = run(work)
            with self._lock:
                total = self._states[key].total if key in self._states else 0
            state: JobState[T] = JobState("done", total, total, result=result)
        except Cancelled as error:
            state = JobState("cancelled", sentence=error.message)
        except Exception as error:
            # An unexpected error is in the log, too.
            state = JobState("failed", sentence=sentence_of(error))
        _LOG.info("job ended", topic=self._topic, key=str(key), state=state.state, why=state.sentence)
        with self._lock:
            self._states[key] = state
            del self._running[key]
        self._events.publish(self._topic)

    def _set(self, key: Hashable, state: JobState[T]) -> None:
        with self._lock:
            if key in self._states:
                self._states[key] = state
