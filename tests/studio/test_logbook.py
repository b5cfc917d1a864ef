"""The log: for a person on the terminal, for machines in a file, and never with a secret in it."""

import io
import json
import logging
import logging.handlers
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio import logbook
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.logbook import keep_log, logger
from ripe_press.studio.studio import Studio
from support.server import arrive, bench, pressed
from support.signals import noise, write


@pytest.fixture
def said(tmp_path: Path) -> Iterator[io.StringIO]:
    terminal = io.StringIO()
    root = logging.getLogger()
    before = list(root.handlers)
    keep_log(tmp_path / "log", terminal)
    yield terminal
    for handler in list(root.handlers):
        root.removeHandler(handler)
        if handler not in before:
            handler.close()
    for handler in before:
        root.addHandler(handler)
    logging.getLogger("ripe_press").setLevel(logging.NOTSET)


def lines(folder: Path) -> list[dict[str, object]]:
    return [json.loads(line) for line in (folder / "log" / logbook.NAME).read_text().splitlines()]


def test_a_person_reads_it_and_a_machine_parses_it(said: io.StringIO, tmp_path: Path) -> None:
    logger("press").info("pressing ended", pressing=7, seconds=1.5, file="Weir “été”\nfake=line.wav")
    try:
        message = "of ours"
        raise ZeroDivisionError(message)
    except ZeroDivisionError:
        logger("press").exception("a fault")
    ended, fault = lines(tmp_path)
    values = {"event": "pressing ended", "pressing": 7, "seconds": 1.5, "level": "info", "logger": "ripe_press.press"}
    assert values.items() <= ended.items()
    assert ended["file"] == "Weir “été”\nfake=line.wav", "a name cannot make a line of its own"
    assert str(ended["timestamp"]).endswith("Z")
    assert "ZeroDivisionError" in json.dumps(fault["exception"])
    shown = said.getvalue()
    assert "pressing ended" in shown
    assert "pressing=7" in shown
    assert "\nfake=line" not in shown


def test_the_newest_megabytes_are_kept(said: io.StringIO, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (file,) = (one for one in logging.getLogger().handlers if isinstance(one, logging.handlers.RotatingFileHandler))
    file.maxBytes = 2_000
    for number in range(400):
        logger("press").info("a line", number=number)
    kept = sorted((tmp_path / "log").iterdir())
    assert len(kept) == 1 + logbook.OLD_FILES
    assert all(path.stat().st_size <= 2_000 for path in kept)
    assert lines(tmp_path)[-1]["number"] == 399


def test_what_happens_is_in_it_and_what_was_sent_is_not(said: io.StringIO, tmp_path: Path) -> None:
    made = make_app(Studio(DataFolder(tmp_path / "data")), ("press.test",), "a-secret-token")
    with TestClient(made, "http://press.test") as client:
        client.headers["Authorization"] = "Bearer a-secret-token"
        mix = arrive(client, str(write(tmp_path / "Weir.wav", noise(9_600), 48_000)))["mix_id"]
        done = client.post("/api/pressings", json={"mix_id": mix, "bench": bench(0, 9_600)}).json()
        pressed(client, done["id"])
        client.get("/api/shelf?token=a-secret-token", headers={"Host": "evil.test"})
        client.get("/api/pressings", params={"find": "something typed"})
    events = [line["event"] for line in lines(tmp_path)]
    wanted = ["file arrived", "pressing begins", "pressing ended", "request refused"]
    assert [one for one in events if one in wanted] == wanted
    for secret in ("a-secret-token", "something typed"):
        assert secret not in said.getvalue()
        assert secret not in json.dumps(lines(tmp_path))


def test_a_full_disk_stops_the_log_and_nothing_else(tmp_path: Path) -> None:
    code = (
        "import resource, sys; from pathlib import Path; from ripe_press.studio.logbook import keep_log, logger;"
        "import signal; signal.signal(signal.SIGXFSZ, signal.SIG_IGN);"
        "keep_log(Path(sys.argv[1])); resource.setrlimit(resource.RLIMIT_FSIZE, (300, 300));"
        "[logger('press').info('a line', number=n) for n in range(100)]; print('went on')"
    )
    done = subprocess.run([sys.executable, "-c", code, str(tmp_path)], capture_output=True, text=True, check=False)
    assert (done.returncode, done.stdout) == (0, "went on\n"), done.stderr
    assert "number=99" in done.stderr, "the terminal still tells"
    assert "Logging error" not in done.stderr
    assert (tmp_path / logbook.NAME).stat().st_size <= 300
