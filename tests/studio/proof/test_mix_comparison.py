"""Comparison of recorded files with their mix: the render is repeated to the sample, with any settings."""

import base64
import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from click.testing import CliRunner
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.cli.app import app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, against_mix, arrive, bench, pressed, wait_for
from support.signals import noise, write

RATE, SECONDS = 48_000, 6
BRIEFS = ("audio-cd", "streaming-loud", "phone-and-car", "smallest-web", "archive", "podcast")


@pytest.fixture(scope="module")
def room(tmp_path_factory: pytest.TempPathFactory) -> Any:
    folder = tmp_path_factory.mktemp("holding")
    with TestClient(make_app(Studio(DataFolder(folder / "data"))), OWN) as client:
        yield client, folder


@pytest.fixture(scope="module")
def pressing(room: Any) -> dict[str, Any]:
    """A mix with hits well above its loudness, so that limiters and back-off have something to do."""
    client, folder = room
    at = np.arange(RATE * SECONDS)
    hits = noise(len(at), 2, 1, 0.25) * np.exp(-(at % 24_000) / 2_000)[:, None] + noise(len(at), 2, 2, 0.03)
    path = write(folder / "Weir.wav", hits.astype(np.float32), RATE)
    number = arrive(client, str(path))["mix_id"]
    lines = [{"id": f"d{at}", "brief": brief, "range_id": "r0"} for at, brief in enumerate(BRIEFS)]
    lines[2]["changes"] = {  # type: ignore[assignment]
        "level": {"kind": "loudness", "target": -12.0, "ceiling_dbtp": -1.0, "limit": True, "back_off": True}
    }
    asked = {"mix_id": number, "bench": {**bench(0, RATE * SECONDS), "ticket": lines}}
    found = pressed(client, client.post("/api/pressings", json=asked).json()["id"])
    assert found["state"] == "done" and len(found["files"]) == len(BRIEFS), found
    return found


def held(client: TestClient, pressing: dict[str, Any], number: int) -> dict[str, Any]:
    return against_mix(client, pressing["id"], number)


def test_every_kind_of_file_equals_the_render_of_its_mix(room: Any, pressing: dict[str, Any]) -> None:
    """Levels settled, limited and backed off, converted, dithered, summed: all of it is made again from the record."""
    client, _ = room
    measured = pressing["files"][2]["measured"]
    assert (
        measured["backed_off_db"] > 0 and measured["true_peak_dbtp"] <= -1.0 < measured["tries"][-1]["true_peak_dbtp"]
    )
    gains = [one["gain_db"] for one in measured["tries"]] + [measured["gain_db"]]
    assert gains == sorted(gains, reverse=True)
    assert gains[0] - gains[-1] == pytest.approx(measured["backed_off_db"])
    for file in pressing["files"]:
        found = held(client, pressing, file["number"])
        assert found["state"] == "done", found
        report = found["report"]
        assert [one["sentence"] for one in report["findings"] if one["verdict"] == "stop"] == [], file["name"]
        ids = {one["rule"] for one in report["checks"]}
        assert {"same_source", "starts_as_asked", "polarity_kept", "level_kept"} <= ids
        if file["bit_depth"]:
            assert "samples_as_made" in ids
        else:
            hearing = report["hearing"]
            assert (report["sentence"] == hearing["sentence"]) == (not report["findings"])
            cells = np.frombuffer(base64.b64decode(hearing["cells"]), dtype=np.uint8)
            assert len(cells) == hearing["columns"] * hearing["bands"] and cells.max() > 0
            assert report["difference"]["rms_dbfs"] < -20
    archive = held(client, pressing, 4)["report"]
    assert (archive["sentence"], archive["difference"]["rms_dbfs"]) == ("Bit-exact copy of the mix.", None)
    cd = held(client, pressing, 0)["report"]
    assert "−93.3 dBFS: dither noise only" in cd["sentence"]


