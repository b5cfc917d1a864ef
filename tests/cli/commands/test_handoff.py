"""Handing off to picture: opened again by the library of the format, every clip is where it was, to the sample."""

import json
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlparse

import mido
import numpy as np
import opentimelineio as otio
import pytest
import soundfile
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.handoff.edit_list import COLUMNS
from ripe_press.core.handoff.interchange import NAMESPACE
from ripe_press.core.handoff.timeline import placed_clip
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.studio.data_folder import VARIABLE
from support.signals import noise, write

RATE = 48_000


@pytest.fixture
def mix(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A mix of ten seconds with stems of other lengths and rates."""
    monkeypatch.setenv(VARIABLE, str(tmp_path / "data"))
    stems = tmp_path / "Weir stems"
    stems.mkdir()
    write(stems / "Weir bass & low.wav", noise(RATE * 4, 1, 1), RATE, "PCM_24")
    write(stems / "Weir voice.wav", noise(44_100 * 12, 2, 2), 44_100, "PCM_24")
    return write(tmp_path / "Weir.wav", noise(RATE * 10, 2, 3), RATE, "PCM_24")


def handed(mix: Path, *more: str) -> tuple[dict[str, Any], Any]:
    out = mix.parent / "picture"
    words = ["handoff", str(mix), "--stems", str(mix.parent / "Weir stems"), "--out", str(out), *more, "--json"]
    done = CliRunner().invoke(app, words)
    assert done.exit_code == 0, (done.output, done.exception)
    report = json.loads(done.stdout)
    return report, otio.adapters.read_from_file(report["timeline"])


def test_every_clip_is_where_it_was_to_the_sample(mix: Path) -> None:
    report, timeline = handed(mix, "--frame-rate", "29.97df")
    assert timeline.name == "Weir" and timeline.metadata[NAMESPACE]["frame_rate"] == "29.97 drop frame"
    assert [track.name for track in timeline.tracks] == ["Weir", "bass & low", "voice"]
    wanted = [(RATE * 10, RATE), (RATE * 4, RATE), (44_100 * 10, 44_100)]
    for track, (frames, rate) in zip(timeline.tracks, wanted, strict=True):
        (clip,) = track
        assert clip.source_range.duration == otio.opentime.RationalTime(frames, rate)
        assert clip.range_in_parent().start_time.value == 0
        media = Path(report["timeline"]).parent / unquote(clip.media_reference.target_url)
        original = mix if track.name == "Weir" else mix.parent / "Weir stems" / f"Weir {track.name}.wav"
        assert np.array_equal(soundfile.read(media)[0], soundfile.read(original)[0])
    listed = Path(report["edit_list"]).read_text().splitlines()
    assert "\t".join(COLUMNS) in listed and "Frame rate\t29.97 drop frame" in listed
    assert any(line.startswith("2\tbass & low\t00:00:00;00\t00:00:03;29\t0\t0\t192000\t48000\t") for line in listed)


def test_media_are_named_where_they_lie(mix: Path) -> None:
    report, timeline = handed(mix, "--link")
    assert not (mix.parent / "picture" / "media").exists() and report["frame_rate"] == "25"
    paths = [unquote(urlparse(track[0].media_reference.target_url).path) for track in timeline.tracks]
    assert paths[0] == str(mix) and all(Path(one).is_file() for one in paths)


def test_one_that_lies_late_or_early_is_placed() -> None:
    whole = (RATE * 10, RATE)
    late = placed_clip("voice", "v.wav", RATE, RATE * 20, 2, 480, whole)
    assert (late.gap_frames, late.first_frame, late.frames) == (0, 480, RATE * 10)
    early = placed_clip("voice", "v.wav", 96_000, 96_000 * 3, 2, -480, whole)
    assert (early.gap_frames, early.first_frame, early.frames) == (960, 0, 96_000 * 3)
    assert placed_clip("voice", "v.wav", RATE, 100, 2, 480, whole).frames == 0


def test_handoff_error_is_reported(mix: Path) -> None:
    out = str(mix.parent / "picture")
    for words, kind in (
        (["--frame-rate", "26"], BadInput),
        (["--stems", str(mix.parent / "nowhere")], NotFound),
    ):
        found = CliRunner().invoke(app, ["handoff", str(mix), "--out", out, *words]).exception
        assert isinstance(found, kind), (words, found)
    blocked = mix.parent / "file"
    blocked.write_text("")
    done = CliRunner().invoke(app, ["handoff", str(mix), "--out", str(blocked / "x")])
    assert done.exception and "file" in str(done.exception)


def test_delivery_for_another_studio_is_on_the_grid_and_described(tmp_path: Path, mix: Path) -> None:
    out = tmp_path / "out"
    words = [
        "press", str(mix), "--brief", "another-studio", "--from", "3.1", "--tempo", "120", "--metre", "3/4",
        "--bar-one", "0.25", "--tag", "key=F#m", "--out", str(out), "--json",
    ]  # fmt: skip
    done = CliRunner().invoke(app, words)
    assert done.exit_code == 0, (done.output, done.exception)
    report = json.loads(done.stdout)
    path, (beside,) = Path(report["files"][0]["path"]), report["tempo_maps"]
    assert path.name == "Weir 120bpm 3-4 F#m 48k 24b.wav" and Path(beside) == path.with_suffix(".mid")
    # Bars of a second and a half from 0.25 s on: the second begins at 1.75 s, before the range.
    samples, rate_hz = soundfile.read(path, dtype="float64")
    whole, _ = soundfile.read(mix, dtype="float64")
    assert rate_hz == 48_000 and np.array_equal(samples, whole[round(1.75 * RATE) :])
    tags = read_embedded(path, rate_hz, len(samples))
    assert {"tempo": "120", "key": "F#m", "comment": "120 bpm, 3/4"}.items() <= dict(tags.tags).items()
    file = mido.MidiFile(beside)
    said = {event.type: event for event in file.tracks[0]}
    assert said["set_tempo"].tempo == 500_000 and said["key_signature"].key == "F#m"
    assert (said["time_signature"].numerator, said["time_signature"].denominator) == (3, 4)
    assert abs(file.length - len(samples) / rate_hz) < 1e-3
