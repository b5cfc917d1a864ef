import errno
import hashlib
import json
import os
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from ripe_press.core.briefs.library import BLANK, brief_of
from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.formats.fingerprint import content_sum
from ripe_press.core.formats.writing import av_writer
from ripe_press.core.press import Event, FailedFile, OrderedFile, PressedFile, PressOrder, press, pressing
from ripe_press.core.proof.read_back import prove
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.requests.notes import MixNotes
from ripe_press.core.rules.findings import Finding
from ripe_press.core.stations import codec
from ripe_press.core.whole_files import give_name
from support import TESTS
from support.press import delivery_of, facts_of, files_for, press_order, pressed, whole
from support.signals import noise, ramp16, sine, write


def order_for(mix: Path, target: Path, start: int = 0, end: int | None = None) -> PressOrder:
    facts, brief = facts_of(mix), brief_of("audio-cd")
    notes = MixNotes((("title", "Millrace"), ("artist", "The Sluicekeepers")))
    (file,) = files_for(delivery_of(facts, Stretch(start, end or facts.frames), brief), facts, notes=notes)
    return PressOrder((OrderedFile(file, brief, str(target)),))


def press_cd(mix: Path, target: Path, start: int = 0, end: int | None = None) -> PressedFile:
    return whole(press(order_for(mix, target, start, end), lambda _event: None, lambda: False))[0]


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


@pytest.mark.slow
def test_every_kind_of_file_has_the_same_bytes_when_another_process_presses_it_later(mix: Path, tmp_path: Path) -> None:
    """Serial numbers, dates and seeds that a library makes up would show: by chance, by the clock, by the process."""
    sums = []
    for turn in range(2):
        words = [sys.executable, "-m", "support.programs.pressed_sums", str(mix), str(tmp_path / str(turn))]
        done = subprocess.run(words, cwd=TESTS, capture_output=True, text=True, check=True)
        sums.append(json.loads(done.stdout))
        # A second is the finest that dates in files tell.
        time.sleep(1.1 * (1 - turn))
    assert len(sums[0]) == len(CAPABILITIES) + 2
    assert {name for name, one in sums[0].items() if sums[1][name] != one} == set()


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
    assert file.seen.clipped_samples == 4
    assert file.proof.sample_peak_dbfs == pytest.approx(0.0, abs=0.001)


def test_the_time_of_an_over_is_the_time_in_the_mix(tmp_path: Path) -> None:
    samples = sine(997, 1.0, 44_100, 0.5)
    samples[33_075, 1] = -1.4
    file = press_cd(write(tmp_path / "hot.wav", samples, 44_100), tmp_path / "out.wav", start=22_050)
    assert "0:00.75" in file.findings[0].sentence


def test_peaks_raised_by_the_converter_are_reported_separately(tmp_path: Path) -> None:
    square = np.sign(sine(1_003, 0.5, 48_000, 1.0)) * 0.99
    file = press_cd(write(tmp_path / "square.wav", square, 48_000), tmp_path / "out.wav")
    assert [finding.rule for finding in file.findings] == ["clipped_by_conversion"]
    assert file.seen.clipped_samples > 0


