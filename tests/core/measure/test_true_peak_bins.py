import numpy as np
import pytest

from ripe_press.core.measure.true_peak import TRUE_PEAK_BIN, TruePeakBins, TruePeakMeter
from support.signals import in_blocks, noise


@pytest.mark.parametrize("rate_hz", [44_100, 96_000, 192_000])
@pytest.mark.parametrize("size", [1_000, 8_192, 50_000])
def test_the_largest_bin_is_the_true_peak_however_blocks_fall(rate_hz: int, size: int) -> None:
    samples = noise(60_000, seed=rate_hz)
    bins, meter = TruePeakBins(2, rate_hz), TruePeakMeter(2, rate_hz)
    for block in in_blocks(samples, size):
        bins.process(block)
        meter.process(block)
    whole, found = bins.result()
    assert len(found) == -(-60_000 // TRUE_PEAK_BIN)
    assert found.max() == pytest.approx(meter.result().peak_linear, rel=1e-6)
    assert whole.peak_linear == pytest.approx(meter.result().peak_linear, rel=1e-6)
    assert (whole.peak_frame, whole.peak_channel) == (meter.result().peak_frame, meter.result().peak_channel)


def test_a_peak_between_samples_is_in_its_own_bin() -> None:
    # A quarter of the rate, an eighth of a turn late: samples at 0.707 of a true peak of 1.
    samples = np.zeros((TRUE_PEAK_BIN * 4, 1))
    samples[TRUE_PEAK_BIN * 2 + 500 :][:4_000, 0] = np.sin(np.arange(4_000) * np.pi / 2 + np.pi / 4)
    bins = TruePeakBins(1, 48_000)
    bins.process(samples)
    assert [value > 0.98 for value in bins.result()[1]] == [False, False, True, False]


@pytest.mark.parametrize(("more", "count"), [(0, 2), (1, 3), (5_000, 3)])
def test_the_last_bin_has_its_own_peak_and_what_rings_after_it(more: int, count: int) -> None:
    samples = np.full((TRUE_PEAK_BIN * 2 + more, 1), 0.1)
    samples[-1] = 0.9
    meter = TruePeakBins(1, 48_000)
    meter.process(samples)
    best, bins = meter.result()
    assert len(bins) == count and bins[0] < 0.2
    assert bins[-1] == pytest.approx(best.peak_linear) and best.peak_linear >= 0.9
    assert best.peak_frame >= len(samples) - 20
