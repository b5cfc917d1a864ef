"""Sets: deliveries of one ticket on the benches of other mixes."""

from dataclasses import replace

from ripe_press.core.requests.bench import Bench, NamedRange, SignOff, TicketLine
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.edges import Edges
from ripe_press.core.requests.part import Part
from ripe_press.core.requests.sets import FIRST_SET, opened, set_for, set_of, ticket_of, usable

FADED = Edges(fade_out_s=4.0)
VERSE, CHORUS, WHOLE = NamedRange("a", 0, 40, "Verse", edges=FADED), NamedRange("b", 40, 90, "Chorus"), "whole"
SONG = Bench(
    (VERSE, CHORUS, NamedRange(WHOLE, 0, 100)),
    ticket=(
        TicketLine("1", "audio-cd", "a", changes=Changes(tags=(("isrc", "QZWLT2600001"), ("comment", "demo")))),
        TicketLine("2", "phone-and-car", "b", on=False, changes=Changes(container="mp3")),
    ),
    tags=(("title", "Millrace"),), clash="replace",
)  # fmt: skip
OWN = Bench((NamedRange("r1", 0, 50),), tags=(("title", "Eel Ladder"),))


def test_a_set_keeps_deliveries_and_no_facts_of_the_mix() -> None:
    made = set_of(SONG)
    assert (made.tags, made.clash, [one.id for one in made.ranges]) == ((), "replace", ["a", "b"])
    assert made.ticket[0].changes.tags == (("comment", "demo"),)
    assert made.ticket[1] == SONG.ticket[1]
    assert [one.edges for one in set_of(SONG, edges=False).ranges] == [Edges(), Edges()]


def test_a_set_on_another_mix_takes_ranges_of_the_same_name_or_the_whole() -> None:
    own = replace(OWN, ranges=(*OWN.ranges, NamedRange("v", 5, 9, "Verse")))
    own = replace(own, signed=(SignOff("brief_depth", ("1",), ("audio-cd",), "Ada", "Once."),))
    made = ticket_of(own, SONG, (0, 50))
    assert [(one.brief, one.range_id, one.on) for one in made.ticket] == [
        ("audio-cd", "v", True), ("phone-and-car", "r1", False),
    ]  # fmt: skip
    assert (made.tags, made.clash, made.signed) == (OWN.tags, "replace", ()), "what was signed off is gone"


def test_the_edges_of_a_set_make_a_range_of_their_own() -> None:
    made = ticket_of(OWN, SONG, (0, 50))
    assert [(one.id, one.start_frame, one.end_frame, one.edges) for one in made.ranges] == [
        ("r1", 0, 50, Edges()), ("w1", 0, 50, FADED),
    ]  # fmt: skip
    assert [one.range_id for one in made.ticket] == ["w1", "r1"]


def test_deliveries_that_become_equal_count_once() -> None:
    pieces = tuple(NamedRange(f"p{at}", at, at + 1, f"Part {at}") for at in range(12))
    like = Bench(pieces, ticket=tuple(TicketLine(one.id, "archive", one.id) for one in pieces))
    made = opened(OWN, like, (0, 50))
    assert [(one.id, one.range_id) for one in made.ticket] == [("p0", "r1")]
    assert made.ranges == OWN.ranges


def test_a_new_bench_has_the_ranges_in_use_alone() -> None:
    made = opened(OWN, replace(SONG, ticket=SONG.ticket[:1]), (0, 50))
    assert [one.edges for one in made.ranges] == [FADED]
    assert opened(OWN, replace(SONG, ticket=()), (0, 50)).ranges == OWN.ranges


def test_a_mix_without_stems_gets_no_delivery_of_stems() -> None:
    like = replace(SONG, ticket=(*SONG.ticket, TicketLine("3", "archive", "a", part=Part(("voice",)))))
    assert [one.id for one in usable(like, {"audio-cd", "archive"}.__contains__).ticket] == ["1"]


def test_the_first_set_is_a_disc_and_an_archive_copy() -> None:
    assert [one.brief for one in FIRST_SET.ticket] == ["audio-cd", "archive"]
    assert set_for({}).ticket == ()
