"""Delivery sheets on the command line: of a folder, and of a pressing."""

import json
import subprocess
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from pydantic import TypeAdapter

from ripe_press.cli.app import app
from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.sheet.contents import NAMES, DeliverySheet
from ripe_press.studio.data_folder import VARIABLE
from support.signals import noise, write

RATE = 44_100


def told(*words: str) -> dict[str, Any]:
    done = CliRunner().invoke(app, [*words, "--json"])
    assert done.exit_code == 0, (done.output, done.exception)
    found: dict[str, Any] = json.loads(done.stdout)
    return found


@pytest.fixture
def pressed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> tuple[int, Path]:
    """A pressing of two files, and the folder that they are in."""
    monkeypatch.setenv(VARIABLE, str(tmp_path / "data"))
    mix = write(tmp_path / "Headrace.wav", noise(RATE * 2), RATE, "PCM_24")
    out = tmp_path / "out"
    report = told(
        "press", str(mix), "--brief", "audio-cd", "--brief", "phone-and-car", "--out", str(out),
        "--tag", "artist=The Sluicekeepers", "--tag", "contact_name=Ada Weir", "--tag", "isrc=QZWLT2600001",
    )  # fmt: skip
    return report["pressing"], out


def test_sheet_of_a_pressing_is_checkable_by_its_recipient(pressed: tuple[int, Path]) -> None:
    number, out = pressed
    found = told("sheet", str(number))
    assert found["written"] == [str(out / name) for name in NAMES]
    sheet = found["sheet"]
    # As its schema has it.
    assert TypeAdapter(DeliverySheet).validate_python(json.loads((out / NAMES[2]).read_text())).files
    assert sheet["artist"] == "The Sluicekeepers" and sheet["contact"] == {"Name": "Ada Weir"}
    assert sheet["pressing"] == number and len(sheet["files"]) == 2
    assert {one["tags"]["isrc"] for one in sheet["files"]} == {"QZWLT2600001"}
    subprocess.run(["sha256sum", "-c", "--strict", NAMES[3]], cwd=out, capture_output=True, check=True)
    # The recipient's own look at the folder holds every file against it.
    report = told("check", str(out), "--brief", "blank")
    held = [
        check for file in report["files"] for check in file["checks"] if check["id"] in ("checksum", "delivery_sheet")
    ]
    assert len(held) == 4 and all(one["holds"] for one in held)
    assert (out / NAMES[1]).read_bytes().startswith(b"%PDF") and "Headrace" in (out / NAMES[0]).read_text()


def test_a_folder_from_anywhere_is_read_for_its_sheet(pressed: tuple[int, Path], tmp_path: Path) -> None:
    _, out = pressed
    other = tmp_path / "elsewhere"
    found = told("sheet", str(out), "--out", str(other), "--paper", "Letter")
    files = found["sheet"]["files"]
    assert {Path(one).parent for one in found["written"]} == {other} and len(files) == 2
    assert all(one["true_peak_dbtp"] is not None and one["integrated_lufs"] is not None for one in files)
    plain = CliRunner().invoke(app, ["sheet", str(out), "--out", str(other)])
    assert plain.output.splitlines() == found["written"]


def test_missing_file_is_reported(pressed: tuple[int, Path], tmp_path: Path) -> None:
    number, out = pressed
    empty = tmp_path / "empty"
    empty.mkdir()
    (empty / "broken.wav").write_bytes(b"RIFF1234WAVEnothing")
    for words, kind in (
        (["999"], NotFound), ([str(tmp_path / "nowhere")], NotFound), ([str(empty)], BadInput),
        ([str(out), "--out", str(out / "Headrace 44k1 16b.wav" / "x")], BadInput),
    ):  # fmt: skip
        assert isinstance(CliRunner().invoke(app, ["sheet", *words]).exception, kind), words
    for file in out.iterdir():
        file.unlink()
    assert isinstance(CliRunner().invoke(app, ["sheet", str(number)]).exception, NotFound)


def test_a_sidecar_is_written_beside_its_file(pressed: tuple[int, Path]) -> None:
    _, out = pressed
    file = out / "Headrace 44k1 16b.wav"
    found = told("sidecar", str(file))
    written = json.loads(Path(found["written"]).read_text())
    assert found["written"] == f"{file}.json" and written["waveform"]["version"] == 2
    assert written["frames"] == RATE * 2 and written["tags"]["artist"] == "The Sluicekeepers"
    assert isinstance(CliRunner().invoke(app, ["sidecar", str(out / "nowhere.wav")]).exception, NotFound)
