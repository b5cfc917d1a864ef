"""The sentences about two versions: each case makes one change and checks its sentence."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from ripe_press.core.blocks import Block
from ripe_press.core.measure.content import SpectrumMeter
from ripe_press.core.measure.loudness import LoudnessMeter
from ripe_press.core.measure.places.silence import SilenceMeter
from ripe_press.core.versions.differences import Differences, VersionFacts, differences
from support.signals import in_blocks, piece

RATE = 48_000


def known(sound: Block, rate_hz: int = RATE, **facts: object) -> VersionFacts:
    meters = LoudnessMeter(2, rate_hz), SpectrumMeter(rate_hz), SilenceMeter()
    for block in in_blocks(sound):
        for meter in meters:
            meter.process(block)
    loudness, spectrum, silence = (meter.result() for meter in meters)
    found = VersionFacts(len(sound), rate_hz, 2, "24 bit", silence.head_frames, -3.0, loudness, spectrum.curve_db())
    return replace(found, **facts)


def told(change: Callable[[Block], Block]) -> Differences:
    sound = piece()
    return differences(known(sound), known(change(sound.copy())))


def louder(sound: Block, db: float, start_s: float = 0.0, end_s: float = 1e6) -> Block:
    sound[int(start_s * RATE) : int(min(end_s, 1e3) * RATE)] *= 10 ** (db / 20)
    return sound


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        (lambda one: louder(one, 2), "2 dB louder throughout"),
        (lambda one: louder(one, -1.5), "1.5 dB quieter throughout"),
        (lambda one: louder(one, 2, 12), "2 dB louder after 0:12"),
        (lambda one: louder(one, -3, 0, 20), "3 dB quieter up to 0:20"),
        (lambda one: louder(one, 4, 15, 19), "4 dB louder from 0:15 to 0:19"),
        (lambda one: np.concatenate((one, np.zeros((int(0.4 * RATE), 2)))), "0.4 s longer"),
        (lambda one: one[: -int(1.25 * RATE)], "1.2 s shorter"),
        (lambda one: np.concatenate((np.zeros((int(0.4 * RATE), 2)), one)), "starts 0.4 s later"),
        (lambda one: one[int(0.3 * RATE) :], "starts 0.3 s earlier"),
    ],
)
def test_only_the_real_change_is_reported(change: Callable[[Block], Block], sentence: str) -> None:
    found = told(change)
    assert found.sentences == (sentence,)
    assert found.related


def test_unchanged_audio_is_reported_as_such() -> None:
    assert told(lambda one: one).sentences == ("no measured difference (same length, levels within 0.25 dB)",)


def test_later_start_is_exact_and_levels_are_of_the_same_music() -> None:
    found = told(lambda one: louder(np.concatenate((np.zeros((12_345, 2)), one)), 2, 20 + 12_345 / RATE))
    assert found.shift_frames == 12_345
    assert found.sentences == ("starts 0.26 s later", "2 dB louder after 0:20")


def test_longer_start_and_longer_end_are_distinguished() -> None:
    silence = np.zeros((RATE, 2))
    found = told(lambda one: np.concatenate((silence, one, silence, silence)))
    assert found.sentences == ("starts 1.0 s later", "2.0 s longer at the end")


def test_more_places_than_one_reads_are_counted() -> None:
    def change(sound: Block) -> Block:
        for start in (4, 12, 20, 28, 34):
            sound = louder(sound, 3, start, start + 3)
        return sound

    found = told(change)
    assert found.sentences[:3] == tuple(f"3 dB louder from 0:{at:02d} to 0:{at + 3:02d}" for at in (4, 12, 20))
    assert found.sentences[3] == "level differs in 2 more places"


def test_brighter_mix_is_not_reported_as_louder() -> None:
    def change(sound: Block) -> Block:
        spectrum = np.fft.rfft(sound, axis=0)
        spectrum[np.fft.rfftfreq(len(sound), 1 / RATE) >= 4000] *= 10 ** (3 / 20)
        return np.fft.irfft(spectrum, len(sound), axis=0)

    sentences = told(change).sentences
    assert any(one.startswith("3.0 dB more above 4 kHz") for one in sentences)


def test_another_piece_is_not_taken_for_a_version() -> None:
    found = differences(known(piece(seed=1)), known(piece(seed=2)))
    assert not found.related
    assert found.sentences[0] == "probably a different piece"


def test_equal_audio_is_found_by_checksum() -> None:
    one = known(piece(5), content_sum="md5:1")
    found = differences(one, replace(one, depth_label="16 bit"))
    assert found.sentences == ("audio identical, metadata differs",)


def test_other_format_and_other_peak_are_reported() -> None:
    one = known(piece())
    other = known(piece(rate_hz=96_000), 96_000, depth_label="32-bit float", true_peak_dbtp=-1.0)
    sentences = differences(one, other).sentences
    assert "true peak 2.0 dB higher, at \N{MINUS SIGN}1.0 dBTP" in sentences
    assert "48 kHz → 96 kHz" in sentences
    assert "24 bit → 32-bit float" in sentences


@pytest.mark.parametrize("frames", [0, 100, RATE // 2])
def test_short_or_silent_mix_is_compared_by_length_only(frames: int) -> None:
    silent = known(np.zeros((frames, 2)))
    assert differences(silent, silent).related
    assert differences(silent, known(piece(3))).sentences


def test_mix_saved_silent_is_reported() -> None:
    """A muted bus: the first thing to know of it, and nothing of how much softer silence is."""
    sounds, silent = known(piece()), known(np.zeros((len(piece()), 2)), true_peak_dbtp=None)
    assert differences(sounds, silent).sentences == ("now silent",)
    assert differences(silent, sounds).sentences == ("no longer silent",)
