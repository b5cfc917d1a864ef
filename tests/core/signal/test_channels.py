"""Picked sides are untouched; the mono sum follows its law (common practice, no source)."""

import numpy as np
import pytest

from ripe_press.core.signal.channels import ChannelChange, MonoLaw, Sides, mono_loss_db
from support.signals import noise, rms_db

STEREO = noise(1_000)


@pytest.mark.parametrize(
    ("sides", "expected"),
    [("left", STEREO[:, :1]), ("right", STEREO[:, 1:]), ("swapped", STEREO[:, ::-1])],
)
def test_picked_sides_are_the_same_samples(sides: Sides, expected: np.ndarray) -> None:
    change = ChannelChange(sides)
    assert np.array_equal(change.process(STEREO), expected)
    assert change.flush().shape == (0, expected.shape[1])


def test_one_channel_leaves_on_both_sides_at_its_level() -> None:
    mono = STEREO[:, :1]
    assert np.array_equal(ChannelChange("both").process(mono), np.repeat(mono, 2, axis=1))
    assert np.array_equal(ChannelChange("mono").process(mono), mono)


@pytest.mark.parametrize(("law_db", "alike_db", "unlike_db"), [(-6, 0.0, -3.01), (-3, 3.01, 0.0)])
def test_mono_sum_laws(law_db: MonoLaw, alike_db: float, unlike_db: float) -> None:
    change = ChannelChange("mono", law_db)
    left = noise(200_000, 1, seed=5)
    alike = np.repeat(left, 2, axis=1)
    assert rms_db(change.process(alike)) - rms_db(left) == pytest.approx(alike_db, abs=0.01)
    unlike = np.concatenate((left, noise(200_000, 1, seed=6)), axis=1)
    assert rms_db(change.process(unlike)) - rms_db(unlike) == pytest.approx(unlike_db, abs=0.05)


@pytest.mark.parametrize(("correlation", "loss_db"), [(1.0, 0.0), (0.0, -3.01), (-0.8, -10.0)])
def test_mono_sum_level_follows_the_correlation(correlation: float, loss_db: float) -> None:
    assert mono_loss_db(correlation, 0.0) == pytest.approx(loss_db, abs=0.01)
    assert mono_loss_db(None, None) is None


def test_sides_that_cancel_leave_nothing() -> None:
    against = np.concatenate((STEREO[:, :1], -STEREO[:, :1]), axis=1)
    assert np.abs(ChannelChange("mono").process(against)).max() == 0
    loss = mono_loss_db(-1.0, 0.0)
    assert loss is not None
    assert loss < -60
