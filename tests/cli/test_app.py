"""The command line as a person or a script meets it: a process, its two outputs and its status."""

import io
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
import soxr
from mutagen import id3

from ripe_press.core.tags.riff_notes import append_chunks, chunk, marker_chunks
from ripe_press.core.timeline import Marker
from support.command_line import run
from support.cuts import RATE_HZ as CUTS_HZ, music
from support.signals import noise, write


def press_json(*arguments: object) -> dict[str, Any]:
    done = run("press", *arguments, "--brief", "audio-cd", "--json")
    assert (done.returncode, done.stderr) == (0, "")
    report: dict[str, Any] = json.loads(done.stdout)
    return report


def test_press_reports_its_files(mix: Path, tmp_path: Path) -> None:
    report = press_json(mix, "--out", tmp_path / "out", "--tag", "artist=The Sluicekeepers")
    assert set(report) >= {"pressing", "files", "seconds", "times_realtime"}
    (file,) = report["files"]
    assert set(file) >= {
        "path", "brief", "container", "codec", "sample_rate_hz", "bit_depth", "channels", "frames", "bytes", "sha256",
        "verdict", "findings", "measured",
    }  # fmt: skip
    assert (file["container"], file["codec"], file["sample_rate_hz"], file["bit_depth"]) == ("wav", "pcm", 44_100, 16)
    assert (file["frames"], file["verdict"], file["findings"]) == (22_050, "ready", [])
    assert soundfile.info(file["path"]).frames == 22_050


@pytest.mark.parametrize(
    ("start", "end", "frames"),
    [
        ("0.1", "0.4", 13_230),
        ("0:00.1", "0:00.4", 13_230),
        ("9600smp", "38400smp", 13_230),
        ("0:00:00.1", "0.4", 13_230),
    ],
)
def test_a_range_in_any_form_is_the_same_range(mix: Path, tmp_path: Path, start: str, end: str, frames: int) -> None:
    (file,) = press_json(mix, "--out", tmp_path, "--from", start, "--to", end)["files"]
    assert file["frames"] == frames


def test_pressing_twice_keeps_both_and_their_bytes_are_equal(mix: Path, tmp_path: Path) -> None:
    first, second = (press_json(mix, "--out", tmp_path)["files"][0] for _ in range(2))
    assert first["path"] != second["path"]
    assert Path(first["path"]).read_bytes() == Path(second["path"]).read_bytes()


def test_wrong_usage_is_status_2_with_a_sentence(mix: Path, tmp_path: Path) -> None:
    for arguments, words in (
        (("press", mix, "--brief", "wax", "--out", tmp_path / "o"), "Unknown brief “wax”"),
        (("press", mix, "--brief", "audio-cd"), "--out"),
        (("press", tmp_path / "none.wav", "--brief", "audio-cd", "--out", tmp_path / "o"), "File not found"),
        (("press", mix, "--brief", "audio-cd", "--out", tmp_path / "o", "--from", "soon"), "not a time"),
        (("press", mix, "--brief", "audio-cd", "--out", tmp_path / "o", "--from", "0.4", "--to", "0.1"), "empty"),
        (("press", mix, "--brief", "audio-cd", "--out", tmp_path / "o", "--to", "9:00"), "the mix at 0:00.500"),
        (("measure",), "FILE"),
        (("polish",), "polish"),
    ):
        done = run(*arguments)
        assert (done.returncode, done.stdout) == (2, ""), arguments
        assert words in done.stderr
        assert done.stderr.count("\n") == 1


def test_a_file_that_cannot_be_read_is_status_1_and_leaves_nothing(tmp_path: Path) -> None:
    bad = tmp_path / "letter.wav"
    bad.write_text("Dear engineer")
    samples = noise(48_000)
    samples[40_000, 0] = np.nan
    spoilt = write(tmp_path / "spoilt.wav", samples, 96_000)
    for path in (bad, spoilt):
        done = run("press", path, "--brief", "audio-cd", "--out", tmp_path / "out", "--json")
        assert (done.returncode, done.stdout) == (1, "")
        assert path.name in done.stderr
    assert list((tmp_path / "out").glob("*")) == []


