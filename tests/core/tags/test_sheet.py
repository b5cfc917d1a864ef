import json
from pathlib import Path

import pytest
from hypothesis import given, strategies as st

from ripe_press.core.errors import BadInput
from ripe_press.core.tags.lists import parse_sheets, read_sheet, sheets_csv, sheets_json, split_tag
from ripe_press.core.tags.sheet import FIELDS, in_order, merged, of_total
from support.formats import SHEET

TWO = [("Millrace", SHEET), ("Eel, Ladder", (("title", 'He said "no"'), ("comment", "two\nlines")))]


def test_a_sheet_is_in_order_and_has_no_empty_lines() -> None:
    assert in_order({"artist": " The  Sluicekeepers\t", "title": "Millrace", "album": "  "}) == (
        ("title", "Millrace"), ("artist", "The Sluicekeepers"),
    )  # fmt: skip
    assert in_order({"lyrics": "one\r\ntwo\x00"}) == (("lyrics", "one\ntwo"),)


@pytest.mark.parametrize(
    ("values", "code"), [({"colour": "red"}, "tags.unknown-field"), ({"isrc": "Q" * 16}, "tags.too-long")]
)
def test_unknown_field_is_rejected(values: dict[str, str], code: str) -> None:
    with pytest.raises(BadInput) as caught:
        in_order(values)
    assert caught.value.code == code


def test_override_replaces_a_field_and_an_empty_one_removes_it() -> None:
    sheet = (("title", "Millrace"), ("artist", "The Sluicekeepers"))
    assert merged(sheet, (("title", "Millrace, edit"), ("artist", ""))) == (("title", "Millrace, edit"),)


@pytest.mark.parametrize(("text", "pair"), [("3/12", (3, 12)), (" 3 ", (3, 0)), ("A1", (0, 0)), ("3/", (0, 0))])
def test_numbers_of_totals(text: str, pair: tuple[int, int]) -> None:
    assert of_total(text) == pair


@pytest.mark.parametrize("form", [sheets_json, sheets_csv])
def test_sheets_go_out_and_come_back(form: object) -> None:
    assert parse_sheets(form(TWO)) == TWO  # type: ignore[operator]


@given(st.dictionaries(st.sampled_from(list(FIELDS)), st.text(max_size=3)))
def test_any_sheet_survives_both_forms(values: dict[str, str]) -> None:
    sheet = in_order(values)
    for text in (sheets_json([("Millrace", sheet)]), sheets_csv([("Millrace", sheet)])):
        assert parse_sheets(text) == [("Millrace", sheet)]


def test_foreign_files_are_understood(tmp_path: Path) -> None:
    assert parse_sheets("Title;Artist\nMillrace;The Sluicekeepers\n") == [
        ("", (("title", "Millrace"), ("artist", "The Sluicekeepers")))
    ]
    assert parse_sheets(json.dumps({"title": "Millrace"})) == [("", (("title", "Millrace"),))]
    path = tmp_path / "sheets.json"
    path.write_text("\ufeff" + sheets_json(TWO), encoding="utf-8")
    assert read_sheet(path, "millrace.wav") == SHEET
    with pytest.raises(BadInput, match="none named “Nowhere”"):
        read_sheet(path, "Nowhere.wav")


@pytest.mark.parametrize("text", ["{", "[1]", '{"sheets": 3}', "colour,size\nred,3\n", '{"colour": "red"}', ""])
def test_invalid_sheet_is_rejected(text: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_sheets(text)
    assert caught.value.message.endswith(".")


def test_files_that_cannot_be_read_are_refused(tmp_path: Path) -> None:
    (tmp_path / "a.json").write_bytes(b"\xff\xfe\xfa")
    for name, words in (("a.json", "UTF-8"), ("missing.json", "No such file")):
        with pytest.raises(BadInput, match=words):
            read_sheet(tmp_path / name, "Millrace")


def test_typed_tags() -> None:
    assert split_tag("Contact-Name=Penn=Stock") == ("contact_name", "Penn=Stock")
    for text in ("title", "colour=red", "=x"):
        with pytest.raises(BadInput, match="KEY=VALUE"):
            split_tag(text)
