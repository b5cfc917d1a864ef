"""The record on the command line: found, checked, compared, pressed again."""

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from click.testing import CliRunner

from ripe_press.cli.app import app
from support.signals import noise, write


@pytest.fixture
def mix(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("RIPE_PRESS_DATA", str(tmp_path / "data"))
    return write(tmp_path / "Weir.wav", noise(48_000).astype(np.float32), 48_000)


TAG = ("--tag", "artist=The Sluicekeepers")


def run(*words: object, status: int = 0) -> str:
    done = CliRunner().invoke(app, [str(word) for word in words])
    assert done.exit_code == status, done.output + str(done.exception)
    return done.output


def report(*words: object, status: int = 0) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(run(*words, "--json", status=status))
    return found


def test_pressing_again_gives_the_same_bytes(mix: Path, tmp_path: Path) -> None:
    first = report(
        "press",
        mix,
        "--brief",
        "audio-cd",
        "--brief",
        "archive",
        "--tag",
        "artist=The Sluicekeepers",
        "--out",
        tmp_path / "a",
    )
    number = first["pressing"]
    assert report("history", "sluicekeepers", "archive")["pressings"][0]["id"] == number
    assert report("history", first["files"][0]["sha256"][:16])["count"] == 1
    assert report("history", "nobody")["count"] == 0
    assert f"{number}  " in run("history", "--verdict", first["files"][0]["verdict"])
    again = report("again", number, "--out", tmp_path / "b")
    assert again["beside"]["sentence"].startswith("2 files byte-identical. No library changed")
    assert report("history")["pressings"][0]["again_of"] == number
    assert "2 files byte-identical" in run("compare", number, again["pressing"])


def test_checked_files_set_the_exit_status(mix: Path, tmp_path: Path) -> None:
    made = report("press", mix, "--brief", "audio-cd", "--brief", "archive", "--out", tmp_path / "a")
    number = made["pressing"]
    assert [file["found"] for file in report("check", number)["files"]] == ["as-pressed", "as-pressed"]
    disc = Path(made["files"][0]["path"])
    disc.rename(disc.with_name("elsewhere.wav"))
    assert "Moved to " in run("check", number)
    Path(made["files"][1]["path"]).unlink()
    assert [file["found"] for file in report("check", number, status=1)["files"]] == ["moved", "gone"]


def test_different_audio_is_reported_with_amount_and_place(mix: Path, tmp_path: Path) -> None:
    first = report("press", mix, "--format", "wav", "--out", tmp_path / "a")["pressing"]
    sound, rate = soundfile.read(mix)
    write(mix, sound * 0.5, rate)
    second = report("press", mix, "--format", "wav", "--out", tmp_path / "b")["pressing"]
    told = run("compare", first, second)
    assert "No file is byte-identical." in told
    assert "Audio differs after 0:00.000" in told
    # Half the amplitude is 6.02 dB less.
    assert "Sample peak: −7.12 dBFS -> −13.14 dBFS" in told


@pytest.mark.parametrize("words", [("check", 7), ("compare", 7, 8), ("again", 7, "--out", "x"), ("history",)])
def test_a_folder_without_a_record_says_so(
    words: tuple[object, ...], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("RIPE_PRESS_DATA", str(tmp_path / "none"))
    done = CliRunner().invoke(app, [str(word) for word in words])
    assert getattr(done.exception, "code", "") == "record.none"
