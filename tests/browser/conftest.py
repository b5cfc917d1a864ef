"""The real page in headless Chromium, against the real server on a temporary data folder."""

import json
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from ripe_press.studio.live.rack import VARIABLE
from ripe_press.studio.log import NAME
from support.signals import sine, write

COMMAND = str(Path(sys.executable).with_name("ripe-press"))
QUIET = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
]


RACK_PORTS = (18_241, 18_242)
"""Where the rack of these tests is looked for."""


# A machine that is busy with other things is slow, not wrong.
expect.set_options(timeout=20_000)


class Server:
    """The application as `ripe-press serve` starts it; it can be ended and started again."""

    def __init__(self, data: Path) -> None:
        self._data = data
        self._port = 0
        self.start()

    def start(self) -> None:
        environment = {**os.environ, VARIABLE: ",".join(f"127.0.0.1:{port}" for port in RACK_PORTS)}
        words = [COMMAND, "serve", "--port", str(self._port), "--data", str(self._data)]
        self._process = subprocess.Popen(words, stdout=subprocess.PIPE, text=True, env=environment)
        assert self._process.stdout
        self.address = self._process.stdout.readline().split()[-1]
        self._port = int(self.address.rsplit(":", 1)[1])

    def stop(self) -> None:
        self._process.terminate()
        self._process.wait(20)
        assert self._process.stdout
        self._process.stdout.close()


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    folder = tmp_path_factory.mktemp("browser")
    made = Server(folder)
    yield made
    # What the page forgives, a person reading the log would not. Streams that are open while it is stopped are cut.
    log = (json.loads(line) for line in (folder / "log" / NAME).read_text().splitlines())
    wrong = [one for one in log if one["level"] in ("error", "critical") and "graceful shutdown" not in one["event"]]
    made.stop()
    assert wrong == []


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
        yield opened
        opened.close()


@pytest.fixture(scope="session")
def context(browser: Browser, server: Server) -> Iterator[BrowserContext]:
    """One for all tests of a worker: the scripts of the page are loaded and compiled once."""
    made = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address, accept_downloads=True)
    made.set_default_timeout(30_000)
    # A new mix opens as on a new installation, whatever another test pressed last.
    assert made.request.put("/api/sets/default", data={"name": "CD and archive"}).ok
    # Tests start comparisons when they need them.
    assert made.request.patch("/api/press", data={"compares_idle": False}).ok
    yield made
    made.close()


@pytest.fixture
def page(context: BrowserContext) -> Iterator[Page]:
    opened = context.new_page()
    # Nothing that an earlier test left in the browser.
    opened.goto("/icon.svg")
    opened.evaluate("localStorage.clear(); sessionStorage.clear()")
    problems: list[str] = []
    opened.on("pageerror", lambda error: problems.append(str(error)))
    yield opened
    # A test that failed while the press was paused fails alone: the tests behind it share this server.
    opened.request.patch("/api/press", data={"paused": False})
    context.set_offline(False)
    for one in context.pages:
        one.close()
    assert problems == []


@pytest.fixture(scope="session")
def millrace(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Four seconds at 96 kHz: silence, a tone with an over in it, silence."""
    samples = np.concatenate((np.zeros((96_000, 2)), sine(441, 2.0, 96_000, 0.5), np.zeros((96_000, 2))))
    samples[200_000:200_003, 1] = -1.2
    return write(tmp_path_factory.mktemp("mixes") / "Millrace.wav", samples, 96_000)
