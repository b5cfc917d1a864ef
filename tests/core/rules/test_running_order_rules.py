"""Every rule of a running order on one case where it speaks, and silence where there is nothing to say."""

import math
from dataclasses import replace

import pytest

from ripe_press.core.engine.edges import EdgeLevels
from ripe_press.core.requests.edges import Edges
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.requests.order_timeline import PlacedEntry
from ripe_press.core.requests.running_order import OneLevel, OrderEntry, RunningOrder
from ripe_press.core.rules.checks.running_order import Entry, Sound, judge_order
from ripe_press.core.rules.findings import Finding
from ripe_press.core.tags.sheet import Values

SILENT = EdgeLevels(-math.inf, -math.inf, -math.inf, -math.inf)
LOUD = EdgeLevels(-20.0, -20.0, -20.0, -20.0)
ENDS_OPEN = EdgeLevels(-math.inf, -20.0, -20.0, -20.0)
BEGINS_OPEN = EdgeLevels(-20.0, -20.0, -20.0, -math.inf)


def heard(lufs: float = -15.0, edges: EdgeLevels = SILENT, silence: tuple[float, float] = (0.0, 0.0)) -> Sound:
    return Sound(lufs, edges, silence)


ORDER = RunningOrder(
    (OrderEntry("a", 0, 0, 441_000), OrderEntry("b", 0, 441_000, 882_000)), "Nine Weirs",
    (("barcode", "036000291452"),),
)  # fmt: skip


def entry(number: int = 1, **changes: object) -> Entry:
    sheet: Values = (("title", "Towpath"), ("isrc", f"QZ-WLT-26-{number:05d}"))
    start = (number - 1) * 900
    made = Entry(
        "Towpath", sheet, PlacedEntry(start, start, start + 750), 10.0, 44_100, False, Sound(-15.0, SILENT, (0, 0))
    )
    return replace(made, **changes)  # type: ignore[arg-type]


def action(found: Finding) -> str:
    """What one click does: an action of an order, or a new range of the entry."""
    if not found.remedy:
        return ""
    assert found.remedy.label
    return found.remedy.action or "cut-silence"


def noticed(order: RunningOrder = ORDER, *entries: Entry) -> tuple[Finding, ...]:
    return judge_order(order, entries or (entry(), entry(2)))


def test_a_good_order_has_no_findings() -> None:
    assert noticed() == ()


SHORT = entry(2, place=PlacedEntry(750, 750, 991), seconds=3.2)
MESSAGE = replace(ORDER.entries[1], disc_text=(("message", "Łódź"),))
PRE = replace(ORDER.entries[1], pre_emphasis=True)
OPEN = entry(sound=heard(edges=ENDS_OPEN))
BEGINS = entry(2, sound=heard(edges=BEGINS_OPEN))
LOUDER = entry(2, sound=heard(-11.4))
QUIET = entry(2, sound=heard(silence=(61.25, 6.0)))
TAIL = entry(2, sound=heard(silence=(14.0, 6.0)))


def with_second(second: OrderEntry) -> RunningOrder:
    return replace(ORDER, entries=(ORDER.entries[0], second))


ON_DISCS = {"entry_too_short", "code_missing", "over_capacity", "pre_emphasis_changes", "letters_of_disc"}
"""What matters on a disc alone."""


