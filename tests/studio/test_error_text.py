"""Unexpected errors end as a sentence, and a repeated request tries again."""

from concurrent.futures import Future
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.errors import Unreadable
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.error_text import sentence_of
from ripe_press.studio.studio import Studio
from support.server import OWN, against_mix, arrive, bench, pressed, wait_for
from support.signals import noise, write

RATE = 48_000


def test_known_errors_have_sentences_and_unexpected_ones_a_name() -> None:
    assert sentence_of(Unreadable("x", "'a.wav' is damaged.")) == "'a.wav' is damaged."
    assert sentence_of(OSError(28, "No space left on device")) == "[Errno 28] No space left on device"
    told = sentence_of(TypeError("no number"))
    assert told == "Internal error (TypeError: no number). Details are in the log."


@pytest.fixture
def room(tmp_path: Path) -> Any:
    path = write(tmp_path / "Weir.wav", noise(RATE * 4, 2, 8), RATE, "PCM_24")
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        mix = arrive(client, str(path))["mix_id"]
        wish = bench(0, RATE * 4, ticket=[{"id": "d0", "brief": "phone-and-car", "range_id": "r0"}])
        made = pressed(client, client.post("/api/pressings", json={"mix_id": mix, "bench": wish}).json()["id"])
        yield client, tmp_path, made["id"], mix, wish


def failing(*_: Any, **__: Any) -> "Future[Any]":
    future: Future[Any] = Future()
    future.set_exception(KeyError("nobody thought of this"))
    return future


def test_comparisons_and_listening_desk_fail_with_a_sentence(room: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    client, _, pressing, mix, wish = room
    studio = client.app.state.studio
    with monkeypatch.context() as patch:
        patch.setattr(studio._comparing, "submit", failing)
        found = against_mix(client, pressing)
        assert found["state"] == "failed" and "Internal error (KeyError" in found["sentence"]
        row = client.post(f"/api/mixes/{mix}/ticket", json=wish).json()["rows"][0]
        asked = {"bench": wish, "id": row["id"]}

        def climbed() -> Any:
            found = client.post(f"/api/mixes/{mix}/ladder", json=asked).json()
            return found if found["state"] != "running" else None

        ladder = wait_for(climbed)
        assert ladder["state"] == "failed" and "KeyError" in ladder["sentence"]
    desk = client.post("/api/desks", json={"voices": [{"mix_id": mix}]}).json()
    with monkeypatch.context() as patch:
        patch.setattr(studio.desks._hands[0], "submit", failing)
        answer = client.get(f"/api/desks/{desk['id']}/blocks", params={"start": 0, "frames": 100})
        assert (answer.status_code, answer.content) == (200, bytes(800))
    assert "KeyError" in client.get(f"/api/desks/{desk['id']}").json()["voices"][0]["sentence"]
    assert client.get(f"/api/desks/{desk['id']}/blocks", params={"start": 0, "frames": 100}).content != bytes(800)


def test_comparison_with_the_mix_survives_a_restart(room: Any) -> None:
    client, folder, pressing, *_ = room
    where = f"/api/pressings/{pressing}/files/0/against"
    assert client.get(where).json() is None
    held = against_mix(client, pressing)
    assert held["state"] == "done"
    client.app.state.studio.close()
    with TestClient(make_app(Studio(DataFolder(folder / "data"))), OWN) as again:
        assert again.get(where).json() == held
        file = Path(held["report"]["path"])
        file.touch()
        assert again.get(where).json() is None
