import json
from dataclasses import replace

import pytest

from ripe_press.core.errors import BadInput, NotFound, RipePressError
from ripe_press.core.measure.places.programme import Sounding
from ripe_press.core.measure.places.tail import NOTHING_FOLLOWS, Tail
from ripe_press.core.requests.bench import (
    Bench,
    NamedRange,
    bench_from,
    between_markers,
    checked,
    ranges_between,
)
from ripe_press.core.requests.document import bench_of, bench_row
from ripe_press.core.requests.edges import Edges
from ripe_press.core.rules.proposals import propose
from ripe_press.core.tags.embedded import Embedded
from ripe_press.core.timeline import Marker, TempoChange, TempoMap

RATE = 48_000
FRAMES = RATE * 60
MARKERS = (Marker(RATE * 5, "Verse"), Marker(RATE * 20, "Bridge"), Marker(RATE * 40, "Refrain"))
BENCH = Bench(
    (NamedRange("r1", 0, FRAMES), NamedRange("r2", 10, 20, "Loop", 3, Edges("fold"))),
    MARKERS,
    TempoMap((TempoChange(1, 120.0), TempoChange(9, 90.0, 6, 8)), RATE),
)


def test_a_bench_is_the_same_after_it_was_kept() -> None:
    assert bench_of(json.loads(json.dumps(bench_row(BENCH)))) == BENCH
    assert BENCH.range_of("r2").edges.end == "fold"
    with pytest.raises(NotFound):
        BENCH.range_of("r9")


def test_new_bench_has_the_files_tags_and_markers() -> None:
    tempo = TempoMap((TempoChange(1, 84.0),), 2_400)
    made = bench_from(Embedded(tempo_bpm=84.0, markers=MARKERS), FRAMES, tempo)
    assert (made.ranges, made.markers) == ((NamedRange("r1", 0, FRAMES),), MARKERS)
    assert made.tempo == tempo
    assert bench_from(Embedded(), FRAMES).tempo is None


@pytest.mark.parametrize(
    ("bench", "code"),
    [
        (replace(BENCH, ranges=()), "range.none"),
        (replace(BENCH, ranges=(BENCH.ranges[0], BENCH.ranges[0])), "range.twice"),
        (replace(BENCH, ranges=(NamedRange("r1", 5, 5),)), "range.empty"),
        (replace(BENCH, ranges=(NamedRange("r1", 0, FRAMES + 1),)), "range.empty"),
        (replace(BENCH, markers=(Marker(FRAMES + 1, "Far"),)), "marker.outside"),
        (replace(BENCH, markers=(Marker(1, "x" * 121),)), "bench.name"),
        (replace(BENCH, ranges=tuple(NamedRange(f"r{at}", 0, 1) for at in range(201))), "bench.too-many"),
    ],
)
def test_invalid_bench_is_rejected(bench: Bench, code: str) -> None:
    with pytest.raises(RipePressError) as caught:
        checked(bench, FRAMES, RATE)
    assert caught.value.code == code


def test_markers_are_kept_in_order_of_time() -> None:
    assert checked(replace(BENCH, markers=MARKERS[::-1]), FRAMES, RATE).markers == MARKERS


def test_one_range_between_each_pair_of_markers() -> None:
    cut = ranges_between((*MARKERS, Marker(RATE * 20, "same place"), Marker(FRAMES, "at the end")), FRAMES)
    assert [(one.name, one.start_frame // RATE, one.end_frame // RATE) for one in cut] == [
        ("Verse", 5, 20), ("Bridge", 20, 40), ("Refrain", 40, 60),
    ]  # fmt: skip
    assert len({one.look for one in cut}) == 3
    with pytest.raises(BadInput):
        ranges_between((), FRAMES)


@pytest.mark.parametrize(
    ("text", "seconds"),
    [("Verse..Refrain", (5, 40)), ("bridge", (20, 40)), ("Bridge..", (20, 60)), ("REFRAIN", (40, 60))],
)
def test_markers_by_name(text: str, seconds: tuple[int, int]) -> None:
    assert between_markers(text, MARKERS, FRAMES) == (seconds[0] * RATE, seconds[1] * RATE)


def test_unknown_markers_are_named_with_those_there_are() -> None:
    with pytest.raises(BadInput, match="“Verse”, “Bridge”, “Refrain”"):
        between_markers("Outro", MARKERS, FRAMES)
    with pytest.raises(BadInput, match="no markers"):
        between_markers("Verse", (), FRAMES)


def test_proposals_say_why_and_are_exact() -> None:
    # Eight bars of 4/4 at 120 from 1 s on end at 17 s; 1.5 s ring past them.
    sounding = Sounding(RATE, round(RATE * 18.5))
    bench = Bench((NamedRange("r1", 0, FRAMES),), MARKERS, TempoMap((TempoChange(1, 120.0),), RATE))
    only, loop, marked, pieces = propose(
        bench, FRAMES, RATE, sounding, [(RATE, RATE * 9), (RATE * 12, RATE * 18)], lambda _: Tail("tail", 1.5)
    )
    assert "0:01.00" in only.reason
    assert only.ranges[0].start_frame == RATE - round(0.02 * RATE)
    assert only.ranges[0].end_frame == sounding.end_frame
    (cut,) = loop.ranges
    assert (cut.start_frame, cut.end_frame, cut.edges.end) == (RATE, RATE * 17, "fold")
    assert loop.reason == "8 whole bars at 120 bpm: 16.000 s. The tail of 1.5 s is folded onto the start."
    assert only.reason.endswith("Silence below −70.0 dBFS.")
    (_, crossed, *_) = propose(bench, FRAMES, RATE, sounding, [], lambda _: Tail("music"))
    assert crossed.ranges[0].edges.end == "crossfade"
    (noisy, *_) = propose(bench, FRAMES, RATE, Sounding(RATE, RATE * 9, -52, -62), [], lambda _: NOTHING_FOLLOWS)
    assert "Noise floor −62.0 dBFS, silence below −52.0 dBFS" in noisy.reason
    assert marked.label == "3 ranges from markers"
    assert [one.name for one in pieces.ranges] == ["Part 1", "Part 2"]


def test_no_loop_is_proposed_where_most_of_the_mix_would_be_folded() -> None:
    bench = Bench((NamedRange("r1", 0, FRAMES * 3),), (), TempoMap((TempoChange(1, 84.0),), RATE))
    labels = [
        one.label
        for one in propose(
            bench, FRAMES * 3, RATE, Sounding(RATE, FRAMES * 3), [(RATE, FRAMES * 3)], lambda _: Tail("music")
        )
    ]
    assert labels == ["Trim silence"]
    assert propose(bench, FRAMES, RATE, Sounding(5, 5), [], lambda _: NOTHING_FOLLOWS) == ()
