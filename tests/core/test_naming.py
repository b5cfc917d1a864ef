import pytest
from hypothesis import given, strategies as st

from ripe_press.core.errors import BadInput
from ripe_press.core.naming import (
    MAX_NAME_BYTES,
    NameStyle,
    check_pattern,
    expand,
    file_name,
    length_label,
    rate_label,
    safe_stem,
)


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


FIELDS = {"title": "Mill/race: take", "artist": "The Sluicekeepers", "track": "3", "album": "", "number": "7"}


@pytest.mark.parametrize(
    ("pattern", "style", "name"),
    [
        ("{title}", NameStyle(), "Mill-race- take.wav"),
        ("{artist}/{track} {title}", NameStyle(), "The Sluicekeepers/03 Mill-race- take.wav"),
        ("{artist}/{album}/{number}", NameStyle(digits=3), "The Sluicekeepers/007.wav"),
        ("{artist} - {album} - {track}", NameStyle(digits=1), "The Sluicekeepers - 3.wav"),
        ("{album} - {track}", NameStyle(), "03.wav"),
        ("{artist} - {album}", NameStyle(), "The Sluicekeepers.wav"),
        ("{artist} {track}", NameStyle(case="lower", spaces="underscore"), "the_sluicekeepers_03.wav"),
        ("{artist} {track}", NameStyle(case="upper", spaces="hyphen"), "THE-SLUICEKEEPERS-03.wav"),
        ("{artist} {track}", NameStyle(spaces="none"), "TheSluicekeepers03.wav"),
        ("../../{track}", NameStyle(), "03.wav"),
        ("/etc/{album}/", NameStyle(), "etc.wav"),
        ("{album}", NameStyle(), "untitled.wav"),
    ],
)
def test_patterns_make_names_and_folders(pattern: str, style: NameStyle, name: str) -> None:
    assert file_name(pattern, FIELDS, style, ".wav") == name


_WRONG = (
    ("{colour}", "label.unknown-field"),
    (" / ", "label.empty"),
    ("{title", "label.unclosed"),
    ("}{title}", "label.unclosed"),
    ("a/b/c/d/e/f/g/{title}", "label.too-deep"),
)


def test_patterns_are_checked_before_they_are_kept() -> None:
    assert check_pattern("{artist}/{title}") == "{artist}/{title}"
    for pattern, code in _WRONG:
        with pytest.raises(BadInput) as caught:
            check_pattern(pattern)
        assert caught.value.code == code


def test_lengths_have_labels() -> None:
    assert [length_label(frames, 48_000) for frames in (48_000, 151 * 48_000, 3_723 * 48_000)] == [
        "0m01s", "2m31s", "1h02m03s"
    ]  # fmt: skip


UNSEEN = (
    "Weir\u202e3pm.exe", "We\u200bir", "\u2066Weir\u2069", "Weir\u0085x", "Weir\u2028x", "We\x1bir", "\ud800Weir",
    "\ufeffWeir",
)  # fmt: skip


@pytest.mark.parametrize("text", UNSEEN)
def test_invisible_and_bidirectional_characters_are_in_no_name(text: str) -> None:
    for name in (safe_stem(text), file_name("{title}", {"title": text}, NameStyle(), ".wav")):
        assert name.isprintable() and name.encode()
        assert not set(name) & set("\u202e\u200b\u2066\u2069\ufeff")


def test_joiners_of_a_script_are_kept() -> None:
    word = "\u0646\u0645\u06cc\u200c\u062e\u0648\u0627\u0647\u0645"
    assert safe_stem(word) == word
