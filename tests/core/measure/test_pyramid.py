from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.measure.pyramid import (
    BASE_FRAMES,
    PyramidMeter,
    PyramidShape,
    quietest_dbfs,
    reduce_frames,
)
from support.signals import in_blocks, noise, sine


def build(path: Path, samples: np.ndarray, size: int) -> PyramidShape:
    with path.open("w+b") as file:
        meter = PyramidMeter(samples.shape[1], file)
        for block in in_blocks(samples, size):
            meter.process(block)
        return meter.result()


@pytest.mark.parametrize("frames", [1, 255, 256, 257, 70_000])
@pytest.mark.parametrize("size", [100, 256, 16_384])
def test_every_level_holds_the_extremes_of_its_frames(tmp_path: Path, frames: int, size: int) -> None:
    samples = noise(frames).astype(np.float32).astype(np.float64)
    path = tmp_path / "pyramid.bin"
    shape = build(path, samples, size)
    assert path.stat().st_size == sum(shape.levels()) * 2 * 3 * 4
    for level, bins in enumerate(shape.levels()):
        read = shape.open_level(path, level)
        span = BASE_FRAMES * 4**level
        for number in range(bins):
            part = samples[number * span : (number + 1) * span]
            assert np.array_equal(read[number, :, 0], part.min(axis=0))
            assert np.array_equal(read[number, :, 1], part.max(axis=0))


def test_fine_bins_are_the_samples_themselves() -> None:
    samples = noise(10)
    bins = reduce_frames(samples, 1)
    assert np.array_equal(bins[:, :, 0], samples.astype(np.float32))
    assert np.array_equal(bins[:, :, 0], bins[:, :, 1])


def test_the_quietest_half_second_is_found() -> None:
    rate = 48_000
    loud, quiet = sine(1_000, 2.0, rate, 1.0), sine(1_000, 1.0, rate, 0.001)
    bins = reduce_frames(np.concatenate((loud, quiet, loud)), BASE_FRAMES)
    assert quietest_dbfs(bins, BASE_FRAMES, rate // 2) == pytest.approx(-60.0, abs=0.1)
    assert quietest_dbfs(reduce_frames(np.zeros((48_000, 2)), BASE_FRAMES), BASE_FRAMES, 24_000) == float("-inf")
