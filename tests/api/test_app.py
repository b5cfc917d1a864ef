"""The real application, from an uploaded mix to a downloaded file, over HTTP."""

import hashlib
import inspect
import io
import json
import os
import re
import shutil
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.api.error_map import STATUS
from ripe_press.core import errors
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.av_files import encode
from support.server import OWN, arrive, bench, pressed, settled, wait_for
from support.signals import noise, sine, write


@pytest.fixture(scope="module")
def data(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("app")


@pytest.fixture(scope="module")
def client(data: Path) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(data))), OWN) as client:
        yield client


@pytest.fixture(scope="module")
def millrace(client: TestClient, data: Path) -> dict[str, object]:
    """Three seconds at 96 kHz: silence, a tone with four samples above full scale, silence."""
    samples = np.concatenate((np.zeros((48_000, 2)), sine(997, 2.0, 96_000, 0.5), np.zeros((48_000, 2))))
    samples[100_000:100_004, 0] = 1.3
    arrival = arrive(client, str(write(data / "Millrace.wav", samples, 96_000)))
    mix: dict[str, object] = client.get(f"/api/mixes/{arrival['mix_id']}").json()
    return mix


def test_every_error_class_has_a_status() -> None:
    family = [one for _, one in inspect.getmembers(errors, inspect.isclass) if issubclass(one, errors.RipePressError)]
    assert set(family) - {errors.RipePressError} == set(STATUS)


def test_mix_on_the_shelf_has_its_facts(millrace: dict[str, object]) -> None:
    assert (millrace["title"], millrace["rate_hz"], millrace["frames"]) == ("Millrace", 96_000, 288_000)
    assert millrace["depth_label"] == "32-bit float"
    measures = millrace["measures"]
    assert isinstance(measures, dict)
    assert measures["samples_over_full_scale"] == 4
    assert measures["sample_peak_dbfs"] == pytest.approx(20 * np.log10(1.3), abs=1e-4)
    assert abs(measures["head_silence_frames"] - 48_000) <= 1


def test_an_upload_is_streamed_measured_and_kept(client: TestClient, tmp_path: Path, data: Path) -> None:
    body = write(tmp_path / "x.wav", noise(44_100, seed=7), 44_100, "PCM_24").read_bytes()
    chunks = (body[at : at + 10_000] for at in range(0, len(body), 10_000))
    answer = client.post("/api/arrivals/upload?name=Eel%20Ladder.wav", content=chunks)
    arrival = settled(client, answer.json()["id"])
    mix = client.get(f"/api/mixes/{arrival['mix_id']}").json()
    assert (mix["title"], mix["owned"], mix["bit_depth"]) == ("Eel Ladder", True, 24)
    kept = Path(mix["path"])
    assert kept.read_bytes() == body
    assert client.delete(f"/api/mixes/{mix['id']}").status_code == 204
    assert not kept.parent.exists()
    assert client.get(f"/api/mixes/{mix['id']}").status_code == 404


def test_a_lossy_mix_is_decoded_once_and_then_reached_at_any_frame(client: TestClient, data: Path) -> None:
    codes = (sine(441, 3.0, 44_100, 0.5) * 32767).astype(np.int16)
    path = encode(data / "Eel Ladder.m4a", codes, 44_100, "aac", "ipod", "fltp")
    mix = client.get(f"/api/mixes/{arrive(client, str(path))['mix_id']}").json()
    assert (mix["title"], mix["codec"], mix["frames"], mix["bit_depth"]) == ("Eel Ladder", "aac", 132_300, None)
    tile = np.frombuffer(client.get(f"/api/mixes/{mix['id']}/tiles/1/100").content, "<f4").reshape(-1, 2, 3)
    wave = codes[102_400:103_424] / 32768
    assert np.abs(tile[:, :, 0] - wave).max() < 0.02
    span = bench(0, 132_300)
    (row,) = client.post(f"/api/mixes/{mix['id']}/ticket", json=span).json()["rows"]
    assert "Decoding aac gives floating point" in row["stations"][3]["sentence"]
    done = pressed(client, client.post("/api/pressings", json={"mix_id": mix["id"], "bench": span}).json()["id"])
    assert done["files"][0]["frames"] == 132_300


def test_range_is_measured_from_stored_data(client: TestClient, millrace: dict[str, object]) -> None:
    url = f"/api/mixes/{millrace['id']}/measures"
    tone = client.get(url, params={"start_frame": 105_600, "end_frame": 192_000}).json()
    # A stereo sine of -6.02 dBFS at 997 Hz: -6.02 - 3.01 + 3.01 of two channels.
    assert tone["integrated_lufs"] == pytest.approx(-6.02, abs=0.05)
    assert tone["sample_peak_dbfs"] == pytest.approx(-6.02, abs=0.01)
    silent = client.get(url, params={"start_frame": 0, "end_frame": 40_000}).json()
    assert silent["integrated_lufs"] is None
    curve = np.frombuffer(client.get(f"/api/mixes/{millrace['id']}/loudness?points=60").content, "<f4")
    assert np.isnan(curve[0])
    assert curve[30] == pytest.approx(-6.0, abs=0.1)


