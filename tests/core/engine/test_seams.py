"""Loops that repeat: crossfaded, pressed to every kind of codec, and heard end to end; and seams that are bad."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soxr

from ripe_press.core.blocks import Block
from ripe_press.core.briefs.library import BLANK, brief_of
from ripe_press.core.engine.seams import choose_crossfade, own_sound
from ripe_press.core.measure.places.seam import MOST_FLUX, Seam, SeamMeter
from ripe_press.core.proof.read_back import prove
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.edges import Edges, Stretch
from ripe_press.core.signal.edges import Joiner, crossfaded
from ripe_press.core.sources.file import FileSource
from support import sampled
from support.cuts import RATE_HZ, music, room
from support.docs import rates_in_docs
from support.press import delivery_of, facts_of, files_for, press_files, read_all
from support.signals import in_blocks, noise, sine, write

RATE = 44_100
KINDS = ("band", "strings", "drums", "choir", "voice")
FORMATS = {
    "WAV": {"container": "wav", "encoding": "s24"}, "FLAC": {"container": "flac", "encoding": "s24"},
    "Opus": {"container": "opus", "rate_hz": 48_000, "kbps": 160}, "MP3": {"container": "mp3", "kbps": 320},
    "AAC": {"container": "aac", "kbps": 256},
}  # fmt: skip
LOOP: Brief = replace(BLANK, require=replace(BLANK.require, whole_bars=True))


def song(kind: str, number: int) -> tuple[Block, int, int]:
    """Generated music at 44.1 kHz in two channels, and four of its bars from the second one on."""
    random = np.random.default_rng((11, number))
    bpm = float(random.choice([84, 92, 100, 120, 128, 140]))
    sound = room(music(random, 17, kind, bpm), 1.2, 0.25, random)
    wide = soxr.resample(sound, RATE_HZ, RATE, quality="HQ") * 0.4
    bar = 240 / bpm * RATE
    bars = 2 if bpm < 100 else 4
    return np.stack((wide, 0.8 * wide), axis=1), round(bar), round((1 + bars) * bar)


@pytest.mark.slow
@pytest.mark.timeout(900)
def test_loops_repeat_without_a_seam_in_every_codec(tmp_path: Path) -> None:
    clean = dict.fromkeys(FORMATS, 0)
    worst = dict.fromkeys(FORMATS, 0.0)
    numbers = sampled(range(50), 10)
    for number in numbers:
        sound, start, end = song(KINDS[number % 5], number)
        mix = write(tmp_path / "mix.wav", sound, RATE, "DOUBLE")
        facts = facts_of(mix)
        frames, seam = choose_crossfade(FileSource(facts), start, end)
        stretch = Stretch(start, end, Edges("crossfade"), crossfade_frames=frames)
        wishes = [delivery_of(facts, stretch, LOOP, **more) for more in FORMATS.values()]
        made = press_files(tmp_path, [file for one in wishes for file in files_for(one, facts)], LOOP)
        for name, file in zip(FORMATS, made, strict=True):
            found = file.proof.seam
            assert found is not None
            worst[name] = max(worst[name], found.flux)
            clean[name] += found.clean
            rules = {one.rule for one in file.findings} | {one.rule for one in file.checks if found.clean}
            assert "loop_seam" in rules, "it holds, or that it does not is told"
            assert abs(file.proof.frames - (end - start) * file.proof.rate_hz / RATE) <= 1
            assert file.proof.embedded is not None
        assert seam.step < 1.5
        for file in made:
            Path(file.path).unlink()
    assert clean["WAV"] >= 0.96 * len(numbers) and clean["FLAC"] == clean["WAV"]
    assert min(clean.values()) >= 0.8 * len(numbers)
    rates_in_docs(
        "seams",
        ["| format | loops | seam passes | largest flux |", "|---|---|---|---|"]
        + [f"| {name} | 50 | {clean[name]} | {worst[name]:.2f} |" for name in FORMATS],
    )


def seam_of_file(path: Path, own: float = 1.0) -> Seam:
    found = prove(path, loop=own).seam
    assert found is not None
    return found


def test_a_bad_seam_of_each_kind_is_caught(tmp_path: Path) -> None:
    tone = sine(441, 2.0, RATE, 0.4) * (1 + 0.2 * sine(2.0, 2.0, RATE, 1.0))
    # Noise made of whole periods meets itself.
    spectrum = np.fft.rfft(noise(2 * RATE, 2), axis=0) / np.maximum(np.arange(RATE + 1), 200.0)[:, None]
    good = seam_of_file(write(tmp_path / "good.wav", np.fft.irfft(spectrum, axis=0) * 100, RATE, "DOUBLE"))
    assert good.clean and good.step < 1.1 and abs(good.level_db) < 3.0
    click = seam_of_file(write(tmp_path / "click.wav", tone[:-25], RATE, "DOUBLE"))
    assert click.step > 1.5 and not click.clean
    gap = tone.copy()
    gap[-1_000:] = 0
    hole = seam_of_file(write(tmp_path / "hole.wav", gap, RATE, "DOUBLE"))
    assert not hole.clean
    faded = tone.copy()
    faded[-800:] *= np.linspace(1, 0, 800)[:, None] ** 2
    faded[:800] *= np.linspace(0, 1, 800)[:, None] ** 2
    dip = seam_of_file(write(tmp_path / "dip.wav", faded, RATE, "DOUBLE"))
    assert dip.hole_db < -12 and not dip.clean
    other = np.concatenate((tone[:RATE], sine(1_499, 1.0, RATE, 0.4)))
    sudden = seam_of_file(write(tmp_path / "sudden.wav", other, RATE, "DOUBLE"))
    assert sudden.flux > MOST_FLUX and not sudden.clean
    loud = tone.copy()
    loud[-RATE // 2 :] *= 0.05
    step = seam_of_file(write(tmp_path / "level.wav", loud, RATE, "DOUBLE"))
    assert step.level_db > 20


def test_loop_with_a_bad_seam_or_length_is_not_ready(tmp_path: Path) -> None:
    sound, start, end = song("choir", 3)
    mix = write(tmp_path / "mix.wav", sound, RATE, "DOUBLE")
    facts = facts_of(mix)
    for off in (0, 700):
        wish = replace(
            delivery_of(facts, Stretch(start, end + off), LOOP, container="wav", encoding="s24"), tempo="100bpm",
            bars="2-5", bars_s=(end - start) / RATE,
        )  # fmt: skip
        (file,) = press_files(tmp_path, files_for(wish, facts), LOOP)
        Path(file.path).unlink()
        rules = [one.rule for one in file.findings]
        assert ("loop_length" in rules) == bool(off)
        assert file.verdict == "look" if off else file.proof.seam.clean == ("loop_seam" not in rules)  # type: ignore[union-attr]


def test_a_crossfade_keeps_the_power_even() -> None:
    frames = 2_205
    for alike in (0.0, 0.5, 1.0):
        one, other = noise(frames, 1, 1), noise(frames, 1, 2)
        lead = alike * one + np.sqrt(1 - alike**2) * other
        joined = crossfaded(one, lead)
        middle = slice(frames // 3, 2 * frames // 3)
        assert 10 * np.log10((joined[middle] ** 2).mean() / (one[middle] ** 2).mean()) == pytest.approx(0.0, abs=0.7)
    assert np.abs(crossfaded(np.ones((5, 1)), np.ones((5, 1))) - 1).max() < 1e-12


def test_seam_is_at_the_end_of_the_loop_in_every_reader(tmp_path: Path) -> None:
    loop, seam = noise(1_000, 2), np.ones((100, 2))
    for size in (1, 64, 999, 5_000):
        joiner = Joiner(seam, 1_000)
        out = np.concatenate([joiner.process(block) for block in in_blocks(loop, size)])
        assert np.array_equal(out[:900], loop[:900]) and np.array_equal(out[900:], seam)
    mix = write(tmp_path / "mix.wav", noise(20_000), RATE, "DOUBLE")
    facts, whole = facts_of(mix), read_all(mix)
    stretch = Stretch(5_000, 15_000, Edges("crossfade"), crossfade_frames=500)
    wish = delivery_of(facts, stretch, container="wav", encoding="f64")
    (file,) = press_files(tmp_path, files_for(wish, facts))
    read = read_all(file.path)
    assert np.array_equal(read[:9_500], whole[5_000:14_500])
    assert np.allclose(read[9_500:], crossfaded(whole[14_500:15_000], whole[4_500:5_000]), atol=1e-15)
    assert file.path and file.proof.embedded is not None and file.proof.embedded.loop is not None


def test_before_the_mix_there_is_silence_to_fade_into(tmp_path: Path) -> None:
    mix = write(tmp_path / "mix.wav", noise(20_000), RATE, "DOUBLE")
    facts = facts_of(mix)
    wish = delivery_of(
        facts, Stretch(0, 15_000, Edges("crossfade"), crossfade_frames=400), container="wav", encoding="f64"
    )
    (file,) = press_files(tmp_path, files_for(wish, facts))
    assert np.abs(read_all(file.path)[-1]).max() < 0.01


def test_a_plain_cut_that_passes_needs_no_crossfade(tmp_path: Path) -> None:
    mix = write(tmp_path / "mix.wav", sine(441, 4.0, RATE, 0.4), RATE, "DOUBLE")
    source = FileSource(facts_of(mix))
    assert choose_crossfade(source, RATE, 2 * RATE, needed=False)[0] == 0
    assert choose_crossfade(source, RATE, 2 * RATE)[0] == round(0.005 * RATE)
    assert choose_crossfade(source, RATE, 2 * RATE - 25, needed=False)[0] > 0
    assert own_sound(source, RATE, 2 * RATE).ratio == pytest.approx(1.0, abs=0.3)
    assert brief_of("loop").prefer.crossfade and brief_of("ringtone").require.whole_bars


@pytest.mark.parametrize("frames", [1, 2, 300, 4_000])
def test_a_loop_too_short_for_a_seam_is_not_crossfaded(tmp_path: Path, frames: int) -> None:
    mix = write(tmp_path / "mix.wav", sine(441, 4.0, RATE, 0.4)[:frames], RATE, "DOUBLE")
    assert choose_crossfade(FileSource(facts_of(mix)), 0, frames) == (0, None)


def test_loop_too_short_has_no_seam() -> None:
    meter = SeamMeter(RATE)
    meter.process(noise(3_000))
    assert meter.result() is None
