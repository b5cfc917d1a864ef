"""Ranges proposed from what was measured, each with its reason."""

from collections.abc import Sequence
from dataclasses import dataclass

from ripe_press.core.timeline import TempoMap
from ripe_press.core.units import print_clock
from ripe_press.core.wishes.bench import Bench, NamedRange, ranges_between
from ripe_press.core.wishes.edges import RING_LIMIT_S, Edges

NOTICED_S = 0.1
"""Less silence than this at an end is nothing to propose about (our own choice)."""

LEAD_S = 0.02
"""Left before the first sound, so that no attack is shaved (our own choice)."""


@dataclass(frozen=True, slots=True)
class Proposal:
    """A way to set the ranges: what it is called, why, and the ranges."""

    label: str
    reason: str
    ranges: tuple[NamedRange, ...]


def propose(
    bench: Bench, frames: int, rate_hz: int, sounding: tuple[int, int], pieces: Sequence[tuple[int, int]]
) -> tuple[Proposal, ...]:
    """What could leave. ``sounding`` is from the first to the last sound, ``pieces`` what long silence parts."""
    start, end = sounding
    found: list[Proposal] = []
    if start >= end:
        return ()
    if max(start, frames - end) > NOTICED_S * rate_hz:
        first, last = max(0, start - round(LEAD_S * rate_hz)), end
        reason = (
            f"Sound begins at {print_clock(start, rate_hz, 2)} and has died away below −70 dBFS at "
            f"{print_clock(end, rate_hz, 2)} of {print_clock(frames, rate_hz, 2)}."
        )
        found.append(Proposal("Only what sounds", reason, (NamedRange("p1", first, last),)))
    if loop := _loop(bench.tempo, frames, rate_hz, end):
        found.append(loop)
    if bench.markers:
        ranges = ranges_between(bench.markers, frames)
        names = "range" if len(ranges) == 1 else "ranges"
        reason = f"One from each of the {len(bench.markers)} markers to the next, the last to the end."
        found.append(Proposal(f"{len(ranges)} {names} from markers", reason, ranges))
    if len(pieces) > 1:
        ranges = tuple(
            NamedRange(f"p{number}", first, last, f"Piece {number}", (number - 1) % 6)
            for number, (first, last) in enumerate(pieces, 1)
        )
        reason = f"Silence parts the mix into {len(pieces)} pieces."
        found.append(Proposal(f"{len(pieces)} pieces", reason, ranges))
    return tuple(found)


def _loop(tempo: TempoMap | None, frames: int, rate_hz: int, sound_end: int) -> Proposal | None:
    """The most whole bars from bar 1 on that are a power of two, when no more than a tail sounds after them."""
    if tempo is None:
        return None
    last = tempo.last_bar_line(min(frames, sound_end), rate_hz)
    bars = last - 1
    if bars < 1:
        return None
    if bars > 2:
        bars = 1 << (bars.bit_length() - 1)
    start, end = tempo.bar_frame(1, rate_hz), tempo.bar_frame(bars + 1, rate_hz)
    rings = (sound_end - end) / rate_hz
    if rings > RING_LIMIT_S:
        return None
    reason = f"{bars} whole bars at {tempo.changes[0].tempo_bpm:g} are {(end - start) / rate_hz:.3f} s to the sample"
    reason += f"; the {rings:.1f} s that ring past them are folded onto the start." if rings > 0 else "."
    words = f"{bars} bars" if bars > 1 else "1 bar"
    cut = NamedRange("p1", start, end, f"Loop {words}", edges=Edges("fold"))
    return Proposal(f"Loop of {words}", reason, (cut,))
