"""A disc is burnt in a writer of its own, and read back."""

import json
from pathlib import Path

import pytest
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.errors import BadInput, Cancelled, Interrupted, Unsupported
from ripe_press.studio.discs.burning import BurnRequest, Writer, burn
from support.signals import noise, write


@pytest.fixture(scope="module")
def disc(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("disc")
    mixes = [write(folder / f"{at}.wav", noise(44_100 * 5, seed=at), 44_100, "PCM_16") for at in (1, 2)]
    order = folder / "order.json"
    lines = [
        ["order", "create", *map(str, mixes), "--title", "Nine Weirs", "--out", str(order)],
        ["disc", "press", str(order), "--out", str(folder / "disc")],
    ]
    for line in lines:
        made = CliRunner().invoke(app, line)
        assert made.exit_code == 0, made.output
    return folder / "disc"


def test_a_disc_is_burnt_and_read_back(disc: Path, tmp_path: Path) -> None:
    seen: list[str] = []
    with Writer.own(10_000) as writer:
        found = burn(disc, BurnRequest(tmp_path / "medium"), writer, lambda what, _done, _total: seen.append(what))
        assert found["read_back"]["holds"] and "Every sample" in found["worth"]
        assert dict.fromkeys(seen) == {"burning": None, "verifying": None}
        with pytest.raises(Unsupported, match="is not blank"):
            burn(disc, BurnRequest(tmp_path / "medium"), writer)


def test_fault_of_the_drive_is_found(disc: Path, tmp_path: Path) -> None:
    with Writer.own(10_000) as writer:
        writer.ask("fault", offset=102, bad={"600": 17})
        found = burn(disc, BurnRequest(tmp_path / "medium"), writer)
    told = found["read_back"]
    assert (told["offset_samples"], told["wrong_frames"], told["holds"]) == (102, 1, False)
    assert told["wrong"][0]["sentence"] == "Track 2, 0:01.00: 9 samples differ."
    assert "Do not send this disc" in found["worth"]


def test_a_rehearsal_and_a_rewritable_disc(disc: Path, tmp_path: Path) -> None:
    medium = tmp_path / "medium"
    with Writer.own(10_000) as writer:
        assert "Test burn" in burn(disc, BurnRequest(medium, "cdrw80", simulate=True), writer)["worth"]
        assert "Not finalised" in burn(disc, BurnRequest(medium, "cdrw80", finalize=False), writer)["worth"]
        assert burn(disc, BurnRequest(medium, "cdrw80", erase=True), writer)["read_back"]["holds"]


def test_cancelled_burn_reports_the_state_of_the_disc(disc: Path, tmp_path: Path) -> None:
    asked = iter([False, False, True])
    with Writer.own(10_000) as writer:
        with pytest.raises(Cancelled, match="unusable"):
            burn(disc, BurnRequest(tmp_path / "one"), writer, should_stop=lambda: next(asked))
        with pytest.raises(Cancelled, match="still blank"):
            burn(disc, BurnRequest(tmp_path / "two"), writer, should_stop=lambda: True)


def test_an_underrun_and_a_writer_that_is_off(disc: Path, tmp_path: Path) -> None:
    with Writer.own(10_000) as writer:
        writer.ask("fault", underrun_at=100)
        with pytest.raises(Unsupported, match="Buffer underrun"):
            burn(disc, BurnRequest(tmp_path / "medium"), writer)
    with pytest.raises(Interrupted, match="No disc writer on port"):
        Writer(9)


def test_invalid_image_is_not_burnt(disc: Path, tmp_path: Path) -> None:
    for one in disc.iterdir():
        if one.is_file() and one.suffix != ".cue":
            (tmp_path / one.name).write_bytes(one.read_bytes())
    cue = (disc / "Nine Weirs.cue").read_text().replace("INDEX 01 00:07:00", "INDEX 01 00:02:00")
    (tmp_path / "Nine Weirs.cue").write_text(cue.replace("    INDEX 00 00:05:00\n", ""))
    with Writer.own(10_000) as writer, pytest.raises(BadInput, match="Not burned"):
        burn(tmp_path, BurnRequest(tmp_path / "medium"), writer)


def test_burning_on_the_command_line(disc: Path, tmp_path: Path) -> None:
    line = ["disc", "burn", str(disc), "--medium", str(tmp_path / "medium"), "--speedup", "10000", "--json"]
    made = CliRunner().invoke(app, line)
    assert made.exit_code == 0, made.output
    found = json.loads(made.stdout)
    assert found["read_back"]["holds"] and found["image"].endswith(".bin")
