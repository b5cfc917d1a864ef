"""Ranges proposed from measurements, each with its reason."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from ripe_press.core.measure.places.programme import Sounding
from ripe_press.core.measure.places.tail import Tail
from ripe_press.core.requests.bench import Bench, NamedRange, ranges_between
from ripe_press.core.requests.edges import NO_EDGES, RING_LIMIT_S, Edges
from ripe_press.core.timeline import TempoMap
from ripe_press.core.units import print_clock, print_db

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
    bench: Bench,
    frames: int,
    rate_hz: int,
    sounding: Sounding,
    pieces: Sequence[tuple[int, int]],
    tail_of: Callable[[int], Tail],
) -> tuple[Proposal, ...]:
    """What could leave. ``pieces`` are parted by long silence; ``tail_of`` returns the tail after a given sample."""
    start, end = sounding.frames
    found: list[Proposal] = []
    if start >= end:
        return ()
    if max(start, frames - end) > NOTICED_S * rate_hz:
        lead = 0 if sounding.noise_dbfs is not None else round(LEAD_S * rate_hz)
        first, last = max(0, start - lead), end
        reason = (
            f"Audio from {print_clock(start, rate_hz)} to {print_clock(end, rate_hz)} of "
            f"{print_clock(frames, rate_hz)}. {silence_words(sounding)}."
        )
        found.append(Proposal("Trim silence", reason, (NamedRange("p1", first, last),)))
    if loop := _loop(bench.tempo, frames, rate_hz, end, tail_of):
        found.append(loop)
    if bench.markers:
        ranges = ranges_between(bench.markers, frames)
        names = "range" if len(ranges) == 1 else "ranges"
        reason = f"One range per marker, up to the next marker ({len(bench.markers)} markers)."
        found.append(Proposal(f"{len(ranges)} {names} from markers", reason, ranges))
    if len(pieces) > 1:
        ranges = tuple(
            NamedRange(f"p{number}", first, last, f"Part {number}", (number - 1) % 6)
            for number, (first, last) in enumerate(pieces, 1)
        )
        reason = f"{len(pieces)} parts separated by silence."
        found.append(Proposal(f"{len(pieces)} parts", reason, ranges))
    return tuple(found)


def silence_words(sounding: Sounding) -> str:
    """``Noise floor −62.0 dBFS, silence below −52.0 dBFS``."""
    below = f"ilence below {print_db(sounding.silence_dbfs)}"
    return f"Noise floor {print_db(sounding.noise_dbfs)}, s{below}" if sounding.noise_dbfs is not None else f"S{below}"


def _loop(
    tempo: TempoMap | None, frames: int, rate_hz: int, sound_end: int, tail_of: Callable[[int], Tail]
) -> Proposal | None:
    """The most whole bars from bar 1 on that are a power of two, as long as not much more than a tail follows.

    A tail is folded onto the start; where the music continues, or may, the end is crossfaded into the start.
    """
    if tempo is None:
        return None
    last = tempo.last_bar_line(min(frames, sound_end), rate_hz)
    bars = last - 1
    if bars < 1:
        return None
    if bars > 2:
        bars = 1 << (bars.bit_length() - 1)
    start, end = tempo.bar_frame(1, rate_hz), tempo.bar_frame(bars + 1, rate_hz)
    if end > frames or (sound_end - end) / rate_hz > RING_LIMIT_S:
        return None
    tail = tail_of(end)
    reason = f"{bars} whole bars at {tempo.changes[0].tempo_bpm:g} bpm: {(end - start) / rate_hz:.3f} s."
    edges = NO_EDGES
    if tail.kind == "tail":
        edges = Edges("fold")
        reason += f" The tail of {tail.decay_s:.1f} s is folded onto the start."
    elif tail.kind != "nothing":
        edges = Edges("crossfade")
        reason += " The end is crossfaded into the start."
    words = f"{bars} bars" if bars > 1 else "1 bar"
    cut = NamedRange("p1", start, end, f"Loop {words}", edges=edges)
    return Proposal(f"Loop of {words}", reason, (cut,))
