"""Frame rates and timecode against the counts of SMPTE ST 12-1 (values from memory of the text, and by hand)."""

from fractions import Fraction

import pytest

from ripe_press.core.errors import BadInput
from ripe_press.core.handoff.frame_rate import RATES, parse_frame_rate


@pytest.mark.parametrize(
    ("rate", "frame", "said"),
    [
        ("29.97df", 1_799, "00:00:59;29"),
        # The first two numbers of a minute are left out, but for each tenth.
        ("29.97df", 1_800, "00:01:00;02"),
        ("29.97df", 3_597, "00:01:59;29"),
        ("29.97df", 3_598, "00:02:00;02"),
        ("29.97df", 17_981, "00:09:59;29"),
        ("29.97df", 17_982, "00:10:00;00"),
        ("29.97df", 107_892, "01:00:00;00"),
        ("59.94df", 3_600, "00:01:00;04"),
        ("59.94df", 215_784, "01:00:00;00"),
        ("29.97", 107_892, "00:59:56:12"),
        ("25", 90_000, "01:00:00:00"),
        ("23.976", 86_400, "01:00:00:00"),
        ("24", 24 * 86_400, "00:00:00:00"),
        ("60", 61, "00:00:01:01"),
    ],
)
def test_timecode(rate: str, frame: int, said: str) -> None:
    assert parse_frame_rate(rate).timecode(frame) == said


def test_an_hour_of_the_clock_is_an_hour_of_drop_frame() -> None:
    """108 numbers of 107,892 frames are omitted: the rest differs from the clock by 3.6 ms."""
    rate = parse_frame_rate("29.97df")
    seconds = Fraction(107_892) / rate.exact
    assert abs(seconds - 3600) < Fraction(1, 250) and rate.frame_at(3600 * 48_000, 48_000) == 107_892


def test_every_rate_is_said_as_the_trade_says_it() -> None:
    assert [one.name for one in RATES.values()] == [
        "23.976", "24", "25", "29.97", "29.97 drop frame", "30", "48", "50", "59.94", "59.94 drop frame", "60",
    ]  # fmt: skip
    assert parse_frame_rate("23.98") == parse_frame_rate(" 23.976 ")
    with pytest.raises(BadInput, match="not a frame rate"):
        parse_frame_rate("26")
