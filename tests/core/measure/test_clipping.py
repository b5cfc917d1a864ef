import numpy as np
import pytest

from ripe_press.core.measure import clipping
from ripe_press.core.measure.clipping import ClippedRun, ClippingMeter, ClippingResult, full_scale_of
from support.signals import in_blocks


def measure(samples: np.ndarray, size: int, full_scale: float = 1.0, first_frame: int = 0) -> ClippingResult:
    meter = ClippingMeter(samples.shape[1], full_scale, first_frame)
    for block in in_blocks(samples, size):
        meter.process(block)
    return meter.result()


@pytest.mark.parametrize("size", [1, 2, 3, 50, 51, 1000])
def test_runs_are_the_same_however_the_blocks_fall(size: int) -> None:
    samples = np.zeros((200, 2))
    samples[48:53, 0] = [1.0, 1.2, 1.0, -1.0, 1.0]
    samples[100, 1] = -1.01
    samples[150:152, 0] = 1.0  # two at full scale are a loud peak, not a clip
    samples[197:200, 1] = -1.0
    result = measure(samples, size)
    assert result.runs == (ClippedRun(48, 5, 0, 1), ClippedRun(100, 1, 1, 1), ClippedRun(197, 3, 1, 0))
    assert (result.clipped_samples, result.overs, result.complete) == (9, 2, True)


def test_places_count_from_the_first_frame() -> None:
    samples = np.array([[0.0], [1.5]])
    assert measure(samples, 2, first_frame=100).runs == (ClippedRun(101, 1, 0, 1),)


def test_a_stretch_takes_its_share_of_a_run() -> None:
    samples = np.full((20, 1), 0.0)
    samples[5:15] = 1.5
    part = measure(samples, 20).within(10, 12)
    assert (part.clipped_samples, part.overs, part.runs[0].start_frame) == (2, 2, 10)
    assert measure(samples, 20).within(15, 20).runs == ()


def test_integers_are_clipped_at_their_last_code() -> None:
    assert full_scale_of(16, is_float=False) == 32767 / 32768
    assert full_scale_of(24, is_float=False) == 32767 / 32768
    assert full_scale_of(8, is_float=False) == 127 / 128
    assert full_scale_of(32, is_float=True) == full_scale_of(None, is_float=False) == 1.0


def test_more_runs_than_are_kept_are_still_counted(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(clipping, "MOST_RUNS_KEPT", 3)
    samples = np.zeros((20, 1))
    samples[::2] = 1.1
    result = measure(samples, 7)
    assert (result.clipped_samples, len(result.runs), result.complete) == (10, 3, False)
