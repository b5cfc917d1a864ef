"""The command line for people: headings, topics, completion, lines of progress, more and less said, colour."""

import os
import pty
import shutil
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from click.testing import CliRunner

from ripe_press.cli import speech
from ripe_press.cli.app import GROUPS, app, press
from ripe_press.cli.helping import SHELLS
from ripe_press.cli.topics import topic, topics
from ripe_press.studio.data_folder import VARIABLE
from ripe_press.studio.jobs.folder import FileProgress, JobProgress
from support.signals import noise, write

RATE = 48_000
COMMAND = str(Path(sys.executable).with_name("ripe-press"))


@pytest.fixture
def mix(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv(VARIABLE, str(tmp_path / "data"))
    return write(tmp_path / "Millrace.wav", noise(RATE * 2) * np.hanning(RATE * 2)[:, None], RATE, "PCM_24")


def said(*words: str, status: int = 0) -> str:
    result = CliRunner().invoke(app, words, color=True)
    assert result.exit_code == status, result.output
    return result.output


def on_terminal(words: list[str], columns: int, **environment: str) -> str:
    """What a terminal of a width is shown, standard error and output together."""
    leader, follower = pty.openpty()
    subprocess.run(["stty", "cols", str(columns), "rows", "30"], stdin=follower, check=True)
    surroundings = {**os.environ, "TERM": "xterm", **environment}
    process = subprocess.Popen([COMMAND, *words], stdout=follower, stderr=follower, stdin=follower, env=surroundings)
    os.close(follower)
    shown = b""
    while True:
        try:
            part = os.read(leader, 4096)
        except OSError:
            break
        if not part:
            break
        shown += part
    os.close(leader)
    assert process.wait(60) == 0, shown
    return shown.decode()


def test_options_stand_under_headings_the_common_ones_first_and_each_once() -> None:
    text = said("press", "--help")
    places = [text.index(f"{heading}:") for heading in GROUPS]
    assert places == sorted(places) and text.index("--brief") < text.index("--ring-below")
    names = [name for one in press.params for name in one.opts if name.startswith("--")]
    missing = [name for name in names if not any(name in group for group in GROUPS.values())]
    assert not missing, "they would stand under More"
    assert "\nMore:" not in text
    assert said("--help").index("Basics:") < said("--help").index("History:")


@pytest.mark.parametrize("name", sorted(topics()))
def test_every_topic_fits_a_narrow_terminal_without_marks(name: str) -> None:
    result = CliRunner().invoke(app, ["help", name], terminal_width=48)
    assert result.exit_code == 0 and topics()[name] in result.output
    assert "`" not in topic(name) and "](" not in topic(name)
    long = [line for line in result.output.splitlines() if len(line) > 48 and " " in line.strip()]
    assert not long


def test_help_lists_commands_and_topics() -> None:
    assert "MIX" in said("help", "markers")
    assert "levels" in said("help") and "Levels" in said("help")
    assert "Unknown topic or command “nonsense”" in CliRunner().invoke(app, ["help", "nonsense"]).output


@pytest.mark.parametrize("shell", SHELLS)
def test_completion_loads_in_its_shell(shell: str, tmp_path: Path) -> None:
    script = tmp_path / f"completion.{shell}"
    script.write_text(said("completion", shell))
    path = shutil.which(shell)
    assert path, f"{shell} is one of the packages that `make test` installs"
    load = {
        "bash": f"source '{script}' && complete -p ripe-press",
        "zsh": f"autoload -Uz compinit && compinit -u -D && source '{script}' && print $_comps[ripe-press]",
        "fish": f"source '{script}'; and complete -c ripe-press",
    }[shell]
    done = subprocess.run(
        [path, "-c", load], capture_output=True, text=True, check=False, env={**os.environ, "HOME": str(tmp_path)}
    )
    assert done.returncode == 0 and "ripe" in done.stdout, done.stderr


def completed(words: str) -> list[str]:
    """What bash is offered behind some words."""
    environment = {
        **os.environ,
        "_RIPE_PRESS_COMPLETE": "bash_complete",
        "COMP_WORDS": words,
        "COMP_CWORD": str(len(words.split(" ")) - 1),
    }
    done = subprocess.run([COMMAND], capture_output=True, text=True, check=False, env=environment)
    return [line.split(",", 1)[1] for line in done.stdout.splitlines()]


def test_commands_briefs_formats_and_topics_are_completed() -> None:
    assert "press" in completed("ripe-press pr")
    assert completed("ripe-press press Millrace.wav --brief audio")[:1] == ["audio-cd"]
    assert "flac" in completed("ripe-press press Millrace.wav --format fl")
    assert "levels" in completed("ripe-press help lev")


def test_more_and_less_is_said(mix: Path, tmp_path: Path) -> None:
    words = (
        "press",
        str(mix),
        "--brief",
        "audio-cd",
        "--out",
        str(tmp_path / "out"),
        "--tag",
        "artist=The Sluicekeepers",
    )
    assert said(*words, "--quiet") == ""
    usual = said(*words)
    assert "sha256" in usual and "Sample rate" not in usual
    more = said(*words, "--verbose")
    assert more.index("44.1 kHz") < more.index("Ready") and "Sample rate: 44.1 kHz" in more
    # What has to be looked at is said even then; and quiet is of one command, not of those after it.
    assert "Review" in said("press", str(mix), "--brief", "distributor", "--out", str(tmp_path / "out"), "-q")
    assert said(*words)


def test_verdicts_are_coloured_in_a_terminal(mix: Path, tmp_path: Path) -> None:
    words = ["press", str(mix), "--brief", "archive", "--out", str(tmp_path / "out")]
    data = str(tmp_path / "data")
    assert "\x1b[33m" in on_terminal(words, 100, RIPE_PRESS_DATA=data)
    assert "\x1b[33m" not in on_terminal(words, 100, RIPE_PRESS_DATA=data, NO_COLOR="1")
    piped = subprocess.run([COMMAND, *words], capture_output=True, text=True, check=True)
    assert "\x1b" not in piped.stdout + piped.stderr


def test_a_pressing_shows_a_line_a_file_on_a_terminal_and_none_when_quiet(tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", noise(96_000 * 20), 96_000)
    words = ["press", str(mix), "--brief", "archive", "--brief", "audio-cd", "--out", str(tmp_path / "out")]
    shown = on_terminal(words, 60, RIPE_PRESS_DATA=str(tmp_path / "data"))
    assert "of 2 files" in shown and "Millrace 44k1 16b.wav" in shown
    assert "of 2 files" not in on_terminal([*words, "-q"], 60, RIPE_PRESS_DATA=str(tmp_path / "data"))


def test_progress_lines_fit_with_the_running_file_first() -> None:
    files = tuple(FileProgress(at, part, None) for at, part in enumerate((1.0, 0.0, 0.5, *[0.0] * 20)))
    names = [f"A rather long name of a file, number {at}.wav" for at in range(23)]
    lines = speech.file_lines(JobProgress(30, 100, 2.0, 4.6, files), names, 40)
    assert all(len(line) <= 40 for line in lines[:-2])
    assert "50 %" in lines[0] and lines[-2:] == ["and 11 more", "30 % of 23 files, 0:05 left"]
