import numpy as np
import pytest

from ripe_press.core.measure.loudness import LoudnessMeter, LoudnessResult
from ripe_press.core.measure.places.quiet import longest_silence, quiet_places
from support.signals import noise

RATE = 8_000


def heard(samples: np.ndarray) -> LoudnessResult:
    meter = LoudnessMeter(samples.shape[1], RATE)
    meter.process(samples)
    return meter.result()


def test_a_set_is_cut_where_applause_falls_away() -> None:
    """Three pieces with a fall of 26 dB after each, one of them too close to the end."""
    level = np.concatenate([np.full(60, 0.2), np.full(3, 0.01), np.full(90, 0.2), np.full(4, 0.008), np.full(45, 0.2)])
    samples = noise(len(level) * RATE, seed=2, level=1.0) * np.repeat(level, RATE)[:, None]
    places = quiet_places(heard(samples))
    assert [one.at_s for one in places] == [pytest.approx(61.5, abs=1.6), pytest.approx(155, abs=2.1)]
    assert all(-45 < one.level_dbfs < -30 for one in places)


def test_two_dips_that_are_near_are_one_place() -> None:
    level = np.concatenate([np.full(60, 0.2), np.full(3, 0.01), np.full(10, 0.2), np.full(3, 0.001), np.full(60, 0.2)])
    samples = noise(len(level) * RATE, seed=3, level=1.0) * np.repeat(level, RATE)[:, None]
    (place,) = quiet_places(heard(samples))
    assert place.at_s == pytest.approx(74.5, abs=1.6)


def test_even_or_short_audio_has_no_place() -> None:
    assert quiet_places(heard(noise(100 * RATE, seed=4))) == ()
    assert quiet_places(heard(noise(RATE // 2, seed=4))) == ()


def test_the_longest_silence_is_found_inside_a_stretch() -> None:
    samples = noise(30 * RATE, seed=5)
    samples[5 * RATE : 7 * RATE] = 0
    samples[20 * RATE : 26 * RATE] = 1e-5
    loudness = heard(samples)
    assert longest_silence(loudness, 0, 30) == pytest.approx((20, 6), abs=0.03)
    assert longest_silence(loudness, 0, 10) == pytest.approx((5, 2), abs=0.03)
    assert longest_silence(loudness, 8, 12) == (0.0, 0.0)
