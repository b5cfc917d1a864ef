"""Events of a real server: changes arrive without a request, and an abandoned stream ends."""

import http.client
import json
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from queue import Queue
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, wait_for
from support.signals import noise, write

COMMAND = str(Path(sys.executable).with_name("ripe-press"))


@pytest.fixture
def port(tmp_path: Path) -> Iterator[int]:
    words = [COMMAND, "serve", "--port", "0", "--data", str(tmp_path / "data")]
    process = subprocess.Popen(words, stdout=subprocess.PIPE, text=True)
    assert process.stdout
    with process.stdout:
        yield int(process.stdout.readline().rsplit(":", 1)[1])
        began = time.monotonic()
        process.terminate()
        process.wait(60)
    assert time.monotonic() - began < 40, "an open stream keeps the server from ending"


@contextmanager
def listening(port: int) -> "Iterator[Queue[str]]":
    """The names of events as they come; at the end the line is simply cut."""
    line = socket.create_connection(("127.0.0.1", port), timeout=60)
    line.sendall(b"GET /api/events HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
    heard: Queue[str] = Queue()

    def read() -> None:
        with suppress(OSError, ValueError), line.makefile("rb") as file:
            for part in file:
                if part.startswith(b"event:"):
                    heard.put(part.split(b":")[1].strip().decode())

    thread = threading.Thread(target=read, daemon=True)
    thread.start()
    assert heard.get(timeout=10) == "here"
    yield heard
    line.shutdown(socket.SHUT_RDWR)
    thread.join(10)
    line.close()


def ask(port: int, path: str, body: str) -> None:
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    connection.request("POST", path, body, {"Content-Type": "application/json"})
    assert connection.getresponse().status == 202
    connection.close()


def told(port: int) -> Any:
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    connection.request("GET", "/api/shelf")
    found = json.load(connection.getresponse())
    connection.close()
    return found


def test_changes_of_shelf_and_pressings_are_events(port: int, tmp_path: Path) -> None:
    mix = write(tmp_path / "Weir.wav", noise(48_000 * 2).astype(np.float32), 48_000)
    with listening(port) as heard:
        time.sleep(0.8)
        assert heard.empty(), "nothing has happened"
        ask(port, "/api/arrivals/path", f'{{"path": "{mix}"}}')
        assert heard.get(timeout=10) == "shelf"
        wait_for(lambda: told(port)["mixes"] and not told(port)["arrivals"])
        time.sleep(1)
        while not heard.empty():
            heard.get()
        ask(port, "/api/pressings/batch", '{"mix_ids": [1], "briefs": ["audio-cd"]}')
        assert heard.get(timeout=10) == "pressings"
        began = time.monotonic()
        wait_for(lambda: told(port)["mixes"][0]["pressed_at"])
        time.sleep(1)
        assert heard.qsize() <= 5 * (time.monotonic() - began + 1), "at most four times a second"
        while not heard.empty():
            heard.get()
        time.sleep(1)
        assert heard.empty(), "once all is done, nothing more is told"


def test_a_hundred_listeners_that_break_off_leave_nothing_behind(port: int) -> None:
    for _ in range(100):
        with listening(port):
            pass
    with listening(port) as heard:
        assert heard.empty()


def test_unchanged_shelf_is_answered_not_modified(tmp_path: Path) -> None:
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        first = client.get("/api/shelf")
        tag = {"If-None-Match": first.headers["ETag"]}
        assert client.get("/api/shelf", headers=tag).status_code == 304
        number = arrive(client, str(write(tmp_path / "Weir.wav", noise(48_000), 48_000)))["mix_id"]
        second = client.get("/api/shelf", headers=tag)
        assert [mix["title"] for mix in second.json()["mixes"]] == ["Weir"]
        tag = {"If-None-Match": second.headers["ETag"]}
        own = client.get(f"/api/mixes/{number}").json()["bench"]
        own["ranges"][0]["end_frame"] = 24_000
        client.put(f"/api/mixes/{number}/bench", json=own)
        third = client.get("/api/shelf", headers=tag)
        assert third.json()["mixes"][0]["end_frame"] == 24_000
