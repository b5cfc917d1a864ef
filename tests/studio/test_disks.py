"""Disks that are full, missing, locked or read-only: one sentence each, no partial file, and a resume afterwards.

Small file systems are mounted for it, which needs the right to do so; elsewhere these tests are left out.
"""

import shutil
import sqlite3
import subprocess
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.disk import UNFINISHED
from ripe_press.store import db
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed, settled, wait_for
from support.signals import noise, write

pytestmark = pytest.mark.slow
SECONDS = 30
Mount = Callable[[Path, str], None]


@pytest.fixture
def mount() -> Iterator[Mount]:
    """Mount a small file system, or remount it with other options."""
    mounted: list[Path] = []

    def make(place: Path, options: str) -> None:
        place.mkdir(parents=True, exist_ok=True)
        if place not in mounted:
            if subprocess.run(["mount", "-t", "tmpfs", "-o", options, "tmpfs", place], check=False).returncode:
                pytest.skip("file systems cannot be mounted here")
            mounted.append(place)
        else:
            subprocess.run(["mount", "-o", f"remount,{options}", place], check=True)

    yield make
    for place in reversed(mounted):
        subprocess.run(["umount", "-l", place], check=True)


@pytest.fixture
def folder(tmp_path: Path) -> DataFolder:
    return DataFolder(tmp_path / "data")


@pytest.fixture
def client(folder: DataFolder) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(folder)), OWN, raise_server_exceptions=False) as client:
        yield client


def asked(client: TestClient, tmp_path: Path) -> dict[str, Any]:
    path = write(tmp_path / "Weir.wav", noise(48_000 * SECONDS).astype(np.float32), 48_000)
    kinds = [("d0", {"container": "wav"}), ("d1", {"container": "opus", "kbps": 64}), ("d2", {"container": "flac"})]
    lines = [{"id": name, "brief": "blank", "range_id": "r0", "changes": changes} for name, changes in kinds]
    set_out = {**bench(0, 48_000 * SECONDS), "ticket": lines, "tags": [["title", "Weir"]]}
    return {"mix_id": arrive(client, str(path))["mix_id"], "bench": set_out}


def press(client: TestClient, wish: dict[str, Any]) -> dict[str, Any]:
    answer = client.post("/api/pressings", json=wish)
    assert answer.status_code == 202, answer.text
    return pressed(client, answer.json()["id"])


def states(pressing: dict[str, Any]) -> list[str]:
    return [line["state"] for line in pressing["lines"]]


def leftovers(folder: DataFolder) -> list[Path]:
    return list(folder.root.rglob(f"*{UNFINISHED}"))


def test_full_drop_off_fails_and_resumes_with_room(
    client: TestClient, folder: DataFolder, mount: Mount, tmp_path: Path
) -> None:
    mount(folder.pressed / "Weir", "size=2m")
    done = press(client, asked(client, tmp_path))
    assert (done["state"], states(done)) == ("done", ["failed", "named", "failed"])
    for line in done["lines"][::2]:
        assert line["error"].endswith("could not be written: the disk is full. Free some space and try again."), line
        assert UNFINISHED not in line["error"]
    assert leftovers(folder) == []
    mount(folder.pressed / "Weir", "size=100m")
    assert client.post(f"/api/pressings/{done['id']}/go-on").status_code == 202
    assert states(pressed(client, done["id"])) == ["named"] * 3


def test_a_folder_that_is_only_to_be_read_says_so(
    client: TestClient, folder: DataFolder, mount: Mount, tmp_path: Path
) -> None:
    wish = asked(client, tmp_path)
    mount(folder.pressed / "Weir", "size=100m")
    mount(folder.pressed / "Weir", "ro")
    done = press(client, wish)
    assert (done["state"], states(done)) == ("failed", ["failed"] * 3)
    assert "is read-only. Choose another folder" in done["error"]


def test_folder_deleted_in_the_middle_is_reported_missing(
    client: TestClient, folder: DataFolder, tmp_path: Path
) -> None:
    wish = asked(client, tmp_path)
    number = client.post("/api/pressings", json=wish).json()["id"]
    wait_for(lambda: client.get(f"/api/pressings/{number}").json()["done"] > 0)
    client.patch("/api/press", json={"paused": True})
    time.sleep(0.5)
    shutil.rmtree(folder.pressed / "Weir")
    client.patch("/api/press", json={"paused": False})
    done = pressed(client, number)
    assert (done["state"], states(done)) == ("failed", ["failed"] * 3)
    for line in done["lines"]:
        assert "the folder is missing. Create" in line["error"], line
        assert UNFINISHED not in line["error"]
    assert client.post(f"/api/pressings/{number}/go-on").status_code == 202
    assert states(pressed(client, number)) == ["named"] * 3


