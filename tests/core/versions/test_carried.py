"""Ranges, markers and ticket of one version on another."""

import pytest
from hypothesis import given, strategies as st

from ripe_press.core.requests.bench import Bench, NamedRange, TicketLine, checked
from ripe_press.core.timeline import Marker, TempoChange, TempoMap
from ripe_press.core.versions.carried import FrameMapping, carried
from ripe_press.core.versions.names import root_of

RATE, FRAMES = 48_000, 480_000
BENCH = Bench(
    (
        NamedRange("r1", 0, FRAMES),
        NamedRange("r2", 48_000, 96_000, "Verse"),
        NamedRange("r3", 470_000, 479_000, "Tail"),
    ),
    (Marker(48_000, "Verse"), Marker(478_000, "Last hit")),
    TempoMap((TempoChange(1, 84.0),), 24_000),
    ticket=(TicketLine("d1", "archive", "r1"), TicketLine("d2", "archive", "r3")),
)


def test_the_same_frames_carry_everything_as_it_is() -> None:
    assert carried(BENCH, FrameMapping(FRAMES, RATE, FRAMES, RATE)).bench == BENCH


def test_later_start_moves_ranges_and_the_whole_stays_the_whole() -> None:
    found = carried(BENCH, FrameMapping(FRAMES, RATE, FRAMES + 19_200, RATE, 19_200))
    assert not found.lost
    assert [(one.start_frame, one.end_frame) for one in found.bench.ranges] == [
        (0, FRAMES + 19_200),
        (67_200, 115_200),
        (489_200, 498_200),
    ]
    assert found.bench.markers[0].frame == 67_200
    assert found.bench.tempo is not None
    assert found.bench.tempo.first_bar_frame == 43_200


def test_another_rate_moves_frames_to_the_same_times() -> None:
    found = carried(BENCH, FrameMapping(FRAMES, RATE, 2 * FRAMES, 2 * RATE)).bench
    assert (found.ranges[1].start_frame, found.ranges[1].end_frame) == (96_000, 192_000)


def test_range_outside_the_new_version_is_removed_and_reported() -> None:
    found = carried(BENCH, FrameMapping(FRAMES, RATE, 400_000, RATE))
    assert [one.id for one in found.bench.ranges] == ["r1", "r2"]
    assert [line.id for line in found.bench.ticket] == ["d1"]
    assert [one.split(" ")[1] for one in found.lost] == ["range", "marker"]


def test_a_bench_always_keeps_a_range() -> None:
    only = Bench((NamedRange("r9", 470_000, 479_000),))
    assert carried(only, FrameMapping(FRAMES, RATE, 1000, RATE)).bench.ranges == (NamedRange("r9", 0, 1000),)


@given(
    frames=st.integers(1, 2_000_000),
    rate=st.sampled_from([8_000, 44_100, 48_000, 192_000]),
    shift=st.integers(-FRAMES, FRAMES),
)
def test_whatever_the_new_version_is_its_bench_is_a_right_one(frames: int, rate: int, shift: int) -> None:
    found = carried(BENCH, FrameMapping(FRAMES, RATE, frames, rate, shift)).bench
    assert checked(found, frames, rate) == found


@pytest.mark.parametrize(
    ("title", "root"),
    [
        ("Millrace", "millrace"), ("Millrace mix 3", "millrace"), ("Millrace_v2", "millrace"),
        ("Millrace (1)", "millrace"), ("Millrace 2026-11-27", "millrace"), ("Millrace_mix 3 final", "millrace"),
        ("Eel Ladder 02", "eel ladder"), ("Final", "final"), ("Eel_Ladder", "eel ladder"), ("v2", "v2"),
        ("Nine Weirs 9 stems", "nine weirs 9 stems"), ("Remix", "remix"),
    ],
)  # fmt: skip
def test_versions_of_a_title_share_its_root(title: str, root: str) -> None:
    assert root_of(title) == root
