"""The common jobs of the README, run as written."""

import re
import shlex
from pathlib import Path

import numpy as np
import pytest
import soundfile

from ripe_press.core.tags.riff_notes import append_chunks, marker_chunks
from ripe_press.core.timeline import Marker
from ripe_press.studio.data_folder import VARIABLE
from support import ROOT
from support.command_line import run
from support.signals import noise, write

README = ROOT / "README.md"
RATE = 48_000


def recipes() -> list[str]:
    """Every command of the block of common jobs, without its comment."""
    text = README.read_text(encoding="utf-8").partition("## Common jobs")[2]
    block = text.partition("```sh\n")[2].partition("```")[0]
    return [re.sub(r"\s+# .*$", "", line) for line in block.splitlines() if line.strip()]


@pytest.mark.slow
def test_every_common_job_gives_its_stated_result(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv(VARIABLE, str(tmp_path / "data"))
    soft = np.hanning(RATE * 12)[:, None]
    for seed, name in enumerate(("Millrace", "Eel Ladder")):
        path = write(tmp_path / f"{name}.wav", noise(RATE * 12, seed=seed) * soft, RATE, "PCM_24")
        append_chunks(path, marker_chunks((Marker(RATE, "Verse"),)))
    (tmp_path / "stick").mkdir()
    found = recipes()
    assert len(found) >= 10 and all(line.startswith("ripe-press ") for line in found)
    for line in found:
        done = run(*shlex.split(line)[1:], cwd=tmp_path)
        assert done.returncode == 0, (line, done.stdout, done.stderr)
    made = {one.relative_to(tmp_path).as_posix() for one in tmp_path.rglob("*.*")}
    assert {"out/Millrace 44k1 16b.wav", "stick/Millrace 44k1 16b.wav", "out/delivery-sheet.html"} <= made
    assert {"archive/bagit.txt", "archive/delivery/delivery-sheet.json"} <= made
    (loop,) = [one for one in made if "84bpm" in one and one.startswith("out/")]
    info = soundfile.info(tmp_path / loop)
    # Bars 2 and 3 at 84 in four-four time, to the sample.
    assert abs(info.frames - 8 * 60 / 84 * info.samplerate) <= 1
    assert any(one.startswith("small/") for one in made) and any(one.startswith("album/") for one in made)
