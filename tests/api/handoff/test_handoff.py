"""Files for the next program over the interface: handoff of a mix to picture, sidecars of pressed files."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import opentimelineio as otio
import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.pressing.destinations import ROOTS
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed, wait_for
from support.signals import noise, write

RATE = 48_000


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv(ROOTS, str(tmp_path_factory.getbasetemp()))
        with TestClient(make_app(Studio(DataFolder(tmp_path_factory.mktemp("data")))), OWN) as client:
            yield client


@pytest.fixture(scope="module")
def mix(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> int:
    folder = tmp_path_factory.mktemp("mix")
    (folder / "stems").mkdir()
    write(folder / "stems" / "Sluice bass.wav", noise(RATE * 2, 1, 2), RATE, "PCM_24")
    number: int = arrive(client, str(write(folder / "Sluice.wav", noise(RATE * 3), RATE, "FLOAT")))["mix_id"]
    assert client.post(f"/api/mixes/{number}/stems/path", json={"path": str(folder / "stems")}).status_code == 202
    wait_for(lambda: len(client.get(f"/api/mixes/{number}/stems").json()["stems"]) == 1)
    markers = [{"frame": RATE, "name": "Verse"}]
    kept = client.put(f"/api/mixes/{number}/bench", json=bench(0, RATE * 3, markers=markers))
    assert kept.status_code == 200, kept.text
    return number


def ended(client: TestClient, path: str) -> Any:
    def ask() -> Any:
        found = client.get(path).json()
        state = found.get("last", found)
        return state if state and state["state"] != "running" else None

    return wait_for(ask)


def test_a_mix_is_handed_off_to_where_it_usually_goes_and_anywhere(
    client: TestClient, mix: int, tmp_path: Path
) -> None:
    path = f"/api/mixes/{mix}/handoff"
    shown = client.get(path).json()
    assert shown["last"] is None and "29.97df" in shown["frame_rates"] and shown["folder"].endswith("for picture")
    assert client.post(path, json={"frame_rate": "29.97df"}).status_code == 202
    done = ended(client, path)
    assert done["state"] == "done" and done["written"][0] == str(Path(shown["folder"]) / "Sluice.otio")
    timeline = otio.adapters.read_from_file(done["written"][0])
    names = [track.name for track in timeline.tracks]
    assert names[0] == "Sluice" and len(names) == 2
    media = [clip.media_reference.target_url for clip in timeline.find_clips()]
    assert all((Path(shown["folder"]) / one.replace("%20", " ")).is_file() for one in media)
    assert client.post(path, json={"frame_rate": "25", "link": True, "folder": str(tmp_path)}).status_code == 202
    assert ended(client, path)["written"] == [str(tmp_path / "Sluice.otio"), str(tmp_path / "Sluice edit list.txt")]
    assert not (tmp_path / "media").exists() and "Verse" in (tmp_path / "Sluice edit list.txt").read_text()


def test_handoff_error_is_one_sentence(client: TestClient, mix: int, tmp_path: Path) -> None:
    path = f"/api/mixes/{mix}/handoff"
    for wish, words in (({"frame_rate": "26"}, "not a frame rate"), ({"folder": "not whole"}, "full path")):
        answer = client.post(path, json=wish)
        assert answer.status_code == 422 and words in answer.json()["message"]
    assert client.get("/api/mixes/999/handoff").status_code == 404
    (tmp_path / "file").write_text("x")
    answer = client.post(path, json={"folder": str(tmp_path / "file" / "below")})
    assert answer.status_code == 422 and "is a file. Choose a folder." in answer.json()["message"]
    assert "outside the home folder" in client.post(path, json={"folder": "/etc"}).json()["message"]
    (tmp_path / "Sluice.otio").mkdir()
    client.post(path, json={"folder": str(tmp_path)})
    failed = ended(client, path)
    assert failed["state"] == "failed" and "could not be written" in failed["sentence"]
    client.delete(path)


def test_each_pressed_file_gets_a_sidecar(client: TestClient, mix: int) -> None:
    number = client.post("/api/pressings", json={"mix_id": mix, "bench": bench(0, RATE * 3)}).json()["id"]
    (file,) = pressed(client, number)["files"]
    path = f"/api/pressings/{number}/sidecars"
    assert client.get(path).json() is None
    assert client.post(path).status_code == 202
    done = ended(client, path)
    assert done["state"] == "done" and done["written"] == [f"{file['path']}.json"]
    assert json.loads(Path(done["written"][0]).read_text())["file"] == Path(file["path"]).name
    assert client.post("/api/pressings/999/sidecars").status_code == 404
