"""Disc images from other programs: a good one passes, and every fault is reported by its own rule."""

import json
import subprocess
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.blocks import BLOCK_FRAMES
from ripe_press.core.disc.check import check_disc
from ripe_press.core.disc.cue import read_cue
from ripe_press.core.disc.frames import CAPACITY_FRAMES, FRAME_BYTES, FRAME_SAMPLES, print_frames
from ripe_press.core.disc.image import look_at_image
from ripe_press.core.disc.sums import ENDING, SECOND_BYTES, SecondSums, changed_second, digest_of, write_sums
from support.discs import album
from support.signals import sine

SHEET = """REM GENRE Folk
CATALOG 4006381333931
PERFORMER "The Sluicekeepers"
TITLE "Nine Locks"
FILE "disc.bin" BINARY
  TRACK 01 AUDIO
    TITLE "Millrace"
    FLAGS DCP
    ISRC QZWLT2600001
    INDEX 01 00:00:00
  TRACK 02 AUDIO
    TITLE "Eel Ladder"
    ISRC QZWLT2600002
    INDEX 00 00:05:00
    INDEX 01 00:07:00
"""
FRAMES = 15 * 75


def sound(frames: int = FRAMES) -> np.ndarray:
    tone = sine(440.0, frames * FRAME_SAMPLES / 44_100, 44_100, 0.4)
    return np.round(tone[: frames * FRAME_SAMPLES] * 32767).astype("<i2")


def disc(folder: Path, sheet: str | bytes = SHEET, samples: np.ndarray | bytes | None = None) -> Path:
    data = sound() if samples is None else samples
    (folder / "disc.bin").write_bytes(data if isinstance(data, bytes) else data.tobytes())
    (folder / "disc.cue").write_bytes(sheet if isinstance(sheet, bytes) else sheet.encode())
    return folder


def checked(folder: Path) -> tuple[int, dict[str, Any]]:
    done = CliRunner().invoke(app, ["disc", "check", str(folder), "--json"])
    assert done.exception is None or isinstance(done.exception, SystemExit), done.exception
    return done.exit_code, json.loads(done.stdout)


def fails(report: dict[str, Any]) -> set[str]:
    return {one["id"] for one in report["checks"] if not one["holds"]}


def test_good_image_passes_with_its_tracks_listed(tmp_path: Path) -> None:
    code, report = checked(disc(tmp_path))
    assert (code, report["verdict"], fails(report)) == (0, "ready", set()), report["checks"]
    assert report["lead_out"] == print_frames(FRAMES)
    first, second = report["tracks"]
    assert (first["title"], first["isrc"], first["start"], first["frames"]) == (
        "Millrace",
        "QZWLT2600001",
        "00:00:00",
        375,
    )
    assert (second["pause_frames"], second["start_frame"], second["frames"]) == (150, 525, 600)
    assert second["peak_dbfs"] == pytest.approx(-7.96, abs=0.02)
    said = CliRunner().invoke(app, ["disc", "check", str(tmp_path / "disc.cue")])
    assert "Eel Ladder" in said.output and said.exit_code == 0


def changed(old: str, new: str) -> str:
    assert old in SHEET
    return SHEET.replace(old, new)


@pytest.mark.parametrize(
    ("sheet", "rule"),
    [
        (changed("00:07:00", "00:04:00"), "indexes"),
        (changed("00:07:00", "00:17:00"), "indexes"),
        (changed("    INDEX 01 00:07:00\n", ""), "indexes"),
        (changed("TRACK 02", "TRACK 03"), "track_numbers"),
        (changed("00:05:00\n    INDEX 01 00:07:00", "00:02:00\n    INDEX 01 00:04:00"), "track_length"),
        (changed("FLAGS DCP", "FLAGS PRE").replace("    INDEX 00 00:05:00\n", ""), "pre_emphasis"),
        (changed("4006381333931", "4006381333932"), "barcode"),
        (changed("QZWLT2600002", "QZWLT2600001"), "isrc"),
        (changed("QZWLT2600002", "QZ-WLT-26-00002"), "isrc"),
        (changed("QZWLT2600002", "QZWLT26"), "isrc"),
        (changed("REM GENRE Folk", "WORD GENRE Folk"), "cue_sheet"),
        (changed("    TITLE", "    title"), "cue_sheet"),
        (changed("REM GENRE Folk", "rem GENRE Folk"), "cue_sheet"),
        (changed('"Millrace"', 'Mill "race"'), "cue_sheet"),
        (changed("FLAGS DCP", "FLAGS SCMS"), "cue_sheet"),
        (changed("FLAGS DCP", "PREGAP 00:02:00"), "cue_sheet"),
        (changed("00:07:00", "00:07:75"), "cue_sheet"),
        (SHEET.rstrip("\n"), "cue_sheet"),
        ("\ufeff" + SHEET, "cue_sheet"),
        (changed("Nine Locks", "Neun Schleusen à la Öhr"), "cue_sheet"),
        (changed("BINARY", "FLAC"), "cue_sheet"),
        (changed("FLAGS DCP\n", "INDEX 01 00:00:00\n"), "cue_sheet"),
    ],
)  # fmt: skip
def test_fault_of_a_cue_sheet_is_reported(tmp_path: Path, sheet: str, rule: str) -> None:
    code, report = checked(disc(tmp_path, sheet))
    assert code == 1
    assert rule in fails(report), report["checks"]
    assert all(one["sentence"] for one in report["checks"] if not one["holds"])


