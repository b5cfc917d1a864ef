"""Noise shaping against Gerzon and Craven (AES preprint 2822, 1989) and the threshold of hearing (Terhardt, 1982;
formula from memory), and every kind of dither against its known error power (Lipshitz, Wannamaker, Vanderkooy, 1992).
"""

import numpy as np
import pytest

from ripe_press.core.signal.quantise import Dither, Quantiser, added_noise_dbfs, noise_density_db
from ripe_press.core.signal.shaping import Strength, noise_gain, noise_response_db, shaper, threshold_db
from support.signals import sine, sine_levels_db

RATES = [44_100, 48_000, 88_200, 96_000]
# Noise weighted by the inverse threshold up to 20 kHz against plain triangular dither, in dB, and total noise: computed
# apart from this code, from the same formula.
WEIGHTED: dict[tuple[int, Strength], tuple[float, float]] = {
    (44_100, "light"): (-9.0, 4.96), (44_100, "strong"): (-15.8, 13.12), (48_000, "light"): (-9.7, 4.70),
    (48_000, "strong"): (-17.3, 12.30), (88_200, "light"): (-13.1, 2.93), (88_200, "strong"): (-24.2, 7.19),
    (96_000, "light"): (-13.2, 2.72), (96_000, "strong"): (-24.6, 6.57),
}  # fmt: skip


# The same design computed apart from this code, on another grid.
COEFFICIENTS: dict[tuple[int, Strength], tuple[float, ...]] = {
    (44_100, "light"): (1.205965, -0.745961, 0.013888, 0.253282, -0.189727, -0.091806, 0.101804, -0.069798, -0.021326),
    (44_100, "strong"): (2.412012, -2.953474, 1.907419, -0.24643, -0.820816, 0.731467, -0.231246, -0.088145, 0.060532),
    (48_000, "light"): (1.204822, -0.601837, -0.158238, 0.267213, -0.039576, -0.179062, 0.036928, 0.050247, -0.08032),
    (48_000, "strong"): (2.416552, -2.684026, 1.222031, 0.454818, -0.917652, 0.198261, 0.406725, -0.411984, 0.119204),
    (96_000, "light"): (0.845922, 0.254367, -0.105533, -0.206431, -0.122352, 0.018947, 0.09976, 0.06149, -0.081365),
    (96_000, "strong"): (1.692246, -0.252114, -0.632541, -0.229542, 0.208444, 0.283627, 0.040996, -0.17741, -0.01185),
}


@pytest.mark.parametrize("key", COEFFICIENTS, ids=str)
def test_the_design_gives_the_filters_that_were_worked_out(key: tuple[int, Strength]) -> None:
    assert shaper(*key) == pytest.approx(COEFFICIENTS[key], abs=2e-3)


def error_of(samples: np.ndarray, dither: Dither, rate_hz: int = 44_100, bits: int = 16) -> np.ndarray:
    """The error in LSB."""
    codes = Quantiser(bits, samples.shape[1], dither, rate_hz=rate_hz).process(samples)
    steps = 2.0 ** (bits - 1)
    return (codes >> (32 - bits)) - samples * steps


@pytest.mark.parametrize("rate_hz", [8_000, 22_050, *RATES, 192_000])
@pytest.mark.parametrize("strength", ["light", "strong"])
def test_the_mean_of_the_log_response_is_nought_and_all_zeros_lie_inside(rate_hz: int, strength: Strength) -> None:
    hz = (np.arange(20_000) + 0.5) / 20_000 * rate_hz / 2
    assert np.mean(noise_response_db(rate_hz, strength, hz)) == pytest.approx(0, abs=0.002)
    zeros = np.roots(np.concatenate(([1.0], -shaper(rate_hz, strength))))
    assert np.abs(zeros).max() < 1


