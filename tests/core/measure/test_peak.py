import numpy as np

from ripe_press.core.measure.peak import PeakMeter
from support.signals import in_blocks


def test_the_peak_is_found_with_its_place_in_any_block() -> None:
    samples = np.zeros((10_000, 2))
    samples[7_777, 1] = -0.75
    samples[9_000, 0] = 0.5
    for size in (1_000, 7_778, 10_000):
        meter = PeakMeter(2)
        for block in in_blocks(samples, size):
            meter.process(block)
        result = meter.result()
        assert (result.peak_linear, result.peak_frame, result.peak_channel) == (0.75, 7_777, 1)
        assert result.channel_peaks == (0.5, 0.75)
        assert result.frames == 10_000


def test_silence_has_no_level() -> None:
    meter = PeakMeter(1)
    meter.process(np.zeros((5, 1)))
    assert meter.result().sample_peak_dbfs == float("-inf")