@pytest.mark.parametrize(
    ("order", "entries", "rule", "verdict", "remedy", "said"),
    [
        (ORDER, (entry(), SHORT), "entry_too_short", "stop", "", "Track 2 is 3.2 s"),
        (ORDER, (entry(), replace(SHORT, goes_on=True)), "entry_too_short", "stop", "join-before", "disc minimum 4 s"),
        (ORDER, (OPEN, entry(2, goes_on=True)), "join_cuts_sound", "look", "run-on", "then a gap"),
        (ORDER, (entry(), BEGINS), "join_cuts_sound", "look", "declick", "−20.0 dBFS"),
        (ORDER, (entry(), entry(2, sheet=entry().sheet)), "code_twice", "look", "", "track 1 and track 2"),
        (ORDER, (entry(), entry(2, sheet=(("isrc", "QZ"),))), "code_wrong", "look", "", "Use 12"),
        (ORDER, (entry(), entry(2, sheet=())), "code_missing", "look", "codes", "1 track has no ISRC"),
        (replace(ORDER, tags=()), (), "code_missing", "look", "", "No barcode"),
        (replace(ORDER, tags=(("barcode", "036000291453"),)), (), "code_wrong", "look", "", "check digit is 2"),
        (ORDER, (entry(), LOUDER), "level_jumps", "look", "one-loudness", "3.6 LU louder"),
        (
            ORDER,
            (entry(), entry(2, place=PlacedEntry(900, 900, 400_000))),
            "over_capacity",
            "stop",
            "",
            "80-minute disc",
        ),
        (
            ORDER,
            (entry(), entry(2, place=PlacedEntry(900, 900, 340_000))),
            "over_capacity",
            "look",
            "",
            "74-minute disc",
        ),
        (ORDER, (entry(), replace(QUIET, rate_hz=9_000)), "long_silence", "look", "", "6.0 s at 1:01.3"),
        (ORDER, (entry(), TAIL), "long_silence", "look", "cut-silence", "6.0 s at 0:14.0"),
        (ORDER, (entry(), entry(2, rate_hz=96_000)), "rates_differ", "look", "", "44.1 kHz, 96 kHz"),
        (with_second(PRE), (), "pre_emphasis_changes", "stop", "two-seconds", "2 s gap"),
        (with_second(MESSAGE), (), "letters_of_disc", "look", "", "becomes “Lódz”"),
    ],
)
def test_finding_of_an_order_has_a_remedy(
    order: RunningOrder, entries: tuple[Entry, ...], rule: str, verdict: str, remedy: str, said: str
) -> None:
    found = [one for one in noticed(order, *entries) if one.rule == rule]
    assert [(one.verdict, action(one)) for one in found] == [(verdict, remedy)]
    assert said in found[0].sentence
    assert found[0].disc == (rule in ON_DISCS)


def test_silence_at_either_end_is_trimmed() -> None:
    (found,) = [one for one in noticed(ORDER, entry(), TAIL) if one.rule == "long_silence"]
    assert found.remedy and (found.remedy.start_frame, found.remedy.end_frame) == (441_000, 14 * 44_100)
    (found,) = [
        one for one in noticed(ORDER, entry(sound=heard(silence=(0.0, 5.5))), entry(2)) if one.rule == "long_silence"
    ]
    assert found.remedy and (found.remedy.start_frame, found.remedy.end_frame) == (round(5.5 * 44_100), 441_000)


def test_gapless_join_at_another_rate_is_blocked() -> None:
    order = with_second(replace(ORDER.entries[1], runs_on=True))
    found = noticed(order, entry(), entry(2, rate_hz=96_000))
    rates = [(one.verdict, action(one)) for one in found if one.rule == "rates_differ"]
    assert rates == [("stop", "gap"), ("look", "")]


def test_a_hundred_tracks_are_too_many() -> None:
    order = replace(ORDER, entries=tuple(OrderEntry(f"e{at}", 0, 0, 9) for at in range(100)))
    found = noticed(order, *(entry(at + 1) for at in range(100)))
    assert [one.rule for one in found if one.verdict == "stop"] == ["too_many_tracks"]


def test_a_fade_or_one_loudness_quietens_a_rule() -> None:
    faded = Edges(fade_out_s=1.0, fade_in_s=0.5)
    order = replace(ORDER, entries=tuple(replace(one, edges=faded) for one in ORDER.entries))
    assert noticed(order, entry(sound=heard(edges=LOUD)), entry(2, sound=heard(edges=LOUD))) == ()
    each = replace(ORDER, level=OneLevel(LevelRequest("loudness", -14.0), "each"))
    assert noticed(each, entry(), entry(2, sound=heard(-5.0))) == ()
    # Nothing was measured: audio is not judged.
    assert noticed(ORDER, entry(sound=None), entry(2, sound=None)) == ()
