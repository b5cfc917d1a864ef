"""Starting the server on this machine alone."""

import logging
import os
import signal
import socket
import threading
import time
import webbrowser
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from types import FrameType

import uvicorn
from fastapi import FastAPI

from ripe_press.api.app import STATIC, make_app
from ripe_press.api.guard import LOOPBACK, outward_address, own_names, token_of
from ripe_press.api.limits import limits_here
from ripe_press.api.tls import Certificate, given, own
from ripe_press.core.errors import BadInput, Conflict, NotFound
from ripe_press.core.words import quoted
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.demo import StandIns, begin_demo_drop_offs, begin_demo_order
from ripe_press.studio.jobs import end_all_workers
from ripe_press.studio.log import keep_log, logger
from ripe_press.studio.studio import Studio

HOST = "127.0.0.1"
LONGEST_END_S = 3.0
"""Most seconds for an orderly end; after them the process ends by force."""

_LOG = logger("server")


@dataclass(frozen=True, slots=True)
class Encryption:
    """Whether the line is encrypted, and with which certificate; with the studio's own where none is given."""

    encrypted: bool = False
    certificate: Path | None = None
    key: Path | None = None

    def certificate_for(self, root: Path, names: tuple[str, ...]) -> Certificate | None:
        """The certificate that is used; None in the clear."""
        if self.certificate:
            return given(self.certificate, self.key)
        return own(root, names) if self.encrypted else None


IN_THE_CLEAR = Encryption()


def run(
    folder: DataFolder,
    port: int,
    demo_mixes: tuple[Path, ...] = (),
    host: str = HOST,
    names: tuple[str, ...] = (),
    line: Encryption = IN_THE_CLEAR,
    scheduler: str = "",
    browser: bool = False,
) -> None:
    """Serves until it is stopped; port 0 takes any free one. Any ``host`` but this machine's own demands a token,
    and is answered under the machine's addresses and names, and under ``names``.

    With a ``browser`` the page is opened in whichever is usual here, once it is served.

    With a ``scheduler``, ``tcp://…``, pressings go to the workers of a Dask cluster.

    Raises: Conflict ``serve.port-taken``, ``serve.few-files``, ``serve.little-memory``, ``data.in-use``,
    ``cluster.…``; BadInput ``serve.host``, ``serve.token``, ``tls.unreadable``; NotFound ``serve.no-page`` before
    the page was built.
    """
    if not (STATIC / "index.html").is_file():
        message = "Web page not built. Run `make setup`."
        raise NotFound("serve.no-page", message)
    limits = limits_here()
    if line.certificate:
        # Before the start: an unusable file is reported at once.
        given(line.certificate, line.key)
    listener = listen(host, port)
    studio = Studio(folder, scheduler)
    token = "" if host in LOOPBACK else token_of(folder.root)
    log = keep_log(folder.log)
    _LOG.info("serving", host=host, port=listener.getsockname()[1], folder=str(folder.root), log=str(log.path))
    called = (host, *own_names(), *(one.lower() for one in names))
    certificate = line.certificate_for(folder.root, called)
    stand_ins = StandIns()

    def at_last() -> None:
        if not log.closed:
            _LOG.warning("stopped by force", seconds=LONGEST_END_S)
            log.close()
        end_all_workers()

    app = make_app(studio, called if token else (), token)
    app.state.most_streams = limits.streams
    _work_out_routes(app)
    config = uvicorn.Config(
        app, log_config=None, log_level="warning", timeout_graceful_shutdown=1, server_header=False,
        # Longer than a client keeps an idle connection: the one that ends it first never meets a request on its way.
        timeout_keep_alive=65,
        limit_concurrency=limits.connections,
        ssl_certfile=certificate.path if certificate else None, ssl_keyfile=certificate.key if certificate else None,
    )  # fmt: skip
    server = _Server(config, studio.give_up, at_last)
    # A request to end during the start ends it as well.
    with server.capture_signals():
        for path in demo_mixes:
            studio.shelf.fetch_once(path)
        if demo_mixes:
            studio.passes.rack.begin()
            begin_demo_drop_offs(studio.drop_offs, stand_ins, folder.root / "rack")
            begin_demo_order(studio.shelf, studio.orders, studio.stems, demo_mixes, folder.root / "demo" / "order made")
        link = f"/?token={token}" if token else ""
        scheme = "https" if certificate else "http"
        address = f"{scheme}://{_shown(host)}:{listener.getsockname()[1]}{link}"
        if certificate:
            # The part after # stays in the browser: users with the link can compare.
            address += f"{'' if link else '/'}#sha256={certificate.fingerprint}"
        print(f"Ripe Press is running at {address}", flush=True)  # noqa: T201
        if certificate:
            print(f"Certificate fingerprint: {certificate.fingerprint}", flush=True)  # noqa: T201
        if browser:
            # It waits for its answer until the server takes it up.
            threading.Thread(target=webbrowser.open, args=(address,), daemon=True).start()
        server.run(sockets=[listener])
    stand_ins.close()
    _LOG.info("ended")
    log.close()


class _Server(uvicorn.Server):
    """A server that ends in a few seconds: on a request to end, it first rejects all waiting requests.

    Unfinished work loses nothing: it is open in the record, and resumes at the next start.
    """

    def __init__(self, config: uvicorn.Config, give_up: Callable[[], None], at_last: Callable[[], None]) -> None:
        super().__init__(config)
        self._give_up = give_up
        self._at_last = at_last

    @contextmanager
    def capture_signals(self) -> Iterator[None]:
        """Handles the signals that end the server; the base class would raise them again before the cleanup."""
        before = {one: signal.signal(one, self.handle_exit) for one in (signal.SIGINT, signal.SIGTERM)}
        try:
            yield
        finally:
            for one, handler in before.items():
                signal.signal(one, handler)

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        """Begins to end."""
        if not self.should_exit:
            # A disconnected client is not an error.
            logging.getLogger("uvicorn.error").setLevel(logging.CRITICAL)
            threading.Thread(target=self._give_up, daemon=True).start()
            threading.Thread(target=self._force, daemon=True).start()
        super().handle_exit(sig, frame)

    def _force(self) -> None:
        time.sleep(LONGEST_END_S)
        self._at_last()
        os._exit(0)


def _work_out_routes(app: FastAPI) -> None:
    """FastAPI computes the routes at the first request, which would take several tenths of a second."""
    for route in app.routes:
        route.matches({"type": "http", "method": "GET", "path": "/", "root_path": "", "headers": []})


def _shown(host: str) -> str:
    """A host as shown in a link: for all addresses, the one by which other machines reach this one."""
    if host not in ("0.0.0.0", "::"):  # noqa: S104 - the user's choice
        return f"[{host}]" if ":" in host else host
    return outward_address() or socket.gethostname()


def listen(host: str, port: int) -> socket.socket:
    """A listening socket that is named as TCP: only then answers leave at once, without waiting for more to send.

    Raises: Conflict ``serve.port-taken``; BadInput ``serve.host``.
    """
    try:
        family = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)[0][0]
    except OSError as error:
        message = f"{quoted(host)} is not an address of this machine. Choose one with --host or omit it."
        raise BadInput("serve.host", message, host=host) from error
    listener = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((host, port))
        # A request right after the address is shown waits, and is not rejected.
        listener.listen(128)
    except OSError as error:
        listener.close()
        message = f"Port {port} is in use by another program. Choose another with --port."
        raise Conflict("serve.port-taken", message, port=port) from error
    return listener
