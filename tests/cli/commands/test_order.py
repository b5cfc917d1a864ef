"""Running orders and discs on the command line, end to end."""

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from click.testing import CliRunner, Result
from mutagen import File

from ripe_press.cli.app import app
from ripe_press.core.errors import RipePressError
from ripe_press.core.measure.loudness import gated_lufs
from ripe_press.core.survey import survey
from support.press import read_all
from support.signals import noise, sine, write

RATE = 48_000


@pytest.fixture
def mixes(tmp_path: Path) -> list[Path]:
    """A loud one, a quiet one, and one with a place where it falls silent."""
    third = noise(RATE * 12, seed=3, level=0.1)
    third[RATE * 6 : RATE * 7] = 0
    sounds = [noise(RATE * 6, seed=1, level=0.2), sine(440, 5.0, RATE, 0.02), third]
    return [write(tmp_path / f"{name}.wav", one, RATE, "PCM_24") for name, one in zip("abc", sounds, strict=True)]


def run(*line: object) -> Result:
    return CliRunner().invoke(app, [str(one) for one in line])


def told(*line: object) -> dict[str, Any]:
    made = run(*line, "--json")
    assert made.exit_code == 0, (made.output, made.exception)
    found: dict[str, Any] = json.loads(made.stdout)
    return found


def refused(*line: object) -> str:
    made = run(*line)
    assert isinstance(made.exception, RipePressError)
    return made.exception.message


def changed(path: Path, **order: object) -> Path:
    row = json.loads(path.read_text())
    row["order"] |= order
    path.write_text(json.dumps(row))
    return path


def test_an_order_is_made_and_pressed_to_every_brief(mixes: list[Path], tmp_path: Path) -> None:
    order = tmp_path / "order.json"
    made = told("order", "create", *mixes, "--gap", "1s", "--title", "Nine Weirs", "--out", order)
    assert [(one["start"], one["length"], one["gap"]) for one in made["entries"]] == [
        ("00:00:00", "00:06:00", "00:00:00"),
        ("00:07:00", "00:05:00", "00:01:00"),
        ("00:13:00", "00:12:00", "00:01:00"),
    ]  # fmt: skip
    assert made["left_74_frames"] == 333_000 - 25 * 75
    report = told("order", "press", order, "--brief", "audio-cd", "--brief", "phone-and-car", "--out", tmp_path / "out")
    names = [Path(one["path"]).name for one in report["files"]]
    assert [name[:4] for name in names] == ["01 a", "02 b", "03 c"] * 2
    tags = File(report["files"][4]["path"], easy=True)
    assert (tags["album"], tags["tracknumber"], tags["title"]) == (["Nine Weirs"], ["2/3"], ["b"])
    lists = [Path(one).name for one in report["playlists"]]
    assert lists[0] == "Nine Weirs, Audio CD.m3u8" and len(lists) == 4
    listed = Path(report["playlists"][0]).read_text().splitlines()
    assert [line for line in listed if not line.startswith("#")] == names[:3]


@pytest.mark.parametrize(("together", "asked"), [("loudest", -1.0), ("whole", -20.0), ("each", -20.0)])
def test_one_level_for_all_keeps_relations(mixes: list[Path], tmp_path: Path, together: str, asked: float) -> None:
    """From the loudest peak, from the loudness of the whole (BS.1770 gates over all blocks), or each on its own."""
    order = tmp_path / "order.json"
    told("order", "create", *mixes, "--title", "Nine Weirs", "--out", order)
    kind = "true-peak" if together == "loudest" else "loudness"
    level = {"kind": kind, "target": asked, "ceiling_dbtp": -0.1, "limit": False, "only_down": False}
    level |= {"back_off": False, "max_reduction_db": 12.0}
    changed(order, level={"level": level, "together": together})
    report = told("order", "press", order, "--brief", "archive", "--out", tmp_path / "out")
    gains = [one["measured"]["gain_db"] for one in report["files"]]
    found = [survey(Path(one["path"])) for one in report["files"]]
    if together == "each":
        assert len(set(gains)) == 3
        assert [one.loudness.integrated_lufs for one in found] == [pytest.approx(asked, abs=0.05)] * 3
        return
    assert len(set(gains)) == 1
    if together == "loudest":
        assert max(one.true_peak.true_peak_dbtp for one in found) == pytest.approx(asked, abs=0.05)
    else:
        whole = gated_lufs(np.concatenate([one.loudness.blocks for one in found]))
        assert whole == pytest.approx(asked, abs=0.05)


