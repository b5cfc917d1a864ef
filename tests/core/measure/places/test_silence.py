import numpy as np
import pytest

from ripe_press.core.measure.places.silence import SILENT_BELOW_DBFS, SilenceMeter
from ripe_press.core.units import linear_from_db
from support.signals import in_blocks


def measure(samples: np.ndarray, size: int = 64) -> tuple[int, int]:
    meter = SilenceMeter()
    for block in in_blocks(samples, size):
        meter.process(block)
    result = meter.result()
    return result.head_frames, result.tail_frames


@pytest.mark.parametrize("size", [1, 7, 64, 1000])
def test_sound_in_either_channel_counts(size: int) -> None:
    samples = np.zeros((1000, 2))
    samples[300, 1] = 0.1
    samples[699, 0] = -0.1
    assert measure(samples, size) == (300, 300)


def test_the_threshold_is_where_it_is_said_to_be() -> None:
    limit = linear_from_db(SILENT_BELOW_DBFS)
    samples = np.full((10, 1), limit * 0.999)
    assert measure(samples) == (10, 10)
    samples[4] = limit * 1.001
    assert measure(samples) == (4, 5)


def test_sounding_is_empty_for_silence() -> None:
    meter = SilenceMeter()
    meter.process(np.zeros((9, 1)))
    assert meter.result().sounding == (0, 0)
