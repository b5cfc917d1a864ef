"""Every format from the command line, and read back by it."""

import json
from pathlib import Path
from typing import Any

import pytest
from PIL import Image

from ripe_press.core.formats.capabilities import CAPABILITIES, Container
from ripe_press.core.tags.cover import prepared_cover
from support.command_line import run
from support.signals import noise, write

pytestmark = pytest.mark.slow
SECONDS = 1.5


def report(*arguments: object) -> dict[str, Any]:
    done = run(*arguments, "--json")
    assert (done.returncode, done.stderr) == (0, "")
    found: dict[str, Any] = json.loads(done.stdout)
    return found


@pytest.fixture(scope="module")
def mix(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return write(tmp_path_factory.mktemp("mix") / "Millrace.wav", noise(72_000, level=0.2), 48_000, "PCM_24")


@pytest.fixture(scope="module")
def cover(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("cover") / "cover.jpg"
    Image.new("RGB", (90, 90), (9, 9, 99)).save(path)
    return path


@pytest.mark.parametrize("container", list(CAPABILITIES))
def test_every_format_is_pressed_proved_and_read_back(
    mix: Path, cover: Path, tmp_path: Path, container: Container
) -> None:
    tags = ("--tag", "artist=The Sluicekeepers", "--tag", "isrc=QZ-WLT-26-00001")
    (file,) = report(
        "press", mix, "--format", container, "--out", tmp_path, *tags, "--cover", cover, "--loudness-tags"
    )["files"]  # fmt: skip
    assert file["frames"] == round(SECONDS * file["sample_rate_hz"])
    assert file["forecast"]["error_percent"] == 0
    assert file["path"].endswith(CAPABILITIES[container].suffix)
    assert "tags_read_back" not in [one["rule"] for one in file["findings"]]
    found = report("measure", file["path"])
    assert (found["frames"], found["sample_rate_hz"]) == (file["frames"], file["sample_rate_hz"])
    assert (found["tags"]["title"], found["tags"]["artist"]) == ("Millrace", "The Sluicekeepers")
    assert found["tags"]["isrc"].replace("-", "") == "QZWLT2600001"
    assert bool(found["gain_tags"]) == bool(CAPABILITIES[container].gain_tags)
    assert bool(found["broadcast"]) == (container == "bwf")
    assert found["cover_bytes"] == (len(prepared_cover(str(cover)).data) if CAPABILITIES[container].pictures else 0)


def test_encoders_are_set_from_the_command_line(mix: Path, tmp_path: Path) -> None:
    sizes = [
        report("press", mix, "--format", "mp3", "--out", tmp_path, *settings)["files"][0]["bytes"]
        for settings in (
            ("--kbps", 128), ("--mode", "average", "--kbps", 192), ("--mode", "variable", "--encoder-quality", 10),
        )
    ]  # fmt: skip
    assert sizes == sorted(sizes)
    for arguments, words in (
        (("--format", "opus", "--rate", 44_100), "Use 48 kHz"),
        (("--format", "mp3", "--kbps", 200), "192, 224"),
        (("--format", "mp3", "--mode", "average", "--encoder-quality", 3), "not a quality"),
        (("--format", "wav", "--kbps", 128), "remove the bit rate"),
        (("--format", "mp3", "--depth", 16), "remove the bit depth"),
    ):
        done = run("press", mix, *arguments, "--out", tmp_path)
        assert done.returncode == 1
        assert words in done.stderr


def test_sheets_names_and_clashes_from_the_command_line(mix: Path, tmp_path: Path) -> None:
    sheet = tmp_path / "sheet.csv"
    sheet.write_text("mix,title,artist,track\nMillrace,The Race,The Sluicekeepers,3/9\nOther,x,y,1\n")
    name = ("--name", "{artist}/{track} {title} {brief}", "--spaces", "underscore", "--case", "lower")

    def press(*more: object) -> dict[str, Any]:
        return report("press", mix, "--tags", sheet, "--out", tmp_path / "out", *name, *more)

    (first,) = press()["files"]
    there = tmp_path / "out" / "the_sluicekeepers" / "03_the_race_blank.wav"
    assert Path(first["path"]) == there
    (second,) = press()["files"]
    assert Path(second["path"]).name == "03_the_race_blank (2).wav"
    (third,) = press("--clash", "replace", "--tag", "title=The Race", "--tag", "comment=again")["files"]
    assert Path(third["path"]) == there
    assert report("measure", there)["tags"]["comment"] == "again"
    skipped = press("--clash", "skip")
    assert (skipped["files"], skipped["skipped"]) == ([], [str(there)])
    said = run("press", mix, "--tags", sheet, "--out", tmp_path / "out", *name, "--clash", "skip")
    assert (said.returncode, said.stdout) == (0, f"Skipped: {there} exists\n")
    assert len(list((tmp_path / "out").rglob("*.wav"))) == 2


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--tag", "colour=red"), "KEY=VALUE"),
        (("--tags", "missing.json"), "Cannot read the tags “missing.json”: No such file"),
        (("--cover", "missing.png"), "Picture not found"),
        (("--name", "{colour}"), "Unknown label pattern field"),
        (("--clash", "shrug"), "keep-both, replace, skip"),
        (("--case", "loud"), "as-is, lower, upper"),
        (("--id3", "1.0"), "2.3, 2.4"),
    ],
)
def test_wrong_usage_is_status_2_with_a_sentence(mix: Path, tmp_path: Path, arguments: Any, words: str) -> None:
    done = run("press", mix, *arguments, "--out", tmp_path / "o")
    assert (done.returncode, done.stdout) == (2, "")
    assert words in done.stderr
    assert not (tmp_path / "o").exists()


def test_a_cover_that_is_none_is_refused(mix: Path, tmp_path: Path) -> None:
    letter = tmp_path / "cover.png"
    letter.write_text("Dear engineer")
    done = run("press", mix, "--cover", letter, "--out", tmp_path / "o")
    assert (done.returncode, "Use JPEG or PNG" in done.stderr) == (1, True)


def test_a_plan_forecasts_from_a_trial(mix: Path) -> None:
    plan = report("plan", mix, "--format", "flac")["files"][0]
    low, high = plan["bytes_between"]
    assert low <= plan["bytes"] <= high
    assert not plan["bytes_exact"]
    assert report("plan", mix, "--format", "aiff")["files"][0]["bytes_exact"]