def test_clipped_runs_are_listed_for_drawing(client: TestClient, millrace: dict[str, object]) -> None:
    assert client.get(f"/api/mixes/{millrace['id']}/clipped").json() == [[100_000, 4, 0]]


def test_edges_are_heard_as_they_are_pressed(client: TestClient, millrace: dict[str, object]) -> None:
    edges = {"fade_in_s": 1.0, "fade_in_curve": "linear"}
    query = {"start_frame": 48_000, "end_frame": 240_000, "edges": json.dumps(edges)}
    url = f"/api/mixes/{millrace['id']}/listen"
    whole = soundfile.read(io.BytesIO(client.get(url, params=query).content))[0]
    part = {**query, "from_frame": 96_000, "to_frame": 144_000}
    heard = soundfile.read(io.BytesIO(client.get(url, params=part).content))[0]
    assert np.abs(heard[500:-500] - whole[24_500:47_500]).max() < 1e-5
    assert np.abs(whole[11_990:12_010]).max() == pytest.approx(0.5 * 0.25, abs=0.02)
    # A loop is the same sound over and over, without a seam.
    odd = {**query, "from_frame": 96_000, "to_frame": 96_001 + 2 * 999}
    once, thrice = (client.get(url, params={**odd, "times": times}) for times in (1, 3))
    once, thrice = (soundfile.read(io.BytesIO(one.content))[0] for one in (once, thrice))
    assert np.array_equal(thrice, np.concatenate((once, once, once)))
    nothing = client.get(url, params={**query, "from_frame": 240_000, "to_frame": 240_000})
    assert nothing.status_code == 422
    wrong = client.get(url, params={**query, "edges": "{"})
    assert wrong.status_code == 422


@pytest.mark.parametrize(
    ("name", "body", "words"),
    [
        ("letter.wav", b"Dear engineer\n" * 50, "is not a readable audio file"),
        ("empty.wav", b"", "is empty"),
        ("../../escape.wav", b"RIFF", "is not a readable audio file"),
    ],
)
def test_bad_uploads_get_a_sentence_and_leave_nothing(
    client: TestClient, data: Path, name: str, body: bytes, words: str
) -> None:
    before = sorted(data.rglob("*"))
    answer = client.post("/api/arrivals/upload", params={"name": name}, content=body)
    arrival = settled(client, answer.json()["id"])
    assert arrival["state"] == "failed"
    assert words in arrival["sentence"]
    assert Path(name).name in arrival["sentence"]
    wait_for(lambda: sorted(data.rglob("*")) == before)
    assert client.delete(f"/api/arrivals/{arrival['id']}").status_code == 204
    assert client.get("/api/shelf").json()["arrivals"] == []


@pytest.mark.parametrize(("path", "status"), [("Millrace.wav", 422), ("/nowhere/Millrace.wav", 404)])
def test_bad_paths_are_explained(client: TestClient, path: str, status: int) -> None:
    answer = client.post("/api/arrivals/path", json={"path": path})
    assert answer.status_code == status
    assert "Millrace.wav" in answer.json()["message"]


def test_the_same_mix_is_not_put_on_the_shelf_twice(client: TestClient, millrace: dict[str, object]) -> None:
    assert arrive(client, str(millrace["path"]))["mix_id"] == millrace["id"]


def test_tiles_hold_the_extremes_at_every_zoom(client: TestClient, millrace: dict[str, object]) -> None:
    samples = soundfile.read(str(millrace["path"]))[0]
    for step in (1, 16, 64, 256, 1024):
        index = 96_000 // (1024 * step)
        tile = np.frombuffer(client.get(f"/api/mixes/{millrace['id']}/tiles/{step}/{index}").content, "<f4")
        start = index * 1024 * step
        bins = tile.reshape(-1, 2, 3)
        part = samples[start : start + step]
        assert np.allclose(bins[0, :, 0], part.min(axis=0), atol=1e-7)
        assert np.allclose(bins[0, :, 1], part.max(axis=0), atol=1e-7)
    for wrong in ("3/0", "256/9999", "256/-1"):
        assert client.get(f"/api/mixes/{millrace['id']}/tiles/{wrong}").status_code == 422


def test_a_range_is_heard_as_it_was_cut(client: TestClient, millrace: dict[str, object]) -> None:
    answer = client.get(f"/api/mixes/{millrace['id']}/listen", params={"start_frame": 48_000, "end_frame": 96_000})
    assert int(answer.headers["content-length"]) == len(answer.content)
    heard, rate = soundfile.read(io.BytesIO(answer.content))
    assert (rate, heard.shape) == (48_000, (24_000, 2))
    expected = sine(997, 0.5, 48_000, 0.5)
    assert np.abs(heard[1000:-1000] - expected[1000:-1000]).max() < 1e-5
    wrong = client.get(f"/api/mixes/{millrace['id']}/listen", params={"start_frame": 5, "end_frame": 5})
    assert wrong.status_code == 422


