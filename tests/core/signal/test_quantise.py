import numpy as np
import pytest

from ripe_press.core.signal.quantise import Quantiser, added_noise_dbfs
from support.signals import noise


@pytest.mark.parametrize("bits", [8, 16, 20, 24, 32])
def test_codes_on_the_grid_pass_unchanged(bits: int) -> None:
    top = 2 ** (bits - 1)
    codes = np.array([[-top], [-1], [0], [1], [top - 1]], dtype=np.int64)
    out = Quantiser(bits, 1, "none").process(codes / top)
    assert np.array_equal(out.astype(np.int64) >> (32 - bits), codes)


def test_overs_are_clipped_at_the_last_code_and_counted() -> None:
    quantiser = Quantiser(16, 1, "none")
    out = quantiser.process(np.array([[1.0], [1.5], [-1.0], [-1.2], [0.0]])) >> 16
    assert out.ravel().tolist() == [32767, 32767, -32768, -32768, 0]
    # -1.0 is a code of its own; +1.0 is one step too many.
    assert quantiser.clipped_samples == 3


def test_rounding_is_to_the_nearest_not_down() -> None:
    out = Quantiser(16, 1, "none").process(np.array([[0.6], [-0.6], [1.4], [-1.4]]) / 32768) >> 16
    assert out.ravel().tolist() == [1, -1, 1, -1]


def test_the_same_mix_gives_the_same_integers_twice() -> None:
    samples = noise(5000)
    first, second = (Quantiser(16, 2, "triangular").process(samples) for _ in range(2))
    assert np.array_equal(first, second)
    assert not np.array_equal(first, Quantiser(16, 2, "triangular", (3, 4)).process(samples))


def test_noise_levels_are_those_of_the_handbooks() -> None:
    # 16 bits: 98.09 dB below a full-scale sine when rounded, 93.32 dB with triangular dither.
    assert added_noise_dbfs(16, "none") == pytest.approx(-98.091, abs=0.001)
    assert added_noise_dbfs(16, "triangular") == pytest.approx(-93.319, abs=0.001)
