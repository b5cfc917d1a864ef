"""Cells that a spreadsheet would compute: they leave with an apostrophe, and come back as they were."""

import csv
import io

import hypothesis
import pytest
from hypothesis import strategies

from ripe_press.core.formats.cells import as_cell, of_cell
from ripe_press.core.formats.marker_lists import markers_csv, parse_markers
from ripe_press.core.tags.lists import parse_sheets, sheets_csv
from ripe_press.core.timeline import Marker

FORMULAS = ("=1+1", "+44 1", "-2 dB", "@SUM(A1)", "\t=1", "'=1", "''+2", "'Twas", "=cmd|' /C calc'!A0", "plain", "")


@pytest.mark.parametrize("text", FORMULAS)
def test_no_cell_is_a_formula_and_each_comes_back(text: str) -> None:
    assert as_cell(text)[:1] not in ("=", "+", "-", "@", "\t", "\r")
    assert of_cell(as_cell(text)) == text


@hypothesis.given(strategies.text(alphabet="'=+-@\tab", max_size=6))
def test_any_text_comes_back(text: str) -> None:
    assert of_cell(as_cell(text)) == text


def test_tag_sheets_and_markers_leave_without_formulas() -> None:
    told = '=HYPERLINK("http://weir.example";"x")'
    sheets = [("-Weir", (("title", told), ("comment", "'=x")))]
    written = sheets_csv(sheets)
    assert not [cell for row in csv.reader(io.StringIO(written)) for cell in row if cell[:1] in "=+-@" and cell]
    assert parse_sheets(written) == sheets
    markers = (Marker(100, told), Marker(200, "'Twas"))
    assert parse_markers(markers_csv(markers, 48_000), 48_000) == markers