@pytest.mark.parametrize("rate_hz", RATES)
@pytest.mark.parametrize("strength", ["light", "strong"])
def test_weighted_noise_is_lower_than_plain_triangular(rate_hz: int, strength: Strength) -> None:
    dither: Dither = "shaped-light" if strength == "light" else "shaped-strong"
    error = error_of(sine(997, 8.0, rate_hz, 0.01, 1), dither, rate_hz)[:, 0]
    plain = error_of(sine(997, 8.0, rate_hz, 0.01, 1), "triangular", rate_hz)[:, 0]

    def weighted_db(samples: np.ndarray) -> float:
        cut = samples[: len(samples) // 8192 * 8192].reshape(-1, 8192) * np.hanning(8192)
        power = np.mean(np.abs(np.fft.rfft(cut, axis=1)) ** 2, axis=0)
        hz = np.fft.rfftfreq(8192, 1 / rate_hz)
        heard = (hz > 20) & (hz <= 20_000)
        return float(10 * np.log10(np.sum(power[heard] * 10 ** (-threshold_db(hz[heard]) / 10))))

    weighted, total = WEIGHTED[rate_hz, strength]
    assert weighted_db(error) - weighted_db(plain) == pytest.approx(weighted, abs=0.4)
    assert 10 * np.log10(noise_gain(rate_hz, strength)) == pytest.approx(total, abs=0.02)
    assert 10 * np.log10(np.var(error) / np.var(plain)) == pytest.approx(total, abs=0.1)


@pytest.mark.parametrize("rate_hz", [44_100, 96_000])
@pytest.mark.parametrize("level", [1.0, 1.22, 0.0, 0.37 / 32768])
def test_errors_never_run_away_even_past_full_scale(rate_hz: int, level: float) -> None:
    """An error taken after clipping would grow to thousands of steps on an overloaded sine."""
    samples = sine(997, 2.0, rate_hz, level, 1)
    error = error_of(samples, "shaped-strong", rate_hz)
    held = np.abs(samples * 32768) < 32_000
    assert np.abs(error[held]).max() < 25


# LSB²/6 for rectangular where the signal is busy, LSB²/4 for both triangular kinds.
@pytest.mark.parametrize(
    ("dither", "power"), [("rectangular", 1 / 6), ("triangular", 1 / 4), ("triangular-high-pass", 1 / 4)]
)
@pytest.mark.parametrize("bits", [8, 16, 20, 24])
def test_error_power_of_every_kind(dither: Dither, power: float, bits: int) -> None:
    busy = np.random.default_rng(bits).standard_normal((400_000, 1)) * 0.05
    error = error_of(busy, dither, bits=bits)
    assert np.mean(error) == pytest.approx(0, abs=0.005)
    assert np.mean(error**2) == pytest.approx(power, rel=0.02)
    expected = 10 * np.log10(power * 2.0 ** (2 - 2 * bits) / 0.5)
    assert added_noise_dbfs(bits, dither) == pytest.approx(expected, abs=0.01)


def test_rectangular_noise_follows_the_signal_and_triangular_does_not() -> None:
    """The power of rectangularly dithered silence depends on the offset: 0 at a code, LSB²/4 between two."""
    for offset, rectangular in ((0.0, 0.0), (0.1, 0.09), (0.25, 0.1875), (0.5, 0.25)):
        still = np.full((200_000, 1), offset / 32768)
        assert np.mean(error_of(still, "rectangular") ** 2) == pytest.approx(rectangular, abs=0.003)
        assert np.mean(error_of(still, "triangular") ** 2) == pytest.approx(0.25, abs=0.003)


def test_high_passed_dither_lies_high() -> None:
    error = error_of(np.zeros((400_000, 1)), "triangular-high-pass")[:, 0]
    # LSB²/6 of dither under |1 - z^-1|², and LSB²/12 of rounding, which is white.
    low = np.abs(np.fft.rfft(error.reshape(-1, 1_000), axis=1)[:, 1:50]) ** 2
    high = np.abs(np.fft.rfft(error.reshape(-1, 1_000), axis=1)[:, -50:]) ** 2
    assert 10 * np.log10(high.mean() / low.mean()) == pytest.approx(6.9, abs=0.5)
    density = noise_density_db(16, "triangular-high-pass", 44_100, np.array([100.0, 22_000.0]))
    assert density[1] - density[0] == pytest.approx(10 * np.log10(5 / 1), abs=0.2)


def test_a_sine_of_one_step_has_no_harmonics_with_shaping() -> None:
    samples = sine(997, 10.0, 44_100, 1 / 32768, 1)
    out = (Quantiser(16, 1, "shaped-light", rate_hz=44_100).process(samples) >> 16)[:, 0] / 32768
    levels = sine_levels_db(out, [997.0 * number for number in range(1, 8)], 44_100)
    assert levels[0] == pytest.approx(-90.31, abs=0.05)
    assert max(levels[1:]) < -125
