from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ripe_press.core.errors import BadInput
from ripe_press.core.naming import MAX_NAME_BYTES, expand, numbered, rate_label, safe_stem


def test_fields_are_filled_in_and_unknown_ones_named() -> None:
    assert expand("{title} {rate}", {"title": "Millrace", "rate": "44k1"}) == "Millrace 44k1"
    with pytest.raises(BadInput, match="rate, title") as caught:
        expand("{tempo}", {"title": "Millrace", "rate": "44k1"})
    assert caught.value.facts["field"] == "tempo"


@pytest.mark.parametrize(
    ("text", "safe"),
    [
        ("Millrace", "Millrace"),
        ("a/b\\c:d", "a-b-c-d"),
        ("  dots and space. . ", "dots and space"),
        ("CON", "CON-"),
        ("lpt1.txt", "lpt1.txt-"),
        ("...", "untitled"),
        ("e\u0301clair", "\u00e9clair"),
    ],
)
def test_names_are_made_safe(text: str, safe: str) -> None:
    assert safe_stem(text) == safe


@given(st.text(max_size=400))
def test_any_text_becomes_a_name_that_can_be_made(text: str) -> None:
    stem = safe_stem(text)
    assert 0 < len(stem.encode(errors="surrogatepass")) <= MAX_NAME_BYTES
    assert not set(stem) & set('<>:"/\\|?*\0')
    assert stem == safe_stem(stem)


def test_rates_have_labels_without_a_point() -> None:
    assert [rate_label(hz) for hz in (44_100, 96_000, 22_050, 8_000)] == ["44k1", "96k", "22k05", "8k"]


def test_a_taken_name_gets_a_number(tmp_path: Path) -> None:
    first = tmp_path / "Millrace.wav"
    assert numbered(first) == first
    first.touch()
    second = tmp_path / "Millrace (2).wav"
    assert numbered(first) == second
    assert numbered(first, frozenset([second])) == tmp_path / "Millrace (3).wav"