def test_loudness_for_players_includes_the_album(mixes: list[Path], tmp_path: Path) -> None:
    """ReplayGain 2.0 (reference −18 LUFS) and R128 (−23 LUFS): the album's is that of all blocks."""
    order = tmp_path / "order.json"
    told("order", "create", *mixes, "--out", order)
    brief = {
        "id": "mine",
        "title": "Mine",
        "sentence": "Mine.",
        "why": "",
        "prefer": {"container": "flac", "gain_tags": True},
    }
    opus = {**brief, "id": "opus", "title": "Opus", "prefer": {"container": "opus", "gain_tags": True}}
    row = json.loads(order.read_text())
    row["briefs"] = [brief, opus]
    row["order"]["lines"] = [{"brief": "mine"}, {"brief": "opus"}]
    order.write_text(json.dumps(row))
    report = told("order", "press", order, "--out", tmp_path / "out")
    paths = [Path(one["path"]) for one in report["files"]]
    found = [survey(one) for one in paths[:3]]
    # The encoder's input is reported: noise loses a little of its loudness there.
    whole = gated_lufs(np.concatenate([one.loudness.blocks for one in found]))
    for kind in (paths[:3], paths[3:]):
        told_of = [File(one) for one in kind]
        if kind[0].suffix == ".flac":
            gains = {one["replaygain_album_gain"][0] for one in told_of}
            assert gains == {f"{-18 - whole:.2f} dB"}
            peak = max(one.peak.sample_peak_dbfs for one in found)
            (told_peak,) = {float(one["replaygain_album_peak"][0]) for one in told_of}
            assert told_peak == pytest.approx(10 ** (peak / 20), abs=2e-6)
            assert len({one["replaygain_track_gain"][0] for one in told_of}) == 3
        else:
            (gain,) = {int(one["r128_album_gain"][0]) for one in told_of}
            assert gain / 256 == pytest.approx(-23 - whole, abs=0.02)


def test_a_mix_is_cut_where_it_falls_quiet_and_at_markers(tmp_path: Path) -> None:
    sound = noise(RATE * 90, seed=4, level=0.1)
    sound[RATE * 44 : RATE * 47] *= 0.01
    mix = write(tmp_path / "Long Pound.wav", sound, RATE, "PCM_16")
    order = tmp_path / "order.json"
    made = told("order", "split", mix, "--at-silences", "--out", order)
    assert [one["title"] for one in made["entries"]] == ["Part 1", "Part 2"]
    assert 44 * 75 <= made["entries"][1]["start_frame"] <= 47 * 75
    markers = tmp_path / "markers.csv"
    markers.write_text("time,name\n0:00,One\n0:30.5,Two\n")
    made = told("order", "split", mix, "--markers", markers, "--out", order)
    assert [(one["start"], one["title"], one["runs_on"]) for one in made["entries"]] == [
        ("00:00:00", "One", False), ("00:30:38", "Two", True),
    ]  # fmt: skip
    report = told("disc", "press", order, "--out", tmp_path / "disc")
    assert report["verdict"] in ("ready", "look") and report["files"] == []
    assert sorted(one.name for one in (tmp_path / "disc").iterdir())[-1] == "Long Pound.cue"
    image = np.fromfile(report["image"], "<i2").reshape(-1, 2)
    whole = told("press", mix, "--brief", "audio-cd", "--out", tmp_path / "whole")["files"][0]["path"]
    assert np.array_equal(image[: 90 * 44_100], read_all(whole) * 32_768)
    again = told("disc", "check", report["cue"])
    assert again["tracks"][1]["start"] == "00:30:38"


def test_impossible_disc_is_rejected_before_pressing(mixes: list[Path], tmp_path: Path) -> None:
    short = write(tmp_path / "short.wav", noise(RATE * 3, seed=9), RATE)
    order = tmp_path / "order.json"
    told("order", "create", mixes[0], short, "--out", order)
    assert "Track 2 is 3.0 s;" in refused("disc", "press", order, "--out", tmp_path / "disc")
    assert not list((tmp_path / "disc").glob("**/*.*"))


def test_order_lists_its_findings(mixes: list[Path], tmp_path: Path) -> None:
    order = tmp_path / "order.json"
    other = write(tmp_path / "other.wav", noise(44_100 * 5), 44_100)
    made = told("order", "create", mixes[0], other, "--gapless", "--out", order)
    assert [one["verdict"] for one in made["findings"] if one["rule"] == "rates_differ"] == ["stop", "look"]
    assert "Insert a gap" in refused("order", "press", order, "--brief", "audio-cd", "--out", tmp_path / "o")
    assert "No brief chosen" in refused("order", "press", order, "--out", tmp_path / "o")
    assert "Unknown brief" in refused("order", "press", order, "--brief", "nobody", "--out", tmp_path / "o")
    assert "not a running order" in refused(
        "order", "press", tmp_path / "gone.json", "--brief", "archive", "--out", tmp_path
    )
    assert "No markers to split at" in refused("order", "split", mixes[0], "--out", order)
    ticket = tmp_path / "ticket.json"
    assert run("plan", mixes[0], "--brief", "archive", "--ticket-out", ticket).exit_code == 0
    assert "not a running order" in refused("order", "press", ticket, "--brief", "archive", "--out", tmp_path)
    changed(order, entries=[{**json.loads(order.read_text())["order"]["entries"][0], "mix": 7}])
    assert "is of mix 7" in refused("order", "press", order, "--brief", "archive", "--out", tmp_path / "o")


