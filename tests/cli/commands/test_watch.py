"""A watched folder presses each new file once, and the page opens only in a terminal."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
import soundfile
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.requests.document import read_document
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.studio.command_line.watch_folder import WatchedFolder
from ripe_press.studio.data_folder import VARIABLE, data_folder
from support.server import wait_for
from support.signals import piece, write

RATE = 48_000
COMMAND = str(Path(sys.executable).with_name("ripe-press"))


@pytest.fixture
def place(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder to watch, with an existing mix, and a ticket made for another one."""
    monkeypatch.setenv(VARIABLE, str(tmp_path / "data"))
    (tmp_path / "in").mkdir()
    write(tmp_path / "in" / "Old.wav", piece(1, seed=1), RATE, "PCM_24")
    like = write(tmp_path / "Like.wav", piece(1, seed=2), RATE, "PCM_24")
    words = ["plan", str(like), "--brief", "audio-cd", "--tag", "artist=The Sluicekeepers", "--tag", "title=Like"]
    words += ["--tag", "isrc=QZ-WLT-26-00001", "--ticket-out", str(tmp_path / "ticket.json")]
    assert CliRunner().invoke(app, words).exit_code == 0
    return tmp_path


def watched(place: Path, *more: str, status: int = 0) -> str:
    words = ["watch", str(place / "in"), "--ticket", str(place / "ticket.json"), "--out", str(place / "out"), "--once"]
    result = CliRunner().invoke(app, [*words, *more])
    assert result.exit_code == status, (result.output, result.exception)
    return result.output


def made(place: Path) -> list[str]:
    return sorted(one.name for one in (place / "out").glob("*.wav")) if (place / "out").exists() else []


def test_new_file_is_pressed_once_and_existing_ones_are_ignored(place: Path) -> None:
    assert "1 existing file skipped" in watched(place)
    assert made(place) == []
    write(place / "in" / "New.wav", piece(1, seed=3), RATE, "PCM_24")
    (place / "in" / "notes.txt").write_text("no sound")
    assert "New 44k1 16b.wav" in watched(place)
    assert made(place) == ["New 44k1 16b.wav"]
    assert watched(place) == ""
    # The tags of the ticket that are true of any mix, and none that are of its own.
    path = place / "out" / "New 44k1 16b.wav"
    tags = dict(read_embedded(path, 44_100, soundfile.info(path).frames).tags)
    assert (tags["title"], tags["artist"]) == ("New", "The Sluicekeepers") and "isrc" not in tags
    # Saved again, it is new.
    write(place / "in" / "New.wav", piece(1, seed=4), RATE, "PCM_24")
    assert json.loads(watched(place, "--json"))["files"][0]["path"].endswith("New 44k1 16b (2).wav")


def test_existing_file_is_pressed_on_request_and_other_files_do_not_block(place: Path) -> None:
    (place / "in" / "Bad.wav").write_bytes(b"no sound")
    result = CliRunner().invoke(app, [
        "watch", str(place / "in"), "--ticket", str(place / "ticket.json"), "--out", str(place / "out"), "--once",
        "--existing",
    ])  # fmt: skip
    assert result.exit_code == 0 and "Bad.wav" in result.stderr
    assert made(place) == ["Old 44k1 16b.wav"]
    # It was dealt with: not said again at every look.
    assert "Bad.wav" not in watched(place)


def test_a_file_that_is_still_being_written_is_left_until_it_rests(place: Path) -> None:
    document = read_document((place / "ticket.json").read_text())
    folder = WatchedFolder(place / "in", document, place / "out", data_folder(None))
    folder.pass_over()
    path = write(place / "in" / "Growing.wav", piece(1, seed=5), RATE, "PCM_24")
    assert folder.look() == []
    with path.open("ab") as file:
        file.write(b"\0" * 600)
    assert folder.look() == []
    assert folder.look() == [path]


def test_watch_error_is_reported(place: Path) -> None:
    ticket = str(place / "ticket.json")
    for folder, out, words in (
        (str(place / "nowhere"), "out", "Folder not found"),
        (str(place / "in"), str(place / "in"), "is the watched folder"),
    ):
        result = CliRunner().invoke(app, ["watch", folder, "--ticket", ticket, "--out", out, "--once"])
        assert words in str(result.exception)
    words = ["watch", str(place / "in"), "--ticket", str(place / "none.json"), "--out", "out", "--once"]
    assert getattr(CliRunner().invoke(app, words).exception, "code", "") == "ticket.unreadable"


@pytest.mark.parametrize(("words", "opens"), [(["--browser"], True), ([], False)])
def test_page_is_opened_on_request(words: list[str], opens: bool, tmp_path: Path) -> None:
    told = tmp_path / "opened"
    script = tmp_path / "browser"
    script.write_text(f'#!/bin/sh\necho "$1" > "{told}"\n')
    script.chmod(0o755)
    command = [COMMAND, "serve", "--port", "0", "--data", str(tmp_path / "data"), *words]
    environment = {**os.environ, "BROWSER": str(script)}
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=environment) as process:
        assert process.stdout
        address = process.stdout.readline().split()[-1]
        # Without a terminal, nothing is opened unless requested.
        assert wait_for(told.exists, 10) if opens else not told.exists()
        process.terminate()
    assert not opens or told.read_text().strip() == address
