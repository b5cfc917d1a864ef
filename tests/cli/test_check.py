"""`ripe-press check`: files from anywhere against a brief, without a mix and without a server."""

import json
import subprocess
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from click.testing import CliRunner, Result

from ripe_press.cli.app import app
from ripe_press.core.briefs.library import brief_of
from ripe_press.core.proof.read_back import Proof
from ripe_press.core.rules.checks.received import hold_file
from ripe_press.core.rules.requirements import Requirement
from ripe_press.studio.briefs import brief_row
from support.signals import noise, sine, write

RATE = 44_100


@pytest.fixture(autouse=True)
def nowhere(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """No record, no shelf: a data folder that cannot be."""
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("RIPE_PRESS_DATA", str(tmp_path / "file" / "data"))


def check(*words: object) -> tuple[Result, dict[str, Any]]:
    result = CliRunner().invoke(app, ["check", *map(str, words), "--json"])
    return result, json.loads(result.stdout) if result.stdout else {}


def failed(file: dict[str, Any]) -> set[str]:
    return {one["id"] for one in file["checks"] if not one["holds"]}


def own_brief(folder: Path, **require: object) -> Path:
    path = folder / "mine.json"
    row = {"id": "mine", "title": "Mine", "sentence": "Ours.", "why": "Because.", "require": require}
    path.write_text(json.dumps(row))
    return path


def test_a_file_that_holds(tmp_path: Path) -> None:
    file = write(tmp_path / "a.wav", sine(440, 5, RATE, 0.2), RATE, "PCM_16")
    brief = own_brief(tmp_path, rates_hz=[RATE], encodings=["s16"], channels=[2], sample_peak_max_dbfs=0.0)
    result, report = check(file, "--brief", brief)
    assert result.exit_code == 0
    (found,) = report["files"]
    assert (found["path"], found["verdict"], failed(found)) == (str(file), "ready", set())
    assert {"file_reads_back", "brief_rate", "brief_depth", "brief_channels"} <= {one["id"] for one in found["checks"]}
    assert all(set(one) == {"id", "asked", "found", "holds", "sentence"} for one in found["checks"])


@pytest.mark.parametrize(
    ("require", "wrong"),
    [
        ({"rates_hz": [48_000]}, "brief_rate"),
        ({"encodings": ["s24"]}, "brief_depth"),
        ({"channels": [1]}, "brief_channels"),
        ({"containers": ["flac"]}, "brief_container"),
        ({"sample_peak_max_dbfs": -20.0}, "brief_sample_peak"),
        ({"true_peak_max_dbtp": -20.0}, "brief_true_peak"),
        ({"loudness_lufs": [-30.0, -28.0]}, "brief_loudness"),
        ({"bytes_max": 1000}, "brief_size"),
    ],
)
def test_each_requirement_is_checked_alone(tmp_path: Path, require: dict[str, object], wrong: str) -> None:
    file = write(tmp_path / "a.wav", sine(997, 5, RATE, 0.2), RATE, "PCM_16")
    result, report = check(file, "--brief", own_brief(tmp_path, **require))
    assert result.exit_code == 1
    (found,) = report["files"]
    assert (failed(found), found["verdict"]) == ({wrong}, "look")
    spoken = CliRunner().invoke(app, ["check", str(file), "--brief", str(tmp_path / "mine.json")])
    assert spoken.exit_code == 1 and "1 of 2 checks passed" in spoken.output and "Mine requires" in spoken.output


def test_loudness_is_measured_as_the_standard_has_it(tmp_path: Path) -> None:
    """EBU Tech 3341, case 1: a sine of 1 kHz at −23 dBFS in both channels reads −23.0 LUFS."""
    file = write(tmp_path / "a.wav", sine(1_000, 20, 48_000, 10 ** (-23 / 20)), 48_000, "PCM_24")
    _, report = check(file, "--brief", own_brief(tmp_path, loudness_lufs=[-23.1, -22.9]))
    (one,) = [one for one in report["files"][0]["checks"] if one["id"] == "brief_loudness"]
    assert one["holds"] and one["found"] == "−23.0 LUFS"


def test_lossy_files_and_missing_tags(tmp_path: Path) -> None:
    file = tmp_path / "a.mp3"
    soundfile.write(file, sine(440, 5, RATE), RATE, format="MP3", subtype="MPEG_LAYER_III")
    brief = own_brief(tmp_path, kbps_min=320, containers=["mp3"])
    row = json.loads(brief.read_text()) | {"tags": ["title"]}
    brief.write_text(json.dumps(row))
    _, report = check(file, "--brief", brief)
    assert failed(report["files"][0]) == {"brief_bit_rate", "brief_needs_tag"}


def test_damaged_file_and_other_file_are_reported(tmp_path: Path) -> None:
    (tmp_path / "a.wav").write_bytes(b"RIFF nothing")
    result, report = check(tmp_path / "a.wav", "--brief", "blank")
    assert (result.exit_code, report["files"][0]["verdict"]) == (1, "stop")
    assert failed(report["files"][0]) == {"file_reads_back"}


def test_a_folder_with_a_list_of_checksums(tmp_path: Path) -> None:
    """The list is written by coreutils; changed, missing and additional files are reported one by one."""
    folder = tmp_path / "delivery"
    (folder / "disc").mkdir(parents=True)
    for seed, name in enumerate(("disc/one.wav", "two.wav", "three.wav")):
        write(folder / name, noise(RATE, 2, seed), RATE, "PCM_16")
    (folder / "sheet.json").write_text("{}")
    names = ["disc/one.wav", "two.wav", "three.wav", "sheet.json"]
    listing = subprocess.run(["sha256sum", *names], cwd=folder, capture_output=True, text=True, check=True).stdout
    (folder / "checksums.sha256").write_text(listing)
    result, report = check(folder, "--brief", "blank")
    assert result.exit_code == 0 and len(report["files"]) == 4
    assert all(file["checks"][0]["id"] == "checksum" for file in report["files"])

    samples, _ = soundfile.read(folder / "two.wav")
    samples[1_000] += 2.0**-15
    write(folder / "two.wav", samples, RATE, "PCM_16")
    (folder / "three.wav").unlink()
    write(folder / "four.wav", noise(RATE), RATE, "PCM_16")
    (folder / "sheet.json").write_text("{ }")
    result, report = check(folder, "--brief", "blank")
    verdicts = {Path(file["path"]).name: file["verdict"] for file in report["files"]}
    assert result.exit_code == 1
    assert verdicts == {
        "one.wav": "ready", "two.wav": "stop", "three.wav": "stop", "four.wav": "stop", "sheet.json": "stop",
    }  # fmt: skip
    assert "but missing" in str(report)


def test_a_folder_with_a_delivery_sheet(tmp_path: Path) -> None:
    """The output of `press --json` is such a sheet; each file is compared with its entry."""
    mix = write(tmp_path / "Weir.wav", noise(RATE * 2, 2, 3, 0.1), RATE, "PCM_24")
    out = tmp_path / "delivery"
    words = ["press", str(mix), "--brief", "archive", "--brief", "audio-cd", "--out", str(out), "--json"]
    pressed = CliRunner().invoke(app, words)
    sheet = json.loads(pressed.output)
    # It may have been written on another machine: a path counts by its name.
    for one in sheet["files"]:
        one["path"] = "C:\\\\deliveries\\\\" + Path(one["path"]).name
    (out / "delivery-sheet.json").write_text(json.dumps(sheet))
    result, report = check(out, "--brief", "blank")
    assert result.exit_code == 0 and len(report["files"]) == 2, result.output
    assert all("delivery_sheet" in {one["id"] for one in file["checks"]} for file in report["files"])

    first, second = sheet["files"]
    first["frames"] += 1
    second["sha256"] = "0" * 64
    sheet["files"].append({"name": "gone.wav", "frames": 5})
    # Wherever in the folder it lies, and with what other programs take for a pattern in its name.
    (out / "disc").mkdir()
    write(out / "disc" / "two [v2].wav", noise(RATE), RATE, "PCM_16")
    sheet["files"].append({"name": "two [v2].wav", "frames": RATE})
    (out / "delivery-sheet.json").write_text(json.dumps(sheet))
    write(out / "more.wav", noise(RATE), RATE, "PCM_16")
    result, report = check(out, "--brief", "blank")
    assert result.exit_code == 1
    told = {
        Path(file["path"]).name: [one["sentence"] for one in file["checks"] if not one["holds"]]
        for file in report["files"]
    }
    assert f"frames {first['frames'] - 1}, expected {first['frames']}" in told[first["path"].rsplit("\\", 1)[1]][0]
    assert "expected 000" in told[second["path"].rsplit("\\", 1)[1]][0]
    assert told["two [v2].wav"] == []
    assert told["gone.wav"] == ["“gone.wav” is listed in the delivery sheet but missing. Ask for it again."]
    assert told["more.wav"] == ["“more.wav” is not on the delivery sheet."]
    (out / "delivery-sheet.json").write_text("[1, 2]")
    result = CliRunner().invoke(app, ["check", str(out), "--brief", "blank"])
    assert result.exit_code != 0 and "delivery sheet" in str(result.exception)


def test_a_folder_without_a_list_and_one_without_sound(tmp_path: Path) -> None:
    (tmp_path / "some").mkdir()
    (tmp_path / "none").mkdir()
    write(tmp_path / "some" / "a.flac", sine(440, 5, RATE, 0.2), RATE, "PCM_16", "FLAC")
    (tmp_path / "some" / "notes.txt").write_text("for you")
    result, report = check(tmp_path / "some", "--brief", "blank")
    assert (result.exit_code, len(report["files"])) == (0, 1)
    result, report = check(tmp_path / "none", "--brief", "blank")
    assert (result.exit_code, report["files"]) == (1, [])


def test_every_brief_that_ships_can_be_handed_over_as_a_file(tmp_path: Path) -> None:
    file = write(tmp_path / "a.wav", np.zeros((RATE, 2)), RATE, "PCM_16")
    for name in ("audio-cd", "distributor", "podcast"):
        path = tmp_path / f"{name}.json"
        path.write_text(json.dumps(brief_row(brief_of(name))))
        by_file, by_name = (check(file, "--brief", one)[1]["files"] for one in (path, name))
        assert by_file == by_name


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("no", "is not a brief (invalid JSON"),
        ("[]", "Not a brief"),
        ('{"id": "x"}', "is missing"),
        (
            '{"id": "x", "title": "X", "sentence": "s", "why": "w", "require": {"rates_hz": ["many"]}}',
            "Cannot read the brief",
        ),
        ('{"id": "x", "title": "X", "sentence": "s", "why": "w", "colour": "plum"}', "is not known"),
    ],
)
def test_briefs_that_are_none_are_refused_with_a_sentence(tmp_path: Path, text: str, words: str) -> None:
    file = write(tmp_path / "a.wav", np.zeros((RATE, 2)), RATE, "PCM_16")
    (tmp_path / "brief.json").write_text(text)
    result = CliRunner().invoke(app, ["check", str(file), "--brief", str(tmp_path / "brief.json")])
    assert result.exit_code in (1, 2) and words in str(result.exception)


