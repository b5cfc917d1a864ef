"""What players make of a loudness."""

import pytest

from ripe_press.core.listening.playback import plays_at


def test_louder_source_is_turned_down_and_never_limited() -> None:
    found = plays_at(-9.0, 1.2)
    assert [one.level_lufs for one in found] == [-14, -16, -18, -23]
    assert [one.gain_db for one in found] == pytest.approx([-5, -7, -9, -14])
    assert {one.limited_db for one in found} == {0.0}
    assert found[0].sentence == "5.0 dB down"


def test_quieter_source_is_turned_up_to_1_db_below_full_scale() -> None:
    loudest = plays_at(-20.0, -3.0)[0]
    assert (loudest.gain_db, loudest.limited_db) == pytest.approx((6.0, 4.0))
    assert loudest.sentence == "6.0 dB up; peaks limited by up to 4.0 dB"
    assert plays_at(-20.0, -8.0)[0].limited_db == 0.0
    assert plays_at(-14.5, 0.4)[0].limited_db == pytest.approx(0.5)


def test_source_at_the_level_is_unchanged_and_an_unknown_one_reported() -> None:
    assert plays_at(-14.02, -1.0)[0].sentence == "unchanged"
    assert plays_at(-20.0, None)[0].sentence == "6.0 dB up, if peaks allow"
