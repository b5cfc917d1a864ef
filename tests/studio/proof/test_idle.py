"""Comparisons while the machine is idle: newest first, each once, and none twice after a restart."""

import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.proof import idle
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed, wait_for
from support.signals import noise, write

RATE = 48_000


@pytest.fixture(autouse=True)
def by_hand(monkeypatch: pytest.MonkeyPatch) -> None:
    """No thread looks for idle time here."""
    monkeypatch.setattr(idle, "_LOOK_S", 3600.0)


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        yield client


def press(client: TestClient, tmp_path: Path, *containers: str) -> dict[str, Any]:
    mix = arrive(client, str(write(tmp_path / "Weir.wav", noise(RATE), RATE, "PCM_24")))["mix_id"]
    lines = [
        {"id": f"d{at}", "brief": "blank", "range_id": "r0", "changes": {"container": kind}}
        for at, kind in enumerate(containers)
    ]
    wish = {"mix_id": mix, "bench": bench(0, RATE, ticket=lines)}
    return pressed(client, client.post("/api/pressings", json=wish).json()["id"])


def compared(client: TestClient, number: int) -> list[str | None]:
    return [file["compared"] for file in client.get(f"/api/pressings/{number}").json()["files"]]


def test_files_are_compared_one_after_the_other_and_kept(client: TestClient, tmp_path: Path) -> None:
    number = press(client, tmp_path, "wav", "flac")["id"]
    assert compared(client, number) == [None, None]
    own = client.app.state.studio.idle_comparisons  # type: ignore[attr-defined]
    for at in range(2):
        assert own.step()
        wait_for(lambda at=at: compared(client, number)[at])
    assert compared(client, number) == ["Bit-exact copy of the mix."] * 2
    assert not own.step()
    assert compared(client, number)[0]
    path = Path(client.get(f"/api/pressings/{number}").json()["files"][0]["path"])
    path.write_bytes(path.read_bytes() + b"\0\0")
    assert compared(client, number) == [None, "Bit-exact copy of the mix."], "a changed file is not as it was compared"


def test_a_restart_goes_on_with_the_rest(tmp_path: Path) -> None:
    folder = DataFolder(tmp_path / "data")
    with TestClient(make_app(Studio(folder)), OWN) as client:
        number = press(client, tmp_path, "wav", "flac")["id"]
        client.app.state.studio.idle_comparisons.step()  # type: ignore[attr-defined]
        wait_for(lambda: compared(client, number)[0])
    with TestClient(make_app(Studio(folder)), OWN) as client:
        assert compared(client, number) == ["Bit-exact copy of the mix.", None]
        own = client.app.state.studio.idle_comparisons  # type: ignore[attr-defined]
        assert own.step()
        wait_for(lambda: compared(client, number)[1])
        assert not own.step()


def test_a_comparison_that_cannot_be_made_is_not_repeated_and_says_nothing(client: TestClient, tmp_path: Path) -> None:
    number = press(client, tmp_path, "wav")["id"]
    (tmp_path / "Weir.wav").unlink()
    studio = client.app.state.studio  # type: ignore[attr-defined]
    assert studio.idle_comparisons.step()
    wait_for(lambda: client.get(f"/api/pressings/{number}/files/0/against").json()["state"] == "failed")
    assert not studio.idle_comparisons.step()
    assert client.get(f"/api/pressings/{number}/files/0/against").json() is None


def test_it_runs_only_while_nothing_else_does(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(idle, "_LOOK_S", 0.01)
    monkeypatch.setattr(idle.os, "getloadavg", lambda: (0.0, 0.0, 0.0))
    steps: list[bool] = []

    class Watched(idle.IdleComparisons):
        def step(self) -> bool:
            steps.append(True)
            return False

    own = client.app.state.studio.idle_comparisons  # type: ignore[attr-defined]
    busy = [True]
    watched = Watched(own._kept, own._settings, own._comparisons, own._stored, lambda: busy[0])
    watched.start()
    threading.Event().wait(0.3)
    assert not steps
    busy[0] = False
    wait_for(lambda: steps, 5)
    assert client.patch("/api/press", json={"compares_idle": False}).json()["compares_idle"] is False
    threading.Event().wait(0.1)
    steps.clear()
    threading.Event().wait(0.3)
    watched.close()
    assert not steps
