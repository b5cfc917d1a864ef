"""Every rule about what is set out: once where it fires, once where it stays quiet."""

from ripe_press.core.engine import stations as st
from ripe_press.core.rules.brief import (
    clips_as_set_out,
    finish_left_out,
    limited_hard,
    mono_cancels,
    rounded_without_dither,
)

SOURCE = st.Source("/mix.wav", 48_000, 2, 480, 24, "pcm")
CUT = st.Range(0, 480, 480)
CHAIN = st.Finish(gain_db=-3.0)


def test_a_finish_that_is_left_out() -> None:
    found = finish_left_out((SOURCE, CUT), CHAIN)
    assert found is not None
    assert found.rule == "finish_left_out"
    assert finish_left_out((SOURCE, CUT, CHAIN), CHAIN) is None
    assert finish_left_out((SOURCE, CUT), st.Finish()) is None


def test_sides_that_cancel() -> None:
    summed = (SOURCE, CUT, st.Channels("mono"))
    found = mono_cancels(summed, -9.0)
    assert found is not None
    assert "9.0 dB quieter" in found.sentence
    assert mono_cancels(summed, -1.0) is None
    assert mono_cancels((SOURCE, CUT), -9.0) is None


def test_rounding_without_dither() -> None:
    found = rounded_without_dither((SOURCE, CUT, st.Depth(16, "none", "", exact=False)))
    assert found is not None
    assert rounded_without_dither((SOURCE, CUT, st.Depth(16, "none", "", exact=True))) is None
    assert rounded_without_dither((SOURCE, CUT, st.Depth(16, "triangular", "", exact=False))) is None


def test_hard_limiting() -> None:
    found = limited_hard(-8.0)
    assert found is not None
    assert "8.0 dB" in found.sentence
    assert limited_hard(-2.0) is None
    assert limited_hard(None) is None


def test_a_level_that_clips() -> None:
    raised = (SOURCE, CUT, CHAIN, st.Depth(16, "triangular", "", exact=False))
    found = clips_as_set_out(raised, 1.2)
    assert found is not None
    assert "+1.2 dBFS" in found.sentence
    pressed = clips_as_set_out(raised, None, 12)
    assert pressed is not None
    assert "12 samples" in pressed.sentence
    assert clips_as_set_out(raised, -0.1) is None
    assert clips_as_set_out(raised[:-1], 1.2) is None
    assert clips_as_set_out((SOURCE, CUT, raised[-1]), 1.2) is None