def test_measure_reports_the_facts(tmp_path: Path) -> None:
    samples = np.zeros((96_000, 2))
    samples[24_000:72_000] = 0.25
    samples[30_000, 1] = -1.5
    done = run("measure", write(tmp_path / "mix.wav", samples, 48_000), "--json")
    report = json.loads(done.stdout)
    assert (report["sample_rate_hz"], report["channels"], report["frames"]) == (48_000, 2, 96_000)
    assert (report["duration_s"], report["bit_depth"], report["codec"]) == (2.0, 32, "pcm-float")
    assert report["sample_peak_dbfs"] == pytest.approx(20 * np.log10(1.5), abs=1e-6)
    assert (report["clipped_samples"], report["head_silence_s"], report["tail_silence_s"]) == (1, 0.5, 0.5)
    assert "Sample peak" in run("measure", tmp_path / "mix.wav").stdout
    for one in report["plays"]:
        assert one["gain_db"] == pytest.approx(one["level_lufs"] - report["integrated_lufs"])
        assert one["sentence"].endswith("down" if one["gain_db"] < 0 else "dB")
    part = json.loads(run("measure", tmp_path / "mix.wav", "--from", "1.0", "--to", "1.4", "--json").stdout)
    assert part["sample_peak_dbfs"] == pytest.approx(20 * np.log10(0.25), abs=1e-6)
    assert (part["clipped_samples"], part["head_silence_s"]) == (0, 0)
    assert run("measure", tmp_path / "mix.wav", "--from", "9").returncode == 2


def test_silence_has_no_peak_in_json(tmp_path: Path) -> None:
    path = write(tmp_path / "quiet.wav", np.zeros((4_800, 2)), 48_000)
    report = json.loads(run("measure", path, "--json").stdout)
    assert (report["sample_peak_dbfs"], report["plays"]) == (None, [])
    assert report["head_silence_s"] == 0.1


def test_a_readable_report_without_json(mix: Path, tmp_path: Path) -> None:
    done = run("press", mix, "--brief", "audio-cd", "--out", tmp_path, "--tag", "artist=The Sluicekeepers")
    assert done.stdout.startswith("Ready: ")
    assert "sha256" in done.stdout


@pytest.fixture
def loop(tmp_path: Path) -> Path:
    """Four bars of 4/4 at 120 (8 s) of a decaying pulse a bar, ringing two seconds on."""
    samples = np.zeros((480_000, 2))
    pulse = 0.5 * np.sin(2 * np.pi * 500 * np.arange(96_000) / 48_000) * np.exp(-np.arange(96_000) / 24_000)
    for bar in range(4):
        samples[bar * 96_000 :][:96_000] += pulse[:, None]
    return write(tmp_path / "Eel Ladder.wav", samples, 48_000, "PCM_24")


@pytest.mark.parametrize(
    ("arguments", "frames"),
    [
        (("--bars", "2..3", "--tempo", "120"), 176_400),
        (("--bars", "1", "--tempo", "120", "--metre", "6/8"), 66_150),
        (("--from", "b2.3", "--to", "b3", "--tempo", "120"), 44_100),
        (("--bars", "1..1", "--tempo", "120", "--bar-one", "0.5"), 88_200),
        (("--from", "1:00cdf", "--to", "2:00cdf"), 44_100),
        (("--to", "2", "--end", "extend:1.5s"), 154_350),
        (("--to", "2", "--silence-before", "0.5", "--silence-after", "0.25"), 121_275),
        (("--bars", "4", "--tempo", "120", "--end", "fold"), 88_200),
        (("--bars", "1", "--tempo", "120", "--end", "crossfade:10ms"), 88_200),
        (("--to", "2", "--fade-in", "0.1s", "--fade-out", "1s:logarithmic"), 88_200),
    ],
)
def test_ranges_edges_and_bars(loop: Path, tmp_path: Path, arguments: tuple[str, ...], frames: int) -> None:
    (file,) = press_json(loop, "--out", tmp_path / "out", *arguments)["files"]
    assert file["frames"] == frames
    assert file["verdict"] in ("ready", "look")


