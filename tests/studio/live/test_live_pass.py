"""Live passes through the simulated units: latency, drift, dropouts, bad cases. Each figure is set by its test."""

import io
from pathlib import Path
from typing import Any
from unittest.mock import patch

import mido
import numpy as np
import pytest
import soundfile

from ripe_press.core.errors import Conflict, NotFound, RipePressError, Unreadable, Unsupported
from ripe_press.core.live.capture import Capture, CaptureResult, PassLayout, make_capture
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import AudioSource
from ripe_press.rack import unit as unit_module
from ripe_press.studio.live.live_pass import PassSettings, run_pass, unit_at
from support.rack import unit
from support.server import wait_for
from support.signals import noise, write

RATE = 48_000


def music(seconds: float, channels: int = 2, seed: int = 3) -> np.ndarray:
    """Noise that comes and goes, with a quiet place: something at every frequency, as a drum has it."""
    frames = round(seconds * RATE)
    swell = 0.3 + 0.7 * np.abs(np.sin(np.arange(frames) * 2 * np.pi * 1.3 / RATE))[:, None]
    return np.clip(noise(frames, channels, seed, 0.12) * swell, -0.9, 0.9).astype(np.float32).astype(np.float64)


def source(folder: Path, seconds: float, channels: int = 2) -> AudioSource:
    return FileSource.at(write(folder / "mix.wav", music(seconds, channels), RATE, "FLOAT"))


def passed(
    address: str, sound: AudioSource, folder: Path, settings: PassSettings | None = None, **more: Any
) -> tuple[CaptureResult, RipePressError | None]:
    layout = PassLayout(RATE, sound.facts.channels, sound.facts.frames)
    chosen = settings or PassSettings()
    stop = more.pop("should_stop", lambda: False)
    return run_pass(
        address, layout, sound, b"", chosen, folder / "pass.raw", more.pop("progress", lambda _: None), stop, **more
    )


def captured(
    folder: Path, seconds: float = 4.0, channels: int = 2, correct: bool = False, faults: Any = (), **character: Any
) -> tuple[Capture, np.ndarray, np.ndarray]:
    """A capture, the samples of it, and those that were sent."""
    sound = source(folder, seconds, channels)
    with unit(faults=faults, **character) as address:
        heard, ended = passed(address, sound, folder)
    assert ended is None, ended
    found = make_capture(heard, sound, folder / "capture.wav", correct_drift=correct)
    sent = soundfile.read(sound.facts.path, always_2d=True)[0]
    return found, soundfile.read(folder / "capture.wav", always_2d=True)[0], sent


@pytest.mark.parametrize("latency", [0, 1, 371, 4_800, 20_000])
@pytest.mark.parametrize(("noise_dbfs", "warm"), [(-float("inf"), False), (-72.0, True)])
def test_latency_is_found_to_the_sample(tmp_path: Path, latency: int, noise_dbfs: float, warm: bool) -> None:
    found, heard, sent = captured(tmp_path, 1.0, latency_frames=latency, noise_dbfs=noise_dbfs, warm=warm)
    assert round(found.latency_frames) == latency == round(found.latency_after_frames or 0)
    assert found.complete and found.frames == len(sent) and abs(found.drift_ppm or 0) < 1
    if not warm:
        assert np.array_equal(heard, sent)
    else:
        assert np.corrcoef(heard[:, 0], sent[:, 0])[0, 1] > 0.98
    assert found.dropouts == ()


def test_one_channel_and_a_unit_that_turns_it_over(tmp_path: Path) -> None:
    found, heard, sent = captured(tmp_path, 1.0, channels=1, latency_frames=77)
    assert np.array_equal(heard, sent) and not found.inverted


@pytest.mark.parametrize("ppm", [0.0, -31.0, 100.0])
def test_drift_is_found_within_one_part_in_a_million_on_a_minute(tmp_path: Path, ppm: float) -> None:
    found, heard, sent = captured(
        tmp_path, 60.0, correct=True, drift_ppm=ppm, latency_frames=500, noise_dbfs=-80.0, warm=True
    )
    assert found.drift_ppm == pytest.approx(ppm, abs=1.0) and found.dropouts == ()
    assert found.drift_corrected == (abs(ppm) > 1)
    # In step at the end as at the beginning.
    for at in (RATE, RATE * 58):
        part, other = heard[at : at + 4_096, 0], sent[at : at + 4_096, 0]
        lag = int(np.argmax(np.correlate(part, other, "full"))) - 4_095
        assert abs(lag) <= 1, at


