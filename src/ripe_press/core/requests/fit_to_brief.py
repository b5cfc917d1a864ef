"""A stretch as a recipient takes it: from a bar line on, no longer than is asked for, with short fades at its ends."""

from dataclasses import replace

from ripe_press.core.measure.places.tail import NOTHING_FOLLOWS
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.timeline import TempoMap


def from_bar_line(stretch: Stretch, tempo: TempoMap, rate_hz: int) -> Stretch:
    """The stretch from the bar line on that it begins at or behind; silence stands for what a mix has not before it."""
    line = tempo.bar_line_before(stretch.start_frame, rate_hz)
    if line >= 0:
        return replace(stretch, start_frame=line, moved_frames=stretch.start_frame - line)
    edges = replace(stretch.edges, silence_before_s=-line / rate_hz)
    return replace(stretch, start_frame=0, edges=edges)


def no_longer(stretch: Stretch, longest_s: float, tempo: TempoMap | None, rate_hz: int, mix_frames: int) -> Stretch:
    """The stretch, cut to at most so many seconds where it is longer: to whole bars where its bars are known."""
    edges = stretch.edges
    silence = round(edges.silence_before_s * rate_hz) + round(edges.silence_after_s * rate_hz)
    tail = {"ring": stretch.ring_frames, "hold": round(edges.hold_s * rate_hz)}.get(edges.end, 0)
    most = int(longest_s * rate_hz)
    whole = stretch.end_frame - stretch.start_frame
    if whole + min(tail, mix_frames - stretch.end_frame) + silence <= most:
        return stretch
    end = min(stretch.end_frame, stretch.start_frame + max(1, most - silence))
    if tempo:
        line = tempo.bar_line_before(end, rate_hz)
        end = line if line > stretch.start_frame else end
    return replace(
        stretch, end_frame=end, edges=replace(edges, end="stop"), ring_frames=0, tail=NOTHING_FOLLOWS, shortened=True
    )


def with_fades(stretch: Stretch, fade_in_s: float, fade_out_s: float) -> Stretch:
    """The stretch with fades at the ends that have none of their own."""
    edges = stretch.edges
    return replace(
        stretch,
        edges=replace(
            edges,
            fade_in_s=edges.fade_in_s or (0.0 if edges.end in ("fold", "crossfade") else fade_in_s),
            fade_out_s=edges.fade_out_s or (0.0 if edges.end in ("fold", "crossfade") else fade_out_s),
        ),
    )
