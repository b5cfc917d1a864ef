"""System limits of a process: too low ones are reported in one sentence at the start, low ones are handled."""

import resource
import socket
import time
from contextlib import ExitStack
from pathlib import Path
from urllib.parse import urlsplit

import pytest

from support.server import wait_for
from support.serving import asked, served, started


@pytest.mark.parametrize(
    ("kind", "most", "sentence"),
    [
        (resource.RLIMIT_NOFILE, 64, "Open-file limit 64"),
        (resource.RLIMIT_AS, 1 << 30, "Address space limit 1.0 GiB"),
    ],
)
def test_too_little_is_one_sentence_at_the_start(tmp_path: Path, kind: int, most: int, sentence: str) -> None:
    process = started(tmp_path / "data", preexec_fn=lambda: resource.setrlimit(kind, (most, most)))
    _, said = process.communicate(timeout=60)
    assert process.returncode == 1
    assert sentence in said and "ulimit" in said and "Traceback" not in said
    assert len(said.strip().splitlines()) == 1


def test_a_soft_limit_is_raised_and_a_hard_one_of_memory_kept(tmp_path: Path) -> None:
    def limit() -> None:
        resource.setrlimit(resource.RLIMIT_NOFILE, (64, 1024))
        resource.setrlimit(resource.RLIMIT_AS, (4 << 30, 4 << 30))

    with served(tmp_path / "data", preexec_fn=limit) as server:
        soft = Path(f"/proc/{server.process.pid}/limits").read_text().split("Max open files")[1].split()[0]
        assert soft == "1024"
        assert asked(server, "/api/shelf")[0] == 200


def test_many_pages_with_few_files_do_not_silence_the_interface(tmp_path: Path) -> None:
    """120 event streams at 128 open files: some of them are rejected as too many."""
    with (
        served(tmp_path / "data", preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_NOFILE, (128, 128))) as server,
        ExitStack() as lines,
    ):
        asked(server, "/api/shelf")
        place = urlsplit(server.address)
        for _ in range(120):
            line = lines.enter_context(socket.create_connection((place.hostname, place.port or 0)))
            line.sendall(b"GET /api/events HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
        # Until all are answered, connections above the limit are turned away.
        wait_for(lambda: asked(server, "/api/shelf")[0] == 200)
        for _ in range(20):
            began = time.monotonic()
            assert asked(server, "/api/shelf")[0] == 200
            assert time.monotonic() - began < 10