def test_a_full_data_folder_answers_with_sentences_and_loses_nothing(
    folder: DataFolder, mount: Mount, tmp_path: Path
) -> None:
    mount(folder.root, "size=40m")
    with TestClient(make_app(Studio(folder)), OWN, raise_server_exceptions=False) as client:
        mix = write(tmp_path / "Weir.wav", noise(96_000).astype(np.float32), 48_000)
        number = arrive(client, str(mix))["mix_id"]
        with (folder.root / "ballast").open("wb", buffering=0) as ballast:
            try:
                while True:
                    ballast.write(bytes(4096))
            except OSError:
                pass
        bench_now = client.get(f"/api/mixes/{number}").json()["bench"]
        longer = {**bench_now, "tags": [["title", "x" * 300], ["comment", "y" * 300]]}
        other = write(tmp_path / "Other.wav", noise(96_000, seed=2).astype(np.float32), 48_000)
        answers = [
            client.put(f"/api/mixes/{number}/bench", json=longer),
            client.put("/api/label-patterns", json={"name": "Mine", "pattern": "{title}", "style": {}}),
            client.post("/api/arrivals/upload", params={"name": "Other.wav"}, content=other.read_bytes()),
            client.post("/api/pressings", json={"mix_id": number, "bench": bench(0, 96_000)}),
        ]
        for answer in answers:
            assert answer.status_code in (202, 409, 507), answer.text
            if answer.status_code != 202:
                assert answer.json()["message"].endswith(("Try again.", "and try again.")), answer.text
        arrival = client.post("/api/arrivals/path", json={"path": str(other)})
        if arrival.status_code == 202:
            state = settled(client, arrival.json()[0]["id"])
            assert state["state"] == "failed"
            assert "the disk is full" in state["sentence"] or "Try again" in state["sentence"], state
        assert client.get(f"/api/mixes/{number}").json()["bench"] == bench_now
        (folder.root / "ballast").unlink()
        assert client.put(f"/api/mixes/{number}/bench", json=longer).status_code == 200
        done = press(client, {"mix_id": number, "bench": bench(0, 96_000)})
        assert done["state"] == "done", done


def test_a_record_that_another_program_holds_delays_and_loses_nothing(
    folder: DataFolder, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(db, "BUSY_SECONDS", 0.2)
    with TestClient(make_app(Studio(folder)), OWN, raise_server_exceptions=False) as client:
        wish = asked(client, tmp_path)
        number = client.post("/api/pressings", json=wish).json()["id"]
        wait_for(lambda: client.get(f"/api/pressings/{number}").json()["done"] > 0)
        other = sqlite3.connect(folder.database, isolation_level=None)
        other.execute("BEGIN IMMEDIATE")
        wait_for(lambda: len(list((folder.pressed / "Weir").glob("[!.]*"))) == 3)
        answer = client.post("/api/pressings", json=wish)
        assert (answer.status_code, answer.json()["code"]) == (409, "store.busy")
        assert client.get(f"/api/pressings/{number}").json()["state"] == "running"
        time.sleep(1.0)
        other.execute("ROLLBACK")
        other.close()
        done = pressed(client, number)
        assert (done["state"], states(done)) == ("done", ["named"] * 3)
        assert len(list((folder.pressed / "Weir").iterdir())) == 3
    with TestClient(make_app(Studio(folder)), OWN) as client:
        assert client.get("/api/press").json()["open"] == [], "it is not begun once more"


def test_fifty_pressings_are_queued_at_once_and_all_are_pressed(
    client: TestClient, folder: DataFolder, tmp_path: Path
) -> None:
    path = write(tmp_path / "Weir.wav", noise(24_000).astype(np.float32), 48_000)
    wish = {"mix_id": arrive(client, str(path))["mix_id"], "bench": bench(0, 24_000)}
    numbers: list[int] = []

    def ask() -> None:
        answer = client.post("/api/pressings", json=wish)
        assert answer.status_code == 202
        numbers.append(answer.json()["id"])

    threads = [threading.Thread(target=ask) for _ in range(50)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    done = [pressed(client, number) for number in sorted(numbers)]
    assert [one["state"] for one in done] == ["done"] * 50
    assert len({one["files"][0]["path"] for one in done}) == 50
    assert len({one["files"][0]["sha256"] for one in done}) == 1
    assert len(list((folder.pressed / "Weir").iterdir())) == 50
