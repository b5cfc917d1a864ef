"""Live passes over the interface: created, run, played, stopped, awaited by a pressing, interrupted."""

import base64
import io
import json
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import mido
import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.live.rack import VARIABLE
from ripe_press.studio.studio import Studio
from support.press import read_all
from support.rack import unit
from support.server import OWN, arrive, pressed, wait_for
from support.signals import noise, write

RATE = 48_000
FRAMES = RATE * 3
LATE = 411


@pytest.fixture(scope="module")
def rack() -> Iterator[tuple[str, str]]:
    with unit(latency_frames=LATE) as outboard, unit("instrument", latency_frames=99) as instrument:
        yield outboard, instrument


@pytest.fixture(scope="module")
def client(rack: tuple[str, str], tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    with pytest.MonkeyPatch.context() as patched:
        patched.setenv(VARIABLE, ",".join((*rack, "127.0.0.1:9")))
        with TestClient(make_app(Studio(DataFolder(tmp_path_factory.mktemp("data")))), OWN) as client:
            yield client


@pytest.fixture(scope="module")
def mix(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> int:
    folder = tmp_path_factory.mktemp("work")
    number: int = arrive(client, str(write(folder / "Towpath.wav", noise(FRAMES), RATE, "FLOAT")))["mix_id"]
    return number


def stem(client: TestClient, mix: int, number: int) -> dict[str, Any]:
    stems = client.get(f"/api/mixes/{mix}/stems").json()["stems"]
    return next(one for one in stems if one["id"] == number)


def made(client: TestClient, mix: int, address: str, **more: Any) -> int:
    answer = client.post(f"/api/mixes/{mix}/live", json={"address": address, **more})
    assert answer.status_code == 201, answer.text
    number: int = answer.json()["stem"]
    return number


def ended(client: TestClient, mix: int, number: int) -> dict[str, Any]:
    """The newest pass of a live source once it has ended."""

    def ask() -> Any:
        passes = [one for one in client.get(f"/api/mixes/{mix}/passes").json() if one["stem_id"] == number]
        return passes[0] if passes and passes[0]["state"] not in ("queued", "running") else None

    found: dict[str, Any] = wait_for(ask)
    return found


def test_the_rack_says_who_is_there(client: TestClient, rack: tuple[str, str]) -> None:
    outboard, instrument, away = client.get("/api/rack").json()
    assert (outboard["unit"], outboard["address"], outboard["busy"]) == ("outboard", rack[0], False)
    assert instrument["unit"] == "instrument"
    assert not away["unit"] and "No unit at 127.0.0.1:9" in away["sentence"]


def line(number: int, *stems: str) -> dict[str, Any]:
    part = {"stems": list(stems), "but": False}
    changes = {"encoding": "f32"}
    return {"id": f"d{number}", "brief": "archive", "range_id": "r1", "part": part, "changes": changes}


def test_a_delivery_says_that_it_needs_a_pass_and_is_pressed_after_it(
    client: TestClient, mix: int, rack: tuple[str, str]
) -> None:
    number = made(client, mix, rack[0], name="warmed")
    shown = stem(client, mix, number)
    assert shown["apart"] and shown["live_s"] == pytest.approx(3 + 2.4, abs=0.1) and not shown["captured"]
    bench = client.get(f"/api/mixes/{mix}").json()["bench"]
    bench["ticket"] = [line(1, "warmed"), line(2)]
    client.put(f"/api/mixes/{mix}/bench", json=bench).raise_for_status()
    ticket = client.post(f"/api/mixes/{mix}/ticket", json=bench).json()
    (refused,) = ticket["refused"]
    assert refused["code"] == "part.live" and len(ticket["rows"]) == 1
    assert refused["sentence"] == "“warmed” needs a live pass through Weir Compressor first (0:05, real time)."
    answer = client.post("/api/pressings", json={"mix_id": mix, "bench": bench})
    assert answer.status_code == 202, answer.text
    report = pressed(client, answer.json()["id"])
    assert report["state"] == "done", report
    first, second = (read_all(Path(one["path"])) for one in report["files"])
    assert np.array_equal(first, second) and len(first) == FRAMES
    shown = stem(client, mix, number)
    assert shown["live_s"] == 0 and shown["captured"]["latency_frames"] == LATE
    assert shown["origin"].startswith("Weir Compressor: latency 411 samples (8.6 ms), removed; clock drift")
    # In a record from before captures were stored, files are not distinguishable.
    voices = [{"pressing": report["id"], "number": one["number"]} for one in report["files"]]
    with closing(sqlite3.connect(client.app.state.studio.folder.database)) as record:  # type: ignore[attr-defined]
        (kept,) = record.execute("SELECT ticket FROM pressings WHERE id = ?", (report["id"],)).fetchone()
        before = json.loads(kept)
        before["mixes"][0]["stems"][0]["live_s"] = 5.4
        for ticket, code in ((json.dumps(before), 404), (kept, 201)):
            record.execute("UPDATE pressings SET ticket = ? WHERE id = ?", (ticket, report["id"]))
            record.commit()
            desk = client.post("/api/desks", json={"voices": voices})
            assert desk.status_code == code, desk.text
            assert desk.json().get("code") == (None if code == 201 else "record.no-file")
    # The record has the captures: pressed again, every byte is the same.
    again = pressed(client, client.post(f"/api/pressings/{report['id']}/again").json()["id"])
    assert [one["sha256"] for one in again["files"]] == [one["sha256"] for one in report["files"]]
    # A capture is a source like any other: no pass runs again.
    again = client.post("/api/pressings", json={"mix_id": mix, "bench": bench}).json()["id"]
    assert pressed(client, again)["state"] == "done"
    assert len([one for one in client.get(f"/api/mixes/{mix}/passes").json() if one["stem_id"] == number]) == 1


def test_pressing_with_interrupted_pass_runs_it_again(
    rack: tuple[str, str], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv(VARIABLE, rack[0])
    data = DataFolder(tmp_path / "data")
    with TestClient(make_app(Studio(data)), OWN) as client:
        mix = arrive(client, str(write(tmp_path / "Towpath.wav", noise(FRAMES), RATE, "FLOAT")))["mix_id"]
        made(client, mix, rack[0], name="warmed")
        bench = {**client.get(f"/api/mixes/{mix}").json()["bench"], "ticket": [line(1, "warmed")]}
        number = client.post("/api/pressings", json={"mix_id": mix, "bench": bench}).json()["id"]
        wait_for(lambda: [one["state"] for one in client.get(f"/api/mixes/{mix}/passes").json()] == ["running"])
    with TestClient(make_app(Studio(data)), OWN) as client:
        report = pressed(client, number)
        assert report["state"] == "done", report
        newest, cut_off = client.get(f"/api/mixes/{mix}/passes").json()
        assert newest["state"] == "done" and cut_off["sentence"].startswith("Interrupted by shutdown.")


def score() -> str:
    file = mido.MidiFile(ticks_per_beat=480)
    track = mido.MidiTrack()
    file.tracks.append(track)
    for at in (0, 480, 480):
        track.append(mido.Message("note_on", channel=9, note=38, velocity=110, time=at))
    track.append(mido.Message("note_on", channel=0, note=60, velocity=90, time=0))
    track.append(mido.Message("note_off", channel=0, note=60, time=480))
    data = io.BytesIO()
    file.save(file=data)
    return base64.b64encode(data.getvalue()).decode()


def test_an_instrument_is_captured_beside_the_mix(client: TestClient, mix: int, rack: tuple[str, str]) -> None:
    number = made(client, mix, rack[1], name="kit", score=score())
    client.post(f"/api/mixes/{mix}/stems/{number}/pass").raise_for_status()
    found = ended(client, mix, number)
    assert found["state"] == "done" and "latency 99 samples" in found["sentence"], found
    sound = soundfile.read(stem(client, mix, number)["path"])[0]
    assert np.abs(sound[: RATE // 10]).max() > 0.05 and len(sound) >= FRAMES
    for wrong, words in (({"score": ""}, "Choose a MIDI file"), ({"score": "TWlk"}, "Cannot read MIDI file")):
        answer = client.post(f"/api/mixes/{mix}/live", json={"address": rack[1], **wrong})
        assert answer.status_code in (422, 415, 400) and words in answer.json()["message"], answer.text


def test_failed_pass_is_one_sentence_also_in_its_pressing(client: TestClient, mix: int) -> None:
    with unit(faults=[("vanish", RATE * 2, 0)], hurry=4.0) as address:
        with pytest.MonkeyPatch.context() as patched:
            room = client.app.state.studio.passes  # type: ignore[attr-defined]
            patched.setattr(room.rack, "_addresses", (address,))
            number = made(client, mix, address, name="gone")
        bench = client.get(f"/api/mixes/{mix}").json()["bench"]
        bench["ticket"] = [line(1, "gone")]
        answer = client.post("/api/pressings", json={"mix_id": mix, "bench": bench})
        report = pressed(client, answer.json()["id"])
    assert report["state"] == "failed"
    assert "The live pass of “gone” failed. Connection to Weir Compressor lost" in report["error"]
    found = ended(client, mix, number)
    assert found["state"] == "interrupted" and "The recording so far is kept" in found["sentence"]
    kept = [one["name"] for one in client.get(f"/api/mixes/{mix}/stems").json()["stems"]]
    assert any(one.startswith("gone up to 0:0") for one in kept)


def test_it_is_heard_while_it_runs_and_stopped(client: TestClient, mix: int) -> None:
    with unit(hurry=3.0) as address:
        with pytest.MonkeyPatch.context() as patched:
            room = client.app.state.studio.passes  # type: ignore[attr-defined]
            patched.setattr(room.rack, "_addresses", (address,))
            number = made(client, mix, address, name="slow")
        client.post(f"/api/mixes/{mix}/stems/{number}/pass").raise_for_status()
        answer = client.post(f"/api/mixes/{mix}/stems/{number}/pass")
        assert answer.status_code == 409 and "already recording" in answer.json()["message"]

        def running() -> Any:
            passes = client.get(f"/api/mixes/{mix}/passes").json()
            return next((one for one in passes if one["levels"] and one["levels"]["done"] > 1000), None)

        found = wait_for(running)
        assert found["levels"]["total"] == FRAMES and 0 < found["levels"]["heard_peak"] < 2
        with client.stream("GET", f"/api/passes/{found['id']}/sound") as response:
            assert response.headers["x-rate-hz"] == str(RATE) and response.headers["x-channels"] == "2"
            client.delete(f"/api/passes/{found['id']}").raise_for_status()
            heard = b"".join(response.iter_bytes())
        assert len(heard) % 8 == 0 and np.isfinite(np.frombuffer(heard, "<f4")).all()
    assert ended(client, mix, number)["state"] == "interrupted"
    assert client.delete(f"/api/passes/{found['id']}").status_code == 409
    assert client.get(f"/api/passes/{found['id']}/sound").status_code == 409
    assert client.delete("/api/passes/999").status_code == 404


def test_interrupted_pass_keeps_its_recording(tmp_path: Path) -> None:
    """The application ends in the middle of a pass, as with the power cut, and begins again."""
    data = DataFolder(tmp_path / "data")
    with unit(hurry=2.0) as address, pytest.MonkeyPatch.context() as patched:
        patched.setenv(VARIABLE, address)
        with TestClient(make_app(Studio(data)), OWN) as client:
            mix = arrive(client, str(write(tmp_path / "Towpath.wav", noise(FRAMES * 4), RATE, "FLOAT")))["mix_id"]
            number = made(client, mix, address, name="cut")
            client.post(f"/api/mixes/{mix}/stems/{number}/pass").raise_for_status()
            wait_for(lambda: (one := client.get(f"/api/mixes/{mix}/passes").json()[0]["levels"]) and one["done"] > RATE)
        with TestClient(make_app(Studio(data)), OWN) as client:
            found = ended(client, mix, number)
            assert found["state"] == "interrupted" and "Interrupted by shutdown" in found["sentence"]
            kept = next(one for one in client.get(f"/api/mixes/{mix}/stems").json()["stems"] if "up to" in one["name"])
    whole, part = soundfile.read(tmp_path / "Towpath.wav")[0], soundfile.read(kept["path"])[0]
    assert RATE < len(part) < len(whole) and np.array_equal(part, whole[: len(part)])
    assert not list((data.root / "mixes").rglob("*.f32"))


def test_a_capture_that_the_record_had_not_heard_of_is_kept(tmp_path: Path) -> None:
    """The power is cut between the file and its row: the capture is whole, and stands where it should."""
    data = DataFolder(tmp_path / "data")
    with unit(latency_frames=LATE) as address, pytest.MonkeyPatch.context() as patched:
        patched.setenv(VARIABLE, address)
        with TestClient(make_app(Studio(data)), OWN) as client:
            mix = arrive(client, str(write(tmp_path / "Towpath.wav", noise(FRAMES), RATE, "FLOAT")))["mix_id"]
            number = made(client, mix, address, name="cut")
            client.post(f"/api/mixes/{mix}/stems/{number}/pass").raise_for_status()
            found = ended(client, mix, number)
            assert found["state"] == "done"
        # As the record was before it heard of the capture.
        with closing(sqlite3.connect(data.database)) as record:
            record.execute("UPDATE passes SET state = 'running', sentence = '', report = '{}'")
            note, origin = record.execute("SELECT note, origin FROM stems WHERE id = ?", (number,)).fetchone()
            before = {**json.loads(note), "live_s": 5.4}
            wish = {"kind": "live", "wish": json.loads(origin)["wish"], "sentence": ""}
            values = (json.dumps(before), json.dumps(wish), number)
            record.execute("UPDATE stems SET note = ?, origin = ? WHERE id = ?", values)
            record.commit()
        with TestClient(make_app(Studio(data)), OWN) as client:
            assert ended(client, mix, number)["state"] == "done"
            shown = stem(client, mix, number)
    assert shown["live_s"] == 0 and shown["captured"]["latency_frames"] == LATE
    sent = soundfile.read(tmp_path / "Towpath.wav")[0]
    assert np.array_equal(soundfile.read(shown["path"])[0], sent)
