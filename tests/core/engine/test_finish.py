"""The finishing chain and the stations behind it, from the mix to the samples of the file."""

from pathlib import Path

import numpy as np
import pytest
import soundfile

from ripe_press.core.bench import FinishChain, finish_of
from ripe_press.core.briefs.library import BLANK
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.delivery import Changes
from ripe_press.core.engine.describe import MixKnowledge, describe, level_words
from ripe_press.core.engine.edges import Stretch
from ripe_press.core.engine.resolve import resolve
from ripe_press.core.formats.reader import SourceFacts, SourceReader
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.press import PressedFile, PressOrder, press
from support.signals import noise, rms_db, write

RATE = 48_000


@pytest.fixture
def mix(tmp_path: Path) -> Path:
    """Two seconds of noise, off zero on the left."""
    return write(tmp_path / "mix.wav", noise(RATE * 2, level=0.1) + np.array([0.05, 0.0]), RATE)


def pressed(mix: Path, finish: st.Finish, changes: Changes, target: Path) -> PressedFile:
    with SourceReader(mix) as reader:
        facts: SourceFacts = reader.facts
    delivery = changes.applied_to(BLANK.delivery(Stretch(0, facts.frames), facts))
    paths = resolve(delivery, facts, "Millrace", finish)
    order = PressOrder(paths, (BLANK,) * len(paths), (str(target),), finish)
    (file,) = press(order, lambda _d, _t: None, lambda: False)
    return file


def test_a_chain_becomes_a_station_with_the_offsets_of_the_mix() -> None:
    chain = FinishChain(remove_dc=True, high_pass_hz=30.0, gain_db=-2.0, ceiling_dbtp=-1.0)
    made = finish_of(chain, (0.01, -0.02))
    assert made == st.Finish(-2.0, (0.01, -0.02), 30.0, -1.0)
    assert not made.idle
    assert finish_of(FinishChain(), (0.01, -0.02)).idle


def test_offset_gain_and_limiter_are_done_in_order(mix: Path, tmp_path: Path) -> None:
    file = pressed(mix, st.Finish(12.0, (0.05, 0.0), 0.0, -3.0), Changes(), tmp_path / "out.wav")
    out = soundfile.read(file.path)[0]
    assert abs(out[:, 0].mean()) < 5e-3
    assert np.abs(out).max() <= 10 ** (-3 / 20) + 1e-6
    assert file.reduction_db is not None
    assert file.reduction_db < -3
    assert "limited_hard" in [finding.rule for finding in file.findings]


def test_a_delivery_that_leaves_the_chain_out_is_the_mix_and_says_so(mix: Path, tmp_path: Path) -> None:
    file = pressed(mix, st.Finish(-6.0), Changes(finish=False), tmp_path / "out.wav")
    assert np.array_equal(soundfile.read(file.path)[0], soundfile.read(mix)[0])
    assert [finding.rule for finding in file.findings if finding.rule == "finish_left_out"]
    taken = pressed(mix, st.Finish(-6.0), Changes(), tmp_path / "taken.wav")
    difference = rms_db(soundfile.read(taken.path)[0]) - rms_db(soundfile.read(mix)[0])
    assert difference == pytest.approx(-6.0, abs=1e-4)


def test_raised_past_full_scale_is_told_as_such(mix: Path, tmp_path: Path) -> None:
    file = pressed(mix, st.Finish(20.0), Changes(encoding="s16"), tmp_path / "out.wav")
    rules = [finding.rule for finding in file.findings]
    assert "clips_as_set_out" in rules
    assert "clipped_by_conversion" not in rules


SOURCE = st.Source("/mix.wav", RATE, 2, RATE, 24, "pcm")
KNOWN = MixKnowledge(signal=SignalResult(-1.0, -0.5, -18.0))


def test_working_stations_say_what_they_do_to_this_mix() -> None:
    finish = describe(st.Finish(-2.0, (0.01,), 30.0, -1.0), SOURCE, KNOWN)
    assert finish.detail == "4 steps"
    assert "high-pass at 30 Hz, then −2.0 dB of gain" in finish.sentence
    mono = describe(st.Channels("mono", -3), SOURCE, KNOWN)
    assert (mono.label, mono.detail) == ("Mono sum", "−3 dB")
    right = describe(st.Channels("right", split=True), SOURCE, KNOWN)
    assert right.detail == "of a pair"
    level = describe(st.Level("loudness", -14.0, -1.0), SOURCE, KNOWN)
    assert (level.label, level.detail) == ("−14.0 LUFS", "≈ +4.0 dB")
    assert ("Limited by", "−4.5 dB") in level.figures
    settled = describe(st.Level("peak", -0.3, gain_db=0.7, group="album"), SOURCE, KNOWN)
    assert settled.detail == "+0.7 dB"
    assert "'album'" in settled.sentence
    assert describe(st.Measure(), SOURCE, KNOWN).idle


@pytest.mark.parametrize(
    ("level", "words"),
    [
        (st.Level("peak", -0.3), "peak −0.3 dBFS"),
        (st.Level("true-peak", -1.0), "−1.0 dBTP"),
        (st.Level("loudness", -23.0), "−23.0 LUFS"),
    ],
)
def test_a_level_in_words(level: st.Level, words: str) -> None:
    assert level_words(level) == words