def test_ticket_before_pressing_equals_proof_after(client: TestClient, millrace: dict[str, object]) -> None:
    whole = bench(0, 288_000)
    (row,) = client.post(f"/api/mixes/{millrace['id']}/ticket", json=whole).json()["rows"]
    assert [station["kind"] for station in row["stations"]] == [
        "source",
        "range",
        "rate",
        "depth",
        "codec",
        "tags",
        "name",
    ]
    assert row["verdict"] == "look"
    begun = client.post("/api/pressings", json={"mix_id": millrace["id"], "bench": whole})
    assert begun.status_code == 202
    done = pressed(client, begun.json()["id"])
    assert done["state"] == "done", done["error"]
    (file,) = done["files"]
    assert file["name"] == row["file_name"] == "Millrace 44k1 16b.wav"
    assert file["bytes"] == row["size"]["low"]
    assert [finding["rule"] for finding in file["findings"]] == [finding["rule"] for finding in row["findings"]]
    download = client.get(f"/api/pressings/{done['id']}/files/0/download")
    assert hashlib.sha256(download.content).hexdigest() == file["sha256"]
    read, rate = soundfile.read(io.BytesIO(download.content), dtype="int16")
    assert (rate, len(read)) == (44_100, 132_300)
    heard = client.get(f"/api/pressings/{done['id']}/files/0/listen", params={"end_frame": 4_410})
    assert len(soundfile.read(io.BytesIO(heard.content))[0]) == 4_410
    assert client.post(f"/api/pressings/{done['id']}/cancel").status_code == 409


def test_pressing_again_keeps_both_files(client: TestClient, millrace: dict[str, object]) -> None:
    wish = {"mix_id": millrace["id"], "bench": bench(0, 9_600)}
    numbers = [client.post("/api/pressings", json=wish).json()["id"] for _ in range(2)]
    names = {pressed(client, number)["files"][0]["path"] for number in numbers}
    assert len(names) == 2


def test_a_silent_range_is_a_finding(client: TestClient, millrace: dict[str, object]) -> None:
    span = bench(0, 40_000)
    (row,) = client.post(f"/api/mixes/{millrace['id']}/ticket", json=span).json()["rows"]
    assert [finding["rule"] for finding in row["findings"]] == ["range_is_silent"]


def test_a_converter_shows_measured_figures(client: TestClient) -> None:
    figures = client.post("/api/converter", json={"from_hz": 96_000, "to_hz": 44_100, "quality": "very-high"}).json()
    assert figures["ripple_db"] < 0.01
    assert figures["rejection_db"] < -170


def test_unknown_addresses_of_the_interface_are_not_the_page(client: TestClient) -> None:
    assert client.get("/api/nonsense").status_code == 404
    assert client.get("/api/pressings/999").json()["code"] == "pressing.unknown"


def test_reference_of_the_api_is_shipped_and_only_on_this_machine(client: TestClient, tmp_path: Path) -> None:
    page = client.get("/api/docs")
    scripts = re.findall(r'(?:src|href)="([^"]+)"', page.text)
    assert scripts and all(one.startswith("/") for one in scripts)
    for one in scripts:
        assert client.get(one).status_code == 200, one
    described = client.get("/api/openapi.json").json()
    assert described["paths"]["/api/pressings"]["post"] and "/api/docs" not in described["paths"]
    token = "t" * 40
    with TestClient(make_app(Studio(DataFolder(tmp_path)), (), token), OWN) as other:
        for path in ("/api/docs", "/api/openapi.json"):
            assert other.get(path, headers={"Authorization": f"Bearer {token}"}).status_code == 404


def test_one_bad_name_or_link_refuses_that_file_and_not_its_folder(client: TestClient, tmp_path: Path) -> None:
    folder = tmp_path / "mixes"
    folder.mkdir()
    good = write(folder / "Weir.wav", noise(4_800, seed=77), 48_000)
    shutil.copyfile(good, os.fsencode(folder) + b"/Se\xf1or.wav")
    (folder / "round.wav").symlink_to("round.wav")
    (folder / "nowhere.wav").symlink_to("gone.wav")
    arrivals = client.post("/api/arrivals/path", json={"path": str(folder)})
    assert arrivals.status_code == 202, arrivals.text
    (refused,) = [one for one in arrivals.json() if one["state"] == "failed"]
    assert "not UTF-8" in refused["sentence"] and "Se\ufffdor.wav" in refused["sentence"]
    (arrived,) = [settled(client, one["id"]) for one in arrivals.json() if one["state"] == "running"]
    assert arrived["state"] == "done"
    assert client.get("/api/shelf").status_code == 200
