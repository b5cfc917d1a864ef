from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.errors import Interrupted
from ripe_press.core.survey import survey
from support.signals import sine, write


def test_one_pass_finds_peak_clipping_and_silence(tmp_path: Path) -> None:
    samples = np.concatenate((np.zeros((4_800, 2)), sine(1_000, 1.0, 48_000, 0.5), np.zeros((9_600, 2))))
    samples[10_000, 1] = 1.25
    result = survey(write(tmp_path / "mix.wav", samples, 48_000), tmp_path / "pyramid.bin")
    assert (result.peak.peak_linear, result.peak.peak_frame) == (1.25, 10_000)
    assert result.clipping.overs == 1
    assert abs(result.silence.head_frames - 4_800) <= 1
    assert abs(result.silence.tail_frames - 9_600) <= 1
    assert (tmp_path / "pyramid.bin").stat().st_size > 0


def test_a_cancelled_survey_leaves_no_pyramid(mix: Path, tmp_path: Path) -> None:
    with pytest.raises(Interrupted):
        survey(mix, tmp_path / "pyramid.bin", should_stop=lambda: True)
    assert not (tmp_path / "pyramid.bin").exists()