def test_the_tree_is_one_path_and_then_cuts(mixes: list[Path], tmp_path: Path) -> None:
    order = tmp_path / "order.json"
    told("order", "create", *mixes, "--gapless", "--out", order)
    files = told("order", "plan", order, "--brief", "audio-cd")["files"]
    kinds = [[one["kind"] for one in file["stations"]] for file in files]
    assert all(one.index("piece") == one.index("codec") - 1 for one in kinds)
    at = kinds[0].index("piece")
    assert len({tuple(one["node"] for one in file["stations"][:at]) for file in files}) == 1
    assert len({file["stations"][at]["node"] for file in files}) == 3
    assert "Split, gapless" in run("order", "plan", order, "--brief", "audio-cd").output


def test_it_speaks_to_people_too(mixes: list[Path], tmp_path: Path) -> None:
    order = tmp_path / "order.json"
    said = run("order", "create", *mixes, "--gapless", "--out", order).output
    assert "gapless" in said and "left on a 74-minute disc 73:37:00" in said
    said = run("order", "press", order, "--brief", "audio-cd", "--disc", "--out", tmp_path / "out").output
    assert "playlist: " in said and "  out  00:23:00" in said


def test_a_title_in_other_letters_makes_a_disc_all_the_same(mixes: list[Path], tmp_path: Path) -> None:
    """CD-Text is Latin-1: other letters are reported, and the disc is made."""
    order = tmp_path / "order.json"
    told("order", "create", mixes[0], "--title", "Łódź 水", "--out", order)
    report = told("disc", "press", order, "--out", tmp_path / "disc")
    assert report["verdict"] == "ready", report["checks"]
    assert any("cannot store" in one["sentence"] for one in report["findings"])
    assert Path(report["image"]).name == "Lodz -.bin"
    assert run("disc", "check", tmp_path / "disc").exit_code == 0


def test_texts_without_room_are_refused_before_anything_is_pressed(mixes: list[Path], tmp_path: Path) -> None:
    order = tmp_path / "order.json"
    told("order", "create", *[mixes[0]] * 90, "--out", order)
    row = json.loads(order.read_text())
    for entry in row["order"]["entries"]:
        entry["disc_text"] = [["message", "A message of some length for everybody"]]
    order.write_text(json.dumps(row))
    assert "Shorten texts" in refused("disc", "press", order, "--out", tmp_path / "disc")
    assert not (tmp_path / "disc" / "tracks").exists()


def test_name_conflicts_of_a_bench_are_not_findings_of_an_order(mixes: list[Path], tmp_path: Path) -> None:
    order = tmp_path / "order.json"
    told("order", "create", mixes[0], "--title", "Twice", "--out", order)
    row = json.loads(order.read_text())
    row["mixes"][0]["bench"]["clash"] = "skip"
    order.write_text(json.dumps(row))
    names = [Path(told("disc", "press", order, "--tracks", "--out", tmp_path / "d")["image"]).name for _ in range(2)]
    assert names == ["Twice.bin", "Twice (2).bin"]


def test_an_entry_of_no_frame_is_one_sentence(mixes: list[Path], tmp_path: Path) -> None:
    """Two gapless entries, the second of one frame: no CD frame is left for it."""
    order = tmp_path / "order.json"
    told("order", "create", mixes[0], "--out", order)
    row = json.loads(order.read_text())
    (whole,) = row["order"]["entries"]
    row["order"]["entries"] = [
        {**whole, "end_frame": RATE * 2},
        {**whole, "id": "x", "runs_on": True, "start_frame": RATE * 2, "end_frame": RATE * 2 + 1},
        {**whole, "id": "y", "runs_on": True, "start_frame": RATE * 2 + 1},
    ]  # fmt: skip
    order.write_text(json.dumps(row))
    said = refused("order", "press", order, "--brief", "archive", "--out", tmp_path / "out")
    assert "shorter than its part of the running order" in said


@pytest.mark.parametrize("room", [300_000, 2_400_000])
def test_a_full_disk_is_one_sentence_and_leaves_whole_files(mixes: list[Path], tmp_path: Path, room: int) -> None:
    """In the tracks, and in the image: nothing unfinished is left, and no cue sheet without its disc."""
    order = tmp_path / "order.json"
    told("order", "create", mixes[0], mixes[2], "--title", "Full", "--out", order)
    out = tmp_path / "disc"
    line = ["disc", "press", str(order), "--out", str(out)]
    code = (
        f"import resource, signal, sys; signal.signal(signal.SIGXFSZ, signal.SIG_IGN); "
        f"resource.setrlimit(resource.RLIMIT_FSIZE, ({room}, {room})); "
        f"sys.argv = ['ripe-press', *{line!r}]; from ripe_press.cli import main; main()"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 1 and done.stderr.count("\n") == 1, done.stderr
    left = {one.name for one in out.rglob("*") if one.is_file()}
    assert not [name for name in left if name.endswith((".pressing", ".cue", ".bin"))], left
