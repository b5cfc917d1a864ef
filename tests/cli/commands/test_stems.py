"""Stems on the command line: a folder of them beside their mix."""

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.errors import NotFound
from support.signals import noise, write

RATE = 16_000


@pytest.fixture
def mix(tmp_path: Path) -> Path:
    """A mix of two, and a folder with both, a text and a file without audio."""
    one, other = noise(RATE * 6, seed=1, level=0.1), noise(RATE * 6, seed=2, level=0.05)
    folder = tmp_path / "Towpath stems"
    folder.mkdir()
    write(folder / "Towpath bass.wav", one, RATE, "DOUBLE")
    write(folder / "Towpath - drum.wav", other, RATE, "DOUBLE")
    (folder / "notes.txt").write_text("Dear engineer")
    return write(tmp_path / "Towpath.wav", one + other, RATE, "DOUBLE")


def told(mix: Path, status: int = 0) -> dict[str, Any]:
    done = CliRunner().invoke(app, ["stems", str(mix), str(mix.parent / "Towpath stems"), "--json"])
    assert done.exit_code == status, (done.output, done.exception)
    found: dict[str, Any] = json.loads(done.stdout)
    return found


def test_folder_of_stems_is_checked_against_its_mix(mix: Path) -> None:
    found = told(mix)
    assert found["lines_up"] and found["sums"] and found["residual_dbfs"] is None
    assert [one["name"] for one in found["stems"]] == ["drum", "bass"]
    assert set(found["stems"][0]) == {"name", "late_frames", "gain_db", "inverted", "in_mix", "wrong"}
    said = CliRunner().invoke(app, ["stems", str(mix), str(mix.parent / "Towpath stems")]).output
    assert "All 2 stems align and sum to the mix" in said and "Ready: bass" in said


def test_fault_of_stems_is_reported(mix: Path) -> None:
    folder = mix.parent / "Towpath stems"
    write(folder / "Towpath bass.wav", -noise(RATE * 6, seed=1, level=0.1), RATE, "DOUBLE")
    (folder / "Towpath vox.wav").write_bytes(b"RIFFnothing")
    found = told(mix, 1)
    assert not found["lines_up"] and "bass has inverted polarity" in found["sentence"]
    assert [Path(one["path"]).name for one in found["unreadable"]] == ["Towpath vox.wav"]
    gone = CliRunner().invoke(app, ["stems", str(mix), str(folder / "nowhere")])
    assert isinstance(gone.exception, NotFound)


def test_other_rates_and_lengths_are_reported_and_adapted(mix: Path) -> None:
    folder = mix.parent / "Towpath stems"
    write(folder / "Towpath hush.wav", np.zeros((RATE * 2, 2)), RATE)
    write(folder / "Towpath flute.wav", noise(44_100 * 7, seed=5, level=0.05), 44_100, "DOUBLE")
    found = told(mix, 1)
    wrong = {one["name"]: one["wrong"] for one in found["stems"]}
    assert wrong["hush"] == "hush is silent." and not wrong["bass"]
    assert wrong["flute"] == "flute is not in the mix. Remove it."
    assert found["remarks"] == [
        "flute has 44.1 kHz, the mix 16 kHz: converted on reading.",
        "flute is 1.000 s longer than the mix: the rest is cut.",
        "hush is 4.000 s shorter than the mix: padded with silence.",
    ]
