import hashlib
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile

from ripe_press.core import press as press_module
from ripe_press.core.briefs.library import BLANK, brief_of
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.delivery import LevelWish
from ripe_press.core.engine.edges import Stretch
from ripe_press.core.engine.notes import MixNotes
from ripe_press.core.engine.resolve import resolve
from ripe_press.core.engine.size import Forecast, known_size
from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.formats.reader import SourceReader
from ripe_press.core.press import PressedFile, PressOrder, press
from ripe_press.core.proof import Promise, Written, judge
from ripe_press.core.rules.findings import Finding
from ripe_press.core.tags.sheet import FileTags
from support.signals import noise, ramp16, sine, write


def order_for(mix: Path, target: Path, start: int = 0, end: int | None = None) -> PressOrder:
    with SourceReader(mix) as reader:
        facts = reader.facts
    brief = brief_of("audio-cd")
    notes = MixNotes((("title", "Millrace"), ("artist", "The Sluicekeepers")))
    paths = resolve(brief.delivery(Stretch(start, end or facts.frames), facts), facts, mix.stem, notes=notes)
    return PressOrder(paths, (brief,), (str(target),))


def press_cd(mix: Path, target: Path, start: int = 0, end: int | None = None) -> PressedFile:
    (file,) = press(order_for(mix, target, start, end), lambda _d, _t: None, lambda: False)
    return file


def test_a_mix_becomes_a_proved_cd_file(mix: Path, tmp_path: Path) -> None:
    target = tmp_path / "out.wav"
    file = press_cd(mix, target)
    read, rate = soundfile.read(target, dtype="int16")
    assert (rate, read.shape) == (44_100, (22_050, 2))
    assert (file.verdict, file.findings) == ("ready", ())
    assert file.proof.sha256 == hashlib.sha256(target.read_bytes()).hexdigest()
    assert (file.proof.frames, file.proof.bytes) == (22_050, target.stat().st_size)
    assert file.proof.sample_peak_dbfs == pytest.approx(20 * np.log10(np.abs(read).max() / 32768), abs=1e-9)
    assert sorted(path.name for path in tmp_path.iterdir()) == ["Millrace.wav", "out.wav"]


def test_pressed_twice_the_bytes_are_the_same(mix: Path, tmp_path: Path) -> None:
    first, second = press_cd(mix, tmp_path / "a.wav"), press_cd(mix, tmp_path / "b.wav")
    assert first.proof.sha256 == second.proof.sha256


def test_a_cd_mix_passes_bit_for_bit(tmp_path: Path) -> None:
    codes = ramp16(30_000)
    mix = write(tmp_path / "cd.wav", codes, 44_100, "PCM_16")
    press_cd(mix, tmp_path / "out.wav", 123, 29_000)
    assert np.array_equal(soundfile.read(tmp_path / "out.wav", dtype="int16")[0], codes[123:29_000])


def test_overs_are_found_counted_and_held(tmp_path: Path) -> None:
    samples = sine(997, 1.0, 44_100, 0.5)
    samples[22_050:22_054, 0] = 1.4
    file = press_cd(write(tmp_path / "hot.wav", samples, 44_100), tmp_path / "out.wav")
    assert file.verdict == "look"
    assert [finding.rule for finding in file.findings] == ["samples_over_full_scale"]
    assert "4 samples" in file.findings[0].sentence
    assert "0:00.50" in file.findings[0].sentence
    assert file.clipped_samples == 4
    assert file.proof.sample_peak_dbfs == pytest.approx(0.0, abs=0.001)


def test_the_time_of_an_over_is_the_time_in_the_mix(tmp_path: Path) -> None:
    samples = sine(997, 1.0, 44_100, 0.5)
    samples[33_075, 1] = -1.4
    file = press_cd(write(tmp_path / "hot.wav", samples, 44_100), tmp_path / "out.wav", start=22_050)
    assert "0:00.75" in file.findings[0].sentence


