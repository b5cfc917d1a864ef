"""Gain, offsets and the high-pass, against what the formulas say and a library that is not ours."""

import numpy as np
import pytest
import scipy.signal

from ripe_press.core.signal.gain import Gain, HighPass
from support.signals import noise, rms_db, sine


@pytest.mark.parametrize("gain_db", [-60.0, -6.0, 0.0, 12.0])
def test_a_gain_is_a_gain(gain_db: float) -> None:
    samples = noise(10_000)
    out = Gain(gain_db, 2).process(samples)
    assert rms_db(out) - rms_db(samples) == pytest.approx(gain_db, abs=1e-9)


def test_offsets_are_removed_before_the_gain() -> None:
    samples = noise(200_000, level=0.1) + np.array([0.25, -0.125])
    out = Gain(6.0, 2, (0.25, -0.125)).process(samples)
    assert np.abs(out.mean(axis=0)).max() < 2e-3
    assert rms_db(out) == pytest.approx(-20 + 6, abs=0.05)


@pytest.mark.parametrize("rate_hz", [44_100, 96_000])
@pytest.mark.parametrize("hz", [20.0, 80.0])
def test_the_high_pass_is_the_butterworth_of_the_library(hz: float, rate_hz: int) -> None:
    samples = noise(30_000)
    b, a = scipy.signal.butter(2, hz, "highpass", fs=rate_hz)
    expected = scipy.signal.lfilter(b, a, samples, axis=0)
    assert np.abs(HighPass(hz, rate_hz, 2).process(samples) - expected).max() < 1e-9


def test_three_decibels_at_the_corner_and_twelve_an_octave_below() -> None:
    def level(hz: float) -> float:
        tone = sine(hz, 4.0, 48_000, 1.0, 1)
        return rms_db(HighPass(80.0, 48_000, 1).process(tone)[96_000:]) - rms_db(tone)

    assert level(80.0) == pytest.approx(-3.01, abs=0.02)
    assert level(20.0) - level(10.0) == pytest.approx(12.0, abs=0.1)
    assert level(2_000.0) == pytest.approx(0.0, abs=0.01)
