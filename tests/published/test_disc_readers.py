"""Discs of this product through general-purpose readers that have no code in common with it.

cuetools (its sheet parser), libcdio's commands (sheet, CD-Text and samples, as a drive gives them) and flac's sheet
reader. None of their exit statuses is a verdict: they are lenient in different ways.
"""

import json
import re
import subprocess
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from click.testing import CliRunner

from ripe_press.cli.app import app
from support.press import read_all
from support.signals import noise, write

TITLES = ["Headrace", "Älvdalen", "Eel Ladder", "Long Pound"]


def said(*command: str | Path) -> str:
    done = subprocess.run([str(one) for one in command], capture_output=True, text=True, check=False, errors="replace")
    assert not [line for line in done.stderr.splitlines() if "syntax" in line or "error" in line.lower()], done.stderr
    return done.stdout


@pytest.fixture(scope="module")
def disc(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Two mixes of which the first is cut in three; 48 kHz, so that everything goes through the converter."""
    folder = tmp_path_factory.mktemp("disc")
    long = write(folder / "Long.wav", noise(48_000 * 15 + 77, seed=1, level=0.2), 48_000, "PCM_24")
    other = write(folder / "Other.wav", noise(48_000 * 5, seed=2, level=0.1), 48_000, "PCM_24")
    order = folder / "order.json"
    made = CliRunner().invoke(
        app, ["order", "create", str(long), str(other), "--title", "Nine Weirs", "--out", str(order)]
    )
    assert made.exit_code == 0, made.output
    row = json.loads(order.read_text())
    first, last = row["order"]["entries"]
    cuts = [0, 48_000 * 5, 48_000 * 10 + 11, 48_000 * 15 + 77]
    entries = [
        {**first, "id": f"c{at}", "start_frame": start, "end_frame": end, "runs_on": at > 0}
        for at, (start, end) in enumerate(pairwise(cuts))
    ] + [last]
    for at, (entry, title) in enumerate(zip(entries, TITLES, strict=True)):
        entry["tags"] = [["title", title], ["artist", "The Sluicekeepers"], ["isrc", f"QZ-WLT-26-{at + 1:05d}"]]
    entries[1]["may_copy"] = True
    entries[2]["indexes"] = [48_000 * 12]
    row["order"] |= {"entries": entries, "tags": [["barcode", "4006381333931"], ["album_artist", "The Sluicekeepers"]]}
    order.write_text(json.dumps(row))
    out = folder / "out"
    made = CliRunner().invoke(app, ["disc", "press", str(order), "--tracks", "--out", str(out), "--json"])
    assert made.exit_code == 0, made.output
    report = json.loads(made.stdout)
    assert [one["sentence"] for one in report["checks"] if not one["holds"]] == []
    assert report["image"].endswith("Nine Weirs.bin") and report["cue"].endswith("Nine Weirs.cue")
    return out


STARTS = [0, 375, 750, 1_276]
LEAD_OUT = 1_651
"""15 s and 77 samples of 48 kHz are 1,125.12 frames: the run takes 1,126; two seconds of gap; 375 frames more."""


def test_a_sheet_parser_reads_places_and_codes(disc: Path) -> None:
    cue = disc / "Nine Weirs.cue"
    breaks = said("cuebreakpoints", cue).split()
    assert breaks == [f"{at // 4_500}:{at // 75 % 60:02d}.{at % 75:02d}" for at in STARTS[1:]]
    for number, title in enumerate(TITLES, 1):
        told = said("cueprint", "-n", str(number), "-t", "%t|%i|%p", cue).strip()
        assert told == f"{title.replace('Ä', 'A')}|QZWLT260000{number}|The Sluicekeepers"
    assert said("cueprint", "-d", "%T|%P", cue).strip() == "Nine Weirs|The Sluicekeepers"


def test_a_drive_s_library_reads_places_codes_and_texts(disc: Path) -> None:
    told = said("cd-info", "--no-device-info", "-i", disc / "Nine Weirs.cue")
    found = re.findall(
        r"^\s*(\d+): \d\d:\d\d:\d\d\s+(\d{6}) (audio|leadout)\s*(?:\w+)?\s*(yes|no)?", told, re.MULTILINE
    )
    assert [(int(number), int(frame)) for number, frame, *_ in found[:4]] == list(enumerate(STARTS, 1))
    assert [copy for *_, copy in found[:4]] == ["no", "yes", "no", "no"]
    assert re.search(r"170: \d\d:\d\d:\d\d\s+(\d{6}) leadout", told)[1] == f"{LEAD_OUT:06d}"  # type: ignore[index]
    assert "Media Catalog Number (MCN): 4006381333931" in told
    # The sheet's texts have priority, in ASCII; without them the packs are read.
    assert "TITLE: Alvdalen" in told
    bare = disc / "Bare.cue"
    lines = (disc / "Nine Weirs.cue").read_text().splitlines(keepends=True)
    bare.write_text("".join(one for one in lines if not one.strip().startswith(("TITLE", "PERFORMER"))))
    (disc / "Bare.bin").symlink_to(disc / "Nine Weirs.bin")
    told = said("cd-info", "--no-device-info", "-i", bare)
    bare.unlink()
    (disc / "Bare.bin").unlink()
    assert re.findall(r"^\tTITLE: (.*)$", told, re.MULTILINE) == ["Nine Weirs", *TITLES]
    assert re.findall(r"^\tISRC: (.*)$", told, re.MULTILINE) == [f"QZWLT260000{number}" for number in range(1, 5)]


def test_a_drive_s_library_reads_the_samples(disc: Path, tmp_path: Path) -> None:
    """Joined, the gapless tracks in the image equal those in their files; the rest is silence."""
    raw = tmp_path / "raw"
    said("cd-read", "-m", "audio", "-s", "0", "-n", str(LEAD_OUT - 1), "-i", disc / "Nine Weirs.cue", "-o", raw)
    samples = np.fromfile(raw, "<i2").reshape(-1, 2)
    tracks = [read_all(one) * 32_768 for one in sorted((disc / "tracks").iterdir())]
    assert [len(one) for one in tracks[:2]] == [375 * 588, 375 * 588]
    run = np.concatenate(tracks[:3])
    assert np.array_equal(samples[: len(run)], run)
    begins = STARTS[3] * 588
    assert not samples[len(run) : begins].any()
    assert np.array_equal(samples[begins : begins + len(tracks[3])], tracks[3][: len(samples) - begins])


def test_a_third_reader_takes_the_sheet(disc: Path, tmp_path: Path) -> None:
    """The sheet goes into a FLAC of the image and cuts it at the sample."""
    whole = tmp_path / "image.flac"
    form = ["--force-raw-format", "--endian=little", "--sign=signed", "--channels=2", "--bps=16", "--sample-rate=44100"]
    said("flac", "-s", *form, f"--cuesheet={disc / 'Nine Weirs.cue'}", disc / "Nine Weirs.bin", "-o", whole)
    second = tmp_path / "two.wav"
    said("flac", "-s", "-d", "--cue=2.1-3.1", whole, "-o", second)
    tracks = sorted((disc / "tracks").iterdir())
    assert np.array_equal(read_all(second), read_all(tracks[1]))


def test_checksums_and_log_sheet_lie_beside_it(disc: Path) -> None:
    names = {one.name for one in disc.iterdir()}
    assert names == {
        "Nine Weirs.bin",
        "Nine Weirs.cue",
        "Nine Weirs.cdt",
        "Nine Weirs log sheet.html",
        "Nine Weirs SHA-256.txt",
        "tracks",
    }
    done = subprocess.run(["sha256sum", "-c", "Nine Weirs SHA-256.txt"], cwd=disc, capture_output=True, check=False)
    assert done.returncode == 0, done.stdout
    page = (disc / "Nine Weirs log sheet.html").read_text()
    assert all(title in page for title in TITLES) and "4006381333931" in page
