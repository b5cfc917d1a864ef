"""Carry the Bench of a mix over to another version."""

from dataclasses import dataclass, replace

from ripe_press.core.requests.bench import Bench, NamedRange
from ripe_press.core.timeline import Marker
from ripe_press.core.words import quoted


@dataclass(frozen=True, slots=True)
class FrameMapping:
    """Maps samples of one version to another: rate ratio and shift."""

    old_frames: int
    old_hz: int
    new_frames: int
    new_hz: int
    shift_frames: int = 0

    def frame(self, frame: int) -> int:
        """The position of an old sample in the new version; may be outside."""
        return round(frame * self.new_hz / self.old_hz) + self.shift_frames

    def stretch(self, start_frame: int, end_frame: int) -> tuple[int, int] | None:
        """Where a stretch lies; nothing where no frame of it is left.

        What began or ended with the mix still does: the whole stays the whole, however long that is now.
        """
        start = 0 if start_frame == 0 else max(0, self.frame(start_frame))
        end = self.new_frames if end_frame == self.old_frames else min(self.new_frames, self.frame(end_frame))
        return (start, end) if start < end else None


@dataclass(frozen=True, slots=True)
class Carried:
    """The bench of the new version, and in sentences what could not be carried."""

    bench: Bench
    lost: tuple[str, ...] = ()


def carried(bench: Bench, passage: FrameMapping) -> Carried:
    """Move ranges, markers and tempo map with the music; keep ticket, tags, finishing chain and cover.

    Ranges without audio and markers outside are removed and reported. Without any range, the whole mix is one.
    """
    ranges: list[NamedRange] = []
    lost: list[str] = []
    for one in bench.ranges:
        where = passage.stretch(one.start_frame, one.end_frame)
        if where:
            ranges.append(replace(one, start_frame=where[0], end_frame=where[1]))
        else:
            lost.append(f"The range {quoted(one.name or one.id)} is after the end of the new version; removed.")
    ranges = ranges or [NamedRange(bench.ranges[0].id, 0, passage.new_frames)]
    markers: list[Marker] = []
    for marker in bench.markers:
        frame = passage.frame(marker.frame)
        if 0 <= frame < passage.new_frames:
            markers.append(replace(marker, frame=frame))
        else:
            lost.append(f"The marker {quoted(marker.name)} is outside the new version; removed.")
    there = {one.id for one in ranges}
    ticket = tuple(line for line in bench.ticket if line.range_id in there)
    tempo = bench.tempo and replace(bench.tempo, first_bar_frame=passage.frame(bench.tempo.first_bar_frame))
    kept = replace(bench, ranges=tuple(ranges), markers=tuple(markers), ticket=ticket, tempo=tempo)
    return Carried(kept, tuple(lost))
