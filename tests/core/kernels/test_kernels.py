"""The machine code against the same computation in plain numpy."""

import numpy as np
import pytest

from ripe_press.core.kernels.bins import add_products, reduce
from ripe_press.core.kernels.limiter import extreme, smooth_gain
from ripe_press.core.kernels.loudness import accumulate
from ripe_press.core.kernels.true_peak import search
from ripe_press.core.oversampling import between
from support.signals import noise


def test_bins_and_products() -> None:
    samples = noise(1_000)
    out = np.empty((4, 2, 3), dtype=np.float32)
    reduce(samples, 256, out)
    assert np.allclose(out[3, :, 2], (samples[768:] ** 2).mean(axis=0))
    assert np.array_equal(out[1, :, 0], samples[256:512].min(axis=0).astype(np.float32))
    sums, products = np.zeros(2), np.zeros((2, 2))
    add_products(samples, sums, products)
    assert np.allclose(sums, samples.sum(axis=0))
    assert np.allclose(products, np.triu(samples.T @ samples))


def test_energies_of_open_filters_are_plain_sums_of_squares() -> None:
    samples = noise(1_000)
    weighted, plain = np.empty((10, 2)), np.empty((10, 2))
    done, filled = accumulate(
        samples,
        np.array([1.0, 0, 0, 0, 0]),
        np.array([-2.0, 1.0]),
        np.zeros((2, 4)),
        np.zeros((2, 2)),
        0,
        100,
        weighted,
        plain,
    )
    assert (done, filled) == (10, 0)
    assert np.allclose(plain, (samples.reshape(10, 100, 2) ** 2).sum(axis=1))
    # Poles on the zeros cancel: the weighting changes nothing.
    assert np.allclose(weighted, plain)


def test_the_largest_interpolated_value_is_that_of_a_full_convolution() -> None:
    phases = between(44_100)
    samples = noise(2_000, 1)[:, 0].astype(np.float32)
    every = np.array([np.convolve(samples, row[::-1], mode="valid") for row in phases])
    peak, place = search(samples, phases, np.float32(100.0), np.float32(0.0))
    assert np.isclose(peak, np.abs(every).max(), atol=1e-6)
    assert place == int(np.abs(every).max(axis=0).argmax())
    assert search(samples, phases, np.float32(100.0), np.float32(9.0))[1] == -1


def test_gains_are_smoothed_as_whole_numbers_divide() -> None:
    """Rounded down to the last bit, so that no average exceeds the required gain, and 1 stays 1."""
    one = 1 << 30
    wanted = np.minimum(1.0, np.abs(noise(6_000, 1, 3)[:, 0]) * 4)
    wanted[:1_500] = wanted[-1_500:] = 1.0
    for length in (2, 111, 961):
        box, sums = np.full((2, length), one), np.full(2, one * length)
        out = np.empty(len(wanted))
        smooth_gain(wanted, 0.01, box, np.array([1.0, 0.0]), sums, out)
        gain, rings, totals = 1.0, [[one] * length, [one] * length], [one * length] * 2
        for at, least in enumerate(wanted):
            gain = min(float(least), gain + (1.0 - gain) * 0.01)
            value = int(np.floor(gain * one))
            for stage, ring in enumerate(rings):
                totals[stage] += value - ring[at % length]
                ring[at % length] = value
                value = totals[stage] // length
            assert out[at] == value / one
        assert out[1_000] == 1.0


@pytest.mark.parametrize("width", [1, 2, 7, 64, 257])
@pytest.mark.parametrize("frames", [257, 300, 1_000])
def test_extremes_are_those_of_every_window(width: int, frames: int) -> None:
    values = np.random.default_rng(width).random(frames)
    windows = np.lib.stride_tricks.sliding_window_view(values, width)
    out = np.empty(frames - width + 1)
    for highest, expected in ((True, windows.max(axis=1)), (False, windows.min(axis=1))):
        extreme(values, width, highest, out)
        assert np.array_equal(out, expected)
