"""Starting the server on this machine alone."""

import socket
from pathlib import Path

import uvicorn

from ripe_press.api.app import STATIC, make_app
from ripe_press.core.errors import Conflict, NotFound
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio

HOST = "127.0.0.1"


def run(folder: DataFolder, port: int, demo_mixes: tuple[Path, ...] = ()) -> None:
    """Serves until it is stopped; port 0 takes any free one.

    Raises: Conflict ``serve.port-taken``, ``data.in-use``; NotFound ``serve.no-page`` before the page was built.
    """
    if not (STATIC / "index.html").is_file():
        message = "The page has not been built yet. Run `make setup` first."
        raise NotFound("serve.no-page", message)
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((HOST, port))
    except OSError as error:
        message = f"Port {port} is taken by another program. Choose one with --port."
        raise Conflict("serve.port-taken", message, port=port) from error
    studio = Studio(folder)
    for path in demo_mixes:
        studio.shelf.fetch_once(path)
    print(f"Ripe Press is at http://{HOST}:{listener.getsockname()[1]}", flush=True)  # noqa: T201
    config = uvicorn.Config(make_app(studio), log_level="warning", timeout_graceful_shutdown=2)
    uvicorn.Server(config).run(sockets=[listener])