def test_peaks_raised_by_the_converter_are_told_apart(tmp_path: Path) -> None:
    square = np.sign(sine(1_003, 0.5, 48_000, 1.0)) * 0.99
    file = press_cd(write(tmp_path / "square.wav", square, 48_000), tmp_path / "out.wav")
    assert [finding.rule for finding in file.findings] == ["clipped_by_conversion"]
    assert file.clipped_samples > 0


def test_a_file_that_may_not_leave_leaves_nothing(mix: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    stop = Finding("frames_as_asked", "stop", "Too short.")
    monkeypatch.setattr(press_module, "findings_before", lambda *_: (stop,))
    file = press_cd(mix, tmp_path / "out.wav")
    assert file.verdict == "stop"
    assert [path.name for path in tmp_path.iterdir()] == ["Millrace.wav"]


def test_a_name_is_never_taken_from_another_file(mix: Path, tmp_path: Path) -> None:
    target = tmp_path / "out.wav"
    target.write_text("mine")
    with pytest.raises(Conflict) as caught:
        press_cd(mix, target)
    assert caught.value.code == "press.name-taken"

    def appears(_done: int, _total: int) -> None:
        (tmp_path / "late.wav").write_text("mine")

    with pytest.raises(Conflict):
        press(order_for(mix, tmp_path / "late.wav"), appears, lambda: False)
    assert (target.read_text(), (tmp_path / "late.wav").read_text()) == ("mine", "mine")
    assert len(list(tmp_path.iterdir())) == 3


def test_a_missing_folder_is_named(mix: Path, tmp_path: Path) -> None:
    with pytest.raises(BadInput, match="nowhere"):
        press_cd(mix, tmp_path / "nowhere" / "out.wav")


def test_each_wish_is_held_against_what_was_read_back() -> None:
    asked = st.Codec("wav", "s16", 44_100, 2, 100)
    assert judge(asked, Written(44_100, 2, 16, "pcm", 100))[0] == ()
    wrong = judge(asked, Written(48_000, 1, 24, "pcm", 99))[0]
    assert [finding.rule for finding in wrong] == [
        "rate_as_asked",
        "channels_as_asked",
        "depth_as_asked",
        "frames_as_asked",
    ]
    assert all(finding.verdict == "stop" for finding in wrong)
    assert "99 frames" in wrong[3].sentence


def test_a_pressed_file_that_cannot_be_read_back_is_stopped(tmp_path: Path) -> None:
    path = tmp_path / "torn.wav"
    path.write_bytes(write(tmp_path / "whole.wav", noise(1000), 44_100, "PCM_16").read_bytes()[:900])
    proof = press_module.prove(path, st.Codec("wav", "s16", 44_100, 2, 1000), 0, 0)
    assert [(finding.rule, finding.verdict) for finding in proof.findings] == [("file_reads_back", "stop")]


def test_a_mono_mix_is_carried_by_both_sides_of_a_cd_file(tmp_path: Path) -> None:
    codes = ramp16(5_000, 1)
    file = press_cd(write(tmp_path / "mono.wav", codes, 44_100, "PCM_16"), tmp_path / "out.wav")
    read = soundfile.read(tmp_path / "out.wav", dtype="int16")[0]
    assert (file.verdict, file.proof.channels) == ("ready", 2)
    # Both sides are the very integers that came: nothing is rounded, so nothing is dithered.
    assert np.array_equal(read, np.repeat(codes, 2, axis=1))
    converted = press_cd(write(tmp_path / "wide.wav", noise(9_600, 1), 96_000), tmp_path / "wide out.wav")
    assert (converted.proof.channels, converted.proof.frames) == (2, 4_410)


def test_a_promise_about_samples_and_levels_is_held_against_the_file(tmp_path: Path) -> None:
    path = write(tmp_path / "file.wav", sine(997, 4.0, 44_100, 0.5), 44_100, "PCM_16")
    asked = st.Codec("wav", "s16", 44_100, 2, 176_400)

    def rules(promise: Promise) -> list[str]:
        return [finding.rule for finding in press_module.prove(path, asked, 0, 0, promise).findings]

    assert rules(Promise(fingerprint="0" * 64)) == ["samples_as_they_came"]
    assert rules(Promise(level=st.Level("peak", -6.0, gain_db=0.0))) == []
    assert rules(Promise(level=st.Level("peak", -3.0, gain_db=0.0))) == ["level_as_asked"]
    # A stereo sine of -6.02 dBFS has -6.02 LUFS and as much true peak.
    loud = st.Level("loudness", -6.0, ceiling_dbtp=-9.0, gain_db=0.0)
    assert rules(Promise(level=loud)) == ["ceiling_held"]
    size = path.stat().st_size
    assert rules(Promise(forecast=known_size(size))) == []
    assert rules(Promise(forecast=known_size(size + 1))) == ["size_as_forecast"]
    assert rules(Promise(forecast=Forecast(0, size - 1, "trial"))) == ["size_beside_forecast"]
    assert rules(Promise(tags=FileTags((("title", "Millrace"),)))) == ["tags_read_back"]


def test_a_lossy_file_backs_off_until_it_decodes_under_its_ceiling(tmp_path: Path) -> None:
    """Clipped noise overshoots far behind a codec; its neighbour in the group comes down by as much."""
    loud = np.clip(noise(44_100 * 3, level=0.6), -0.9, 0.9)
    mix = write(tmp_path / "Millrace.wav", loud, 44_100)
    with SourceReader(mix) as reader:
        facts = reader.facts
    stretch = Stretch(0, facts.frames)
    asked = LevelWish("true-peak", -1.0, back_off=True)
    coded = replace(BLANK.delivery(stretch, facts), container="aac", encoding=None, kbps=128, level=asked, group="g")
    plain = replace(BLANK.delivery(stretch, facts), level=asked, group="g")
    left = replace(coded, level=replace(asked, back_off=False), group="")
    paths = tuple(resolve(one, facts, name)[0] for one, name in ((coded, "a"), (plain, "b"), (left, "c")))
    targets = tuple(str(tmp_path / name) for name in ("a.m4a", "b.wav", "c.m4a"))
    files = press(PressOrder(paths, (BLANK,) * 3, targets), lambda _d, _t: None, lambda: False)
    peaks = [file.proof.true_peak_dbtp or 0.0 for file in files]
    assert peaks[2] > -0.5
    assert -2.5 < peaks[0] <= -1.0
    assert "so that it decodes under −1.0 dBTP" in dict(files[0].proof.checks)["Back-off"]
    assert "Back-off" not in dict(files[2].proof.checks)
    assert files[0].gain_db == pytest.approx(files[1].gain_db)
    assert files[0].gain_db < (files[2].gain_db or 0.0) - 0.4
    with SourceReader(Path(files[0].path)) as reader:
        assert reader.facts.frames == facts.frames
    assert sorted(path.name for path in tmp_path.iterdir()) == ["Millrace.wav", "a.m4a", "b.wav", "c.m4a"]


def test_a_limited_file_backs_off_behind_its_limiter(tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", noise(44_100 * 4, level=0.2), 44_100)
    with SourceReader(mix) as reader:
        facts = reader.facts
    level = LevelWish("loudness", -9.0, -1.0, back_off=True)
    wish = replace(
        BLANK.delivery(Stretch(0, facts.frames), facts), container="mp3", encoding=None, kbps=128, level=level
    )
    (path,) = resolve(wish, facts, "a")
    (file,) = press(PressOrder((path,), (BLANK,), (str(tmp_path / "a.mp3"),)), lambda _d, _t: None, lambda: False)
    assert file.proof.true_peak_dbtp is not None
    assert file.proof.true_peak_dbtp <= -1.0
    assert file.proof.integrated_lufs == pytest.approx(-9.0, abs=2.0)
