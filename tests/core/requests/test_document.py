"""The document of wishes: round trips, refusals in one sentence, and every version that there has been."""

import json
import os
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from pydantic import TypeAdapter

from ripe_press.core.briefs.library import built_in_briefs
from ripe_press.core.engine.resolve import Mix, PlannedFile, resolve
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.naming import NameStyle
from ripe_press.core.requests.bench import Bench, FinishChain, NamedRange, TicketLine
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.document import (
    CoverNote,
    Document,
    MixRequest,
    SourceNote,
    bench_of,
    bench_row,
    document_from,
    document_of,
    document_row,
    order_from,
    read_document,
)
from ripe_press.core.requests.edges import Edges, Stretch
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.sheet.contents import DeliverySheet
from ripe_press.core.sidecar import Sidecar
from ripe_press.core.sources.file import FileSource
from ripe_press.core.stations import Depth, Finish, Range, Rate, Target
from ripe_press.core.timeline import Marker, TempoChange, TempoMap
from ripe_press.studio.planning.measured import measured
from ripe_press.studio.planning.planner import resolved_files
from ripe_press.studio.planning.resolved import mix_of
from support import ROOT

OLD = Path(__file__).parent / "old"
DOCS = ROOT / "docs"
FACTS = SourceFacts("/mixes/Millrace.wav", "wav", "pcm-float", 96_000, 2, 960_000, 32)
BENCH = Bench(
    (NamedRange("r1", 100, 900_000, "Verse", 2, Edges(end="fold", ring_limit_s=2.0)),),
    (Marker(200, "Verse"),),
    TempoMap((TempoChange(1, 84.0), TempoChange(9, 90.5, 6, 8)), 200),
    FinishChain(True, 40.0, -3.0, -1.0),
    (
        TicketLine("d1", "audio-cd", "r1", group="album"),
        TicketLine("d2", "archive", "r1", False, "", Changes(
            container="mp3", rate_hz=48_000, level=LevelRequest("peak", -1.0), style=NameStyle(3, "upper"),
            tags=(("title", "{title}, {range}"), ("album", "")), cover=False,
        )),
    ),
    (("title", "Millrace"),), "cover-1.png", "replace",
)  # fmt: skip
WISH = MixRequest(SourceNote(FACTS, "Millrace", (0.01, 0.02), 96_000), BENCH, CoverNote("cover-1.png", "ab", "/c.png"))


def document() -> Document:
    return document_of((WISH, replace(WISH, cover=None)), built_in_briefs(), "2026-11-26")


def files_in(found: Document) -> list[PlannedFile]:
    files, refused = resolved_files(found, lambda wish: measured(wish.source.facts))
    assert refused == []
    return [one.planned for one in files]


def test_it_is_the_same_after_it_was_written() -> None:
    made = document()
    assert read_document(json.dumps(document_row(made))) == made
    assert [brief.id for brief in made.briefs] == ["audio-cd", "archive"]
    assert dict(made.libraries).keys() >= {"numpy", "soxr", "av"}
    assert bench_of(json.loads(json.dumps(bench_row(BENCH)))) == BENCH


def spoilt(**more: Any) -> str:
    return json.dumps({**document_row(document()), **more})


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("{", "invalid JSON"),
        ("[]", 'has no "version"'),
        (spoilt(version="3"), 'has no "version"'),
        (spoilt(version=9), "Unsupported ticket version 9 (supported: 1 to 8)"),
        (spoilt(version=0), "version 0"),
        (spoilt(colour="red"), "colour is not known"),
        (spoilt(mixes=None), "mixes cannot be null: "),
        (spoilt().replace('"range_id": "r1", ', "", 1), "mixes.0.bench.ticket.0.range_id is missing"),
        (spoilt().replace('"kind": "peak"', '"kind": "loudest"'), "level.kind cannot be “loudest”"),
        (spoilt().replace('"look": 2', '"look": 9'), "mixes.0.bench.ranges.0.look cannot be 9"),
    ],
)
def test_unreadable_document_is_one_sentence(text: str, words: str) -> None:
    with pytest.raises(BadInput) as caught:
        read_document(text)
    assert words in caught.value.message
    assert caught.value.message.endswith(".")


def test_the_first_version_opens() -> None:
    """One range and the names of briefs."""
    (file,) = files_in(read_document((OLD / "document-1.json").read_text()))
    assert file.path.cut == Range(5, 500, 960_000, 96_000)
    assert file.path.name.file_name == "Millrace 44k1 16b.wav"


