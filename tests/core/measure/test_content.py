import numpy as np
import pytest

from ripe_press.core.measure.content import BitsMeter, SpectrumMeter, StereoMeter
from ripe_press.core.signal.quantise import Quantiser
from ripe_press.core.signal.resample import Resampler
from support.signals import in_blocks, noise, sine


def quantised(bits: int, frames: int = 100_000) -> np.ndarray:
    return Quantiser(bits, 2, "triangular").process(noise(frames)) / 2.0**31


@pytest.mark.parametrize("bits", [8, 13, 16, 20, 24, 32])
def test_bits_in_use_are_counted_whatever_the_file_declares(bits: int) -> None:
    meter = BitsMeter(32)
    for block in in_blocks(quantised(bits), 10_000):
        meter.process(block)
    assert meter.result() == bits


def test_floating_point_off_every_grid_has_its_declared_depth() -> None:
    meter = BitsMeter(64)
    meter.process(noise(1_000) / 3)
    assert meter.result() == 64
    silent = BitsMeter(24)
    silent.process(np.zeros((100, 2)))
    assert silent.result() == 1


def bandwidth(samples: np.ndarray, rate_hz: int, bits: int) -> float:
    meter = SpectrumMeter(rate_hz, every_frames=10_000)
    for block in in_blocks(samples):
        meter.process(block)
    return meter.result().bandwidth_hz(bits)


def test_material_from_a_lower_rate_is_found_out() -> None:
    narrow = np.concatenate([(up := Resampler(48_000, 96_000, 2)).process(noise(200_000)), up.flush()])
    coded = Quantiser(24, 2, "triangular").process(narrow) / 2.0**31
    assert bandwidth(coded, 96_000, 24) == pytest.approx(23_900, abs=300)
    assert bandwidth(noise(200_000), 96_000, 24) > 47_000
    assert bandwidth(quantised(16), 48_000, 16) > 23_500
    assert bandwidth(np.zeros((20_000, 2)), 48_000, 24) == 0.0


def test_tone_has_its_level_in_the_spectrum() -> None:
    meter = SpectrumMeter(48_000, every_frames=8_192)
    meter.process(sine(6_000, 2.0, 48_000, 0.5))
    hz, db = max(meter.result().curve_db(), key=lambda point: point[1])
    assert hz == pytest.approx(6_000, rel=0.05)
    assert db < -6.0


def test_offset_balance_and_correlation() -> None:
    samples = np.repeat(noise(50_000, 1), 2, axis=1) + np.array([0.01, -0.02])
    samples[:, 1] *= -0.5
    meter = StereoMeter(2)
    for block in in_blocks(samples, 7_777):
        meter.process(block)
    result = meter.result()
    assert result.dc_offset == pytest.approx((0.01, 0.01), abs=0.001)
    assert result.balance_db == pytest.approx(6.0, abs=0.2)
    assert result.correlation == pytest.approx(-1.0, abs=0.05)
    mono = StereoMeter(1)
    mono.process(noise(100, 1))
    assert (mono.result().balance_db, mono.result().correlation) == (None, None)
