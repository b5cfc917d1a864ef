from fractions import Fraction

import pytest
from hypothesis import given, strategies as st

from ripe_press.core.errors import BadInput
from ripe_press.core.timeline import (
    TempoChange,
    TempoMap,
    parse_metre,
    parse_place,
)

STEADY = TempoMap((TempoChange(1, 84.0),), first_bar_frame=297_600)
# Worked by hand: 4 bars of 4/4 at 120 are 8 s; 2 bars of 6/8 at 90 quarters a minute are 2 x 6 x 1/3 s = 4 s; then 60.
CHANGING = TempoMap((TempoChange(1, 120.0), TempoChange(5, 90.0, 6, 8), TempoChange(7, 60.0, 3, 4)))


@pytest.mark.parametrize(
    ("bar", "beat", "seconds"),
    [(1, 1, 0.0), (2, 1, 2.0), (4, 3, 7.0), (5, 1, 8.0), (5, 4, 9.0), (7, 1, 12.0), (7, 3, 14.0), (9, 1, 18.0)],
)
def test_tempo_and_metre_changes_by_hand(bar: int, beat: int, seconds: float) -> None:
    frame = CHANGING.frame_of(bar, beat, Fraction(0), 48_000)
    assert frame == seconds * 48_000
    assert CHANGING.place_of(frame, 48_000) == (bar, beat, 0.0)


def test_bars_do_not_drift() -> None:
    # A bar of 4/4 at 84 is 20/7 s: no whole number of frames, yet bar 701 lies exactly 2000 s after bar 1.
    assert STEADY.frame_of(701, 1, Fraction(0), 96_000) == 297_600 + 2000 * 96_000


@given(st.integers(0, 10**9), st.sampled_from([44_100, 48_000, 96_000]))
def test_a_frame_prints_in_bars_and_lies_where_it_says(frame: int, rate_hz: int) -> None:
    bar, beat, fraction = CHANGING.place_of(frame, rate_hz)
    assert abs(CHANGING.frame_of(bar, beat, Fraction(fraction).limit_denominator(10**9), rate_hz) - frame) <= 1


def test_places_before_bar_one_have_bars_too() -> None:
    assert STEADY.place_of(0, 96_000)[0] < 1


@pytest.mark.parametrize(
    ("text", "frame"),
    [
        ("b17", 1_536_000),
        ("b17.1", 1_536_000),
        ("b17.3.5", 1_596_000),
        ("b17.3.500", 1_596_000),
        # As it was written before.
        ("17|", 1_536_000),
        ("17|3|0.5", 1_596_000),
        ("45cdf", 28_800),
        ("1:00cdf", 48_000),
        ("2:31:45cdf", 151 * 48_000 + 28_800),
        ("3.2", 153_600),
        ("141120smp", 141_120),
    ],
)
def test_any_unit_is_read(text: str, frame: int) -> None:
    assert parse_place(text, 48_000, TempoMap((TempoChange(1, 120.0),))) == frame


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("b17.5", "bars.outside"),
        ("b0.1", "bars.outside"),
        ("1:75cdf", "time.field-range"),
        ("1:99:00cdf", "time.field-range"),
        ("soon", "time.unreadable"),
    ],
)
def test_places_that_are_not_there_are_refused(text: str, code: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_place(text, 48_000, CHANGING)
    assert caught.value.code == code


def test_bars_need_a_tempo_and_maps_an_order() -> None:
    with pytest.raises(BadInput, match="tempo"):
        parse_place("b17.1", 48_000)
    for changes in ((), (TempoChange(2, 90.0),), (TempoChange(1, 90.0), TempoChange(1, 80.0)), (TempoChange(1, 2.0),)):
        with pytest.raises(BadInput):
            TempoMap(changes)


def test_metres() -> None:
    assert [parse_metre(text) for text in ("4/4", "6/8", " 7/16 ")] == [(4, 4), (6, 8), (7, 16)]
    for text in ("4", "0/4", "4/5", "four"):
        with pytest.raises(BadInput):
            parse_metre(text)


def test_bar_lines_by_hand() -> None:
    assert [CHANGING.bar_frame(bar, 48_000) for bar in (1, 5, 7)] == [0, 8 * 48_000, 12 * 48_000]
    assert CHANGING.bar_at(8 * 48_000, 48_000) == 5
    assert CHANGING.bar_at(8 * 48_000 + 1, 48_000) is None
    assert CHANGING.last_bar_line(12 * 48_000 - 1, 48_000) == 6
    # 4/4 to bar 5, 6/8 to bar 7, then 3/4.
    assert [beats for _, beats in CHANGING.grid(15 * 48_000, 48_000)] == [4, 4, 4, 4, 6, 6, 3, 3]
    assert STEADY.bar_at(0, 96_000) is None


@given(st.integers(1, 5_000), st.sampled_from([44_100, 48_000, 96_000]), st.floats(30, 300))
def test_every_bar_line_is_found_again(bar: int, rate_hz: int, tempo_bpm: float) -> None:
    tempo = TempoMap((TempoChange(1, round(tempo_bpm, 3)),), 777)
    assert tempo.bar_at(tempo.bar_frame(bar, rate_hz), rate_hz) == bar
