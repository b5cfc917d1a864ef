"""Running orders over the interface: made, changed, heard, pressed, burnt."""

import io
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.discs.task import disc_of
from ripe_press.studio.jobs.folder import JobFolder
from ripe_press.studio.studio import Studio
from support.press import read_all
from support.server import OWN, arrive, pressed, wait_for
from support.signals import noise, write

RATE = 44_100


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(tmp_path_factory.mktemp("data")))), OWN) as client:
        yield client


@pytest.fixture(scope="module")
def mixes(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> list[int]:
    folder = tmp_path_factory.mktemp("mixes")
    sounds = {"Headrace": noise(RATE * 14, seed=1, level=0.2), "Towpath": noise(RATE * 6, seed=2, level=0.05)}
    paths = [write(folder / f"{name}.wav", one, RATE, "PCM_24") for name, one in sounds.items()]
    found = [arrive(client, str(path))["mix_id"] for path in paths]
    bench = client.get(f"/api/mixes/{found[0]}").json()["bench"]
    bench["markers"] = [{"frame": 0, "name": "One"}, {"frame": RATE * 7 + 100, "name": "Two"}]
    assert client.put(f"/api/mixes/{found[0]}/bench", json=bench).status_code == 200
    return found


def made(client: TestClient, mixes: list[int], title: str = "Nine Weirs") -> dict[str, Any]:
    ranges = [{"mix_id": one} for one in mixes]
    answer = client.post("/api/orders", json={"title": title, "ranges": ranges})
    assert answer.status_code == 201, answer.text
    found: dict[str, Any] = answer.json()
    return found


def changed(client: TestClient, order: dict[str, Any], **fields: Any) -> dict[str, Any]:
    answer = client.put(f"/api/orders/{order['id']}", json={**order["order"], **fields})
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def test_order_from_a_selection_has_positions(client: TestClient, mixes: list[int]) -> None:
    order = made(client, mixes)
    first, second = order["entries"]
    assert (first["title"], second["title"], second["track"]) == ("Headrace", "Towpath", 2)
    assert (second["pause_frame"], second["start_frame"], second["end_frame"]) == (14 * 75, 16 * 75, 22 * 75)
    assert first["integrated_lufs"] > second["integrated_lufs"] and len(first["wave"]) > 40
    assert order["lead_out_frame"] == 22 * 75 and order["capacities"]["74"] == 333_000
    jump = next(one for one in order["findings"] if one["rule"] == "level_jumps")
    assert (jump["entry"], jump["remedy"]["action"]) == (1, "one-loudness")
    assert order["id"] in [one["id"] for one in client.get("/api/orders").json()]


def test_common_level_is_shown_before_pressing(client: TestClient, mixes: list[int]) -> None:
    order = made(client, mixes)
    level = {**order["order"]["level"]["level"], "kind": "true-peak", "target": -1.0}
    shown = changed(client, order, level={"level": level, "together": "loudest"})
    gains = [one["gain_db"] for one in shown["entries"]]
    assert shown["loudest"] == 0 and gains[0] == gains[1]
    assert shown["entries"][0]["true_peak_dbtp"] + gains[0] == pytest.approx(-1.0)
    loud = {**level, "kind": "loudness", "target": -20.0, "limit": False}
    shown = changed(client, order, level={"level": loud, "together": "each"})
    assert [one["integrated_lufs"] + one["gain_db"] for one in shown["entries"]] == [pytest.approx(-20.0)] * 2
    shown = changed(client, order, level={"level": loud, "together": "whole"})
    assert shown["entries"][0]["gain_db"] == shown["entries"][1]["gain_db"] and shown["loudest"] is None


def test_a_mix_is_cut_at_its_markers_and_heard_at_the_join(client: TestClient, mixes: list[int]) -> None:
    answer = client.post("/api/orders/cut", json={"mix_id": mixes[0]})
    order = answer.json()
    assert [(one["title"], one["goes_on"]) for one in order["entries"]] == [("One", False), ("Two", True)]
    heard = client.get(f"/api/orders/{order['id']}/joins/1/listen?seconds=1.5")
    assert heard.headers["content-type"] == "audio/wav"
    samples, rate = soundfile.read(io.BytesIO(heard.content), always_2d=True)
    assert (rate, len(samples)) == (RATE, 3 * RATE)
    mix = read_all(client.get(f"/api/mixes/{mixes[0]}").json()["path"])
    # Cut at the nearest CD frame: 7 s and 100 samples come to 7 s.
    assert np.abs(samples - mix[RATE * 7 - RATE * 3 // 2 : RATE * 7 + RATE * 3 // 2]).max() < 2e-7
    assert client.get(f"/api/orders/{order['id']}/joins/2/listen").status_code == 422
    path = client.get(f"/api/orders/{order['id']}/entries/1/path").json()
    # One path, then a cut: everything in front of it is worked by once for both.
    kinds = [one["kind"] for one in path]
    assert kinds.index("piece") == kinds.index("codec") - 1
    assert all(one["shared"] for one in path[: kinds.index("piece")])
    assert not any(one["shared"] for one in path[kinds.index("piece") :])
    assert client.get(f"/api/orders/{order['id']}/entries/9/path").status_code == 404
    quiet = client.post("/api/orders/cut", json={"mix_id": mixes[1], "at": "quiet"})
    assert "has no quiet places" in quiet.json()["message"]
    entries = client.post("/api/orders/entries", json={"mix_id": mixes[0]}).json()
    assert [one["runs_on"] for one in entries] == [False, True]


def test_a_gap_is_heard_with_its_silence(client: TestClient, mixes: list[int]) -> None:
    order = made(client, mixes)
    heard = client.get(f"/api/orders/{order['id']}/joins/1/listen?seconds=1")
    samples, _ = soundfile.read(io.BytesIO(heard.content), always_2d=True)
    assert len(samples) == 4 * RATE and not samples[RATE + 10 : 3 * RATE - 10].any() and samples[:RATE].any()


def test_orders_are_duplicated_exported_imported_and_deleted(client: TestClient, mixes: list[int]) -> None:
    order = made(client, mixes, "Älv")
    copy = client.post(f"/api/orders/{order['id']}/copy").json()
    assert copy["order"]["title"] == "Älv, copy" and copy["order"]["entries"] == order["order"]["entries"]
    document = client.get(f"/api/orders/{order['id']}/document")
    assert 'filename="_lv.json"' in document.headers["content-disposition"]
    again = client.post("/api/orders/import", json={"text": document.text}).json()
    assert again["order"] == order["order"]
    row = json.loads(document.text)
    row["mixes"][0]["source"]["facts"] |= {"content_sum": "other", "path": "/gone.wav"}
    refused = client.post("/api/orders/import", json={"text": json.dumps(row)})
    assert refused.status_code == 422 and "not on the Shelf" in refused.json()["message"]
    assert client.delete(f"/api/orders/{copy['id']}").status_code == 204
    assert client.get(f"/api/orders/{copy['id']}").status_code == 404
    assert client.post("/api/orders/import", json={"text": "{}"}).status_code == 422


def test_a_mix_of_an_order_stays_on_the_shelf(client: TestClient, mixes: list[int], tmp_path: Path) -> None:
    path = write(tmp_path / "Weir.wav", noise(RATE * 5, seed=7), RATE)
    mix = arrive(client, str(path))["mix_id"]
    order = made(client, [mix], "Holds it")
    refused = client.delete(f"/api/mixes/{mix}")
    assert refused.status_code == 409 and "is in running order “Holds it”" in refused.json()["message"]
    client.delete(f"/api/orders/{order['id']}")
    assert client.delete(f"/api/mixes/{mix}").status_code == 204


def test_invalid_order_is_rejected_and_nothing_lost(client: TestClient, mixes: list[int]) -> None:
    order = made(client, mixes)
    path = f"/api/orders/{order['id']}"
    entry = order["order"]["entries"][0]
    for wrong in ({**entry, "end_frame": 10**9}, {**entry, "mix": 999}, {**entry, "gap_frames": -1}):
        assert client.put(path, json={**order["order"], "entries": [wrong]}).status_code in (404, 422)
    assert client.get(path).json() == order
    assert "No brief chosen" in client.post(f"{path}/press", json={}).json()["message"]
    # An empty order is saved all the same: the user is still editing it.
    assert changed(client, order, entries=[])["entries"] == []
    short = changed(client, order, entries=[{**entry, "end_frame": RATE}], disc=True)
    assert [one["rule"] for one in short["findings"] if one["verdict"] == "stop"] == ["entry_too_short"]
    assert "No disc was made" in client.post(f"{path}/press", json={"disc": True}).json()["message"]


def test_a_batch_of_four_hundred_is_an_order_and_no_disc(client: TestClient, mixes: list[int]) -> None:
    order = made(client, mixes, "Batch")
    entry = order["order"]["entries"][0]
    many = [{**entry, "id": f"e{at}", "start_frame": at * 100, "end_frame": at * 100 + RATE * 5} for at in range(400)]
    shown = changed(client, order, entries=many)
    assert len(shown["entries"]) == 400
    assert "too_many_tracks" in {one["rule"] for one in shown["findings"] if one["verdict"] == "stop"}
    path = f"/api/orders/{order['id']}"
    assert client.get(path).json()["entries"] == shown["entries"]
    assert "disc maximum 99" in client.post(f"{path}/press", json={"disc": True}).json()["message"]
    assert client.put(path, json={**order["order"], "entries": [*many, {**entry, "id": "more"}]}).status_code == 422


def test_an_order_is_pressed_to_files_and_a_disc_and_burnt(client: TestClient, mixes: list[int]) -> None:
    order = made(client, mixes, "Nine Weirs")
    changed(client, order, lines=[{"brief": "phone-and-car", "changes": {}}])
    number = client.post(f"/api/orders/{order['id']}/press", json={"disc": True}).json()["id"]
    done = pressed(client, number)
    assert done["state"] == "done" and done["is_order"], done["error"]
    names = [one["name"] for one in done["files"]]
    assert names == ["01 Headrace.mp3", "02 Towpath.mp3", "01 Headrace.wav", "02 Towpath.wav"]
    disc = done["disc"]
    assert (disc["tracks"], disc["image"], disc["holds"]) == (2, "Nine Weirs.bin", disc["checks"])
    files = {one.name for one in Path(disc["folder"]).iterdir()}
    assert {"Nine Weirs.cue", "Nine Weirs.bin", "Nine Weirs.cdt", "tracks"} <= files
    lists = [one.name for one in Path(disc["folder"]).parent.rglob("*.m3u8")]
    assert lists == ["Nine Weirs.m3u8"]
    assert "Headrace" in client.get(f"/api/pressings/{number}/disc/log-sheet").text
    path = f"/api/pressings/{number}/disc/burn"
    assert client.get(path).json() is None
    assert client.post(path, json={"kind": "cdr74", "speed": 48}).status_code == 202
    burn = wait_for(lambda: (one := client.get(path).json())["state"] != "running" and one)
    assert (burn["state"], burn["offset_samples"], burn["wrong_frames"]) == ("done", 0, 0)
    assert "Every sample" in burn["worth"]
    assert client.delete(path).status_code == 409
    again = client.post(f"/api/pressings/{number}/again").json()
    assert pressed(client, again["id"])["state"] == "done"


def test_a_disc_that_was_made_before_the_power_went_is_made_no_second_time(
    client: TestClient, mixes: list[int], tmp_path: Path
) -> None:
    order = made(client, mixes, "Nine Weirs")
    done = pressed(client, client.post(f"/api/orders/{order['id']}/press", json={"disc": True}).json()["id"])
    studio = client.app.state.studio  # type: ignore[attr-defined]
    stored = studio.press_room.pressing(done["id"])
    job = JobFolder.make(tmp_path)
    tracks = [one.path for one in stored.files]
    told = (json.dumps(stored.ticket), tracks, str(tmp_path), str(job.path), str(tmp_path / "note.json"))
    first = disc_of(*told)
    again = disc_of(*told)
    assert {name: again[name] for name in ("cue", "sha256", "verdict", "log_sheet")}.items() <= first.items()
    assert [one.name for one in tmp_path.glob("*.cue")] == ["Nine Weirs.cue"]
    # And where it was spoilt since, another one is made.
    Path(first["image"]).write_bytes(b"plums")
    assert Path(disc_of(*told)["cue"]).name == "Nine Weirs (2).cue"


def test_a_pressing_without_a_disc_has_none(client: TestClient, mixes: list[int]) -> None:
    order = made(client, mixes)
    changed(client, order, lines=[{"brief": "archive", "changes": {}}])
    number = client.post(f"/api/orders/{order['id']}/press", json={}).json()["id"]
    done = pressed(client, number)
    assert done["state"] == "done" and done["disc"] is None
    assert client.post(f"/api/pressings/{number}/disc/burn", json={}).status_code == 404
    assert client.get(f"/api/pressings/{number}/disc/log-sheet").status_code == 404


def test_an_order_may_be_made_empty_and_filled_later(client: TestClient, mixes: list[int]) -> None:
    empty = made(client, [])
    assert (
        empty["order"]["entries"] == [] and changed(client, empty, title="Ten Weirs")["order"]["title"] == "Ten Weirs"
    )
    filled = changed(client, empty, entries=made(client, mixes)["order"]["entries"])
    assert [one["mix"] for one in filled["order"]["entries"]] == mixes
