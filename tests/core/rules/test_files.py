"""Checks of the tag sheet."""

import pytest

from ripe_press.core.rules.checks.files import problems


@pytest.mark.parametrize(
    ("field", "wrong", "right"),
    [
        ("isrc", "QZWLT26", "QZ-WLT-26-00001"),
        ("barcode", "6291041500214", "6291041500213"),
        ("date", "18.9.2026", "2026-09"),
        ("date", "2026-13-01", "2026"),
        ("track", "A1", "1"),
        ("track", "13/12", "12/12"),
        ("tempo", "fast", "84.5"),
        ("tempo", "2000", "120"),
        ("key", "H", "F#m"),
        ("language", "english", "eng"),
        ("contact_email", "weir", "hello@weir.example"),
        ("web", "weir.example", "https://weir.example"),
    ],
)
def test_fields_are_held_to_their_rules(field: str, wrong: str, right: str) -> None:
    ((found, sentence),) = problems(((field, wrong),))
    assert found == field
    assert wrong in sentence
    assert problems(((field, right),)) == ()
