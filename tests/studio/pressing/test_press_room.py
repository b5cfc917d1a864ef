"""Long work: cancelled without harm, taken up again after a restart, one data folder for one application."""

from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.errors import Conflict
from ripe_press.store.db import Database
from ripe_press.store.pressings import NewPressing, Pressings
from ripe_press.studio.data_folder import DataFolder, data_folder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed, wait_for
from support.signals import write


def long_mix(folder: Path) -> Path:
    quiet = np.random.default_rng(1).standard_normal((96_000 * 60, 2), dtype=np.float32) * 0.05
    return write(folder / "Long Pound.wav", quiet, 96_000)


def test_pressing_is_cancellable_and_an_interrupted_one_restarts(tmp_path: Path) -> None:
    mix = long_mix(tmp_path)
    folder = DataFolder(tmp_path / "data")
    with TestClient(make_app(Studio(folder)), OWN) as client:
        number = arrive(client, str(mix))["mix_id"]
        wish = {"mix_id": number, "bench": bench(0, 96_000 * 60, tags=[["title", "Long Pound"]])}
        assert client.get(f"/api/mixes/{number}/pressing").json() is None
        first = client.post("/api/pressings", json=wish).json()["id"]
        wait_for(lambda: client.get(f"/api/pressings/{first}").json()["done"] > 0)
        assert client.get(f"/api/pressings/{first}").json()["seconds_left"] > 0
        client.post(f"/api/pressings/{first}/cancel")
        assert pressed(client, first)["state"] == "cancelled"
        assert list((folder.pressed / "Long Pound").iterdir()) == []
        second = client.post("/api/pressings", json=wish).json()["id"]
        assert client.get(f"/api/mixes/{number}/pressing").json()["id"] == second
    with TestClient(make_app(Studio(folder)), OWN) as client:
        done = pressed(client, second)
        assert done["state"] == "done", done["error"]
        assert [path.name for path in (folder.pressed / "Long Pound").iterdir()] == ["Long Pound 44k1 16b.wav"]


def test_a_pressing_whose_mix_is_gone_is_closed(tmp_path: Path) -> None:
    folder = DataFolder(tmp_path)
    database = Database(folder.database)
    database.migrate()
    number = Pressings(database).add(NewPressing(None, "Millrace", "/gone.wav", {"briefs": ["audio-cd"]}))
    database.close()
    with TestClient(make_app(Studio(folder)), OWN) as client:
        found = pressed(client, number)
        assert found["state"] == "failed"
        assert "“Millrace” is not on the Shelf" in found["error"]


def test_one_data_folder_serves_one_application(tmp_path: Path) -> None:
    with Studio(DataFolder(tmp_path)), pytest.raises(Conflict) as caught:
        Studio(DataFolder(tmp_path))
    assert caught.value.code == "data.in-use"
    Studio(DataFolder(tmp_path)).close()


def test_the_data_folder_is_named_by_option_environment_or_default(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert data_folder(tmp_path).root == tmp_path
    monkeypatch.setenv("RIPE_PRESS_DATA", str(tmp_path / "env"))
    assert data_folder().root == tmp_path / "env"
    monkeypatch.delenv("RIPE_PRESS_DATA")
    assert data_folder().root.name == "ripe-press"


def test_unexpected_error_ends_in_the_record(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object, **__: object) -> None:
        message = "a fault of ours"
        raise ZeroDivisionError(message)

    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        number = arrive(client, str(write(tmp_path / "Millrace.wav", np.ones((4_800, 2)) / 2, 48_000)))["mix_id"]
        monkeypatch.setattr("ripe_press.studio.pressing.run._place", broken)
        wish = {"mix_id": number, "bench": bench(0, 4_800)}
        found = pressed(client, client.post("/api/pressings", json=wish).json()["id"])
    assert found["state"] == "failed"
    assert "Internal error (ZeroDivisionError: a fault of ours)" in found["error"]
