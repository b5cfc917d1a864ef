"""Tickets as the record keeps them: pressed again, they make the same files, also those from earlier."""

import json
from dataclasses import replace
from pathlib import Path

import pytest

from ripe_press.core.briefs.library import brief_of
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.delivery import LevelWish
from ripe_press.core.engine.edges import Edges, Stretch
from ripe_press.core.engine.notes import MixNotes, TagWish
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.naming import NameStyle
from ripe_press.core.timeline import Marker
from ripe_press.studio.orders import Ticket, kept_ticket, make_order, order_seconds, ticket_row

FACTS = SourceFacts("/mixes/Millrace.wav", "wav", "pcm-float", 96_000, 2, 960_000, 32)


def ticket() -> Ticket:
    stretch = Stretch(100, 900_000, Edges(end="ring", fade_in_s=0.5), 200, "Verse")
    names = ("audio-cd", "broadcast", "archive")
    briefs = {name: brief_of(name) for name in names}
    made = tuple(brief.delivery(stretch, FACTS) for brief in briefs.values())
    wish = TagWish((("title", "{title}, {range}"), ("album", "")), False, "2.3", True, False)
    grouped = replace(made[1], group="album", level=LevelWish("peak", -1.0), tags=wish, style=NameStyle(3, "upper"))
    lossy = replace(made[2], container="mp3", encoding="lossy", rate_hz=48_000, mode="average", kbps=192, number=3)
    notes = MixNotes((("title", "Millrace"), ("album", "Nine Weirs")), "", (Marker(200, "Verse"),), 96_000)
    return Ticket((made[0], grouped, lossy), briefs, st.Finish(-3.0, (0.01, 0.02), 40.0, -1.0), notes, "replace")


def test_a_kept_ticket_presses_the_same_files(tmp_path: Path) -> None:
    kept = kept_ticket(json.loads(json.dumps(ticket_row(ticket()))), FACTS)
    assert make_order(FACTS, "Millrace", kept, tmp_path) == make_order(FACTS, "Millrace", ticket(), tmp_path)


def test_drop_offs_are_sub_folders_where_they_are_wanted(tmp_path: Path) -> None:
    flat = make_order(FACTS, "Millrace", ticket(), tmp_path)
    assert {Path(target).parent for target in flat.targets} == {tmp_path}
    parted = make_order(FACTS, "Millrace", ticket(), tmp_path, sub_folders=True)
    assert [Path(target).parent.name for target in parted.targets] == [tmp_path.name, "broadcast", "archive"]
    assert order_seconds(parted) == pytest.approx((900_200 - 100) / 96_000)


def test_tickets_from_before_there_were_deliveries_are_understood() -> None:
    old = {"briefs": ["audio-cd"], "start_frame": 5, "end_frame": 500, "edges": {"end": "hold", "hold_s": 1.0}}
    (delivery,) = kept_ticket(old, FACTS).deliveries
    assert (delivery.brief, delivery.stretch) == ("audio-cd", Stretch(5, 500, Edges(end="hold", hold_s=1.0)))
    row = ticket_row(ticket())
    between = {"deliveries": [{**one, "channels": 2, "level": None} for one in row["deliveries"]]}
    assert [one.channels for one in kept_ticket(between, FACTS).deliveries] == ["stereo"] * 3


def test_an_empty_ticket_is_refused(tmp_path: Path) -> None:
    with pytest.raises(BadInput) as caught:
        make_order(FACTS, "Millrace", Ticket((), {}), tmp_path)
    assert caught.value.code == "press.nothing"
