"""Briefs over HTTP, and a ticket made of them."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed
from support.signals import noise, write


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(tmp_path_factory.mktemp("briefs")))), OWN) as client:
        yield client


def test_briefs_are_duplicated_changed_exported_and_deleted(client: TestClient) -> None:
    shipped = client.get("/api/briefs").json()
    assert [one["id"] for one in shipped[:2]] == ["audio-cd", "distributor"]
    assert not any(one["own"] for one in shipped)
    copies = [client.post("/api/briefs/podcast/copy").json() for _ in range(2)]
    assert [one["id"] for one in copies] == ["podcast-copy", "podcast-copy-2"]
    del copies[0]["own"]
    changed = {**copies[0], "title": "Weir Radio", "prefer": {**copies[0]["prefer"], "kbps": 128}}
    assert client.put("/api/briefs", json=changed).json()["title"] == "Weir Radio"
    file = client.get("/api/briefs/podcast-copy/file")
    assert "podcast-copy.brief.json" in file.headers["content-disposition"]
    assert file.json()["prefer"]["kbps"] == 128
    assert client.delete("/api/briefs/podcast-copy-2").status_code == 204
    assert [one["id"] for one in client.get("/api/briefs").json() if one["own"]] == ["podcast-copy"]


@pytest.mark.parametrize(
    ("change", "status"),
    [
        ({"id": "audio-cd"}, 409),
        ({"id": "Has Spaces"}, 422),
        ({"label_pattern": "{colour}"}, 422),
        ({"prefer": {"container": "flac", "encoding": "f64"}}, 422),
        ({"prefer": {"container": "wax"}}, 422),
        ({"colour": "red"}, 422),
    ],
)
def test_invalid_brief_is_rejected(client: TestClient, change: dict[str, object], status: int) -> None:
    body = {"id": "mine", "title": "Mine", "sentence": "For me.", "why": "Because.", **change}
    answer = client.put("/api/briefs", json=body)
    assert (answer.status_code, answer.json()["message"][-1]) == (status, ".")
    assert client.delete("/api/briefs/archive").status_code == 409
    assert client.get("/api/briefs/nowhere/file").status_code == 404


def test_ticket_shows_overrides_rejections_and_shared_stations(client: TestClient, tmp_path: Path) -> None:
    path = write(tmp_path / "Eel Ladder.wav", noise(96_000, level=0.3), 48_000, "PCM_24")
    mix = arrive(client, str(path))["mix_id"]
    wish = bench(0, 96_000)
    line = wish["ticket"][0]
    wish["ticket"] = [
        line,
        {**line, "id": "d1", "brief": "archive"},
        {
            **line,
            "id": "d2",
            "brief": "phone-and-car",
            "changes": {"container": "flac", "encoding": "s16", "dither": "shaped-light"},
        },
        {**line, "id": "d3", "brief": "gone"},
        {**line, "id": "d4", "brief": "blank", "changes": {"container": "flac", "encoding": "f32"}},
        {**line, "id": "d5", "brief": "blank", "on": False},
    ]
    ticket = client.post(f"/api/mixes/{mix}/ticket", json=wish).json()
    rows = {row["line_id"]: row for row in ticket["rows"]}
    assert set(rows) == {"d0", "d1", "d2"}
    assert {one["line_id"] for one in ticket["refused"]} == {"d3", "d4"}
    assert rows["d1"]["bit_exact"]
    assert rows["d2"]["size"]["basis"] == "bound"
    assert rows["d2"]["settled"]["dither"] == "shaped-light"
    # The conversion to 44.1 kHz is done once for both.
    kinds = [station["kind"] for station in rows["d0"]["stations"]]
    shared = kinds.index("rate")
    assert rows["d0"]["stations"][shared]["node"] == rows["d2"]["stations"][shared]["node"]
    refused = client.post("/api/pressings", json={"mix_id": mix, "bench": wish})
    assert refused.status_code == 404
    wish["ticket"] = wish["ticket"][:3]
    done = pressed(client, client.post("/api/pressings", json={"mix_id": mix, "bench": wish}).json()["id"])
    assert done["state"] == "done", done["error"]
    places = [Path(file["path"]).parent.name for file in done["files"]]
    assert places == ["Eel Ladder", "archive", "for listening"]
    nothing = client.post("/api/pressings", json={"mix_id": mix, "bench": {**wish, "ticket": []}})
    assert nothing.json()["code"] == "press.nothing"


def test_a_level_is_tried_without_writing(client: TestClient, tmp_path: Path) -> None:
    path = write(tmp_path / "Loud.wav", noise(48_000 * 4, level=0.2), 48_000)
    mix = arrive(client, str(path))["mix_id"]
    wish = bench(0, 48_000 * 4)
    wish["ticket"][0]["changes"] = {"level": {"kind": "loudness", "target": -12.0, "ceiling_dbtp": -6.0}}
    found = client.post(f"/api/mixes/{mix}/level", json={"bench": wish, "id": "d0"}).json()
    assert found["integrated_lufs"] == pytest.approx(-12.0, abs=0.1)
    # White noise up to half the rate: filters differ there by more than on music.
    assert found["true_peak_dbtp"] <= -5.8
    assert min(found["reduction_db"]) < 0
    missing = client.post(f"/api/mixes/{mix}/level", json={"bench": wish, "id": "d9"})
    assert missing.status_code == 404


def test_a_file_of_six_channels_in_a_codec_without_seeking_comes_in(client: TestClient, tmp_path: Path) -> None:
    path = write(tmp_path / "Round.ogg", noise(48_000, 6), 48_000, "VORBIS", "OGG")
    mix = client.get(f"/api/mixes/{arrive(client, str(path))['mix_id']}").json()
    assert (mix["file_channels"], mix["downmix"], mix["channels"]) == (6, "bs775", 2)
