"""What platforms for spoken word check, against levels that were made; the limits are common practice, no source."""

from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.briefs.library import brief_of
from ripe_press.core.measure.loudness import LoudnessMeter
from ripe_press.core.measure.places.speech import Speech, speech_of
from support.press import delivery_of, facts_of, files_for, press_files
from support.signals import noise, sine, write

RATE = 44_100


def recording(head_s: float, tail_s: float, speech_db: float, noise_db: float) -> np.ndarray:
    """Syllables of noise, four a second, between room tone; levels are plain RMS."""
    frames = round((head_s + 20 + tail_s) * RATE)
    out = noise(frames, 1, 1, 10 ** (noise_db / 20))
    first = round(head_s * RATE)
    # Dull, like speech, so that RMS and loudness are close.
    voice = np.convolve(noise(20 * RATE, 1, 2)[:, 0], np.ones(40), "same")[:, None]
    voice *= 10 ** (speech_db / 20) / np.sqrt((voice**2).mean())
    out[first : first + 20 * RATE] += voice
    return out


def measured(sound: np.ndarray) -> Speech:
    meter = LoudnessMeter(sound.shape[1], RATE)
    meter.process(sound)
    return speech_of(meter.result())


def test_level_noise_and_room_tone_are_measured() -> None:
    found = measured(recording(0.8, 2.0, -20.0, -65.0))
    assert found.rms_dbfs == pytest.approx(-20.6, abs=0.2)
    assert found.noise_dbfs == pytest.approx(-65.0, abs=0.5)
    assert (found.head_s, found.tail_s) == pytest.approx((0.8, 2.0), abs=0.1)
    assert found.raised(3.0).noise_dbfs == pytest.approx(-62.0, abs=0.5)
    assert measured(sine(997, 3.0, RATE, 1.0, 1)).rms_dbfs == pytest.approx(-3.01, abs=0.01)


def test_silence_and_short_audio_are_not_speech() -> None:
    assert measured(np.zeros((RATE, 1))).rms_dbfs == float("-inf")
    assert measured(np.zeros((RATE, 1))).head_s == 0.0
    assert measured(noise(1_000, 1)).noise_dbfs == float("-inf")


def test_a_noisy_room_is_never_ready_and_a_quiet_one_is(tmp_path: Path) -> None:
    brief = brief_of("spoken-word")
    for number, (noise_db, head_s, rules) in enumerate(
        ((-70.0, 0.7, set()), (-44.0, 0.7, {"brief_noise"}), (-70.0, 0.1, {"brief_head"}), (-70.0, 2.5, {"brief_head"}))
    ):
        mix = write(tmp_path / f"mix{number}.wav", recording(head_s, 2.0, -24.0, noise_db), RATE, "PCM_24")
        facts = facts_of(mix)
        folder = tmp_path / f"out{number}"
        folder.mkdir()
        (file,) = press_files(folder, files_for(delivery_of(facts, brief=brief), facts), brief)
        found = {
            one.rule for one in file.findings if one.rule in ("brief_noise", "brief_head", "brief_rms", "brief_tail")
        }
        assert found == rules, number
        assert file.proof.speech is not None and -23 <= file.proof.speech.rms_dbfs <= -18
        assert file.proof.constant_bit_rate is True
