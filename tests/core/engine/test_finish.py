"""The finishing chain and the stations behind it, from the mix to the samples of the file."""

from pathlib import Path

import numpy as np
import pytest
import soundfile

from ripe_press.core import stations as st
from ripe_press.core.press import PressedFile
from ripe_press.core.requests.bench import FinishChain, finish_of
from support.press import delivery_of, facts_of, pressed as press_mix
from support.signals import noise, rms_db, write

RATE = 48_000


@pytest.fixture
def mix(tmp_path: Path) -> Path:
    """Two seconds of noise, off zero on the left."""
    return write(tmp_path / "mix.wav", noise(RATE * 2, level=0.1) + np.array([0.05, 0.0]), RATE)


def pressed(mix: Path, chain: st.Finish, folder: Path, **changes: object) -> PressedFile:
    folder.mkdir()
    (file,) = press_mix(mix, folder, delivery_of(facts_of(mix), **changes), finish=chain)
    return file


def test_a_chain_becomes_a_station_with_the_offsets_of_the_mix() -> None:
    chain = FinishChain(remove_dc=True, high_pass_hz=30.0, gain_db=-2.0, ceiling_dbtp=-1.0)
    made = finish_of(chain, (0.01, -0.02))
    assert made == st.Finish(-2.0, (0.01, -0.02), 30.0, -1.0)
    assert not made.idle
    assert finish_of(FinishChain(), (0.01, -0.02)).idle


def test_offset_gain_and_limiter_are_done_in_order(mix: Path, tmp_path: Path) -> None:
    file = pressed(mix, st.Finish(12.0, (0.05, 0.0), 0.0, -3.0), tmp_path / "out")
    out = soundfile.read(file.path)[0]
    assert abs(out[:, 0].mean()) < 5e-3
    assert np.abs(out).max() <= 10 ** (-3 / 20) + 1e-6
    assert file.reduction_db is not None
    assert file.reduction_db < -3
    assert "limited_hard" in [finding.rule for finding in file.findings]


def test_a_delivery_that_leaves_the_chain_out_is_the_mix_and_says_so(mix: Path, tmp_path: Path) -> None:
    file = pressed(mix, st.Finish(-6.0), tmp_path / "out", finish=False)
    assert np.array_equal(soundfile.read(file.path)[0], soundfile.read(mix)[0])
    assert [finding.rule for finding in file.findings if finding.rule == "finish_left_out"]
    taken = pressed(mix, st.Finish(-6.0), tmp_path / "taken")
    difference = rms_db(soundfile.read(taken.path)[0]) - rms_db(soundfile.read(mix)[0])
    assert difference == pytest.approx(-6.0, abs=1e-4)


def test_gain_past_full_scale_is_reported_as_gain(mix: Path, tmp_path: Path) -> None:
    file = pressed(mix, st.Finish(20.0), tmp_path / "out", encoding="s16")
    rules = [finding.rule for finding in file.findings]
    assert "clips_as_set_out" in rules
    assert "clipped_by_conversion" not in rules
