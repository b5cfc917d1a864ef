"""The queue of pressings: paused, resumed, reordered, interrupted, restored, many mixes at once."""

import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed, wait_for
from support.signals import noise, write

pytestmark = pytest.mark.slow
SECONDS = 20


def wish(mix: int, *briefs: str, seconds: int = SECONDS, **more: Any) -> dict[str, Any]:
    set_out = bench(0, 48_000 * seconds, tags=[["title", "Weir"]], **more)
    lines = [{"id": f"d{at}", "brief": brief, "range_id": "r0"} for at, brief in enumerate(briefs)]
    return {"mix_id": mix, "bench": {**set_out, "ticket": lines}}


def mix(client: TestClient, folder: Path, name: str = "Weir", seconds: int = SECONDS, seed: int = 1) -> int:
    path = folder / f"{name}.wav"
    if not path.is_file():
        write(path, noise(48_000 * seconds, seed=seed).astype(np.float32), 48_000)
    number: int = arrive(client, str(path))["mix_id"]
    return number


def press(client: TestClient, asked: dict[str, Any]) -> int:
    answer = client.post("/api/pressings", json=asked)
    assert answer.status_code == 202, answer.text
    number: int = answer.json()["id"]
    return number


def state(client: TestClient, number: int) -> str:
    found: str = client.get(f"/api/pressings/{number}").json()["state"]
    return found


def open_ones(client: TestClient) -> list[int]:
    return [one["id"] for one in client.get("/api/press").json()["open"]]


def set_press(client: TestClient, **values: bool) -> None:
    assert client.patch("/api/press", json=values).status_code == 200


def test_paused_pressing_resumes_at_its_place(tmp_path: Path) -> None:
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        asked = wish(mix(client, tmp_path, seconds=45), "archive", "audio-cd", seconds=45)
        number = press(client, asked)
        later = press(client, asked)
        wait_for(lambda: client.get(f"/api/pressings/{number}").json()["lines"][0]["part"] > 0)
        set_press(client, paused=True)
        wait_for(lambda: not moves(client, number))
        held = client.get(f"/api/pressings/{number}").json()
        assert (held["state"], state(client, later)) == ("running", "queued")
        assert 0 < sum(line["part"] for line in held["lines"]) < 2
        assert client.get("/api/press").json()["paused"]
        set_press(client, paused=False)
        done = pressed(client, number)
        assert done["state"] == "done"
        assert [line["part"] for line in done["lines"]] == [1.0, 1.0]
        assert pressed(client, later)["state"] == "done"
        seen = client.get("/api/press").json()
        assert (seen["open"], seen["paused"]) == ([], False)
        assert 0 <= seen["off_by"] < 2, "the error of the time left is kept"


def moves(client: TestClient, number: int) -> bool:
    before = client.get(f"/api/pressings/{number}").json()["done"]
    time.sleep(0.5)
    return bool(client.get(f"/api/pressings/{number}").json()["done"] != before)


def test_queue_is_pressed_in_order_or_cancelled(tmp_path: Path) -> None:
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        set_press(client, paused=True)
        asked = wish(mix(client, tmp_path), "audio-cd")
        a, b, c = (press(client, asked) for _ in range(3))
        assert open_ones(client) == [a, b, c]
        assert client.post(f"/api/pressings/{c}/move", json={"to": 0}).status_code == 202
        assert client.post(f"/api/pressings/{b}/cancel").status_code == 202
        assert open_ones(client) == [c, a]
        waiting = client.get("/api/press").json()["open"][0]
        assert waiting["waits_seconds"] > 0
        set_press(client, paused=False)
        assert pressed(client, a)["state"] == "done"
        assert (state(client, c), state(client, b)) == ("done", "cancelled")
        ended = [client.get(f"/api/pressings/{one}").json()["files"][0]["name"] for one in (c, a)]
        assert ended == ["Weir 44k1 16b.wav", "Weir 44k1 16b (2).wav"], "c came first"
        for path, answer in (
            ("move", "pressing.not-waiting"),
            ("cancel", "pressing.ended"),
            ("go-on", "pressing.nothing-open"),
        ):
            found = client.post(f"/api/pressings/{a}/{path}", json={"to": 0})
            assert (found.status_code, found.json()["code"]) == (409, answer)


