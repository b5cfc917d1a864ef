"""Pressings of the command line in the history: seen and steered by the application, and true when they are killed."""

import hashlib
import json
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, pressed, wait_for
from support.signals import noise, write

COMMAND = str(Path(sys.executable).with_name("ripe-press"))


@pytest.fixture
def client(own_data_folder: Path) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(own_data_folder))), OWN) as client:
        yield client


def begun(tmp_path: Path) -> "subprocess.Popen[str]":
    """A command that presses a short mix and one that takes a while."""
    mixes = [
        write(tmp_path / f"{name}.wav", noise(48_000 * seconds, level=0.1), 48_000)
        for name, seconds in (("Weir", 1), ("Long Pound", 150))
    ]
    words = [COMMAND, "press", *map(str, mixes), "--format", "aac", "--out", str(tmp_path / "out")]
    return subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)


def under_way(client: TestClient, done: int = 1) -> dict[str, Any]:
    """The pressing of the command once so much of it is done, and its first file."""

    def ask() -> Any:
        for one in client.get("/api/press").json()["open"]:
            if one["state"] == "running" and one["done"] >= done and one["lines"][0]["state"] == "named":
                return one
        return None

    found: dict[str, Any] = wait_for(ask)
    return found


def test_the_application_shows_holds_and_cancels_a_pressing_of_the_command_line(
    client: TestClient, tmp_path: Path
) -> None:
    command = begun(tmp_path)
    running = under_way(client)
    assert client.patch("/api/press", json={"paused": True}).status_code == 200
    held = client.get(f"/api/pressings/{running['id']}").json()["done"]
    assert command.poll() is None
    client.patch("/api/press", json={"paused": False})
    under_way(client, held + 1)
    assert client.post(f"/api/pressings/{running['id']}/cancel").status_code == 202
    _, said = command.communicate(timeout=60)
    assert (command.returncode, said) == (1, "ripe-press: Cancelled; 1 finished file kept.\n")
    ended = pressed(client, running["id"])
    assert [one["state"] for one in ended["lines"]] == ["named", "cancelled"]
    assert [path.name for path in (tmp_path / "out").iterdir()] == [Path(ended["files"][0]["path"]).name]
    assert client.post(f"/api/pressings/{running['id']}/cancel").status_code == 409


def test_a_killed_command_is_interrupted_in_the_history_and_taken_up_again(client: TestClient, tmp_path: Path) -> None:
    command = begun(tmp_path)
    running = under_way(client)
    command.kill()
    command.communicate(timeout=60)
    looked = subprocess.run([COMMAND, "history", "--json"], capture_output=True, text=True, check=True).stdout
    assert json.loads(looked)["pressings"][0]["state"] == "interrupted"
    (cut,) = client.get("/api/press").json()["open"]
    assert (cut["state"], [one["state"] for one in cut["lines"]]) == ("interrupted", ["named", "queued"])
    assert cut["error"].startswith("Interrupted at ") and cut["error"].endswith("; 1 file kept.")
    kept = Path(cut["files"][0]["path"])
    before = kept.stat().st_mtime_ns
    assert client.post(f"/api/pressings/{running['id']}/go-on").status_code == 202
    done = pressed(client, running["id"])
    assert (done["state"], done["error"]) == ("done", None)
    assert kept.stat().st_mtime_ns == before
    files = {Path(one["path"]): one["sha256"] for one in done["files"]}
    assert set((tmp_path / "out").iterdir()) == set(files)
    assert all(hashlib.sha256(path.read_bytes()).hexdigest() == sha for path, sha in files.items())
