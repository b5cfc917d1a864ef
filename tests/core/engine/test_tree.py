from dataclasses import replace

import pytest

from ripe_press.core import stations as st
from ripe_press.core.engine.tree import every_node, merge, node_numbers
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.sources.file import FileSource
from support.press import delivery_of, files_for

SOURCE = st.Source(FileSource(SourceFacts("/mix.wav", "wav", "pcm-float", 96_000, 2, 100, 32)))
CUT = st.Range(0, 100, 100)


def path(rate_hz: int, name: str) -> st.Line:
    return (SOURCE, CUT, st.Rate(96_000, rate_hz, "very-high"), st.Name(name))


def test_equal_prefixes_become_one_branch() -> None:
    (root,) = merge([path(44_100, "a"), path(48_000, "b"), path(44_100, "c")])
    assert root.paths == (0, 1, 2)
    (cut,) = root.children
    assert [child.paths for child in cut.children] == [(0, 2), (1,)]
    assert len(list(every_node([root]))) == 7


def test_shared_stations_have_equal_numbers() -> None:
    codec = st.Codec("wav", "s16", 44_100, 2, 100)
    whole = (SOURCE, CUT, codec, st.Name("a"))
    assert node_numbers([whole, whole, path(44_100, "b")]) == [(0, 1, 2, 3), (0, 1, 4, 5), (0, 1, 6, 7)]


def test_no_paths_make_no_tree() -> None:
    assert merge([]) == ()


FACTS = SourceFacts("/mix.wav", "wav", "pcm-float", 96_000, 2, 960_000, 32)


def shared(one: dict[str, object], other: dict[str, object]) -> set[str]:
    """The kinds of stations that two deliveries share."""
    paths = [
        files_for(replace(delivery_of(FACTS, **{"encoding": "s16", **{k: v for k, v in wish.items() if k != "group"}}),
                          group=str(wish.get("group", ""))), FACTS)[0].path
        for wish in (one, other)
    ]  # fmt: skip
    return {node.station.kind for node in every_node(merge(paths)) if len(node.paths) == 2}


LOUD = LevelRequest("loudness", -14.0)


@pytest.mark.parametrize(
    ("one", "other", "kind"),
    [
        ({}, {"dither": "triangular"}, "depth"),
        ({"channels": "left"}, {"channels": "split"}, "depth"),
        ({"level": LOUD}, {"level": LOUD, "group": "album"}, "depth"),
        ({"level": LOUD, "container": "mp3", "encoding": "keep", "rate_hz": 48_000},
         {"level": replace(LOUD, back_off=True), "container": "mp3", "encoding": "keep", "rate_hz": 48_000}, "level"),
    ],
)  # fmt: skip
def test_reason_of_a_station_is_not_part_of_its_work(
    one: dict[str, object], other: dict[str, object], kind: str
) -> None:
    """By rule or by hand, alone or as half of a pair, in a group or not: equal work is shared."""
    assert kind in shared(one, other)


def test_sources_have_a_root_each() -> None:
    other = FileSource(replace(FACTS, path="/other.wav"))
    roots = merge([path(44_100, "a"), (st.Source(other), CUT, st.Name("b")), path(48_000, "c")])
    assert [root.paths for root in roots] == [(0, 2), (1,)]