def test_wrong_usage(tmp_path: Path) -> None:
    file = write(tmp_path / "a.wav", np.zeros((RATE, 2)), RATE, "PCM_16")
    assert CliRunner().invoke(app, ["check", str(file)]).exit_code == 2
    for words in ((tmp_path / "gone.wav", "--brief", "blank"), (file, "--brief", "nope")):
        result = CliRunner().invoke(app, ["check", *map(str, words)])
        assert result.exit_code != 0 and "nope" in str(result.exception) + "nope"


@pytest.mark.parametrize(
    ("container", "codec", "title"),
    [
        ("mp4", "pcm", "ALAC in MP4"), ("mp4", "aac", "AAC in MP4"), ("ogg", "opus", "Ogg Opus"), ("wav", "pcm", "WAV"),
        ("asf", "wmav2", "wmav2 in asf"),
    ],
)  # fmt: skip
def test_kind_of_file_is_named_by_its_content(container: str, codec: str, title: str) -> None:
    proof = Proof(container, codec, RATE, 16, 2, RATE, 1_000_000, "", -3.0)
    asked: list[Requirement] = list(hold_file(brief_of("audio-cd"), proof))
    (kind,) = [one for one in asked if one.rule == "brief_container"]
    assert kind.found == title and kind.holds == (title == "WAV")
