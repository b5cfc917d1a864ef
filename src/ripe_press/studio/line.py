"""The line: what waits to be pressed, one after the other, in the order that the record keeps."""

import threading
from collections.abc import Callable
from pathlib import Path

from ripe_press.core.errors import Conflict
from ripe_press.store.pressings import Pressings
from ripe_press.store.settings import Settings
from ripe_press.studio.jobs import JobFolder, JobProgress
from ripe_press.studio.logbook import logger

_LOG = logger("press")
_AGAIN_SECONDS = 0.5
_PAUSED = "press.paused"


class Line:
    """One thread that takes what is next; what is taken holds while the line is paused, and goes on where it was.

    One at a time and in order: names are settled when a pressing begins, and the machine has one disk. Whether the
    line is paused outlives the application.
    """

    def __init__(
        self, record: Pressings, settings: Settings, passing: Path, run: Callable[[int, JobFolder], None]
    ) -> None:
        self._record, self._settings, self._passing, self._run = record, settings, passing, run
        self._lock = threading.Lock()
        self._wake = threading.Event()
        self._closing = threading.Event()
        self._running: tuple[int, JobFolder] | None = None
        self._thread = threading.Thread(target=self._work, name="press-line", daemon=True)
        self._begun = False

    def begin(self) -> None:
        """From here on what waits is pressed."""
        self._begun = True
        self._thread.start()

    def close(self) -> None:
        """Nothing more is taken."""
        self._closing.set()
        self._wake.set()

    def wait(self, seconds: float) -> None:
        """Waits for a while until what ran is given up: its worker has ended by then."""
        if self._begun:
            self._thread.join(seconds)

    @property
    def paused(self) -> bool:
        """Whether it was paused and not let go on yet."""
        return self._settings.get(_PAUSED, "no") == "yes"

    def pause(self) -> None:
        """Holds what runs at its next block, and takes nothing more."""
        with self._lock:
            self._settings.set(_PAUSED, "yes")
            if self._running:
                self._running[1].hold()

    def go_on(self) -> None:
        """Lets what is held go on, and takes what is next."""
        with self._lock:
            self._settings.set(_PAUSED, "no")
            if self._running:
                self._running[1].release()
        self.wake()

    def wake(self) -> None:
        """Says that there may be something to take."""
        self._wake.set()

    @property
    def running(self) -> int | None:
        """The number of what is being pressed."""
        with self._lock:
            return self._running[0] if self._running else None

    def progress(self, number: int) -> JobProgress | None:
        """How far it is, while it is being pressed."""
        with self._lock:
            job = self._running[1] if self._running and self._running[0] == number else None
        return job.progress() if job else None

    def cancel(self, number: int) -> bool:
        """Ends what runs at its next block, and what waits at once; whether there was anything to end."""
        with self._lock:
            if self._running and self._running[0] == number:
                self._running[1].cancel()
                return True
            return self._record.take_out(number, "It was taken out of the line before anything was made.")

    def _work(self) -> None:
        while not self._closing.is_set():
            self._wake.clear()
            try:
                taken = self._take()
            except Conflict:
                # Another program holds the record: what waits goes on waiting, and is taken as soon as it can be.
                self._closing.wait(_AGAIN_SECONDS)
                continue
            if taken is None:
                self._wake.wait()
                continue
            try:
                self._run(*taken)
            except Exception:
                # The next one is pressed all the same; this one is taken up again at the next start.
                _LOG.exception("pressing was given up", pressing=taken[0])
            finally:
                with self._lock:
                    self._running = None
                taken[1].clear()

    def _take(self) -> tuple[int, JobFolder] | None:
        with self._lock:
            number = None if self.paused else self._record.take_next()
            if number is None:
                return None
            self._running = number, JobFolder.make(self._passing)
            return self._running
