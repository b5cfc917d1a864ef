"""SIGTERM and Ctrl+C end the application in seconds, whatever it is at, and without a word on standard error."""

import signal
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from itertools import cycle
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from support.server import bench, wait_for
from support.serving import Served, asked, served
from support.signals import noise, write

pytestmark = pytest.mark.quiet
LONGEST_S = 5.0


@pytest.fixture(scope="module")
def long_mix(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return write(tmp_path_factory.mktemp("mix") / "Weir.wav", noise(48_000 * 120).astype(np.float32), 48_000)


def arrived(server: Served, mix: Path) -> int:
    arrival = asked(server, "/api/arrivals/path", "POST", {"path": str(mix)})[1][0]["id"]
    found = wait_for(lambda: (one := asked(server, f"/api/arrivals/{arrival}")[1])["state"] != "running" and one)
    return int(found["mix_id"])


def idle(_server: Served, _mix: Path) -> None:
    pass


def reading(server: Served, mix: Path) -> None:
    asked(server, "/api/arrivals/path", "POST", {"path": str(mix)})
    time.sleep(0.3)


def pressing(server: Served, mix: Path) -> None:
    lines = [
        {"id": f"d{at}", "brief": "blank", "range_id": "r0", "changes": {"container": kind}}
        for at, kind in enumerate(("flac", "opus", "mp3", "wav"))
    ]
    wish = bench(0, 48_000 * 120, ticket=lines)
    asked(server, "/api/pressings", "POST", {"mix_id": arrived(server, mix), "bench": wish})
    time.sleep(0.5)


def in_background(server: Served, path: str, body: Any) -> None:
    def ask() -> None:
        with suppress(OSError, ValueError):
            asked(server, path, "POST", body)

    threading.Thread(target=ask, daemon=True).start()


def trying_codecs(server: Served, mix: Path) -> None:
    number = arrived(server, mix)
    for kbps in (96, 128, 160, 192, 256, 320):
        line = {"id": "d0", "brief": "blank", "range_id": "r0", "changes": {"container": "mp3", "kbps": kbps}}
        in_background(
            server, f"/api/mixes/{number}/trial", {"id": "d0", "bench": bench(0, 48_000 * 120, ticket=[line])}
        )
    time.sleep(0.5)


def open_streams(server: Served, _mix: Path) -> None:
    place = server.address.partition("//")[2].partition(":")
    for _ in range(20):
        line = socket.create_connection((place[0], int(place[2])))
        line.sendall(b"GET /api/events HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
        OPEN.append(line)


def half_an_upload(server: Served, _mix: Path) -> None:
    place = server.address.partition("//")[2].partition(":")
    line = socket.create_connection((place[0], int(place[2])))
    line.sendall(
        b"POST /api/arrivals/upload?name=Weir.wav HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 9999999\r\n\r\nRIFF"
    )
    OPEN.append(line)
    time.sleep(0.2)


OPEN: list[socket.socket] = []
STATES = (idle, reading, pressing, pressing, trying_codecs, open_streams, half_an_upload)


@pytest.fixture(autouse=True)
def lines_closed() -> Iterator[None]:
    yield
    while OPEN:
        OPEN.pop().close()


@pytest.mark.parametrize(("state", "told"), list(zip(STATES, cycle((signal.SIGTERM, signal.SIGINT)), strict=False)))
def test_it_ends_in_seconds(tmp_path: Path, long_mix: Path, state: Any, told: signal.Signals) -> None:
    with served(tmp_path / "data") as server:
        state(server, long_mix)
        began = time.monotonic()
        server.process.send_signal(told)
        _, said = server.process.communicate(timeout=60)
        assert time.monotonic() - began < LONGEST_S
    assert server.process.returncode == 0
    assert "Traceback" not in said and "leaked" not in said, said
