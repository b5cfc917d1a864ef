"""Pressing on a real local cluster: a Dask scheduler and two worker processes that share the data folder."""

import hashlib
import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.errors import Conflict
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.jobs import cluster as cluster_module
from ripe_press.studio.jobs.cluster import Cluster
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed, wait_for
from support.signals import noise, write

pytestmark = pytest.mark.slow
SECONDS = 20


@dataclass
class Dask:
    address: str
    workers: list["subprocess.Popen[bytes]"]


@pytest.fixture(scope="module")
def dask(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Dask]:
    folder = tmp_path_factory.mktemp("dask")
    file = folder / "scheduler.json"
    started = []

    def start(module: str, *words: str) -> "subprocess.Popen[bytes]":
        command = [sys.executable, "-m", f"distributed.cli.{module}", "--scheduler-file", str(file), *words]
        process = subprocess.Popen(command, cwd=folder, stderr=subprocess.DEVNULL, start_new_session=True)
        started.append(process)
        return process

    start("dask_scheduler", "--port", "0", "--no-dashboard", "--host", "127.0.0.1")
    wait_for(file.is_file)
    workers = [start("dask_worker", "--nthreads", "1", "--no-dashboard", "--host", "127.0.0.1") for _ in range(2)]

    address: str = json.loads(file.read_text())["address"]

    def both() -> bool:
        try:
            made = Cluster(address, folder)
        except Conflict:
            return False
        made.shutdown()
        return made.workers == 2

    wait_for(both)
    yield Dask(address, workers)
    for process in started:
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()


@pytest.fixture(scope="module")
def mix(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return write(tmp_path_factory.mktemp("mix") / "Weir.wav", noise(48_000 * SECONDS).astype(np.float32), 48_000)


def press(client: TestClient, mix: Path, *briefs: str) -> list[int]:
    found = client.get("/api/shelf").json()["mixes"]
    number = found[0]["id"] if found else arrive(client, str(mix))["mix_id"]
    lines = [{"id": f"d{at}", "brief": brief, "range_id": "r0"} for at, brief in enumerate(briefs)]
    asked = {"mix_id": number, "bench": {**bench(0, 48_000 * SECONDS), "ticket": lines}}
    return [client.post("/api/pressings", json=asked).json()["id"] for _ in range(2)]


def sums(pressing: dict[str, Any]) -> list[str]:
    return [hashlib.sha256(Path(file["path"]).read_bytes()).hexdigest() for file in pressing["files"]]


def test_the_files_are_the_same_as_at_home_and_two_are_pressed_at_once(dask: Dask, mix: Path, tmp_path: Path) -> None:
    with TestClient(make_app(Studio(DataFolder(tmp_path / "home"))), OWN) as client:
        at_home = [pressed(client, number) for number in press(client, mix, "audio-cd", "archive")]
    with TestClient(make_app(Studio(DataFolder(tmp_path / "away"), dask.address)), OWN) as client:
        numbers = press(client, mix, "audio-cd", "archive")
        wait_for(lambda: [one["state"] for one in client.get("/api/press").json()["open"]] == ["running"] * 2)
        wait_for(lambda: client.get(f"/api/pressings/{numbers[0]}").json()["done"] > 0)
        away = [pressed(client, number) for number in numbers]
    assert [one["state"] for one in away] == ["done", "done"], away
    names = [file["name"] for one in away for file in one["files"]]
    assert len(set(names)) == len(names) == 4, "two at once choose other names"
    assert [sums(one) for one in away] == [sums(one) for one in at_home]


def test_remote_job_is_paused_cancelled_and_survives_a_lost_worker(dask: Dask, mix: Path, tmp_path: Path) -> None:
    folder = DataFolder(tmp_path / "away")
    with TestClient(make_app(Studio(folder, dask.address)), OWN) as client:
        first, second = press(client, mix, "archive", "audio-cd", "distributor")
        wait_for(lambda: all(client.get(f"/api/pressings/{one}").json()["done"] for one in (first, second)))
        client.patch("/api/press", json={"paused": True})
        client.post(f"/api/pressings/{first}/cancel")
        assert pressed(client, first)["state"] == "cancelled"
        # Both processes in which orders are worked on die at once; those that look after them start others.
        workers = ",".join(str(worker.pid) for worker in dask.workers)
        subprocess.run(["pkill", "-KILL", "-P", workers], check=False)
        time.sleep(0.5)
        client.patch("/api/press", json={"paused": False})
        done = pressed(client, second)
        assert (done["state"], [line["state"] for line in done["lines"]]) == ("done", ["named"] * 3), done
        assert not list(folder.pressed.rglob("*.pressing"))
        again = client.post(f"/api/pressings/{first}/go-on")
        assert again.status_code == 202
        assert pressed(client, first)["state"] == "done"


def test_unsuitable_cluster_is_rejected_with_a_sentence(
    dask: Dask, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for address in ("tcp://127.0.0.1:9", "nonsense", "tcp://x y:5", "tcp://localhost:99999", ""):
        with pytest.raises(Conflict) as caught:
            Cluster(address, tmp_path)
        assert caught.value.code == "cluster.unreachable"
    with pytest.raises(Conflict) as caught:
        Cluster(dask.address, tmp_path / "nobody sees it")
    assert caught.value.code == "cluster.no-folder"
    monkeypatch.setattr(cluster_module, "library_versions", lambda: {"soxr": str(os.getpid())})
    with pytest.raises(Conflict) as caught:
        Cluster(dask.address, tmp_path)
    assert caught.value.code == "cluster.other-libraries"
