"""What is set out on the bench of a mix, carried over to another version of it."""

from dataclasses import dataclass, replace

from ripe_press.core.timeline import Marker
from ripe_press.core.wishes.bench import Bench, NamedRange


@dataclass(frozen=True, slots=True)
class Passage:
    """From the frames of one version to those of another: a rate, and by how much later the music lies there."""

    old_frames: int
    old_hz: int
    new_frames: int
    new_hz: int
    shift_frames: int = 0

    def frame(self, frame: int) -> int:
        """Where a frame of the old version lies in the new one; it may lie outside."""
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


def carried(bench: Bench, passage: Passage) -> Carried:
    """Ranges, markers and tempo map where the music lies now; ticket, tags, chain and picture as they are.

    A range of which nothing is left goes, with its deliveries, and so does a marker outside; both are told. Where no
    range is left at all there is one of the whole.
    """
    ranges: list[NamedRange] = []
    lost: list[str] = []
    for one in bench.ranges:
        where = passage.stretch(one.start_frame, one.end_frame)
        if where:
            ranges.append(replace(one, start_frame=where[0], end_frame=where[1]))
        else:
            lost.append(f"The range {one.name or one.id!r} is after the end of the new version; removed.")
    ranges = ranges or [NamedRange(bench.ranges[0].id, 0, passage.new_frames)]
    markers: list[Marker] = []
    for marker in bench.markers:
        frame = passage.frame(marker.frame)
        if 0 <= frame < passage.new_frames:
            markers.append(replace(marker, frame=frame))
        else:
            lost.append(f"The marker {marker.name!r} is outside the new version; removed.")
    there = {one.id for one in ranges}
    ticket = tuple(line for line in bench.ticket if line.range_id in there)
    tempo = bench.tempo and replace(bench.tempo, first_bar_frame=passage.frame(bench.tempo.first_bar_frame))
    kept = replace(bench, ranges=tuple(ranges), markers=tuple(markers), ticket=ticket, tempo=tempo)
    return Carried(kept, tuple(lost))
