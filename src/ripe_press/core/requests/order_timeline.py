"""Where the entries of a running order lie, in CD frames from the beginning of the programme.

Places are rounded once, in one running count: rounding each length would drift. A gapless join is cut at the nearest
frame, and the rest at the end of a run is filled with silence, at most 587 samples.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import accumulate

from ripe_press.core.requests.running_order import RunningOrder
from ripe_press.core.timeline import CD_FRAME_SAMPLES, CD_FRAMES_PER_SECOND, DISC_HZ
from ripe_press.core.units import frames_after_conversion


@dataclass(frozen=True, slots=True)
class Length:
    """How long an entry is, in frames of its mix."""

    frames: int
    rate_hz: int


@dataclass(frozen=True, slots=True)
class PlacedEntry:
    """An entry in its place: the gap before it begins at ``pause_frame``, itself at ``start_frame``."""

    pause_frame: int
    start_frame: int
    end_frame: int

    @property
    def frames(self) -> int:
        """How long it is."""
        return self.end_frame - self.start_frame

    @property
    def gap_frames(self) -> int:
        """How long the gap before it is."""
        return self.start_frame - self.pause_frame


def lay_out(order: RunningOrder, lengths: Sequence[Length]) -> tuple[PlacedEntry, ...]:
    """The places of all entries: gaps and lengths add up to the frame."""
    found: list[PlacedEntry] = []
    at = 0
    for run in order.runs:
        parts = [lengths[number] for number in run]
        begins = at + (order.entries[run[0]].gap_frames if found else 0)
        ends = [begins + end for end in _ends_in_run(parts)]
        pause = at
        for start, end in zip([begins, *ends[:-1]], ends, strict=True):
            found.append(PlacedEntry(pause, start, end))
            pause = end
        at = ends[-1]
    return tuple(found)


def run_samples(parts: Sequence[Length]) -> int:
    """How many samples a run has at the rate of the disc."""
    return frames_after_conversion(sum(one.frames for one in parts), parts[0].rate_hz, DISC_HZ)


def _ends_in_run(parts: Sequence[Length]) -> list[int]:
    rate_hz = parts[0].rate_hz
    inner = [frames_after_conversion(one, rate_hz, CD_FRAMES_PER_SECOND) for one in accumulate(p.frames for p in parts)]
    return [*inner[:-1], -(-run_samples(parts) // CD_FRAME_SAMPLES)]
