"""What the resolution of tickets and of running orders have in common: files without a place, mixes, ranges."""

from collections.abc import Mapping
from dataclasses import dataclass

from ripe_press.core.engine.resolve import Mix, PlannedFile
from ripe_press.core.errors import NotFound, RipePressError
from ripe_press.core.requests.bench import NamedRange, TicketLine, finish_of
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.document import MixRequest
from ripe_press.core.requests.edges import TAKES_A_TAIL, Stretch
from ripe_press.core.requests.notes import MixNotes
from ripe_press.core.words import quoted
from ripe_press.studio.planning.knowledge import Knowledge


@dataclass(frozen=True, slots=True)
class RejectedDelivery:
    """A delivery that cannot be made, and why."""

    line: TicketLine
    error: RipePressError


@dataclass(frozen=True, slots=True)
class Resolved:
    """A file of a ticket whose place is not settled yet."""

    planned: PlannedFile
    line: TicketLine
    brief: Brief
    mix: Mix
    known: Knowledge
    wish: MixRequest


def mix_of(wish: MixRequest, known: Knowledge, *, beside: bool = False) -> Mix:
    """The sources of a mix's deliveries, or of those of the stem ``beside`` it."""
    bench, cover = wish.bench, wish.cover.path if wish.cover else ""
    offsets = wish.source.offsets
    if beside and bench.finish.remove_dc:
        offsets = tuple(known.measures["dc_offset"])
    finish = finish_of(bench.finish, offsets)
    notes = MixNotes(bench.tags, cover, bench.markers, wish.source.time_reference)
    return Mix(known.source, wish.source.title, finish, notes)


def stretch_of(
    known: Knowledge, part: NamedRange, silence_dbfs: float | None = None, *, judged: bool = False
) -> Stretch:
    """A range of a mix, with how long it rings or crossfades where it is to, and for one that is to be ``judged`` with
    what follows its end and from where to where the mix sounds.
    """
    edges, start, end, facts = part.edges, part.start_frame, part.end_frame, known.facts
    if not 0 <= start < end <= facts.frames:
        # The error is raised where it is resolved.
        return Stretch(start, end, edges, name=part.name)
    heard_end = min(facts.frames, end + round(edges.hold_s * facts.rate_hz)) if edges.end == "hold" else end
    tone = known.quiet_stretch() if edges.room_tone else None
    if not judged and (edges.end not in TAKES_A_TAIL or end == facts.frames):
        return Stretch(start, end, edges, name=part.name, crossfade_frames=_crossfade(known, part), tone=tone)
    sounding = known.sounding(silence_dbfs)
    tail = known.tail(heard_end, max(edges.ring_below_dbfs, sounding.silence_dbfs), edges.ring_limit_s)
    # Continuing music is not a tail: a rule reports it, and no tail is used.
    rings = edges.end in TAKES_A_TAIL and tail.kind != "music"
    ring = min(facts.frames - end, round(tail.decay_s * facts.rate_hz)) if rings else 0
    return Stretch(start, end, edges, ring, part.name, tail, _crossfade(known, part), tone, sounding.frames)


def _crossfade(known: Knowledge, part: NamedRange) -> int:
    """The length of the crossfade of a range in frames: as it is set, or as its seam needs it."""
    if part.edges.end != "crossfade":
        return 0
    wanted = round(part.edges.crossfade_ms * known.facts.rate_hz / 1000)
    return wanted or known.crossfade_frames(part.start_frame, part.end_frame)


def brief_of_line(line: TicketLine, briefs: Mapping[str, Brief]) -> Brief:
    """The brief that a line names. Raises: NotFound ``brief.unknown``."""
    if line.brief not in briefs:
        message = f"Brief {quoted(line.brief)} not found. Choose another or remove the delivery."
        raise NotFound("brief.unknown", message, brief=line.brief)
    return briefs[line.brief]
