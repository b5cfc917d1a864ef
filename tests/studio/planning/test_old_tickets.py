"""Pressings of the oldest versions: compared with their mix, played, pressed again, like all others."""

import json
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, against_mix, arrive, bench, pressed
from support.signals import noise, write

RATE = 48_000
FIRST = {"start_frame": 0, "end_frame": RATE, "edges": {}, "briefs": ["audio-cd"]}
SECOND = {
    "deliveries": [{"brief": "audio-cd", "stretch": {"start_frame": 0, "end_frame": RATE, "edges": {}, "name": ""}}],
    "briefs": ["audio-cd"],
}


def rewritten(folder: DataFolder, ticket: dict[str, Any]) -> None:
    """The record as if it had been written then."""
    with closing(sqlite3.connect(folder.database)) as connection:
        connection.execute("UPDATE pressings SET ticket = ?", (json.dumps(ticket),))
        connection.execute("DELETE FROM settings WHERE name = 'old tickets'")
        connection.commit()


@pytest.mark.parametrize("ticket", [FIRST, SECOND], ids=["one range", "deliveries"])
def test_a_ticket_without_a_version_is_brought_up_to_date(tmp_path: Path, ticket: dict[str, Any]) -> None:
    folder = DataFolder(tmp_path / "data")
    with TestClient(make_app(Studio(folder)), OWN) as client:
        mix = arrive(client, str(write(tmp_path / "Weir.wav", noise(RATE, level=0.1), RATE)))["mix_id"]
        number = client.post("/api/pressings", json={"mix_id": mix, "bench": bench(0, RATE)}).json()["id"]
        first = pressed(client, number)["files"][0]
    rewritten(folder, ticket)
    with TestClient(make_app(Studio(folder)), OWN) as client:
        found = against_mix(client, number)
        assert found["state"] == "done" and found["report"]["verdict"] == "ready", found
        desk = client.post("/api/desks", json={"voices": [{"pressing": number}, {"pressing": number, "number": 0}]})
        assert desk.status_code == 201, desk.text
        assert [one["kind"] for one in desk.json()["voices"]] == ["mix", "file"]
        again = client.post(f"/api/pressings/{number}/again").json()["id"]
        # Without the tags, of which nothing was kept then.
        assert pressed(client, again)["files"][0]["frames"] == first["frames"]


def test_one_whose_mix_is_gone_says_so(tmp_path: Path) -> None:
    folder = DataFolder(tmp_path / "data")
    with TestClient(make_app(Studio(folder)), OWN) as client:
        mix = arrive(client, str(write(tmp_path / "Weir.wav", noise(RATE, level=0.1), RATE)))["mix_id"]
        number = client.post("/api/pressings", json={"mix_id": mix, "bench": bench(0, RATE)}).json()["id"]
        pressed(client, number)
        client.delete(f"/api/mixes/{mix}")
    rewritten(folder, FIRST)
    with TestClient(make_app(Studio(folder)), OWN, raise_server_exceptions=False) as client:
        assert client.get(f"/api/pressings/{number}").status_code == 200
        found = against_mix(client, number)
        assert found["state"] == "failed" and "does not say which sound" in found["sentence"]
