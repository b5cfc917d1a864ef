"""The converter against its requirements.

No standard prescribes these figures. Pass lines: ripple to 20 kHz below 0.01 dB, alias and images below -120 dB,
distortion and noise below -140 dB at very high quality: what good measured converters reach (common practice, no
source). Every figure is measured with stepped sines by least squares, independently of `measure_response`.
"""

import numpy as np
import pytest

from ripe_press.core.signal.resample import Quality, Resampler, measure_response
from support.signals import rms_db, sine, sine_levels_db

COMMON = (44_100, 48_000, 88_200, 96_000, 176_400, 192_000)
PAIRS = [(from_hz, to_hz) for from_hz in COMMON for to_hz in COMMON if from_hz != to_hz]


def convert(samples: np.ndarray, from_hz: int, to_hz: int, quality: Quality = "very-high") -> np.ndarray:
    resampler = Resampler(from_hz, to_hz, 1, quality)
    return np.concatenate((resampler.process(samples), resampler.flush()))[:, 0]


def steady(wave: np.ndarray, rate_hz: int) -> np.ndarray:
    """The middle second: whole periods of any whole frequency, away from the edges."""
    return wave[rate_hz // 2 : rate_hz // 2 + rate_hz]


@pytest.mark.parametrize(("from_hz", "to_hz"), PAIRS)
def test_the_pass_band_is_flat(from_hz: int, to_hz: int) -> None:
    for hz in (20, 1_000, 10_000, 19_000, 20_000):
        out = steady(convert(sine(hz, 2.0, from_hz, 0.5, 1), from_hz, to_hz), to_hz)
        (level,) = sine_levels_db(out, [float(hz)], to_hz)
        assert level == pytest.approx(20 * np.log10(0.5), abs=0.01), f"{hz} Hz"


@pytest.mark.parametrize(("from_hz", "to_hz"), [pair for pair in PAIRS if pair[0] > pair[1]])
def test_nothing_above_half_the_new_rate_comes_back_as_an_alias(from_hz: int, to_hz: int) -> None:
    for hz in (to_hz // 2 + 450, (to_hz + from_hz) // 4, from_hz // 2 - 500):
        out = steady(convert(sine(hz, 2.0, from_hz, 1.0, 1), from_hz, to_hz), to_hz)
        assert rms_db(out) < -120.0, f"{hz} Hz"


@pytest.mark.parametrize(("from_hz", "to_hz"), PAIRS)
def test_a_tone_leaves_nothing_but_itself(from_hz: int, to_hz: int) -> None:
    out = steady(convert(sine(997, 2.0, from_hz, 1.0, 1), from_hz, to_hz), to_hz)
    turns = 2 * np.pi * 997 * np.arange(to_hz) / to_hz
    fit = np.stack((np.sin(turns), np.cos(turns)), axis=1)
    rest = out - fit @ np.linalg.lstsq(fit, out, rcond=None)[0]
    assert rms_db(rest) - rms_db(out) < -140.0


@pytest.mark.parametrize(("from_hz", "to_hz"), PAIRS)
def test_time_does_not_shift(from_hz: int, to_hz: int) -> None:
    # A tone that starts at phase zero has phase zero at the same instant in the output: 0.01 sample at 1 kHz.
    out = steady(convert(sine(1_000, 2.0, from_hz, 1.0, 1), from_hz, to_hz), to_hz)
    turns = 2 * np.pi * 1_000 * (np.arange(to_hz) + to_hz // 2) / to_hz
    phase = np.arctan2(np.mean(out * np.cos(turns)), np.mean(out * np.sin(turns)))
    assert abs(phase / (2 * np.pi * 1_000) * to_hz) < 0.01


def test_an_impulse_lands_on_its_own_sample() -> None:
    impulse = np.zeros((96_000, 1))
    impulse[32_000] = 1.0
    assert int(np.argmax(convert(impulse, 96_000, 48_000))) == 16_000


@pytest.mark.parametrize(
    ("quality", "ripple_db", "edge_hz", "rejection_db"),
    [("very-high", 0.01, 20_578, -170), ("high", 0.02, 20_534, -120)],
)
def test_the_figures_that_are_shown_agree_with_stepped_sines(
    quality: Quality, ripple_db: float, edge_hz: float, rejection_db: float
) -> None:
    shown = measure_response(96_000, 44_100, quality)
    assert shown.ripple_db < ripple_db
    assert shown.edge_hz == pytest.approx(edge_hz, abs=40)
    assert shown.rejection_db < rejection_db
