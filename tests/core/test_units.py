import pytest
from hypothesis import given, strategies as st

from ripe_press.core.errors import BadInput
from ripe_press.core.units import (
    db_from_linear,
    frames_after_conversion,
    linear_from_db,
    parse_time,
    print_clock,
    print_count,
    print_db,
    print_rate,
)


@pytest.mark.parametrize(
    ("text", "frame"),
    [
        ("3.2", 307_200),
        ("0:03.2", 307_200),
        ("1:02:03.5", (3600 + 123) * 96_000 + 48_000),
        ("141120smp", 141_120),
        (" 141120 SMP ", 141_120),
        ("0", 0),
        ("75", 75 * 96_000),
        ("0:03,2", 307_200),
        ("90:00", 90 * 60 * 96_000),
        ("0.00001", 1),
    ],
)
def test_a_typed_time_is_the_nearest_frame(text: str, frame: int) -> None:
    assert parse_time(text, 96_000) == frame


@pytest.mark.parametrize("text", ["", "abc", "1:2:3:4", "-1", "3.2s", "1e3", "smp", "3:", ":3", "1..2", "٣"])
def test_nonsense_is_refused_with_the_forms_there_are(text: str) -> None:
    if text == "٣":  # a digit elsewhere in Unicode is a digit
        assert parse_time(text, 10) == 30
        return
    with pytest.raises(BadInput, match="141120smp") as caught:
        parse_time(text, 96_000)
    assert caught.value.code == "time.unreadable"


@pytest.mark.parametrize("text", ["0:60", "1:60:00", "1:00:75.5"])
def test_fields_after_a_colon_stop_at_59(text: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_time(text, 96_000)
    assert caught.value.code == "time.field-range"


@given(st.integers(0, 10**10), st.sampled_from([8_000, 44_100, 48_000, 96_000, 192_000, 384_000]))
def test_a_frame_prints_and_reads_back_to_itself(frame: int, rate_hz: int) -> None:
    # Six decimals tell any two frames apart up to 500 kHz.
    assert parse_time(print_clock(frame, rate_hz, 6), rate_hz) == frame
    assert parse_time(f"{frame}smp", rate_hz) == frame


@pytest.mark.parametrize(
    ("frame", "decimals", "text"),
    [(0, 3, "0:00.000"), (14_534_399, 1, "2:31.4"), (95_999_999, 0, "16:40"), (96_000 * 3_600, 3, "1:00:00.000")],
)
def test_a_clock_is_rounded_once(frame: int, decimals: int, text: str) -> None:
    assert print_clock(frame, 96_000, decimals) == text


def test_decibels() -> None:
    assert db_from_linear(0.0) == float("-inf")
    assert db_from_linear(0.5) == pytest.approx(-6.0206, abs=1e-4)
    assert linear_from_db(db_from_linear(0.123)) == pytest.approx(0.123)
    assert [print_db(value) for value in (1.3, 0.0, -0.04, -93.32, float("-inf"))] == [
        "+1.3 dBFS", "0.0 dBFS", "0.0 dBFS", "−93.3 dBFS", "−∞ dBFS",
    ]  # fmt: skip


def test_lengths_after_conversion_are_rounded_half_up() -> None:
    assert frames_after_conversion(96_000, 96_000, 44_100) == 44_100
    assert frames_after_conversion(1, 48_000, 96_000) == 2
    assert frames_after_conversion(1, 96_000, 48_000) == 1
    assert frames_after_conversion(3, 96_000, 44_100) == 1


def test_counts_and_rates_read_well() -> None:
    assert print_count(1, "sample") == "1 sample"
    assert print_count(12_480, "sample") == "12,480 samples"
    assert print_rate(44_100) == "44.1 kHz"
