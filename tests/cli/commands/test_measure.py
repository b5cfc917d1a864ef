"""Measuring on the command line, for people: figures with their units, in groups, and a small picture."""

from pathlib import Path

import numpy as np
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.cli.commands.measured import waveform
from support.signals import sine, write

RATE = 48_000


def test_measurements_are_printed(tmp_path: Path) -> None:
    sound = np.concatenate((np.zeros((RATE, 2)), sine(441, 1.0, RATE, 0.5), np.zeros((RATE, 2))))
    sound[60_000, 1] = 1.2
    path = write(tmp_path / "Weir.wav", sound, RATE)
    done = CliRunner(env={"COLUMNS": "60", "NO_COLOR": "1"}).invoke(app, ["measure", str(path)])
    assert done.exit_code == 0, done.exception
    title, wave, *lines = done.output.splitlines()
    assert title == "Weir.wav" and len(wave) == 60
    # A third of silence, a third of sound with one sample above full scale in it, a third of silence.
    assert wave[:19].strip() == wave[41:].strip() == "" and set(wave[21:39]) == {"▇", "!"} and wave.count("!") == 1
    told = "\n".join(lines)
    assert "Sample peak               +1.6 dBFS at 0:01.250, right" in told
    assert "Over full scale           1 sample\n" in told and "stereo" in told
    assert "\x1b" not in done.output and "None" not in told and "[" not in told and "−0.0 dB" not in told
    silent = write(tmp_path / "Silence.wav", np.zeros((4_800, 2)), RATE)
    quiet = CliRunner().invoke(app, ["measure", str(silent)])
    assert quiet.exit_code == 0 and "digital silence" in quiet.output, quiet.exception
    part = CliRunner().invoke(app, ["measure", str(path), "--from", "1", "--to", "2"])
    assert part.output.startswith("Weir.wav, from 1 to 2\n") and "▇" not in part.output


def test_the_small_picture_goes_by_decibels() -> None:
    # Eight steps of 6 dB from −48 dBFS on.
    assert waveform([0.0, 10 ** (-47 / 20), 10 ** (-24 / 20), 10 ** (-6 / 20), 1.0, 1.01]) == "  ▄▇█!"
