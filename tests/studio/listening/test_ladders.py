"""Codec comparisons requested by the page: run once, with progress, stopped, and retried."""

from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, wait_for
from support.signals import noise, write

RATE, SECONDS = 44_100, 4


@pytest.fixture
def client(tmp_path: Path) -> Any:
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        yield client


def asked(client: TestClient, mix: int, wish: dict[str, Any]) -> dict[str, Any]:
    answer = client.post(f"/api/mixes/{mix}/ladder", json={"bench": wish, "id": "d0"})
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def test_comparison_runs_once_for_equal_audio(client: TestClient, tmp_path: Path) -> None:
    path = write(tmp_path / "Weir.wav", noise(RATE * SECONDS, 2, 1, 0.05), RATE, "PCM_24")
    mix = arrive(client, str(path))["mix_id"]
    wish = bench(0, RATE * 3)
    first = asked(client, mix, wish)
    assert first["state"] == "running" and first["report"] is None

    def ask() -> Any:
        found = asked(client, mix, wish)
        return found if found["state"] != "running" else None

    done = wait_for(ask)
    report = done["report"]
    assert (done["state"], done["id"]) == ("done", first["id"])
    assert len(report["rungs"]) == sum(len(can.ladder) for can in CAPABILITIES.values())
    # Another format of the same sound has the same ladder; another range, another.
    line = {**wish["ticket"][0], "changes": {"container": "mp3", "kbps": 128}}
    assert asked(client, mix, {**wish, "ticket": [line]}) == done
    other = asked(client, mix, bench(0, RATE * 2))
    assert other["id"] != first["id"]
    assert client.delete(f"/api/ladders/{other['id']}").status_code == 204
    assert client.delete("/api/ladders/none").status_code == 404


def test_it_is_stopped_and_can_be_asked_for_again(client: TestClient, tmp_path: Path) -> None:
    path = write(tmp_path / "Long.wav", noise(RATE * 120, 2, 1, 0.05), RATE, "PCM_16")
    mix = arrive(client, str(path))["mix_id"]
    wish = bench(0, RATE * 120)
    begun = asked(client, mix, wish)
    assert client.delete(f"/api/ladders/{begun['id']}").status_code == 204

    def ask() -> Any:
        found = asked(client, mix, wish)
        return found if found["state"] == "cancelled" else None

    assert "ancelled" in wait_for(ask)["sentence"]
    assert asked(client, mix, wish)["state"] == "running"
    client.delete(f"/api/ladders/{begun['id']}")
