"""The Python interface: the examples of its document as written, its results, and equality with the command line."""

import json
import re
from pathlib import Path

import numpy as np
import pytest
import soundfile

import ripe_press
from ripe_press import scripting
from ripe_press.core.errors import BadInput, Cancelled
from ripe_press.studio.data_folder import VARIABLE
from support import ROOT
from support.command_line import run
from support.signals import noise, write

RATE = 48_000


@pytest.fixture
def here(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv(VARIABLE, str(tmp_path / "data"))
    monkeypatch.chdir(tmp_path)
    write(tmp_path / "Millrace.wav", noise(RATE * 10) * np.hanning(RATE * 10)[:, None] * 0.5, RATE, "PCM_24")
    return tmp_path


def test_examples_of_the_document_run_as_written(here: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = (ROOT / "docs" / "python.md").read_text(encoding="utf-8")
    examples = re.findall(r"```python\n(.*?)```", text, re.S)
    assert len(examples) == 4
    for example in examples:
        exec(compile(example, "docs/python.md", "exec"), {})
    said = capsys.readouterr().out
    assert re.search(r"^-\d+\.\d LUFS, -\d+\.\d dBTP$", said, re.M)
    assert re.search(r"^\S+\.cancelled Cancelled", said, re.M), said
    assert not list((here / "cancelled").iterdir())
    names = {one.name for one in (here / "out").iterdir()}
    assert {"Millrace 44k1 16b.wav", "Millrace.mp3"} <= names
    document = {name for name in scripting.__all__ if f"`{name}" in text or f"ripe_press.{name}" in text}
    assert {"measure", "job", "plan", "press", "check", "FilePlan", "PressResult", "CheckResult"} <= document


def test_range_is_measured_pressed_and_checked_to_the_sample(here: Path) -> None:
    found = ripe_press.measure("Millrace.wav", start="0:02", end="0:06")
    assert found.silence.head_frames == 0 and found.facts.frames == RATE * 10
    samples, _ = soundfile.read("Millrace.wav")
    assert found.peak.sample_peak_dbfs == pytest.approx(20 * np.log10(np.abs(samples[2 * RATE : 6 * RATE]).max()))
    job = ripe_press.job(here / "Millrace.wav", range=ripe_press.Range(start="0:02", end="0:06"))
    (planned,) = ripe_press.plan(job)
    result = ripe_press.press(job, here / "out")
    (file,) = result.files
    assert (Path(file.path).name, file.frames, file.bytes) == (planned.name, planned.frames, planned.bytes)
    assert planned.frames == 4 * RATE and planned.bit_exact
    pressed, _ = soundfile.read(file.path)
    np.testing.assert_array_equal(pressed, samples[2 * RATE : 6 * RATE])
    again = ripe_press.press(job, here / "out")
    assert again.pressing == (result.pressing or 0) + 1 and Path(again.files[0].path).name == "Millrace 48k 24b (2).wav"
    skipping = ripe_press.job("Millrace.wav", range=ripe_press.Range(start="0:02", end="0:06"), clash="skip")
    skipped = ripe_press.press(skipping, here / "out")
    assert (skipped.pressing, skipped.files, skipped.skipped) == (None, (), (file.path,))
    refused = ripe_press.check([file.path], "audio-cd")
    assert not refused.all_ready
    assert {one.id for one in refused.files[0].checks if not one.holds} >= {"brief_rate", "brief_depth"}


def test_command_line_gives_the_same_report(here: Path) -> None:
    job = ripe_press.job("Millrace.wav", ["audio-cd"])
    report = ripe_press.press(job, "python").row
    said = json.loads(run("press", "Millrace.wav", "--brief", "audio-cd", "--out", "terminal", "--json").stdout)
    same = ("brief", "sha256", "frames", "bytes", "verdict", "measured", "checks", "findings")
    assert [{name: one[name] for name in same} for one in said["files"]] == [
        {name: one[name] for name in same} for one in json.loads(json.dumps(report))["files"]
    ]


def test_work_stops_and_reports_progress(here: Path) -> None:
    seen: list[tuple[int, int]] = []
    ripe_press.measure("Millrace.wav", progress=lambda done, total: seen.append((done, total)))
    assert seen[-1] == (RATE * 10, RATE * 10)
    with pytest.raises(Cancelled):
        ripe_press.measure("Millrace.wav", should_stop=lambda: True)
    with pytest.raises(Cancelled, match="Check cancelled"):
        ripe_press.check("Millrace.wav", "audio-cd", should_stop=lambda: True)
    with pytest.raises(BadInput, match="No mix given"):
        ripe_press.job([])
    with pytest.raises(AttributeError, match="has no “fold”"):
        ripe_press.fold  # type: ignore[attr-defined] # noqa: B018
