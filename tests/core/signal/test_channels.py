import numpy as np

from ripe_press.core.signal.channels import BothSides
from support.signals import noise


def test_one_channel_is_carried_by_both_sides() -> None:
    mono = noise(100, 1)
    stereo = BothSides().process(mono)
    assert np.array_equal(stereo[:, 0], mono[:, 0])
    assert np.array_equal(stereo[:, 1], mono[:, 0])
    assert BothSides().flush().shape == (0, 2)
