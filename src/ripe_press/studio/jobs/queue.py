"""The queue of pressings, in the order of the record."""

import threading
from collections.abc import Callable
from pathlib import Path

from ripe_press.core.errors import Conflict
from ripe_press.store.pressings import Pressings
from ripe_press.store.settings import Settings
from ripe_press.studio.jobs.folder import JobFolder, JobProgress
from ripe_press.studio.log import logger

_LOG = logger("press")
_AGAIN_SECONDS = 0.5
_PAUSED = "press.paused"


class PressQueue:
    """Starts the next pressing, one at a time or as many as there are machines; none while the queue is paused.

    On one machine one after the other: it has one disk. Whether the line is paused outlives the application.
    """

    def __init__(
        self,
        record: Pressings,
        settings: Settings,
        passing: Path,
        run: Callable[[int, JobFolder], None],
        at_once: int = 1,
    ) -> None:
        self._record, self._settings, self._passing, self._run = record, settings, passing, run
        self._lock = threading.Lock()
        self._wake = threading.Event()
        self._closing = threading.Event()
        self._running: dict[int, JobFolder] = {}
        self._threads = [
            threading.Thread(target=self._work, name=f"press-line-{at}", daemon=True) for at in range(at_once)
        ]

    def begin(self) -> None:
        """Start pressing queued jobs."""
        for thread in self._threads:
            thread.start()

    def close(self) -> None:
        """Nothing more is taken."""
        self._closing.set()
        self._wake.set()

    def wait(self, seconds: float) -> None:
        """Waits for a while until what ran is given up: its worker has ended by then."""
        for thread in self._threads:
            if thread.ident:
                thread.join(seconds)

    @property
    def paused(self) -> bool:
        """Return whether the queue is paused."""
        return self._settings.get(_PAUSED, "no") == "yes"

    def pause(self) -> None:
        """Pause the running pressing at its next block, and start no other."""
        with self._lock:
            self._settings.set(_PAUSED, "yes")
            for job in self._running.values():
                job.hold()

    def go_on(self) -> None:
        """Resume paused pressings, and start the next one."""
        with self._lock:
            self._settings.set(_PAUSED, "no")
            for job in self._running.values():
                job.release()
        self.wake()

    def wake(self) -> None:
        """Says that there may be something to take."""
        self._wake.set()

    @property
    def busy(self) -> bool:
        """Whether anything is being pressed."""
        with self._lock:
            return bool(self._running)

    def progress(self, number: int) -> JobProgress | None:
        """How far it is, while it is being pressed."""
        with self._lock:
            job = self._running.get(number)
        return job.progress() if job else None

    def cancel(self, number: int) -> bool:
        """Cancel a running pressing at its next block, or a queued one at once; return whether there was one."""
        with self._lock:
            if job := self._running.get(number):
                job.cancel()
                return True
            return self._record.take_out(number, "Removed from the queue before it started.")

    def _work(self) -> None:
        while not self._closing.is_set():
            self._wake.clear()
            try:
                taken = self._take()
            except Conflict:
                # Another program has locked the record: the pressing stays queued and starts as soon as possible.
                self._closing.wait(_AGAIN_SECONDS)
                continue
            if taken is None:
                self._wake.wait()
                continue
            # There may be more for the others.
            self._wake.set()
            number, job = taken
            try:
                self._run(number, job)
            except Exception:
                # The next one is pressed all the same; this one is taken up again at the next start.
                _LOG.exception("pressing was given up", pressing=number)
            finally:
                with self._lock:
                    del self._running[number]
                job.clear()

    def _take(self) -> tuple[int, JobFolder] | None:
        with self._lock:
            number = None if self.paused else self._record.take_next()
            if number is None:
                return None
            self._running[number] = JobFolder.make(self._passing)
            return number, self._running[number]