def test_fault_of_an_image_is_reported(tmp_path: Path) -> None:
    good = sound()
    soundfile.write(tmp_path / "as.wav", good, 44_100, "PCM_16")
    silent = good.copy()
    silent[8 * 44_100 : 14 * 44_100] = 0
    clipped = good.copy()
    clipped[50_000:50_010] = 32767
    for samples, rule, told in (
        ((tmp_path / "as.wav").read_bytes(), "image", "audio file header"),
        (good.byteswap(), "image", "Byte order is swapped"),
        (good.tobytes()[:-100], "image", "not complete CD frames"),
        (silent, "silence", "Track 2 is silent for 6.0 s"),
        (clipped, "clipping", "Track 1 is clipped in 2 places"),
    ):
        code, report = checked(disc(tmp_path, SHEET, samples))
        assert code == 1 and rule in fails(report), report["checks"]
        assert any(told in one["sentence"] for one in report["checks"]), report["checks"]


def test_an_image_as_wave_is_read_by_its_header(tmp_path: Path) -> None:
    disc(tmp_path, SHEET.replace('"disc.bin" BINARY', '"disc.wav" WAVE'))
    soundfile.write(tmp_path / "disc.wav", sound(), 44_100, "PCM_16")
    assert checked(tmp_path)[0] == 0
    soundfile.write(tmp_path / "disc.wav", sound(), 48_000, "PCM_24")
    code, report = checked(tmp_path)
    assert code == 1 and "48,000 Hz, 2 channels, 24 bits" in str(report["checks"])