def test_without_correction_the_samples_stay_as_they_were_heard(tmp_path: Path) -> None:
    found, heard, sent = captured(tmp_path, 20.0, drift_ppm=100.0, latency_frames=500)
    assert not found.drift_corrected and found.drift_ppm == pytest.approx(100, abs=1)
    part, other = heard[RATE * 19 : RATE * 19 + 4_096, 0], sent[RATE * 19 : RATE * 19 + 4_096, 0]
    lag = int(np.argmax(np.correlate(part, other, "full"))) - 4_095
    assert lag == pytest.approx(19 * RATE * 1e-4, abs=2)


LATE = 300


@pytest.mark.parametrize(
    ("fault", "kind"), [("drop", "counter"), ("mute", "silent"), ("lose", "slip")], ids=["counted", "silent", "lost"]
)
@pytest.mark.parametrize("warm", [False, True])
def test_a_drop_out_of_64_frames_is_found_and_placed(tmp_path: Path, fault: str, kind: str, warm: bool) -> None:
    layout = PassLayout(RATE, 2, 12 * RATE)
    place = 5 * RATE + 321
    at = layout.sound + LATE + place
    character = {"noise_dbfs": -96.0, "warm": True} if warm else {}
    found, heard, sent = captured(tmp_path, 12.0, faults=[(fault, at, 64)], latency_frames=LATE, **character)
    (gap,) = found.dropouts
    # A short silence is placed to the sample where the audio is clean; lost audio where the error is least.
    near = 0 if kind == "counter" else 3 if not warm else 40
    assert gap.kind == kind and abs(gap.start_frame - place) <= near and abs(gap.frames - 64) <= (0 if near < 4 else 6)
    # What follows lies where it should.
    after = slice(place + 500, place + 90_000)
    if not warm:
        assert np.array_equal(heard[after], sent[after]) and np.array_equal(heard[: place - 4], sent[: place - 4])
    assert not heard[place + 5 : place + 55].any() or warm


def test_it_ends_at_a_drop_out_where_it_is_set_to(tmp_path: Path) -> None:
    sound = source(tmp_path, 6.0)
    layout = PassLayout(RATE, 2, 6 * RATE)
    with unit(faults=[("drop", layout.sound + 2 * RATE, 64)]) as address:
        heard, ended = passed(address, sound, tmp_path, PassSettings(on_dropout="end"))
    assert ended and ended.message == "Stopped at a dropout of 64 samples at 0:02.000, as set."
    found = make_capture(heard, sound, tmp_path / "capture.wav", correct_drift=False)
    assert not found.complete and found.frames == 2 * RATE + 64


def test_overs_are_counted_and_end_it_where_it_is_set_to(tmp_path: Path) -> None:
    sound = source(tmp_path, 3.0)
    with unit() as address:
        heard, ended = passed(address, sound, tmp_path, PassSettings(send_gain_db=12.0))
        assert ended is None
        found = make_capture(heard, None, tmp_path / "capture.wav", correct_drift=False)
        _, over = passed(address, sound, tmp_path, PassSettings(send_gain_db=12.0, stop_on_over=True))
    assert over and "return clipped" in over.message
    sent = soundfile.read(sound.facts.path)[0] * 10 ** (12 / 20)
    assert found.overs == np.count_nonzero(np.abs(sent.astype(np.float32)) >= 1.0) > 0 and found.peak > 1


@pytest.mark.parametrize(
    ("fault", "words", "patience"),
    [
        (("nan", 3 * RATE + 50, 9), "invalid samples", 5.0),
        (("vanish", 3 * RATE, 0), "lost", 5.0),
        # Long enough to be noticed by a machine that is busy with other things.
        (("slow", 3 * RATE, 8.0), "has not answered for 0.5 s", 0.5),
    ],
    ids=["nan", "gone", "slow"],
)
def test_failed_pass_is_one_sentence_and_keeps_its_recording(
    tmp_path: Path, fault: Any, words: str, patience: float
) -> None:
    sound = source(tmp_path, 8.0)
    # Not as fast as possible: audio on its way is lost when a unit disconnects.
    with unit(faults=[fault], latency_frames=LATE, hurry=10.0) as address:
        heard, ended = passed(address, sound, tmp_path, patience_s=patience)
        assert ended and words in ended.message and ended.message.count(".") >= 1
        # The unit is free again.
        wait_for(lambda: not unit_at(address).busy)
    found = make_capture(heard, sound, tmp_path / "capture.wav", correct_drift=True)
    whole, sent = soundfile.read(tmp_path / "capture.wav")[0], soundfile.read(sound.facts.path)[0]
    assert not found.complete and RATE < found.frames < 3 * RATE and np.array_equal(whole, sent[: found.frames])


