"""The quantiser against published figures.

Sources: S. P. Lipshitz, R. A. Wannamaker and J. Vanderkooy, "Quantization and Dither: A Theoretical Survey",
J. Audio Eng. Soc. 40 (1992): error power LSB²/12 when rounding a busy signal; with triangular dither of 2 LSB
the error has zero mean and power LSB²/4 for any signal. Tolerances: five standard errors of the sample moments.
The levels of harmonics are arithmetic (Fourier series of a rounded sine) and were confirmed by measurement.
"""

import numpy as np
import pytest

from ripe_press.core.signal.quantise import Dither, Quantiser
from support.signals import sine_levels_db

LSB = 2.0**-15
N = 2_000_000


def codes(samples: np.ndarray, dither: Dither) -> np.ndarray:
    return (Quantiser(16, 1, dither).process(samples[:, None])[:, 0] >> 16).astype(np.float64)


def test_rounding_a_busy_signal_adds_a_twelfth_of_an_lsb_squared() -> None:
    samples = np.random.default_rng(2).standard_normal(N) * 0.1
    error = codes(samples, "none") - samples / LSB
    assert error.var() * 12 == pytest.approx(1.0, abs=0.01)
    assert abs(error.mean()) < 2.5 / np.sqrt(N)


@pytest.mark.parametrize("level_lsb", [0.0, 0.1, 0.25, 0.5, 0.75, 0.9])
def test_triangular_dither_adds_a_quarter_whatever_lies_under_it(level_lsb: float) -> None:
    error = codes(np.full(N, level_lsb * LSB), "triangular") - level_lsb
    assert abs(error.mean()) < 2.5 / np.sqrt(N)
    assert error.var() == pytest.approx(0.25, abs=2.2 / np.sqrt(N))


@pytest.mark.parametrize("bits", [8, 16, 24])
def test_the_quarter_holds_at_every_depth(bits: int) -> None:
    samples = np.random.default_rng(3).uniform(-0.5, 0.5, 500_000)
    out = Quantiser(bits, 1, "triangular").process(samples[:, None])[:, 0] >> (32 - bits)
    error = out - samples * 2 ** (bits - 1)
    assert error.var() == pytest.approx(0.25, abs=2.2 / np.sqrt(len(samples)))


def test_the_error_is_independent_of_the_signal() -> None:
    samples = 0.4 * LSB * np.sin(2 * np.pi * 997 * np.arange(N) / 44_100)
    error = codes(samples, "triangular") - samples / LSB
    for power in (1, 2):
        assert abs(np.corrcoef(error**power, samples**power)[0, 1]) < 5 / np.sqrt(N)


def test_the_dither_of_two_channels_is_independent() -> None:
    out = Quantiser(16, 2, "triangular").process(np.zeros((500_000, 2))) >> 16
    assert abs(np.corrcoef(out[:, 0], out[:, 1])[0, 1]) < 5 / np.sqrt(500_000)


def harmonics_db(dither: Dither) -> list[float]:
    seconds, rate = 60, 44_100
    samples = LSB * np.sin(2 * np.pi * 997 * np.arange(seconds * rate) / rate)
    return sine_levels_db(codes(samples, dither) * LSB, [997.0 * k for k in range(1, 12)], rate)


def test_a_sine_of_one_step_has_no_harmonics_above_the_noise() -> None:
    first, *rest = harmonics_db("triangular")
    assert first == pytest.approx(-90.31, abs=0.03)
    # 60 s of coherent noise leave -157.6 dBFS in a bin; -140 is what the check asks for.
    assert max(rest) < -140.0


def test_without_dither_the_same_sine_has_its_known_harmonics() -> None:
    levels = harmonics_db("none")
    assert levels[0] == pytest.approx(-89.46, abs=0.05)
    assert levels[4] == pytest.approx(-103.44, abs=0.05)
    assert levels[6] == pytest.approx(-106.36, abs=0.05)


def test_a_sine_below_one_step_survives_only_with_dither() -> None:
    rate = 44_100
    samples = 0.25 * LSB * np.sin(2 * np.pi * 997 * np.arange(60 * rate) / rate)
    assert not codes(samples, "none").any()
    (level,) = sine_levels_db(codes(samples, "triangular") * LSB, [997.0], rate)
    assert level == pytest.approx(-102.35, abs=0.15)


def test_signal_to_noise_of_a_full_scale_sine() -> None:
    rate = 44_100
    samples = (1 - 2 * LSB) * np.sin(2 * np.pi * 997 * np.arange(60 * rate) / rate)
    for dither, theory_db in (("none", 98.091), ("triangular", 93.319)):
        error = codes(samples, dither) * LSB - samples  # type: ignore[arg-type]
        assert -10 * np.log10(np.mean(error**2) / 0.5) == pytest.approx(theory_db, abs=0.05)
