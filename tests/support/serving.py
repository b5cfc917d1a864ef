"""The application as a process of its own, as `ripe-press serve` starts it."""

import json
import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from http.client import HTTPConnection
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit


@dataclass
class Served:
    """A server that runs, the link it printed, and its data folder."""

    process: subprocess.Popen[str]
    link: str
    data: Path

    @property
    def address(self) -> str:
        """Without what follows the port."""
        found = urlsplit(self.link)
        return f"{found.scheme}://{found.netloc}"


def started(data: Path, *options: str, command: str = "serve", **more: Any) -> subprocess.Popen[str]:
    """A server on any free port that begins; ``more`` goes to the process."""
    words = [str(Path(sys.executable).with_name("ripe-press")), command, "--port", "0", "--data", str(data)]
    words += ["--no-browser", *options]
    return subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, **more)


@contextmanager
def served(data: Path, *options: str, command: str = "serve", **more: Any) -> Iterator[Served]:
    """A server until the block ends; it must then end without a signal."""
    process = started(data, *options, command=command, **more)
    assert process.stdout is not None
    line = process.stdout.readline()
    if " at " not in line:
        process.kill()
        raise AssertionError((line, process.communicate()))
    # Its standard error is not read while it runs: a full pipe would stop its log.
    os.set_blocking(process.stderr.fileno(), False)  # type: ignore[union-attr]
    try:
        yield Served(process, line.rpartition(" at ")[2].strip(), data)
    finally:
        if process.poll() is None:
            process.send_signal(signal.SIGTERM)
        try:
            process.communicate(timeout=30)
        except subprocess.TimeoutExpired:
            process.kill()
            process.communicate()
            raise


def asked(server: Served, path: str, method: str = "GET", body: Any = None, **headers: str) -> tuple[int, Any]:
    """Status and body of one answer."""
    line = HTTPConnection(urlsplit(server.address).netloc, timeout=60)
    try:
        text = None if body is None else json.dumps(body)
        line.request(method, path, text, {"Content-Type": "application/json", **headers})
        answer = line.getresponse()
        data = answer.read()
    finally:
        line.close()
    return answer.status, json.loads(data) if "json" in (answer.getheader("Content-Type") or "") else data
