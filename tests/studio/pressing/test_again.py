"""Pressed again, compared, looked for: what the record says of files long after they were made."""

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.formats.libraries import library_versions
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.pressing import run as pressings
from ripe_press.studio.pressing.compare import Comparisons
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed, wait_for
from support.signals import noise, write

BRIEFS = ("audio-cd", "archive", "car", "small-share")


def beside(client: TestClient, number: int, other: int) -> dict[str, Any]:
    def ask() -> Any:
        found = client.get(f"/api/pressings/{number}/beside/{other}").json()
        return None if any(pair["sameness"] == "measuring" for pair in found["pairs"]) else found

    found: dict[str, Any] = wait_for(ask)
    return found


@pytest.fixture
def client(tmp_path: Path) -> Any:
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        yield client


def first_pressing(client: TestClient, folder: Path, *briefs: str) -> dict[str, Any]:
    path = write(folder / "Weir.wav", noise(48_000 * 3).astype(np.float32), 48_000)
    number = arrive(client, str(path))["mix_id"]
    lines = [{"id": f"d{at}", "brief": brief, "range_id": "r0"} for at, brief in enumerate(briefs)]
    asked = {"mix_id": number, "bench": {**bench(0, 48_000 * 3), "ticket": lines}}
    return pressed(client, client.post("/api/pressings", json=asked).json()["id"])


def test_pressed_again_says_that_the_bytes_are_the_same(client: TestClient, tmp_path: Path) -> None:
    briefs = [brief["id"] for brief in client.get("/api/briefs").json() if brief["id"] in BRIEFS]
    first = first_pressing(client, tmp_path, *briefs)
    assert first["libraries"] == library_versions()
    again = pressed(client, client.post(f"/api/pressings/{first['id']}/again").json()["id"])
    assert again["again_of"] == first["id"]
    found = beside(client, again["id"], first["id"])
    assert [pair["sameness"] for pair in found["pairs"]] == ["bytes"] * len(briefs)
    assert found["sentence"].startswith(f"{'1 file' if len(briefs) == 1 else f'{len(briefs)} files'} byte-identical")
    assert found["libraries"] == []


def test_pressed_again_says_which_library_changed_and_by_how_much_the_sound_differs(
    client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first = first_pressing(client, tmp_path, "audio-cd", "archive")
    other = {**library_versions(), "soxr": "0.0.1"}
    monkeypatch.setattr(pressings, "library_versions", lambda: other)
    again = pressed(client, client.post(f"/api/pressings/{first['id']}/again").json()["id"])
    # What another version of a library might do: half a step more on one channel from the second second on.
    path = Path(again["files"][0]["path"])
    samples, rate = soundfile.read(path, dtype="int16")
    samples[rate:, 0] += 16
    soundfile.write(path, samples, rate, subtype="PCM_16")
    number = again["id"]
    studio = client.app.state.studio  # type: ignore[attr-defined]
    stored = studio.press_room.pressing(number)
    report = replace(stored.files[0].report, sha256="of other bytes")
    files = [replace(stored.files[0], report=report), *stored.files[1:]]
    studio.press_room._record.set_files(number, files)
    found = beside(client, number, first["id"])
    assert found["libraries"] == [["soxr", library_versions()["soxr"], "0.0.1"]]
    differs, same = found["pairs"]
    assert (differs["sameness"], same["sameness"]) == ("differs", "bytes")
    # 16 of 32,768 steps are −66.2 dB; on one of two channels, two thirds of the time.
    assert "after 0:01.000: −66.2 dBFS peak" in differs["sentence"]
    path.unlink()
    studio.comparisons = Comparisons(studio._heavy, studio.shelf.passing, studio.events)
    assert beside(client, number, first["id"])["pairs"][0]["sameness"] == "unknown"


def test_files_are_looked_for_where_they_were_and_below_the_drop_off(client: TestClient, tmp_path: Path) -> None:
    first = first_pressing(client, tmp_path, "audio-cd", "archive", "audio-cd", "audio-cd")
    paths = [Path(file["path"]) for file in first["files"]]
    moved = paths[0].with_name("elsewhere") / "of another name.wav"
    moved.parent.mkdir()
    paths[0].rename(moved)
    paths[1].write_bytes(paths[1].read_bytes()[:-2] + b"\0\1")
    paths[2].unlink()
    # The third and the fourth have the same content: one that is gone is found in the other.
    paths[3].unlink()
    moved_again = moved.rename(moved.with_suffix(".bin"))
    assert client.post(f"/api/pressings/{first['id']}/check").status_code == 202
    found = wait_for(lambda: None if (now := client.get(f"/api/pressings/{first['id']}").json())["checking"] else now)
    assert [file["found"] for file in found["files"]] == ["moved", "changed", "moved", "moved"]
    assert found["files"][0]["found_path"] == str(moved_again)
    moved_again.unlink()
    client.post(f"/api/pressings/{first['id']}/check")
    found = wait_for(lambda: None if (now := client.get(f"/api/pressings/{first['id']}").json())["checking"] else now)
    assert [file["found"] for file in found["files"]] == ["gone", "changed", "gone", "gone"]
    assert all(file["found_at"] for file in found["files"])


def test_a_mix_that_is_gone_cannot_be_pressed_again(client: TestClient, tmp_path: Path) -> None:
    first = first_pressing(client, tmp_path, "audio-cd")
    client.delete(f"/api/mixes/{first['mix_id']}")
    answer = client.post(f"/api/pressings/{first['id']}/again")
    assert (answer.status_code, answer.json()["code"]) == (409, "pressing.no-mix")
    assert client.get("/api/pressings", params={"find": first["files"][0]["sha256"]}).json()["count"] == 1