def test_the_fourth_version_opens_as_the_mix_itself() -> None:
    """There were no stems, and every delivery was of the mix."""
    row = json.loads(json.dumps(document_row(document())))
    for mix in row["mixes"]:
        del mix["stems"]
        for line in mix["bench"]["ticket"]:
            del line["part"]
    assert document_from({**row, "version": 4}) == document()


def test_the_second_version_opens_and_comes_to_the_same_files() -> None:
    """Deliveries with everything in them, as the record kept them; what they came to then is written down here."""
    cd, broadcast, lossy = files_in(read_document((OLD / "document-2.json").read_text()))
    chain = Finish(-3.0, (0.01, 0.02), 40.0, -1.0)
    seeds = (4394041997101969350, 5923234646307104528)
    assert cd.path.depth == Depth(16, "triangular", False, 44_100, seeds)
    assert {one.path.cut.tail_frames for one in (cd, broadcast, lossy)} == {24_000}
    assert [one.path.finish for one in (cd, broadcast, lossy)] == [chain, chain, None]
    assert cd.path.name.file_name == "Millrace Verse 44k1 16b.wav"
    assert (broadcast.path.target, broadcast.wish.group) == (Target("peak", -1.0), "album")
    assert broadcast.path.rate == Rate(96_000, 48_000, "very-high")
    assert broadcast.path.tags.content.values == (("title", "Millrace, Verse"),)
    assert (broadcast.path.tags.content.cover, broadcast.path.tags.content.gain_tags) == ("", False)
    assert broadcast.path.name.file_name == "MILLRACE, VERSE VERSE R128 48K 24B.wav"
    assert str(lossy.path.codec.coding) == "192 kbit/s average"
    assert (lossy.path.codec.encoding, lossy.path.codec.frames) == ("lossy", 461_950)


def test_the_seventh_version_opens_with_the_rate_of_the_mix() -> None:
    """It was 0 there; in running orders and on benches, too."""
    row = json.loads((OLD / "document-7.json").read_text())
    (line,) = document_from(row).mixes[0].bench.ticket
    assert (line.changes.rate_hz, line.changes.encoding, line.changes.kbps) == ("keep", "s24", None)
    bench = row["mixes"][0]["bench"]
    assert bench_of({"version": 5, **bench}).ticket[0].changes.rate_hz == "keep"
    order = {"entries": [], "lines": [{"brief": "audio-cd", "changes": {"rate_hz": 0}}, {"brief": "archive"}]}
    kept = [one.changes.rate_hz for one in order_from(order).lines]
    assert kept == ["keep", None]
    found = document_from({**row, "order": order}).order
    assert found == order_from(order)


def test_benches_from_before_there_was_a_ticket_open() -> None:
    old = {"ranges": [{"id": "r1", "start_frame": 0, "end_frame": 9}], "tempo": None, "clash": None}
    assert bench_of(old).ticket == (TicketLine("d1", "audio-cd", "r1"),)
    assert bench_of({**old, "ticket": [], "finish": None, "tags": [["title", "x"]]}).tags == (("title", "x"),)


def test_a_picture_travels_with_a_document(tmp_path: Path) -> None:
    picture = tmp_path / "c.png"
    picture.write_bytes(b"\x89PNG")
    note = CoverNote("c.png", "ab", str(picture)).carrying()
    assert (note.data, note.path) == ("iVBORw==", "")


@pytest.mark.parametrize(
    ("name", "kind"), [("order", Document), ("brief", Brief), ("delivery-sheet", DeliverySheet), ("sidecar", Sidecar)]
)
def test_the_published_schemas_are_those_of_the_code(name: str, kind: type) -> None:
    path = DOCS / f"{name}.schema.json"
    text = json.dumps(TypeAdapter(kind).json_schema(), indent=2, ensure_ascii=False) + "\n"
    if os.environ.get("RIPE_PRESS_WRITE_DOCS"):
        path.write_text(text)
    assert path.read_text() == text


def test_a_wish_is_planned_from_its_own_facts() -> None:
    mix = mix_of(WISH, measured(FACTS))
    assert mix == Mix(FileSource(FACTS), "Millrace", Finish(-3.0, (0.01, 0.02), 40.0, -1.0), mix.notes)
    assert (mix.notes.cover, mix.notes.time_reference) == ("/c.png", 96_000)
    brief = built_in_briefs()["audio-cd"]
    delivery = brief.delivery(Stretch(0, 960_000), FACTS)
    assert resolve(delivery, mix)[0].path.source.facts == FACTS
