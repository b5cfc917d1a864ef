"""Worker processes behind the standard Executor interface; a crash ends one job only."""

import multiprocessing
import os
import resource
import signal
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import CancelledError, Executor, Future, ProcessPoolExecutor, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from multiprocessing.forkserver import _forkserver as _FORKSERVER  # noqa: N812 - it has no public interface
from typing import ParamSpec, TypeVar

from ripe_press.core.errors import Interrupted
from ripe_press.core.processes import end_with_parent
from ripe_press.studio.log import logger

P = ParamSpec("P")
T = TypeVar("T")

_LOG = logger("workers")
_PAUSES_S = (0.0, 0.05, 0.2, 0.5, 1.0, 2.0)
MEMORY_LIMIT_BYTES = 8 << 30
"""Address space of a worker: a damaged file must not take the machine's memory."""


class WorkerPool(Executor):
    """``size`` processes, each fed by a thread of its own, so that two jobs never share a fate.

    A job whose process dies ends with Interrupted ``worker.crashed``; the process is replaced. One that was ended while
    it had nothing to do is replaced too, and no job hears of it. After `shutdown`, running, queued and new jobs all end
    with Interrupted ``worker.closing``.
    """

    def __init__(self, size: int, name: str) -> None:
        self._threads = ThreadPoolExecutor(size, thread_name_prefix=name)
        self._own = threading.local()
        self._processes: list[ProcessPoolExecutor] = []
        self._lock = threading.Lock()
        self._closed = False

    def submit(self, fn: Callable[P, T], /, *args: P.args, **kwargs: P.kwargs) -> Future[T]:
        """Runs ``fn`` in a worker; it and its arguments must be picklable."""
        try:
            return self._threads.submit(lambda: self._run(fn, *args, **kwargs))
        except RuntimeError as error:
            raise _closing() from error

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """Ends the workers; running jobs are given up when ``wait`` is false."""
        self._threads.shutdown(wait=False)
        with self._lock:
            self._closed = True
            for process in self._processes:
                for child in list((process._processes or {}).values()):
                    if not wait:
                        child.terminate()
                process.shutdown(wait=wait, cancel_futures=cancel_futures)
        self._threads.shutdown(wait=wait)

    def _run(self, fn: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        try:
            return self._taken(fn, *args, **kwargs).result()
        except CancelledError as error:
            raise _closing() from error
        except BrokenProcessPool as error:
            self._leave()
            if self._closed:
                raise _closing() from error
            _LOG.error("worker died", work=getattr(fn, "__name__", "?"))
            message = "Worker lost. Try again; if it happens again, the file is damaged."
            raise Interrupted("worker.crashed", message) from error

    def _taken(self, fn: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> Future[T]:
        """The job with a process that took it. One that was ended while it had nothing to do is replaced, and so is
        the one that all come from: this job has no part in that.
        """
        for pause_s in _PAUSES_S:
            try:
                return self._given(fn, *args, **kwargs)
            except (BrokenProcessPool, OSError, EOFError) as error:
                self._leave()
                _LOG.warning("worker restarted", why=type(error).__name__)
                time.sleep(pause_s)
        message = "Cannot start a worker process. Close other programs and try again."
        raise Interrupted("worker.none", message)

    def _given(self, fn: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> Future[T]:
        try:
            return self._process().submit(fn, *args, **kwargs)
        except (BrokenProcessPool, OSError, EOFError):
            raise
        except RuntimeError as error:
            # It was shut down since it was looked up.
            raise _closing() from error

    def _process(self) -> ProcessPoolExecutor:
        """The process of the thread that asks, begun where it has none."""
        with self._lock:
            if self._closed:
                raise _closing()
            process: ProcessPoolExecutor | None = getattr(self._own, "process", None)
            if process is None:
                process = self._own.process = ProcessPoolExecutor(1, mp_context=_FROM, initializer=_prepare)
                self._processes.append(process)
            return process

    def _leave(self) -> None:
        process: ProcessPoolExecutor = self._own.process
        self._own.process = None
        with self._lock:
            self._processes.remove(process)
        process.shutdown(wait=False)


def _closing() -> Interrupted:
    return Interrupted("worker.closing", "Ripe Press is shutting down. Try again after the restart.")


READIED = "ripe_press.studio.worker_preload"
_FROM = multiprocessing.get_context("forkserver")
"""Workers are forked from one process that has imported and compiled already what they need, and shares it."""
_FROM.set_forkserver_preload([READIED])


# Where the application is ended by force, semaphores of its pools are left; they are cleared away without a word.
sys.warnoptions.append("ignore:resource_tracker:UserWarning")


def end_all_workers() -> None:
    """Ends at once the process that all workers come from, and with it all of them, whatever they are at."""
    server = getattr(_FORKSERVER, "_forkserver_pid", None)
    if server:
        with suppress(ProcessLookupError):
            os.kill(server, signal.SIGKILL)


def _prepare() -> None:
    """In the new process: limits, and an end when the server is gone."""
    end_with_parent()
    most = resource.getrlimit(resource.RLIMIT_AS)[1]
    most = MEMORY_LIMIT_BYTES if most == resource.RLIM_INFINITY else min(most, MEMORY_LIMIT_BYTES)
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def server_is_gone() -> bool:
    """Whether the process that this one works for has ended; false where it works for none."""
    server = multiprocessing.parent_process()
    return server is not None and not server.is_alive()


def begin() -> None:
    """Does nothing; the first job of a worker starts its process."""
