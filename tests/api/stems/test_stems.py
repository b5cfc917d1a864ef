"""Stems over the interface: added, checked, aligned, pressed, played, added from a pressing."""

import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.press import read_all
from support.server import OWN, arrive, pressed, settled, wait_for
from support.signals import noise, write

RATE = 48_000
FRAMES = RATE * 4


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(tmp_path_factory.mktemp("data")))), OWN) as client:
        yield client


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A mix, and a folder of its stems: one 96 frames late, one mono in a stereo file."""
    folder = tmp_path_factory.mktemp("work")
    stems = folder / "stems"
    stems.mkdir()
    parts = {"bass": noise(FRAMES, 1, 1, 0.1).repeat(2, axis=1), "drums": noise(FRAMES, 2, 2, 0.1)}
    parts["voice"] = noise(FRAMES, 2, 3, 0.05)
    write(folder / "Headrace.wav", sum(parts.values()), RATE, "DOUBLE")  # type: ignore[arg-type]
    parts["voice"] = np.concatenate((np.zeros((96, 2)), parts["voice"]))
    for name, samples in parts.items():
        write(stems / f"Headrace {name}.wav", samples, RATE, "DOUBLE")
    (stems / "Headrace notes.txt").write_text("Dear engineer")
    return folder


@pytest.fixture(scope="module")
def mix(client: TestClient, folder: Path) -> int:
    number: int = arrive(client, str(folder / "Headrace.wav"))["mix_id"]
    answer = client.post(f"/api/mixes/{number}/stems/path", json={"path": str(folder / "stems" / "*.wav")})
    assert answer.json() == {"count": 3}
    checked(client, number)
    return number


def stems_of(client: TestClient, mix: int) -> dict[str, Any]:
    found: dict[str, Any] = client.get(f"/api/mixes/{mix}/stems").json()
    return found


def checked(client: TestClient, mix: int) -> dict[str, Any]:
    """All stems of a mix once nothing is running, and the check is up to date."""

    def ask() -> Any:
        found = stems_of(client, mix)
        quiet = not found["reading"] and found["checking"] is None
        return found if quiet and found["check"] and not found["check"]["stale"] else None

    found: dict[str, Any] = wait_for(ask)
    return found


def test_folder_of_stems_is_added_checked_and_aligned(client: TestClient, mix: int) -> None:
    found = checked(client, mix)
    assert {one["name"]: one["mono"] for one in found["stems"]} == {"bass": True, "drums": False, "voice": False}
    assert not found["check"]["lines_up"]
    assert "voice is 96 samples (2.0 ms) late" in found["check"]["sentence"]
    assert client.post(f"/api/mixes/{mix}/stems/align").json() == {"count": 1}
    found = checked(client, mix)
    assert found["check"]["lines_up"] and found["check"]["sums"]
    assert [one["late_frames"] for one in found["stems"] if one["name"] == "voice"] == [96]


def line(number: int, *stems: str, but: bool = False) -> dict[str, Any]:
    part = {"stems": list(stems), "but": but}
    return {"id": f"d{number}", "brief": "archive", "range_id": "r1", "part": part}


def test_parts_are_planned_shown_and_pressed(client: TestClient, mix: int, folder: Path) -> None:
    bench = client.get(f"/api/mixes/{mix}").json()["bench"]
    bench["ticket"] = [line(1, "bass"), line(2, "voice", but=True), line(3, but=True), line(4)]
    for one in bench["ticket"]:
        one["changes"] = {"encoding": "f64"}

    def told() -> Any:
        ticket = client.post(f"/api/mixes/{mix}/ticket", json=bench).json()
        assert all("Measuring" in one["sentence"] for one in ticket["refused"])
        return ticket if not ticket["refused"] else None

    ticket = wait_for(told)
    sources = [row["stations"][0]["label"] for row in ticket["rows"]]
    assert sorted(sources) == ["All but voice", "All stems", "Bass", "Mix"]
    number = client.post("/api/pressings", json={"mix_id": mix, "bench": bench}).json()["id"]
    files = {Path(one["path"]).name: Path(one["path"]) for one in pressed(client, number)["files"]}
    bass, minus, everything, whole = (
        read_all(next(path for name, path in files.items() if f"64f{wanted}.wav" in name))
        for wanted in (" bass", " all but voice", " all stems", "")
    )
    assert bass.shape == (FRAMES, 1) and {len(one) for one in (minus, everything, whole)} == {FRAMES}
    drums = read_all(folder / "stems" / "Headrace drums.wav")
    assert np.array_equal(minus, bass + drums)
    # Their order is another than that in which the mix was made.
    assert np.abs(everything - whole).max() < 1e-15


def test_some_are_heard_in_place_of_the_mix(client: TestClient, mix: int) -> None:
    ids = {one["name"]: one["id"] for one in stems_of(client, mix)["stems"]}
    where = {"start_frame": 0, "end_frame": FRAMES, "from_frame": 1000, "to_frame": 9000}
    answer = client.get(f"/api/mixes/{mix}/listen", params={**where, "stems": f"{ids['bass']},{ids['drums']}"})
    heard, rate = soundfile.read(io.BytesIO(answer.content), always_2d=True)
    whole = soundfile.read(io.BytesIO(client.get(f"/api/mixes/{mix}/listen", params=where).content))[0]
    assert rate == RATE and heard.shape == whole.shape == (8000, 2) and not np.allclose(heard, whole, atol=1e-3)
    for wrong, status in (("99", 404), ("one", 422)):
        assert client.get(f"/api/mixes/{mix}/listen", params={**where, "stems": wrong}).status_code == status


def test_a_new_name_is_followed_by_the_ticket(client: TestClient, mix: int) -> None:
    ids = {one["name"]: one["id"] for one in stems_of(client, mix)["stems"]}
    bench = client.get(f"/api/mixes/{mix}").json()["bench"]
    bench["ticket"] = [line(1, "bass"), line(2, "bass", but=True)]
    client.put(f"/api/mixes/{mix}/bench", json=bench).raise_for_status()
    answer = client.patch(f"/api/mixes/{mix}/stems/{ids['bass']}", json={"name": "  low \n end "})
    assert "low end" in [one["name"] for one in answer.json()["stems"]]
    ticket = client.get(f"/api/mixes/{mix}").json()["bench"]["ticket"]
    assert [one["part"] for one in ticket] == [
        {"stems": ["low end"], "but": False},
        {"stems": ["low end"], "but": True},
    ]
    for wrong in ({"name": "drums"}, {"name": " "}, {"late_frames": 10**12}):
        assert client.patch(f"/api/mixes/{mix}/stems/{ids['bass']}", json=wrong).status_code == 422
    client.patch(f"/api/mixes/{mix}/stems/{ids['bass']}", json={"name": "bass"}).raise_for_status()


def test_invalid_stem_is_reported(client: TestClient, mix: int, folder: Path, tmp_path: Path) -> None:
    def refused(path: Path) -> str:
        client.post(f"/api/mixes/{mix}/stems/path", json={"path": str(path)}).raise_for_status()
        found = wait_for(lambda: stems_of(client, mix)["refused"] or None)
        client.delete(f"/api/mixes/{mix}/stems/refused").raise_for_status()
        sentence: str = found[0]
        return sentence

    copy = tmp_path / "copy.wav"
    copy.write_bytes((folder / "Headrace.wav").read_bytes())
    assert "is the mix itself" in refused(copy)
    assert "already" in refused(folder / "stems" / "Headrace bass.wav")
    assert "Headrace notes.txt" in refused(folder / "stems" / "Headrace notes.txt")
    for path, status in (("stems", 422), (str(tmp_path / "nowhere"), 404), ("/proc/self", 422), (str(tmp_path), 202)):
        answer = client.post(f"/api/mixes/{mix}/stems/path", json={"path": path})
        assert answer.status_code == status, (path, answer.text)
    client.delete(f"/api/mixes/{mix}/stems/refused")


def test_a_pressed_file_goes_back_as_a_stem_and_as_a_new_mix(client: TestClient, mix: int) -> None:
    bench = client.get(f"/api/mixes/{mix}").json()["bench"]
    bench["ticket"] = [{**line(1, "drums"), "brief": "audio-cd"}]
    number = client.post("/api/pressings", json={"mix_id": mix, "bench": bench}).json()["id"]
    assert pressed(client, number)["state"] == "done"
    client.post(f"/api/mixes/{mix}/stems/file", json={"pressing": number, "file": 0}).raise_for_status()
    found = wait_for(lambda: next((one for one in stems_of(client, mix)["stems"] if one["origin"]), None))
    assert found["origin"] == f"Pressed from Headrace, pressing {number}." and found["rate_hz"] == 44_100
    arrival = client.post(f"/api/pressings/{number}/files/0/shelf").json()
    new = client.get(f"/api/mixes/{settled(client, arrival['id'])['mix_id']}").json()
    assert new["origin"] == found["origin"]
    answer = client.post(f"/api/mixes/{new['id']}/stems/file", json={"pressing": number, "file": 0})
    assert answer.status_code == 409 and "Add it to that mix" in answer.json()["message"]
    assert client.delete(f"/api/mixes/{mix}/stems/{found['id']}").status_code == 204
    assert Path(found["path"]).is_file()
    assert client.delete(f"/api/mixes/{mix}/stems/{found['id']}").status_code == 404


def test_one_that_is_sent_is_kept_with_the_mix_and_goes_with_it(client: TestClient, tmp_path: Path) -> None:
    path = write(tmp_path / "Solo.wav", noise(9_000), RATE, "PCM_24")
    number = arrive(client, str(path))["mix_id"]
    stem = write(tmp_path / "Solo - flute.wav", noise(9_000, seed=4), RATE, "PCM_24").read_bytes()
    for name in ("Solo - flute.wav", "Solo - flute.wav"):
        added = client.post(f"/api/mixes/{number}/stems/upload", params={"name": name}, content=stem)
        assert (added.status_code, added.json()) == (202, {"count": 1})
    found = wait_for(lambda: (view := checked(client, number))["refused"] and view)
    assert [one["name"] for one in found["stems"]] == ["flute"] and "same audio" in found["refused"][0]
    kept = Path(found["stems"][0]["path"])
    assert kept.is_file() and client.delete(f"/api/mixes/{number}").status_code == 204
    assert not kept.exists() and client.get(f"/api/mixes/{number}/stems").status_code == 404
