"""Recipients that never finish: a whole answer has a time limit, and a pause does not wait for one."""

import socket
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import pytest

from ripe_press.core.errors import Cancelled, Interrupted
from ripe_press.core.sending.drop_off import DropOff
from ripe_press.studio.sending.carriers import carrier_of, intake, mailbox
from ripe_press.studio.sending.carriers.carrier import RunningTransfer
from support.sending import parcel


@contextmanager
def dripping(begins: bytes) -> Iterator[int]:
    """A server that sends one byte after the other, for ever; gives its port."""
    over = threading.Event()
    listener = socket.create_server(("127.0.0.1", 0))

    def drip(line: socket.socket) -> None:
        with line, suppress(OSError):
            line.sendall(begins)
            while not over.wait(0.05):
                line.sendall(b"x")

    def serve() -> None:
        with suppress(OSError):
            while True:
                threading.Thread(target=drip, args=(listener.accept()[0],), daemon=True).start()

    threading.Thread(target=serve, daemon=True).start()
    yield listener.getsockname()[1]
    over.set()
    listener.close()


CASES = [
    ("desk", b"HTTP/1.1 200 OK\r\nContent-Type: application/json\r\n\r\n{"),
    ("desk", b"HTTP/1.1 200 OK\r\nX-"),
    ("desk", b"H"),
    ("mail", b"220-"),
    ("mail", b"220 Mill Lane\r\n250-"),
]


def of_kind(kind: str, port: int) -> DropOff:
    place = f"http://127.0.0.1:{port}" if kind == "desk" else f"inbox@127.0.0.1:{port}"
    return DropOff("Mill Lane", kind, place)  # type: ignore[arg-type]


@pytest.mark.parametrize(("kind", "begins"), CASES)
def test_an_answer_that_drips_has_its_time(
    kind: str, begins: bytes, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for module in (intake, mailbox):
        monkeypatch.setattr(module, "MOST_SECONDS", 0.5)
    with dripping(begins) as port:
        carrier = carrier_of(of_kind(kind, port))
        for ask in (carrier.look, lambda: carrier.carry(parcel(tmp_path / "a.wav", b"plums"), {}, RunningTransfer())):
            began = time.monotonic()
            with pytest.raises(Interrupted, match="incomplete answer after"):
                ask()
            assert time.monotonic() - began < 5


@pytest.mark.parametrize(("kind", "begins"), CASES)
def test_pause_does_not_wait_for_an_answer(kind: str, begins: bytes, tmp_path: Path) -> None:
    held = threading.Event()
    with dripping(begins) as port:
        threading.Timer(0.3, held.set).start()
        carrier = carrier_of(of_kind(kind, port), "", held.is_set)
        began = time.monotonic()
        with pytest.raises(Cancelled):
            carrier.carry(parcel(tmp_path / "a.wav", b"plums"), {}, RunningTransfer(should_stop=held.is_set))
        assert time.monotonic() - began < 5


def test_drop_offs_that_drip_leave_the_interface_alone(tmp_path: Path) -> None:
    from support.serving import asked, served

    with dripping(b"H") as port, served(tmp_path / "data") as server:
        wish: dict[str, Any] = {"drop_off": {"kind": "desk", "place": f"http://127.0.0.1:{port}"}}
        numbers = []
        for at in range(12):
            wish["drop_off"]["name"] = f"Weir {at}"
            numbers.append(asked(server, "/api/drop-offs", "POST", wish)[1]["id"])

        def look(number: int) -> None:
            with suppress(OSError):
                asked(server, f"/api/drop-offs/{number}/look", "POST")

        for number in numbers * 5:
            threading.Thread(target=look, args=(number,), daemon=True).start()
        time.sleep(1)
        began = time.monotonic()
        assert asked(server, "/api/shelf")[0] == 200
        assert time.monotonic() - began < 2
        server.process.terminate()
        began = time.monotonic()
        server.process.communicate(timeout=20)
        assert time.monotonic() - began < 10