def test_comparison_has_data_for_pictures(room: Any, pressing: dict[str, Any]) -> None:
    """Its waveform, its levels, its loudness and the limiter's reduction; and of a codec, the masking."""
    client, _ = room
    limited = lossy = 0
    for file in pressing["files"]:
        report = held(client, pressing, file["number"])["report"]
        looks = report["looks"]
        wave = np.frombuffer(base64.b64decode(looks["wave"]), "<i2").reshape(-1, looks["channels"], 2)
        sound = soundfile.read(file["path"], always_2d=True)[0] if file["codec"] != "aac" else None
        assert len(wave) == looks["columns"]
        if sound is not None and file["codec"] == "pcm":
            step, at = looks["frames_per_column"], 50
            part = sound[at * step : (at + 1) * step]
            assert np.abs(wave[at, :, 1] / looks["wave_scale"] - part.max(axis=0)).max() <= 1 / looks["wave_scale"]
        assert sum(looks["levels"]["file"]) == pytest.approx(1.0)
        told = [one for one in looks["loudness_lufs"]["file"] if one is not None]
        assert len(told) > 100
        if file["measured"]["reduction_db"] is not None:
            limited += 1
            assert min(looks["reduction_db"]) == pytest.approx(file["measured"]["reduction_db"], abs=0.05)
        if report["hearing"] and report["hearing"]["total_db"] is not None:
            lossy += 1
            spectra = report["spectra"]
            assert len(spectra["masked"]) > 50
            difference = np.interp(
                [hz for hz, _ in spectra["masked"]], [hz for hz, _ in spectra["difference"]],
                [db for _, db in spectra["difference"]],
            )  # fmt: skip
            if report["hearing"]["prediction"] in ("same", "none"):
                assert np.mean([db for _, db in spectra["masked"]]) > np.mean(difference) + 10
    assert limited and lossy


def test_comparison_is_cancelled_while_it_waits(room: Any, pressing: dict[str, Any]) -> None:
    client, _ = room
    path = f"/api/pressings/{pressing['id']}/files/4/against"
    assert client.delete(path).json()["code"] == "job.idle"
    Path(pressing["files"][4]["path"]).touch()
    client.app.state.studio._comparing.submit(time.sleep, 2)
    assert client.get(path).json() is None and client.post(path).json()["state"] == "running"
    assert client.delete(path).status_code == 202
    ended = wait_for(lambda: (now := client.get(path).json())["state"] != "running" and now)
    assert (ended["state"], ended["sentence"], ended["report"]) == ("cancelled", "Cancelled before it started.", None)
    assert held(client, pressing, 4)["state"] == "done"


def test_later_damage_is_found_and_a_second_request_is_free(room: Any, pressing: dict[str, Any]) -> None:
    client, folder = room
    first = held(client, pressing, 0)
    assert client.get(f"/api/pressings/{pressing['id']}/files/0/against").json() == first
    path = Path(pressing["files"][0]["path"])
    samples, rate = soundfile.read(path, dtype="int16")
    samples[10_000, 1] ^= 0x0800
    soundfile.write(path, samples, rate, "PCM_16")
    report = held(client, pressing, 0)["report"]
    assert report["verdict"] == "stop"
    assert {one["rule"] for one in report["findings"]} == {"samples_as_made", "tags_read_back"}
    said = CliRunner().invoke(app, ["check", str(pressing["id"]), "--mix", "--data", str(folder / "data")])
    assert said.exit_code == 1 and "1 sample differs from the render" in said.output


def test_missing_file_is_reported(room: Any, pressing: dict[str, Any]) -> None:
    client, folder = room
    Path(pressing["files"][1]["path"]).unlink()
    assert "moved or deleted" in held(client, pressing, 1)["sentence"]
    said = CliRunner().invoke(app, ["check", str(pressing["id"]), "--mix", "--data", str(folder / "data")])
    assert said.exit_code == 1 and "No such file" in said.output and "Bit-exact copy of the mix." in said.output
    assert client.get(f"/api/pressings/{pressing['id']}/files/99/against").status_code == 404
    assert client.get("/api/pressings/99/files/0/against").status_code == 404
    (folder / "Weir.wav").unlink()
    found = held(client, pressing, 5)
    assert found["state"] == "done", "what was measured already stays known"
    touched = Path(pressing["files"][5]["path"])
    touched.touch()
    found = held(client, pressing, 5)
    assert found["state"] == "failed" and "“Weir.wav” is missing" in found["sentence"]