def test_blocked_file_leaves_nothing_on_the_disk(mix: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    stop = Finding("frames_as_asked", "stop", "Too short.")
    monkeypatch.setattr(pressing, "judge", lambda *_: ((stop,), ()))
    file = press_cd(mix, tmp_path / "out.wav")
    assert file.verdict == "stop"
    assert [path.name for path in tmp_path.iterdir()] == ["Millrace.wav"]


def test_a_name_is_never_taken_from_another_file(mix: Path, tmp_path: Path) -> None:
    target = tmp_path / "out.wav"
    target.write_text("mine")
    with pytest.raises(Conflict) as caught:
        press_cd(mix, target)
    assert caught.value.code == "press.name-taken"

    def appears(_event: Event) -> None:
        (tmp_path / "late.wav").write_text("mine")

    with pytest.raises(Conflict):
        press(order_for(mix, tmp_path / "late.wav"), appears, lambda: False)
    assert (target.read_text(), (tmp_path / "late.wav").read_text()) == ("mine", "mine")
    assert len(list(tmp_path.iterdir())) == 3


def test_a_missing_folder_is_named(mix: Path, tmp_path: Path) -> None:
    with pytest.raises(BadInput, match="nowhere"):
        press_cd(mix, tmp_path / "nowhere" / "out.wav")


def test_unreadable_pressed_file_is_reported(tmp_path: Path) -> None:
    path = tmp_path / "torn.wav"
    path.write_bytes(write(tmp_path / "whole.wav", noise(1000), 44_100, "PCM_16").read_bytes()[:900])
    proof = prove(path)
    assert "torn.wav" in proof.unreadable
    assert (proof.frames, proof.bytes, len(proof.sha256)) == (0, 900, 64)


def test_a_mono_mix_is_carried_by_both_sides_of_a_cd_file(tmp_path: Path) -> None:
    codes = ramp16(5_000, 1)
    file = press_cd(write(tmp_path / "mono.wav", codes, 44_100, "PCM_16"), tmp_path / "out.wav")
    read = soundfile.read(tmp_path / "out.wav", dtype="int16")[0]
    assert (file.verdict, file.proof.channels) == ("ready", 2)
    # Both sides are the very integers that came: nothing is rounded, so nothing is dithered.
    assert np.array_equal(read, np.repeat(codes, 2, axis=1))
    converted = press_cd(write(tmp_path / "wide.wav", noise(9_600, 1), 96_000), tmp_path / "wide out.wav")
    assert (converted.proof.channels, converted.proof.frames) == (2, 4_410)


def test_a_lossy_file_backs_off_until_it_decodes_under_its_ceiling(tmp_path: Path) -> None:
    """Clipped noise overshoots far behind a codec; its neighbour in the group comes down by as much."""
    loud = np.clip(noise(44_100 * 3, level=0.6), -0.9, 0.9)
    mix = write(tmp_path / "Millrace.wav", loud, 44_100)
    facts = facts_of(mix)
    asked = LevelRequest("true-peak", -1.0, back_off=True)
    coded = replace(delivery_of(facts, container="aac", kbps=128, level=asked), group="g")
    plain = replace(delivery_of(facts, level=asked), group="g")
    left = replace(coded, level=replace(asked, back_off=False), group="")
    (tmp_path / "out").mkdir()
    files = pressed(mix, tmp_path / "out", coded, plain, left)
    peaks = [file.proof.true_peak_dbtp or 0.0 for file in files]
    assert peaks[2] > -0.5
    assert -2.5 < peaks[0] <= -1.0
    told = [{one.rule: one.found for one in file.checks} for file in files]
    assert "decoded peak below −1.0 dBTP" in told[0]["backed_off"]
    assert "backed_off" not in told[2]
    assert files[0].gain_db == pytest.approx(files[1].gain_db)
    assert files[0].gain_db < (files[2].gain_db or 0.0) - 0.4
    assert facts_of(Path(files[0].path)).frames == facts.frames
    assert sorted(path.name for path in (tmp_path / "out").iterdir()) == ["0.m4a", "1.wav", "2.m4a"]


def test_a_limited_file_backs_off_behind_its_limiter(tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", noise(44_100 * 4, level=0.2), 44_100)
    level = LevelRequest("loudness", -9.0, -1.0, back_off=True)
    (tmp_path / "out").mkdir()
    (file,) = pressed(mix, tmp_path / "out", delivery_of(facts_of(mix), container="mp3", kbps=128, level=level))
    assert file.proof.true_peak_dbtp is not None
    assert file.proof.true_peak_dbtp <= -1.0
    assert file.proof.integrated_lufs == pytest.approx(-9.0, abs=2.0)


def test_error_of_one_file_ends_only_that_file(mix: Path, tmp_path: Path) -> None:
    whole, nowhere = order_for(mix, tmp_path / "a.wav"), order_for(mix, tmp_path / "gone" / "b.wav")
    told: list[Event] = []
    made, failed = press(PressOrder(whole.files + nowhere.files), told.append, lambda: False)
    assert isinstance(made, PressedFile)
    assert isinstance(failed, FailedFile)
    assert failed.code == "press.no-folder"
    assert "gone" in failed.sentence
    assert [one.state for one in told if 1 in one.files] == ["failed"]
    seen = [one.state for one in told if 1 not in one.files]
    assert [state for at, state in enumerate(seen) if at == 0 or state != seen[at - 1]] == [
        "making", "reading-back", "naming", "named",
    ]  # fmt: skip


@pytest.mark.parametrize("at", ["write", "close"])
def test_an_encoder_that_fails_ends_its_file_alone(
    mix: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, at: str
) -> None:
    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    facts = facts_of(mix)
    monkeypatch.setattr(av_writer.AvWriter, at, full)
    files = [file for one in ("aac", "wav") for file in files_for(delivery_of(facts, container=one), facts)]
    failed, made = press_order(tmp_path, files)
    assert isinstance(failed, FailedFile)
    assert failed.sentence.startswith("“0.m4a” could not be written: the disk is full. Free some space")
    assert isinstance(made, PressedFile)
    assert sorted(path.name for path in tmp_path.iterdir()) == ["1.wav", "Millrace.wav"]


def test_a_file_that_was_kept_counts_for_its_group_and_is_not_made_again(mix: Path, tmp_path: Path) -> None:
    facts = facts_of(mix)
    level = LevelRequest("peak", -3.0)
    parts = [delivery_of(facts, Stretch(at, at + 20_000), container="wav", level=level) for at in (0, 25_000)]
    files = [
        OrderedFile(file, BLANK, str(tmp_path / f"{at}.wav"))
        for at, one in enumerate(parts)
        for file in files_for(replace(one, group="A"), facts)
    ]
    first = whole(press(PressOrder(tuple(files)), lambda _event: None, lambda: False))
    (tmp_path / "1.wav").unlink()
    again = whole(press(PressOrder((replace(files[0], kept=True), files[1])), lambda _event: None, lambda: False))
    assert [one.proof.sha256 for one in again] == [first[1].proof.sha256]


def test_a_name_on_a_file_system_without_links(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def no_links(*_: object) -> None:
        raise OSError(errno.EPERM, "Operation not permitted")

    monkeypatch.setattr(os, "link", no_links)
    (tmp_path / "new").write_text("new")
    give_name(tmp_path / "new", tmp_path / "out.wav", replaces=False)
    assert [path.name for path in tmp_path.iterdir()] == ["out.wav"]


def known_of(mix: Path) -> PressOrder:
    """An order of which the content of the mix is known from earlier."""
    facts = replace(facts_of(mix), content_sum=content_sum(mix))
    (file,) = files_for(delivery_of(facts, container="wav", encoding="s24"), facts)
    return PressOrder((OrderedFile(file, BLANK, str(mix.with_name("out.wav"))),), recheck=True)


def test_a_mix_that_was_overwritten_at_the_same_length_is_noticed(mix: Path, tmp_path: Path) -> None:
    order = known_of(mix)
    write(mix, noise(48_000, seed=8), 96_000)
    with pytest.raises(Conflict) as caught:
        press(order, lambda _event: None, lambda: False)
    assert caught.value.code == "source.changed"
    assert not (tmp_path / "out.wav").exists()


@pytest.mark.parametrize("gone", [False, True])
def test_mix_changed_or_deleted_during_pressing_is_found(mix: Path, gone: bool) -> None:
    order = known_of(mix)

    def disturb(event: Event) -> None:
        if event.state == "making":
            mix.unlink() if gone else os.utime(mix, ns=(1, 1))

    with pytest.raises(Conflict, match="moved or deleted" if gone else "during pressing"):
        press(order, disturb, lambda: False)
    assert [path.name for path in mix.parent.iterdir()] == ([] if gone else ["Millrace.wav"])


def test_a_file_that_cannot_even_be_opened_ends_alone(
    mix: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = codec.open_writer

    def refused(path: Path, *more: Any) -> Any:
        if path.name.startswith(".1"):
            raise OSError(errno.EACCES, "Permission denied")
        return real(path, *more)

    monkeypatch.setattr(codec, "open_writer", refused)
    facts = facts_of(mix)
    files = [file for name in ("wav", "flac", "mp3") for file in files_for(delivery_of(facts, container=name), facts)]
    first, failed, last = press_order(tmp_path, files)
    assert isinstance(first, PressedFile)
    assert isinstance(last, PressedFile)
    assert isinstance(failed, FailedFile)
    assert failed.sentence.startswith("“1.flac” could not be written: no permission to write in ")
    assert sorted(path.name for path in tmp_path.iterdir()) == ["0.wav", "2.mp3", "Millrace.wav"]
