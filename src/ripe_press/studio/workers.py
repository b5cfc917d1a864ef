"""Worker processes behind the standard Executor interface; a crash ends one job and nothing else."""

import ctypes
import multiprocessing
import os
import resource
import signal
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import Executor, Future, ProcessPoolExecutor, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from importlib import import_module
from typing import ParamSpec, TypeVar

from ripe_press.core.errors import Interrupted
from ripe_press.studio.logbook import logger

P = ParamSpec("P")
T = TypeVar("T")

_LOG = logger("workers")
MEMORY_LIMIT_BYTES = 8 << 30
"""Address space of a worker: a damaged file must not take the machine's memory."""


class WorkerPool(Executor):
    """``size`` processes, each fed by a thread of its own, so that two jobs never share a fate.

    A job whose process dies ends with Interrupted ``worker.crashed``; the process is replaced.
    """

    def __init__(self, size: int, name: str) -> None:
        self._threads = ThreadPoolExecutor(size, thread_name_prefix=name)
        self._own = threading.local()
        self._processes: list[ProcessPoolExecutor] = []
        self._lock = threading.Lock()
        self._closed = False

    def submit(self, fn: Callable[P, T], /, *args: P.args, **kwargs: P.kwargs) -> Future[T]:
        """Runs ``fn`` in a worker; it and its arguments must be picklable."""
        return self._threads.submit(lambda: self._run(fn, *args, **kwargs))

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """Ends the workers; running jobs are given up when ``wait`` is false."""
        self._threads.shutdown(wait=False, cancel_futures=True)
        with self._lock:
            self._closed = True
            for process in self._processes:
                for child in list((process._processes or {}).values()):
                    if not wait:
                        child.terminate()
                process.shutdown(wait=wait, cancel_futures=cancel_futures)
        self._threads.shutdown(wait=wait)

    def _run(self, fn: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        process: ProcessPoolExecutor | None = getattr(self._own, "process", None)
        if process is None:
            process = self._start()
        try:
            return process.submit(fn, *args, **kwargs).result()
        except BrokenProcessPool as error:
            self._own.process = None
            with self._lock:
                self._processes.remove(process)
            process.shutdown(wait=False)
            if not self._closed:
                _LOG.error("worker died", work=getattr(fn, "__name__", "?"))
            message = (
                "The process that worked on this ended abruptly: a codec failed in it, or it was ended from outside. "
                "Try again; where it happens again, the file is damaged."
            )
            raise Interrupted("worker.crashed", message) from error

    def _start(self) -> ProcessPoolExecutor:
        context = multiprocessing.get_context("spawn")
        process = ProcessPoolExecutor(1, mp_context=context, initializer=_prepare, initargs=(os.getpid(),))
        self._own.process = process
        with self._lock:
            self._processes.append(process)
        return process


def _prepare(parent: int) -> None:
    """In the new process: limits, and an end when the server is gone."""
    _end_with_parent()
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMIT_BYTES, MEMORY_LIMIT_BYTES))
    signal.signal(signal.SIGINT, signal.SIG_IGN)

    if os.getppid() != parent:
        os._exit(1)

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1.0)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def _end_with_parent() -> None:
    """On Linux the system itself ends this process with its parent, at once: an orphan must give no file its name.

    Source: prctl(2), PR_SET_PDEATHSIG; elsewhere a thread looks once a second.
    """
    if sys.platform == "linux":
        ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)


_PR_SET_PDEATHSIG = 1


def warm_up() -> None:
    """Does in a worker what its first job would otherwise wait for: imports, and loading compiled code."""
    from ripe_press.core.survey import warm_up as compile_kernels

    compile_kernels()


def start_up() -> None:
    """The same for a worker that computes nothing but conversions: the imports alone."""
    import_module("ripe_press.studio.tasks")
