"""The rack and live passes on the command line."""

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.errors import BadInput, NotFound
from ripe_press.studio.live.rack import VARIABLE
from support.rack import unit
from support.signals import noise, write

RATE = 48_000


def run(*words: str, status: int = 0) -> dict[str, Any]:
    done = CliRunner().invoke(app, ["pass", *words, "--json"])
    assert done.exit_code == status, (done.output, done.exception)
    found: dict[str, Any] = json.loads(done.stdout)
    return found


@pytest.fixture
def mix(tmp_path: Path) -> Path:
    return write(tmp_path / "Weir.wav", noise(RATE * 2), RATE, "PCM_24")


def test_a_mix_goes_through_a_unit_and_comes_back(mix: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    out = tmp_path / "made" / "capture.wav"
    with unit(latency_frames=640) as address:
        monkeypatch.setenv(VARIABLE, address)
        found = run(str(mix), "--out", str(out))
        assert round(found["latency_frames"]) == 640 and found["dropouts"] == [] and not found["ended"]
        assert found["complete"] and found["capture"] == str(out)
        plain = CliRunner().invoke(app, ["pass", str(mix), "--through", address, "--out", str(out)])
        assert "latency 640 samples (13.3 ms), removed" in plain.output
    assert np.array_equal(soundfile.read(out)[0], soundfile.read(mix)[0])
    assert [one.name for one in out.parent.iterdir()] == ["capture.wav"]


def test_pass_error_is_reported(mix: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    out = str(tmp_path / "capture.wav")
    monkeypatch.setenv(VARIABLE, "127.0.0.1:9")
    for words, kind in (
        (["--out", out], NotFound),
        (["--out", out, "--through", "127.0.0.1:9"], NotFound),
        (["--out", out, "--through", "nowhere"], BadInput),
        (["--out", out, "--play", str(tmp_path / "none.mid")], NotFound),
    ):
        done = CliRunner().invoke(app, ["pass", str(mix), *words])
        assert isinstance(done.exception, kind), (words, done.exception)
    with unit("instrument") as address:
        done = CliRunner().invoke(app, ["pass", str(mix), "--out", out, "--through", address])
        assert isinstance(done.exception, BadInput) and "plays a MIDI file" in str(done.exception)
    with unit(faults=[("vanish", RATE * 2, 0)], hurry=10.0) as address:
        found = run(str(mix), "--out", out, "--through", address, status=1)
    assert "lost" in found["ended"] and not found["complete"] and Path(out).is_file()


def test_the_rack_is_begun_and_ended(tmp_path: Path) -> None:
    command = str(Path(sys.executable).with_name("ripe-press"))
    words = [command, "rack", "sync", "outboard", "--any-port", "--speedup", "10", "--folder", str(tmp_path)]
    process = subprocess.Popen(words, stdout=subprocess.PIPE, text=True)
    with process:
        assert process.stdout
        unit, sync = (json.loads(process.stdout.readline()) for _ in range(2))
        process.terminate()
    assert process.returncode == 0
    assert (unit["name"], unit["title"]) == ("outboard", "Weir Compressor")
    assert sync == {
        "name": "sync", "title": "Millpond synced folder", "folder": str(tmp_path / "synced folder"),
        "own": str(tmp_path / "synced folder, at the service"), "drop_off": f"sync:{tmp_path / 'synced folder'}",
    }  # fmt: skip
    refused = CliRunner().invoke(app, ["rack", "plums"])
    assert "outboard, instrument, mail, intake, sync" in str(refused.exception)
