"""The alignment of a file with its source, found from known changes."""

import numpy as np
import pytest

from ripe_press.core.blocks import Block
from ripe_press.core.proof.against.alignment import (
    MOST_LAG_FRAMES,
    STRETCH_FRAMES,
    Alignment,
    Stretches,
    align,
    shifted,
)
from support.signals import in_blocks, noise, sine


def music(frames: int = STRETCH_FRAMES, seed: int = 1) -> Block:
    at = np.arange(frames) / 44_100
    return noise(frames, 2, seed, 0.02) + 0.2 * np.sin(2 * np.pi * 110 * at * (1 + at))[:, None] * [1.0, 0.6]


def moved(samples: Block, frames: int) -> Block:
    return np.roll(samples, frames, axis=0)


@pytest.mark.parametrize("lag", [0, 1, -1, 16, -529, 1_105, 2_112, MOST_LAG_FRAMES])
@pytest.mark.parametrize(("inverted", "swapped"), [(False, False), (True, False), (False, True), (True, True)])
def test_everything_that_was_done_is_found(lag: int, inverted: bool, swapped: bool) -> None:
    test = moved(music(), lag) * (-0.5 if inverted else 0.5)
    found = align([(music(), test[:, ::-1] if swapped else test)])
    assert (found.lag_frames, found.inverted, found.swapped, found.mono) == (lag, inverted, swapped, False)
    assert found.gain_db == pytest.approx(-6.02, abs=0.01)
    assert found.correlation == pytest.approx(1.0, abs=0.01) and found.related


def test_unrelated_files_are_distinguished_from_related_ones() -> None:
    other = noise(STRETCH_FRAMES, 2, 9, 0.1)
    assert not align([(music(), other)]).related
    # Much noise on top, as a codec of few bits leaves it, is still the same music.
    assert align([(music(), music() + other)]).related
    assert align([]) == Alignment() and Alignment().related


def test_a_sum_of_sides_is_known_and_alike_sides_are_never_exchanged() -> None:
    alike = np.repeat(music()[:, :1], 2, axis=1)
    assert not align([(alike, alike[:, ::-1])]).swapped
    assert align([(music(), np.repeat(music().mean(axis=1, keepdims=True), 2, axis=1))]).mono
    assert not align([(alike, alike)]).mono


def test_clipped_or_missing_audio_does_not_count_as_a_level() -> None:
    test = music() * 0.9
    test = np.clip(test, -0.8 * np.abs(test).max(), 0.8 * np.abs(test).max())
    test[500:900] = 0
    assert align([(music(), test)]).gain_db == pytest.approx(-0.915, abs=0.02)


def test_the_loudest_stretches_speak_for_the_whole() -> None:
    quiet, frames = noise(STRETCH_FRAMES * 40, 2, 3, 1e-4), STRETCH_FRAMES * 40
    quiet[frames // 2 : frames // 2 + STRETCH_FRAMES] += sine(440, STRETCH_FRAMES / 48_000, 48_000)
    stretches = Stretches(frames, 2)
    for source, test in zip(in_blocks(quiet, 50_000), in_blocks(moved(quiet, 7), 50_000), strict=True):
        stretches.process(source, test)
    assert stretches.result().lag_frames == 7


def test_related_files_are_recognised() -> None:
    source = np.arange(10.0)[:, None]
    for lag in (-3, 0, 3):
        one, other = shifted(source, np.roll(source, lag, axis=0), lag)
        assert len(one) == 10 - abs(lag) and np.array_equal(one, other)


def test_content_removed_by_an_encoder_is_not_a_level() -> None:
    """Lines are gone, and the rest is half a decibel down: that is its level. Where nothing is alike there is none."""
    source, random = music(), np.random.default_rng(3)
    spectrum = np.fft.rfft(source, axis=0)
    coarse = spectrum * 10 ** (-0.5 / 20)
    coarse[len(spectrum) // 2 :] *= random.uniform(0, 1, (len(spectrum) - len(spectrum) // 2, 2)) > 0.33
    test = np.fft.irfft(coarse, len(source), axis=0)
    assert align([(source, test)], lossy=True).gain_db == pytest.approx(-0.5, abs=0.02)
    hiss = noise(STRETCH_FRAMES, 2, 4, 0.2)
    assert align([(hiss, 0.8 * hiss + noise(STRETCH_FRAMES, 2, 5, 0.1))], lossy=True).gain_db == 0.0


def test_eight_stretches_of_a_long_file_decide() -> None:
    stretches, block = Stretches(STRETCH_FRAMES * 80, 1), noise(STRETCH_FRAMES * 10, 1)
    for _ in range(8):
        stretches.process(block, block)
    assert len(stretches._kept) == 8 and sorted(stretches._kept) == list(range(8))
