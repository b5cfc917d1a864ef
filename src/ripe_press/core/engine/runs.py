"""Gapless entries of a running order: one signal through all stations, cut after the last of them."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import accumulate, pairwise

from ripe_press.core import stations as st
from ripe_press.core.engine.range_source import part_of
from ripe_press.core.engine.resolve import GaplessPlace, Mix, PlannedFile, files_of
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.sources.joined import joined
from ripe_press.core.sources.source import AudioSource


@dataclass(frozen=True, slots=True)
class RunEntry:
    """An entry of a run: what it is delivered as, its mix, and its range, settled."""

    delivery: Delivery
    mix: Mix
    cut: st.Range


def resolve_run(entries: Sequence[RunEntry], on_cd_frames: bool) -> tuple[tuple[PlannedFile, ...], ...]:
    """The files of every entry of a run; one that stands alone is resolved like any delivery.

    With ``on_cd_frames`` they are cut at the nearest seventy-fifth of a second, at every rate, as on a disc.

    Raises: BadInput ``join.rates``; Unsupported from the capability table.
    """
    if len(entries) == 1:
        (only,) = entries
        return (files_of(only.delivery, only.mix, only.cut),)
    source, cut, finish = _front(entries)
    places = [0, *accumulate(one.cut.frames for one in entries)]
    made = []
    for one, (start, end) in zip(entries, pairwise(places), strict=True):
        first = cut.start_frame + start if one.mix.source == source else start
        within = GaplessPlace(st.Source(source), cut, finish, start, end, first, on_cd_frames)
        made.append(files_of(one.delivery, one.mix, one.cut, within))
    return tuple(made)


def _front(entries: Sequence[RunEntry]) -> tuple[AudioSource, st.Range, st.Finish | None]:
    """What the entries are together: one long range where they are one in their mix, and else their parts, joined."""
    first, last = entries[0], entries[-1]
    chain = first.mix.finish if first.delivery.finish and not first.mix.finish.idle else None
    if all(_goes_on(one, other) for one, other in pairwise(entries)):
        whole = replace(
            first.cut, end_frame=last.cut.end_frame, tail_frames=last.cut.tail_frames, fade_out=last.cut.fade_out,
            silence_after=last.cut.silence_after,
        )  # fmt: skip
        return first.mix.source, whole, chain
    finishes = [one.mix.finish if one.delivery.finish and not one.mix.finish.idle else None for one in entries]
    alike = len(set(finishes)) == 1 and all(not one.offsets for one in finishes if one)
    parts = [
        part_of(one.mix.source, one.cut, None if alike else chain) for one, chain in zip(entries, finishes, strict=True)
    ]
    source = joined(parts, first.mix.title)
    frames = source.facts.frames
    return source, st.Range(0, frames, frames), finishes[0] if alike else None


def _goes_on(one: RunEntry, other: RunEntry) -> bool:
    """Return whether an entry continues in its mix at the end of the previous one, with both edges unchanged."""
    same = one.mix.source == other.mix.source and one.mix.finish == other.mix.finish
    bare = not (one.cut.tail_frames or one.cut.fade_out.frames or one.cut.silence_after or one.cut.loops)
    return (
        same and bare and not (other.cut.fade_in.frames or other.cut.silence_before or other.cut.loops)
        and one.cut.end_frame == other.cut.start_frame
    )  # fmt: skip