def test_a_disc_that_is_too_long_does_not_fit(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """With a disc of thirteen seconds in the place of one of 80 minutes."""
    assert (checked(disc(tmp_path))[1]["verdict"], FRAMES) == ("ready", 1_125)
    monkeypatch.setitem(CAPACITY_FRAMES, 80, 1_000)
    code, report = checked(tmp_path)
    assert (code, report["verdict"], fails(report)) == (1, "stop", {"capacity"})
    assert "Lead-out 00:15:00; an 80-minute disc ends at 00:13:25." in str(report["checks"])


def test_a_clipped_run_over_the_edge_of_a_block_is_one(tmp_path: Path) -> None:
    samples = sound(6 * 75)
    samples[BLOCK_FRAMES - 20 : BLOCK_FRAMES + 20, 0] = 32767
    sheet = SHEET[: SHEET.index("  TRACK 02")]
    _, report = checked(disc(tmp_path, sheet, samples))
    assert report["tracks"][0]["clipped_runs"] == 1


def test_a_sheet_is_read_as_it_is_meant() -> None:
    sheet, faults = read_cue(SHEET.encode())
    assert faults == ()
    assert (sheet.image, sheet.kind, sheet.catalog) == ("disc.bin", "BINARY", "4006381333931")
    assert sheet.texts == {"PERFORMER": "The Sluicekeepers", "TITLE": "Nine Locks"}
    assert [(one.texts["TITLE"], one.flags, one.indexes) for one in sheet.tracks] == [
        ("Millrace", ("DCP",), {1: 0}),
        ("Eel Ladder", (), {0: 375, 1: 525}),
    ]
    _, (fault, *_) = read_cue(SHEET.replace("BINARY", "FLAC").encode())
    assert fault.line == 5


def test_an_image_gives_its_samples(tmp_path: Path) -> None:
    disc(tmp_path)
    image = look_at_image(tmp_path / "disc.bin", "BINARY")
    assert (image.frames, image.faults) == (FRAMES, ())
    assert np.array_equal(np.concatenate(list(image.blocks())), sound() / 32768.0)


def test_missing_file_is_reported(tmp_path: Path) -> None:
    (tmp_path / "disc.cue").write_text(SHEET)
    for what, told in ((tmp_path, "names the image"), (tmp_path / "no.cue", "not found")):
        done = CliRunner().invoke(app, ["disc", "check", str(what)])
        assert done.exit_code != 0 and told in str(done.exception)
    (tmp_path / "more.cue").write_text(SHEET)
    done = CliRunner().invoke(app, ["disc", "check", str(tmp_path)])
    assert "holds 2 cue sheets" in str(done.exception)


def test_cd_text_is_compared_with_the_sheet(tmp_path: Path) -> None:
    sheet = changed("CATALOG", 'CDTEXTFILE "disc.cdt"\nCATALOG')
    code, report = checked(disc(tmp_path, sheet))
    assert code == 1 and "cd_text" in fails(report)
    (tmp_path / "disc.cdt").write_bytes(album())
    code, report = checked(tmp_path)
    assert fails(report) == {"cd_text_agrees"}
    sentences = [one["sentence"] for one in report["checks"] if not one["holds"]]
    assert "Title of track 1: cue sheet “Millrace”, CD-Text “One”." in sentences
    assert "The code of track 2: cue sheet QZWLT2600002, CD-Text GBAYE0000352." in sentences
    same = sheet.replace("Nine Locks", "The Album").replace("Millrace", "One").replace("Eel Ladder", "Two")
    same = same.replace("The Sluicekeepers", "The Band").replace("QZWLT2600001", "GBAYE0000351")
    code, report = checked(disc(tmp_path, same.replace("QZWLT2600002", "GBAYE0000352")))
    assert (code, report["verdict"]) == (0, "ready"), report["checks"]


def test_fully_clipped_image_is_not_reported_as_byte_swapped(tmp_path: Path) -> None:
    """Noise 12 dB above full scale: its codes at full scale would be quiet the other way round."""
    loud = np.clip(np.random.default_rng(1).standard_normal((FRAMES * FRAME_SAMPLES, 2)) * 4, -1, 1) * 32767
    _, report = checked(disc(tmp_path, samples=np.round(loud).astype("<i2")))
    assert "image" not in fails(report) and "clipping" in fails(report)


def test_a_changed_image_is_caught_with_its_track_and_time(tmp_path: Path) -> None:
    cue = disc(tmp_path) / "disc.cue"
    image = cue.with_suffix(".bin")
    data = bytearray(image.read_bytes())
    seconds = SecondSums()
    for at in range(0, len(data), 100_001):
        seconds.update(bytes(data[at : at + 100_001]))
    listed = [(one.name, digest_of(one)) for one in (image, cue)]
    sums = cue.with_name(f"{cue.stem}{ENDING}")
    sums.write_text(write_sums(listed, seconds.result()))
    assert subprocess.run(["sha256sum", "--check", "--strict", sums.name], cwd=tmp_path, check=False).returncode == 0
    (held,) = [one for one in check_disc(cue).checks if one.rule == "checksums"]
    assert held.holds and held.found == "2 files unchanged"
    # One bit, seven seconds into the second track.
    track = read_cue(cue.read_bytes())[0].tracks[1]
    data[(track.start or 0) * FRAME_BYTES + 7 * SECOND_BYTES + 5] ^= 1
    image.write_bytes(data)
    (caught,) = [one for one in check_disc(cue).checks if one.rule == "checksums"]
    assert caught.stops and not caught.holds
    assert "changed after writing, first in track 2 at 0:07" in caught.sentence
    sums.write_text(write_sums(listed, ()))
    (caught,) = [one for one in check_disc(cue).checks if one.rule == "checksums"]
    assert "changed after writing. Assemble" in caught.sentence, "another program's list has no seconds"
    image.write_bytes(data[:-FRAME_BYTES])
    assert changed_second(image, seconds.result()) is not None
    sums.write_text(write_sums([("gone.cdt", "0" * 64)], ()))
    (gone,) = [one for one in check_disc(cue).checks if one.rule == "checksums"]
    assert gone.sentence.startswith("gone.cdt is missing")
