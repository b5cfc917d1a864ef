"""What a file looks like beside what it should be: counted a second time, in the plain way."""

import numpy as np
import pytest

from ripe_press.core.measure.loudness import LoudnessMeter
from ripe_press.core.proof.against.looks import LEVELS, LEVELS_FROM_DB, MOST_COLUMNS, Looks, LooksMeter
from ripe_press.core.proof.hearing.meter import HearingMeter
from support.signals import in_blocks, noise, sine


def _looked(source: np.ndarray, test: np.ndarray, block_frames: int = 10_007) -> Looks:
    meter = LooksMeter(source.shape[1], 48_000, len(source))
    for one, other in zip(in_blocks(source, block_frames), in_blocks(test, block_frames), strict=True):
        meter.process(one, other)
    return meter.result()


def test_the_waveform_has_the_lowest_and_highest_of_every_column() -> None:
    file = noise(1_000_003, 2, 3, 0.3)
    found = _looked(file * 0.5, file)
    assert len(found.wave) <= MOST_COLUMNS
    for column in (0, 17, len(found.wave) - 1):
        part = file[column * found.frames_per_column : (column + 1) * found.frames_per_column]
        assert np.array_equal(found.wave[column], np.stack((part.min(axis=0), part.max(axis=0)), axis=1).astype("f4"))


def test_levels_are_counted_by_the_decibel() -> None:
    mix, file = noise(60_000, 2, 4, 0.2), noise(60_000, 2, 5, 0.05)
    file[100:200] = 0.0
    file[300] = 1.7
    found = _looked(mix, file)
    edges = LEVELS_FROM_DB + np.arange(LEVELS + 1)
    for counts, signal in ((found.mix_levels, mix), (found.file_levels, file)):
        with np.errstate(divide="ignore"):
            levels = 20 * np.log10(np.abs(signal))
        known, _ = np.histogram(np.minimum(levels, edges[-1] - 0.5), edges)
        assert np.array_equal(counts, known)


def test_loudness_is_that_of_the_meter() -> None:
    file = sine(997.0, 5.0, 48_000, 0.25)
    meter = LoudnessMeter(2, 48_000)
    meter.process(file)
    found = _looked(file * 2, file)
    assert found.file_loudness.integrated_lufs == pytest.approx(meter.result().integrated_lufs, abs=1e-9)
    assert found.mix_loudness.integrated_lufs - found.file_loudness.integrated_lufs == pytest.approx(6.02, abs=0.01)


def test_of_a_steady_noise_the_margin_of_all_bands_is_the_ratio() -> None:
    """Nothing changes over time, so the mean of the ratios is the ratio of the means."""
    source, other = noise(48_000 * 4, 2, 6, 0.1), noise(48_000 * 4, 2, 7, 0.001)
    meter = HearingMeter(2, 48_000)
    for one, two in zip(in_blocks(source, 50_000), in_blocks(source + other, 50_000), strict=True):
        meter.process(one, two)
    heard = meter.result()
    mean = 10 * np.log10(np.mean(10 ** (np.array(heard.margin_db) / 10)))
    assert mean == pytest.approx(heard.total_db, abs=0.5)