def test_ring_out_ends_when_quiet_and_a_cut_tail_is_found(loop: Path, tmp_path: Path) -> None:
    artist = ("--tag", "artist=The Sluicekeepers")
    (cut,) = press_json(loop, "--out", tmp_path, "--to", "6.5", *artist)["files"]
    assert [finding["rule"] for finding in cut["findings"]] == ["end_cuts_sound"]
    assert cut["findings"][0]["remedy"]["end"] == "ring"
    (rung,) = press_json(loop, "--out", tmp_path, "--to", "6.5", "--end", "ring", *artist)["files"]
    assert rung["findings"] == []
    # The last pulse stops at 8 s, still at -41 dBFS: that is where ringing ends.
    assert rung["frames"] == pytest.approx(8 * 44_100, abs=50)


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--bars", "2..4"), "no tempo"),
        (("--bars", "2-4", "--tempo", "120"), "9..16"),
        (("--bars", "4..2", "--tempo", "120"), "9..16"),
        (("--end", "crossfade:900ms"), "0 (automatic) to 200 ms"),
        (("--silence", "-10"), "-120"),
        (("--bars", "2..4", "--tempo", "120", "--from", "1"), "Use one of"),
        (("--metre", "4/5", "--tempo", "120"), "not a metre"),
        (("--end", "loop"), "not an end treatment"),
        (("--fade-in", "slow"), "not a fade"),
        (("--tempo", "2"), "range"),
    ],
)
def test_edges_that_cannot_be_are_explained(mix: Path, tmp_path: Path, arguments: tuple[str, ...], words: str) -> None:
    done = run("press", mix, "--brief", "audio-cd", "--out", tmp_path / "out", *arguments)
    assert (done.returncode, done.stdout) == (2, "")
    assert words in done.stderr
    assert not (tmp_path / "out").exists()


def test_markers_tempo_and_channels_that_a_file_carries(loop: Path, tmp_path: Path) -> None:
    body = io.BytesIO()
    tags = id3.ID3()
    tags.add(id3.TBPM(encoding=3, text="120"))
    tags.save(body)
    places = [Marker(96_000, "Verse"), Marker(288_000, "Close")]
    append_chunks(loop, marker_chunks(places) + chunk(b"id3 ", body.getvalue()))
    out = tmp_path / "out"
    for arguments, frames in (
        (("--marker", "Verse..Close"), 176_400),
        (("--marker", "verse"), 176_400),
        (("--marker", "Close.."), 176_400),
        (("--bars", "2..3"), 176_400),
        (("--marker", "Verse", "--range-name", "Loop", "--declick", "5"), 176_400),
    ):
        (file,) = press_json(loop, "--out", out, *arguments)["files"]
        assert file["frames"] == frames
    assert Path(file["path"]).name == "Eel Ladder Loop 44k1 16b.wav"
    listed = run("markers", loop, "--json")
    assert [one["name"] for one in json.loads(listed.stdout)["markers"]] == ["Verse", "Close"]
    (tmp_path / "other.csv").write_text("0:01,Here\n0:02,There\n")
    (file,) = press_json(loop, "--out", out, "--markers", tmp_path / "other.csv", "--marker", "Here..There")["files"]
    assert file["frames"] == 44_100
    measured = json.loads(run("measure", loop, "--json").stdout)
    assert (measured["tempo_bpm"], len(measured["markers"])) == (120.0, 2)
    wrong = run("press", loop, "--brief", "audio-cd", "--out", out, "--marker", "Outro")
    assert (wrong.returncode, "“Verse”, “Close”" in wrong.stderr) == (2, True)


