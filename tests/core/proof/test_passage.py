"""A passage and its mix: the difference, its masking, and an encoder's cut-off."""

import numpy as np
import pytest

from ripe_press.core.measure.content import SpectrumMeter, comes_back_to_hz
from ripe_press.core.proof.against.passage import look_at
from ripe_press.core.proof.hearing.masked import masked_curve
from ripe_press.core.proof.hearing.meter import Audibility
from support.signals import noise

RATE = 48_000


def _heard(band_hz: tuple[float, ...], margin_db: tuple[float, ...]) -> Audibility:
    nothing = np.zeros((0, len(band_hz)), dtype=np.float32)
    return Audibility(0, 0, 0, 0, 0, 0, 0, None, 0, 0.1, band_hz, nothing, margin_db)


def test_masking_margin_equals_the_models() -> None:
    difference = ((95.0, -80.0), (110.0, -90.0), (210.0, -70.0), (390.0, -60.0))
    found = masked_curve(difference, _heard((100.0, 200.0, 400.0), (-20.0, -np.inf, 3.0)))
    assert found == ((100.0, -65.0), (400.0, -63.0))
    assert masked_curve((), _heard((100.0, 200.0), (-20.0, -20.0))) == ()


@pytest.mark.parametrize("rate_hz", [44_100, 48_000, 96_000])
def test_a_little_noise_in_a_passage_is_seen_in_level_spectrum_and_opinion(rate_hz: int) -> None:
    mix = noise(rate_hz * 3, 2, 1, 0.1)
    found = look_at(mix, mix + noise(len(mix), 2, 2, 1e-5), rate_hz)
    # As a full-scale sine reads 0: white noise of 1e-5 is at −97 dBFS.
    assert found.rms_dbfs == pytest.approx(-97.0, abs=0.1)
    assert found.opinion.prediction == "none"
    assert all(masked > -140 for _, masked in found.masked)
    apart = np.mean([db for _, db in found.mix]) - np.mean([db for _, db in found.difference])
    assert apart == pytest.approx(80.0, abs=0.5)
    same = look_at(mix, mix, rate_hz)
    assert (same.rms_dbfs, same.peak_dbfs, same.opinion.prediction) == (-np.inf, -np.inf, "same")


def test_where_an_encoder_stops_is_found_to_a_hundredth_of_the_rate() -> None:
    mix = noise(RATE * 4, 1, 3, 0.1)
    spectrum = np.fft.rfft(mix[:, 0])
    spectrum[int(16_000 / RATE * len(mix)) :] = 0
    cut = np.fft.irfft(spectrum, len(mix))[:, None]
    meters = [SpectrumMeter(RATE, 8_192) for _ in range(2)]
    for meter, signal in zip(meters, (mix, cut), strict=True):
        meter.process(np.ascontiguousarray(signal))
    before, after = (one.result() for one in meters)
    assert comes_back_to_hz(before, after) == pytest.approx(16_000, abs=0.01 * RATE)
    assert comes_back_to_hz(before, before) == pytest.approx(RATE / 2, abs=1)


def test_places_are_on_the_displayed_timeline() -> None:
    mix = noise(RATE * 3, 2, 1, 0.1)
    found = look_at(mix, mix + noise(len(mix), 2, 2, 0.05), RATE, begins_s=108.0)
    assert found.opinion.prediction == "noticed"
    assert "worst at 1:4" in found.opinion.sentence or "worst at 1:5" in found.opinion.sentence
