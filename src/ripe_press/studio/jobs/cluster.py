"""Pressing on other machines: the same documents, sent to a Dask scheduler, over a shared folder.

Progress, holding, cancelling and what became of files go through that folder, as they do at home.
"""

import socket
from collections.abc import Callable
from concurrent.futures import Executor, Future
from pathlib import Path
from typing import Any, ParamSpec, TypeVar
from urllib.parse import urlsplit

from ripe_press.core.errors import Conflict, Interrupted, RipePressError, Unsupported
from ripe_press.core.formats.libraries import library_versions
from ripe_press.core.words import quoted
from ripe_press.studio.log import logger

P = ParamSpec("P")
T = TypeVar("T")

_LOG = logger("cluster")
_FIND_SECONDS = 10


class Cluster(Executor):
    """The workers of a Dask scheduler behind the standard Executor interface; a worker that dies ends one job.

    Raises: Unsupported ``cluster.not-installed``; Conflict ``cluster.unreachable``, ``cluster.no-workers``,
    ``cluster.other-libraries`` (the bytes would depend on the machine), ``cluster.no-folder``.
    """

    def __init__(self, address: str, shared: Path) -> None:
        try:
            from distributed import Client
        except ImportError as error:
            message = "Package distributed not installed. Install ripe-press[cluster]."
            raise Unsupported("cluster.not-installed", message) from error
        _look_for(address)
        # The package has no types.
        make: Any = Client
        self._client: Any = make(address, timeout=_FIND_SECONDS, set_as_default=False)
        try:
            self.workers = self._agreed(address, shared)
        except BaseException:
            self._client.close()
            raise
        _LOG.info("cluster joined", scheduler=address, workers=self.workers)

    def submit(self, fn: Callable[P, T], /, *args: P.args, **kwargs: P.kwargs) -> "Future[T]":
        """Runs ``fn`` on any worker, once; where that worker dies it ends with Interrupted ``worker.crashed``."""
        promised: Future[T] = Future()
        promised.set_running_or_notify_cancel()
        asked = self._client.submit(fn, *args, pure=False, retries=0, **kwargs)
        asked.add_done_callback(lambda done: _keep(promised, done))
        return promised

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """Disconnect from the scheduler; queued jobs that have not begun are withdrawn."""
        _ = wait, cancel_futures
        self._client.close()

    def _agreed(self, address: str, shared: Path) -> int:
        """How many workers there are, once all of them have the same libraries and see the same folder."""
        mine = library_versions()
        theirs: dict[str, dict[str, str]] = self._client.run(library_versions)
        if not theirs:
            message = f"The Dask scheduler at {quoted(address)} has no workers. Start one on each machine."
            raise Conflict("cluster.no-workers", message, address=address)
        for worker, versions in theirs.items():
            for name, version in versions.items():
                if mine.get(name) != version:
                    message = (
                        f"Worker {worker} has {name} {version}, this machine {mine.get(name)}: files would differ. "
                        "Install the same lock file everywhere."
                    )
                    raise Conflict("cluster.other-libraries", message, worker=worker)
        for worker, sees in self._client.run(Path.is_dir, shared).items():
            if not sees:
                message = f"The worker {worker} does not see {quoted(shared)}. Share that folder under the same path."
                raise Conflict("cluster.no-folder", message, worker=worker)
        return len(theirs)


def _look_for(address: str) -> None:
    """Return whether a scheduler answers, by a plain connection: a client takes long to give up."""
    try:
        parts = urlsplit(address)
        if parts.scheme not in ("tcp", "tls") or not parts.hostname or not parts.port:
            raise ValueError(address)
        socket.create_connection((parts.hostname, parts.port), timeout=_FIND_SECONDS).close()
    except (OSError, ValueError) as error:
        message = f"No Dask scheduler at {quoted(address)}. Start it or check the address (tcp://host:8786)."
        raise Conflict("cluster.unreachable", message, address=address) from error


def _keep(promised: "Future[Any]", done: Any) -> None:
    """Pass on the result of a job; any other outcome means that its worker is lost, or all of them."""
    error = done.exception() if done.status == "error" else None
    if done.status == "finished":
        promised.set_result(done.result())
    elif isinstance(error, RipePressError | OSError | ArithmeticError | ValueError | TypeError):
        promised.set_exception(error)
    else:
        message = "Worker lost. Try again; if it happens again, the file is damaged."
        _LOG.error("worker died", status=done.status, why=repr(error))
        promised.set_exception(Interrupted("worker.crashed", message))