def test_a_surround_mix_is_folded_down_or_picked_from(tmp_path: Path) -> None:
    samples = np.zeros((48_000, 6))
    samples[:, 2] = 0.5
    path = write(tmp_path / "Surround.wav", samples, 48_000, "PCM_24")
    (folded,) = press_json(path, "--out", tmp_path / "a")["files"]
    assert soundfile.read(folded["path"])[0][20_000] == pytest.approx([0.3536, 0.3536], abs=1e-4)
    (picked,) = press_json(path, "--out", tmp_path / "b", "--downmix", "2+3")["files"]
    assert soundfile.read(picked["path"])[0][20_000] == pytest.approx([0, 0.5], abs=1e-4)
    report = json.loads(run("measure", path, "--downmix", "3", "--json").stdout)
    assert (report["channels"], report["file_channels"], report["downmix"]) == (1, 6, "3")


def test_several_briefs_in_one_go_and_the_tree_before(mix: Path, tmp_path: Path) -> None:
    words = ("--brief", "audio-cd", "--brief", "archive", "--brief", "phone-and-car")
    tree = json.loads(run("plan", mix, *words, "--json").stdout)
    assert [file["brief"] for file in tree["files"]] == ["audio-cd", "archive", "phone-and-car"]
    nodes = [{station["node"] for station in file["stations"]} for file in tree["files"]]
    assert len(nodes[0] & nodes[2]) == 3
    assert len(nodes[0] & nodes[1]) == 2
    assert run("plan", mix, *words).stdout.splitlines()[0].startswith("Mix, 96 kHz")
    done = json.loads(run("press", mix, *words, "--out", tmp_path / "out", "--json").stdout)
    assert [Path(file["path"]).name for file in done["files"]] == [file["name"] for file in tree["files"]]
    assert not (tmp_path / "out").joinpath("archive").exists()


@pytest.mark.parametrize(
    ("words", "subtype", "rate", "channels"),
    [
        ((), "FLOAT", 96_000, 2),
        (("--depth", "24", "--rate", "48000", "--dither", "shaped-strong"), "PCM_24", 48_000, 2),
        (("--depth", "8", "--dither", "rectangular", "--channels", "mono"), "PCM_U8", 96_000, 1),
        (("--depth", "float64", "--channels", "right"), "DOUBLE", 96_000, 1),
        (("--depth", "20", "--format", "flac", "--quality", "high", "--rate", "44100"), "PCM_24", 44_100, 2),
        (("--level", "peak=-3", "--depth", "32"), "PCM_32", 96_000, 2),
    ],
)
def test_overrides_stand_alone_without_a_brief(
    mix: Path, tmp_path: Path, words: tuple[str, ...], subtype: str, rate: int, channels: int
) -> None:
    done = run("press", mix, "--out", tmp_path / "out", *words, "--json")
    assert done.returncode == 0, done.stderr
    (file,) = json.loads(done.stdout)["files"]
    info = soundfile.info(file["path"])
    assert (info.subtype, info.samplerate, info.channels) == (subtype, rate, channels)


def test_split_channels_are_two_files(mix: Path, tmp_path: Path) -> None:
    done = json.loads(run("press", mix, "--out", tmp_path, "--channels", "split", "--json").stdout)
    assert [Path(file["path"]).stem[-2:] for file in done["files"]] == [" L", " R"]


def test_briefs_are_listed(tmp_path: Path) -> None:
    found = json.loads(run("briefs", "--json").stdout)["briefs"]
    assert {"audio-cd", "broadcast", "archive", "blank"} <= {brief["id"] for brief in found}
    assert "Audio CD: A file for compact disc" in run("briefs").stdout


def test_overrides_that_cannot_be_are_explained(mix: Path, tmp_path: Path) -> None:
    for words, said in (
        (("--depth", "12"), "keep, 8, 16"),
        (("--level", "louder"), "loudness=-14,ceiling=-1"),
        (("--format", "flac", "--depth", "float32"), "FLAC does not support"),
    ):
        done = run("press", mix, "--out", tmp_path / "out", *words)
        assert done.returncode in (1, 2)
        assert said in done.stderr