@pytest.mark.parametrize("goes_on", [True, False])
def test_interrupted_pressing_resumes_or_waits_as_set(goes_on: bool, tmp_path: Path) -> None:
    folder = DataFolder(tmp_path / "data")
    with TestClient(make_app(Studio(folder)), OWN) as client:
        set_press(client, goes_on=goes_on)
        asked = wish(mix(client, tmp_path, seconds=45), "archive", "audio-cd", seconds=45)
        number, later = press(client, asked), press(client, asked)
        wait_for(lambda: client.get(f"/api/pressings/{number}").json()["done"] > 0)
    with TestClient(make_app(Studio(folder)), OWN) as client:
        if not goes_on:
            found = client.get(f"/api/pressings/{number}").json()
            assert (found["state"], state(client, later)) == ("interrupted", "interrupted")
            assert found["error"].startswith("Interrupted by shutdown at ")
            assert client.post(f"/api/pressings/{later}/cancel").status_code == 202
            assert client.post(f"/api/pressings/{number}/go-on").status_code == 202
        assert pressed(client, number)["state"] == "done"
        assert pressed(client, later)["state"] == ("done" if goes_on else "cancelled")
        names = sorted(path.name for path in (folder.pressed / "Weir").rglob("*.*"))
        assert len(names) == (4 if goes_on else 2), names


def test_a_file_that_failed_is_tried_again_and_the_finished_stay(tmp_path: Path) -> None:
    folder = DataFolder(tmp_path / "data")
    with TestClient(make_app(Studio(folder)), OWN) as client:
        asked = wish(mix(client, tmp_path, seconds=45), "archive", "audio-cd", seconds=45)
        number = press(client, asked)
        wait_for(lambda: client.get(f"/api/pressings/{number}").json()["done"] > 0)
        set_press(client, paused=True)
        held = wait_for(lambda: client.get(f"/api/pressings/{number}").json())
        names = [line["name"] for line in held["lines"]]
        archive, disc = folder.pressed / "Weir" / "archive" / names[0], folder.pressed / "Weir" / names[1]
        archive.write_bytes(b"of somebody else")
        set_press(client, paused=False)
        done = pressed(client, number)
        assert (done["state"], [line["state"] for line in done["lines"]]) == ("done", ["failed", "named"])
        assert done["lines"][0]["error"].startswith(f"“{archive.name}” was created in")
        assert archive.read_bytes() == b"of somebody else"
        whole = disc.stat().st_ino
        archive.unlink()
        assert client.post(f"/api/pressings/{number}/go-on").status_code == 202
        done = pressed(client, number)
        assert [line["state"] for line in done["lines"]] == ["named", "named"]
        assert disc.stat().st_ino == whole, "a finished file was made again"
        assert set((folder.pressed / "Weir").rglob("*.*")) == {archive, disc}


def test_ticket_for_many_mixes_reports_impossible_ones(tmp_path: Path) -> None:
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        numbers = [mix(client, tmp_path, name, 3, seed) for seed, name in enumerate(("Weir", "Eel Ladder", "Sluice"))]
        for number in numbers:
            own = client.get(f"/api/mixes/{number}").json()["bench"]
            own["ticket"] = [{"id": "d1", "brief": "audio-cd", "range_id": "r1"}]
            if number == numbers[0]:
                own["ranges"][0]["name"] = "Chorus"
                own["ticket"].append({"id": "d2", "brief": "archive", "range_id": "r1"})
            if number == numbers[1]:
                own["ranges"].append({"id": "r2", "start_frame": 4_800, "end_frame": 48_000, "name": "Chorus"})
            if number == numbers[2]:
                own["clash"] = "skip"
            assert client.put(f"/api/mixes/{number}/bench", json=own).status_code == 200, own
        batch = {"mix_ids": numbers, "like": numbers[0]}
        planned = client.post("/api/pressings/batch/plan", json=batch).json()
        assert [(len(line["files"]), line["refused"], line["pressing"]) for line in planned] == [(2, None, None)] * 3
        begun = client.post("/api/pressings/batch", json=batch).json()
        done = [pressed(client, line["pressing"]) for line in begun]
        assert [one["state"] for one in done] == ["done"] * 3
        assert [one["files"][0]["frames"] for one in done] == [132_300, 39_690, 132_300], "its own range of that name"
        by_brief = {"mix_ids": numbers[1:], "briefs": ["audio-cd"]}
        begun = client.post("/api/pressings/batch", json=by_brief).json()
        assert begun[0]["refused"] is None
        assert begun[1]["refused"].startswith("All files exist")
        assert begun[1]["pressing"] is None
        pressed(client, begun[0]["pressing"])
        before = client.get("/api/pressings").json()["count"]
        missing = {"mix_ids": [numbers[1], 99], "briefs": ["audio-cd"]}
        assert client.post("/api/pressings/batch", json=missing).status_code == 404
        assert client.get("/api/press").json()["open"] == [], "one that is missing is said before any is pressed"
        assert client.get("/api/pressings").json()["count"] == before
