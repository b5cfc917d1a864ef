"""Where entries lie on a disc: for any order of any entries starts, gaps and lengths add up to the frame."""

from fractions import Fraction

from hypothesis import given, strategies as hy

from ripe_press.core.requests.order_timeline import Length, lay_out, run_samples
from ripe_press.core.requests.running_order import OrderEntry, RunningOrder

RATES = hy.sampled_from([44_100, 48_000, 88_200, 96_000, 192_000])
ENTRY = hy.tuples(hy.integers(1, 40_000_000), hy.booleans(), hy.integers(0, 10_000))


def order_of(rows: list[tuple[int, bool, int]]) -> RunningOrder:
    return RunningOrder(
        tuple(
            OrderEntry(f"e{at}", 0, 0, frames, runs_on=runs_on, gap_frames=gap)
            for at, (frames, runs_on, gap) in enumerate(rows)
        )
    )


@given(rows=hy.lists(ENTRY, min_size=1, max_size=99), rate_hz=RATES)
def test_places_add_up(rows: list[tuple[int, bool, int]], rate_hz: int) -> None:
    order = order_of(rows)
    laid = lay_out(order, [Length(one[0], rate_hz) for one in rows])
    assert laid[0].pause_frame == laid[0].start_frame == 0
    for at in range(1, len(laid)):
        gap = 0 if rows[at][1] else rows[at][2]
        assert laid[at].pause_frame == laid[at - 1].end_frame
        assert laid[at].gap_frames == gap
    assert sum(one.gap_frames + one.frames for one in laid) == laid[-1].end_frame


@given(rows=hy.lists(ENTRY, min_size=1, max_size=30), rate_hz=RATES)
def test_a_cut_is_at_the_nearest_frame_and_nothing_drifts(rows: list[tuple[int, bool, int]], rate_hz: int) -> None:
    """Within a run no place is off by more than half a frame, however many entries lie before it."""
    order = order_of(rows)
    laid = lay_out(order, [Length(one[0], rate_hz) for one in rows])
    for run in order.runs:
        frames = 0
        for number in run[:-1]:
            frames += rows[number][0]
            exact = Fraction(frames * 75, rate_hz)
            assert abs(laid[number].end_frame - laid[run[0]].start_frame - exact) <= Fraction(1, 2)
        samples = run_samples([Length(rows[number][0], rate_hz) for number in run])
        left_over = (laid[run[-1]].end_frame - laid[run[0]].start_frame) * 588 - samples
        assert 0 <= left_over < 588


def test_two_seconds_are_150_frames() -> None:
    laid = lay_out(order_of([(44_100 * 7, False, 150), (44_100 * 5, False, 150)]), [Length(44_100 * 7, 44_100)] * 2)
    assert (laid[1].pause_frame, laid[1].start_frame) == (525, 675)