def test_a_full_disk_is_said_as_that_and_the_unit_is_let_go(tmp_path: Path) -> None:
    sound = source(tmp_path, 4.0)
    (tmp_path / "pass.raw").symlink_to("/dev/full")
    with unit() as address:
        _, ended = passed(address, sound, tmp_path)
        assert ended and "the disk is full" in ended.message
        wait_for(lambda: not unit_at(address).busy)


def test_a_unit_that_counts_past_the_end_does_not_fill_the_disk(tmp_path: Path) -> None:
    """A gap of a thousand years: reported as an invalid count, and no silence is written for it."""
    with unit(faults=[("drop", RATE * 2, 10**15)]) as address, patch.object(unit_module.Session, "_left_out", _jumped):
        heard, ended = passed(address, source(tmp_path, 4.0), tmp_path)
    assert ended and "invalid data" in ended.message
    assert heard.spool.stat().st_size < RATE * 8 * 8


def _jumped(session: Any, frames: np.ndarray, _place: int, _count: int, *, counted: bool) -> np.ndarray:
    assert counted
    session._counter += 10**15
    return frames


def test_stopped_pass_keeps_its_recording(tmp_path: Path) -> None:
    sound = source(tmp_path, 8.0)
    far: list[int] = []
    with unit(hurry=20.0) as address:
        heard, ended = passed(
            address, sound, tmp_path, should_stop=lambda: bool(far) and far[-1] > RATE,
            progress=lambda levels: far.append(levels.done),
        )  # fmt: skip
    assert ended and ended.code == "pass.stopped"
    found = make_capture(heard, sound, tmp_path / "capture.wav", correct_drift=False)
    assert RATE < found.frames < 8 * RATE


def test_one_that_cannot_begin_says_why(tmp_path: Path) -> None:
    sound = source(tmp_path, 1.0)
    with pytest.raises(NotFound, match=r"No unit at 127\.0\.0\.1:9\. Start it"):
        passed("127.0.0.1:9", sound, tmp_path)
    with unit(rates_hz=(96_000,)) as address, pytest.raises(Unsupported, match="supports 96 kHz, not 48000 Hz"):
        passed(address, sound, tmp_path)
    with unit(most_channels=1) as address, pytest.raises(Unsupported, match="has 1 channel, not 2"):
        passed(address, sound, tmp_path)
    with unit(hurry=1.0) as address:
        first = None

        def second(_: Any) -> None:
            nonlocal first
            if first is None:
                with pytest.raises(Conflict, match="in use by another pass") as caught:
                    passed(address, sound, tmp_path / "other")
                first = caught.value

        passed(address, sound, tmp_path, progress=second, should_stop=lambda: first is not None)
    assert first is not None


def test_a_unit_that_gives_nothing_back_ends_it_early(tmp_path: Path) -> None:
    sound = source(tmp_path, 30.0)
    with unit(faults=[("mute", 0, 10**9)], hurry=50.0) as address:
        heard, ended = passed(address, sound, tmp_path)
    assert ended and ended.code == "pass.no-probe"
    assert heard.spool.stat().st_size < 10 * RATE * 8
    with pytest.raises(Unreadable, match="No signal returned"):
        make_capture(heard, sound, tmp_path / "capture.wav", correct_drift=False)


def test_an_instrument_is_late_and_its_notes_lie_where_they_are_written(tmp_path: Path) -> None:
    file = mido.MidiFile(ticks_per_beat=480)
    track = mido.MidiTrack()
    file.tracks.append(track)
    track.append(mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(120)))
    for at in (0, 480):
        track.append(mido.Message("note_on", channel=9, note=36, velocity=127, time=at))
        track.append(mido.Message("note_off", channel=9, note=36, time=10))
    data = io.BytesIO()
    file.save(file=data)
    layout = PassLayout(RATE, 2, 2 * RATE, "click")
    with unit("instrument", latency_frames=371, noise_dbfs=-100.0) as address:
        spool = tmp_path / "pass.raw"
        heard, ended = run_pass(
            address, layout, None, data.getvalue(), PassSettings(), spool, lambda _: None, lambda: False
        )
    assert ended is None
    found = make_capture(heard, None, tmp_path / "capture.wav", correct_drift=False)
    assert (found.latency_frames, found.latency_after_frames) == (371, 371)
    sound = np.abs(soundfile.read(tmp_path / "capture.wav")[0]).max(axis=1)
    second = round((480 + 10) / 480 * 0.5 * RATE)
    for place in (0, second):
        assert sound[place + 5 : place + 3_000].max() > 0.1
    assert sound[second - 2_000 : second - 5].max() < 0.02
