"""Words and figures are the same for page, command line and delivery sheet."""

import json
from pathlib import Path
from typing import Any, get_args

import pytest

from ripe_press.core.press.order import FileState as MadeState
from ripe_press.core.proof.hearing.opinion import Prediction
from ripe_press.core.rules.findings import Verdict
from ripe_press.core.sending.parcel import ParcelState
from ripe_press.core.stations.level import LevelKind
from ripe_press.core.units import print_clock, print_count, print_db, print_rate, print_size
from ripe_press.core.words import TABLES
from ripe_press.store.pressings import FileState, Found, State

FIGURES = json.loads(Path(__file__).with_name("figures.json").read_text(encoding="utf-8"))


@pytest.mark.parametrize(
    ("table", "states"),
    [
        ("verdict", Verdict), ("pressing", State), ("file", FileState), ("transfer", ParcelState), ("found", Found),
        ("prediction", Prediction), ("level", LevelKind), ("level_unit", LevelKind),
    ],
)  # fmt: skip
def test_table_of_words_has_every_state(table: str, states: Any) -> None:
    assert set(TABLES[table]) == set(get_args(states))


def test_words_of_files_cover_the_states_of_the_press() -> None:
    assert set(get_args(MadeState)) <= set(TABLES["file"])


def test_figures_print_like_on_the_page() -> None:
    """`web/src/shared/text/format.test.ts` checks the same list."""
    for frame, rate_hz, decimals, text in FIGURES["clock"]:
        assert print_clock(frame, rate_hz, decimals) == text
    for db, unit, text in FIGURES["level"]:
        assert print_db(float("-inf") if db is None else db, unit) == text
    for hz, text in FIGURES["rate"]:
        assert print_rate(hz) == text
    for size, text in FIGURES["size"]:
        assert print_size(size) == text
    for count, noun, text in FIGURES["count"]:
        assert print_count(count, noun) == text
