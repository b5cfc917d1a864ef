from dataclasses import replace

import pytest

from ripe_press.core.errors import BadInput
from ripe_press.core.requests.document import VERSION, Document, document_from, document_row
from ripe_press.core.requests.from_command_line import parse_gap
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.requests.running_order import (
    OneLevel,
    OrderEntry,
    OrderLine,
    RunningOrder,
    checked_order,
    entries_between,
)
from ripe_press.core.timeline import Marker

ORDER = RunningOrder(
    (
        OrderEntry("e1", 0, 0, 900_000, "Headrace", tags=(("isrc", "QZ-WLT-26-00001"),)),
        OrderEntry("e2", 0, 900_000, 1_800_000, runs_on=True, indexes=(1_000_000,), may_copy=True),
        OrderEntry("e3", 1, 5, 300_000, gap_frames=0, disc_text=(("arranger", "A. Lock"),)),
    ),
    "Nine Weirs", (("album_artist", "The Sluicekeepers"),), OneLevel(LevelRequest("true-peak", -1.0), "whole"),
    lines=(OrderLine("audio-cd"),), disc=True,
)  # fmt: skip


def test_gapless_entries_are_grouped() -> None:
    assert ORDER.runs == [(0, 1), (2,)]
    # The first has no entry before it.
    assert replace(ORDER, entries=ORDER.entries[1:]).runs == [(0,), (1,)]


def test_it_travels_in_the_document_of_wishes() -> None:
    document = Document(VERSION, (), (), "2026-11-26", order=ORDER)
    assert document_from(document_row(document)) == document
    row = document_row(document)
    row["order"]["entries"][0]["colour"] = "red"
    with pytest.raises(BadInput, match="colour is not known"):
        document_from(row)


def test_a_document_of_before_has_no_order() -> None:
    row = document_row(Document(VERSION, (), (), "2026-11-26"))
    del row["order"]
    assert document_from({**row, "version": 3}).order is None


@pytest.mark.parametrize(
    ("order", "code"),
    [
        (RunningOrder(()), "order.empty"),
        (replace(ORDER, entries=(ORDER.entries[0], ORDER.entries[0])), "order.twice"),
        (replace(ORDER, entries=(replace(ORDER.entries[0], end_frame=0),)), "range.empty"),
        (replace(ORDER, tags=(("colour", "red"),)), "tags.unknown-field"),
        (replace(ORDER, level=OneLevel(LevelRequest("loudness", 3.0))), "level.range"),
    ],
)
def test_invalid_order_is_rejected(order: RunningOrder, code: str) -> None:
    with pytest.raises(BadInput) as caught:
        checked_order(order)
    assert caught.value.code == code


def test_a_long_mix_is_cut_at_its_markers() -> None:
    markers = (Marker(500, "Two"), Marker(100, "One"), Marker(500, "Two again"), Marker(2_000, "Beyond"))
    entries = entries_between(markers, 1_000, 0)
    assert [(one.start_frame, one.end_frame, one.title, one.runs_on) for one in entries] == [
        (0, 100, "", False), (100, 500, "One", True), (500, 1_000, "Two", True),
    ]  # fmt: skip
    assert len(entries_between(markers, 1_000, 0, from_start=False)) == 2
    with pytest.raises(BadInput, match="No markers"):
        entries_between((), 1_000, 0)


@pytest.mark.parametrize(("text", "frames"), [("2s", 150), ("0", 0), ("150cdf", 150), ("0:02.5", 188), ("1:30", 6_750)])
def test_a_gap_is_typed(text: str, frames: int) -> None:
    assert parse_gap(text) == frames


def test_a_gap_has_an_end() -> None:
    with pytest.raises(BadInput, match="10 min"):
        parse_gap("11:00")