def test_adjoining_ranges_joined_are_the_whole(tmp_path: Path) -> None:
    """A cosine at -6 dBFS from 96 to 44.1 kHz: nothing rings where it was cut."""
    wave = 0.5 * np.cos(2 * np.pi * 1_000 * np.arange(3 * 96_000) / 96_000)[:, None]
    mix = write(tmp_path / "Millrace.wav", wave, 96_000, "DOUBLE")
    options = ("--rate", "44100", "--depth", "float64", "--name")

    def pressed(name: str, *where: str) -> np.ndarray:
        done = run("press", mix, "--out", tmp_path / "out", *options, name, *where, "--json")
        return soundfile.read(json.loads(done.stdout)["files"][0]["path"])[0]

    joined = np.concatenate((pressed("one", "--to", "1"), pressed("two", "--from", "1")))
    assert 20 * np.log10(np.abs(joined - pressed("whole")).max()) < -140


def test_unreachable_loudness_blocks_a_brief_that_requires_it(tmp_path: Path) -> None:
    """Hits over a quiet floor: the gain stays at the limiter's maximum reduction, and the exit status is 1."""
    at = np.arange(4 * 48_000) % 48_000 / 48_000
    wave = noise(4 * 48_000) * 5 * np.exp(-at / 0.01)[:, None] + noise(4 * 48_000, seed=2, level=3e-5)
    mix = write(tmp_path / "Millrace.wav", wave, 48_000)
    done = run("press", mix, "--brief", "streaming-loud", "--out", tmp_path / "out", "--json")
    assert done.returncode == 1
    (file,) = json.loads(done.stdout)["files"]
    assert file["verdict"] == "stop"
    assert -12.05 < file["measured"]["reduction_db"] < 0
    remedy = next(one["remedy"] for one in file["findings"] if one["rule"] == "loudness_out_of_reach")
    level = f"loudness={remedy['target_lufs']}"
    assert run("press", mix, "--level", level, "--out", tmp_path / "again").returncode == 0
    assert run("press", mix, "--level", "loudness=-14,reduction=50", "--out", tmp_path / "no").returncode == 2


def test_channels_without_labels_are_asked_for(tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", noise(4_800, 7), 48_000, "PCM_24")
    done = run("press", mix, "--out", tmp_path / "out")
    assert done.returncode == 2
    assert "7 unlabelled channels" in done.stderr
    assert run("press", mix, "--downmix", "1+2", "--out", tmp_path / "out").returncode == 0


def test_bars_without_a_tempo_are_rejected_with_a_suggestion(tmp_path: Path) -> None:
    random = np.random.default_rng(3)
    sound = soxr.resample(music(random, 30, "drums", 120), CUTS_HZ, 48_000) * 0.5
    mix = write(tmp_path / "Weir.wav", np.stack((sound, sound), axis=1), 48_000, "PCM_24")
    done = run("press", mix, "--brief", "loop", "--out", tmp_path / "out", "--bars", "1..4")
    assert done.returncode == 2 and "detected: 120 bpm" in done.stderr
    named = mix.rename(tmp_path / "Weir 120bpm.wav")
    made = press_json(named, "--brief", "loop", "--out", tmp_path / "out", "--bars", "1..4")["files"]
    (file,) = [one for one in made if one["brief"] == "loop"]
    assert (file["frames"], Path(file["path"]).name) == (384_000, "Weir 120bpm 120bpm 48k 24b.wav")
    done = run("press", named, "--brief", "loop", "--out", tmp_path / "out", "--bars", "1..4", "--end", "fold")
    assert done.returncode == 2 and "The music continues after 0:08.247" in done.stderr
    told = run("measure", named)
    assert "120 bpm (confidence" in told.stdout and "Noise floor" in told.stdout
