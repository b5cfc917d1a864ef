"""The seam of a loop in its mix: what the mix does there, and the crossfade that hides it."""

from dataclasses import dataclass

import numpy as np

from ripe_press.core.blocks import Block
from ripe_press.core.measure.places.seam import (
    AROUND_S,
    MOST_ELSEWHERE_S,
    Seam,
    flux,
    least_frames,
    seam_of,
    window_frames,
)
from ripe_press.core.signal.edges import crossfaded
from ripe_press.core.sources.source import AudioSource

CROSSFADES_MS = (5.0, 10.0, 20.0, 50.0, 2.0)
"""Lengths that are tried, in this order; the first whose seam passes is chosen."""


def _read(source: AudioSource, start: int, end: int) -> Block:
    """The frames between two places of a source; silence where it has none."""
    facts = source.facts
    first, last = max(0, start), min(facts.frames, end)
    with source.open() as reader:
        parts = list(reader.blocks(first, last)) if last > first else []
    before = np.zeros((max(0, min(end, 0) - start), facts.channels))
    behind = np.zeros((max(0, end - max(start, facts.frames)), facts.channels))
    return np.concatenate([before, *parts, behind])


@dataclass(frozen=True, slots=True)
class OwnSound:
    """What the mix does at both ends of a loop: how sudden it is there, and how sudden the loop mostly is."""

    at_ends: float
    usual: float

    @property
    def ratio(self) -> float:
        """How many times more sudden the mix is at one of those places than mostly."""
        return self.at_ends / self.usual if self.usual > 0 else 1.0


def own_sound(source: AudioSource, start: int, end: int) -> OwnSound:
    """How sudden a mix is where a loop begins and ends, and mostly in between."""
    facts = source.facts
    reach = 3 * window_frames(facts.rate_hz)
    places = [_read(source, at - reach, at + reach).mean(axis=1) for at in (start, end)]
    most = min(end, start + round(MOST_ELSEWHERE_S * facts.rate_hz))
    usual = flux(_read(source, start, most).mean(axis=1), facts.rate_hz)
    return OwnSound(max(float(flux(one, facts.rate_hz).max()) for one in places), float(np.percentile(usual, 95)))


def choose_crossfade(source: AudioSource, start: int, end: int, *, needed: bool = True) -> tuple[int, Seam | None]:
    """The frames of a crossfade for a loop of a mix, and the seam that it gives: the first length that passes, or else
    the one whose seam is least sudden. Where it is not ``needed`` it has no frames if a plain cut passes. A loop
    that is too short to have a seam has none.
    """
    facts = source.facts
    if end - start < least_frames(facts.rate_hz):
        return 0, None
    own = own_sound(source, start, end)
    reference = max(own.at_ends, own.usual)
    around = round(AROUND_S * facts.rate_hz)
    head = _read(source, start, min(end, start + around))
    tail = _read(source, max(start, end - around), end)
    found: list[tuple[int, Seam]] = []
    if not needed and (plain := seam_of(tail, head, facts.rate_hz, reference)).clean:
        return 0, plain
    for milliseconds in CROSSFADES_MS:
        frames = min(round(milliseconds * facts.rate_hz / 1000), len(tail))
        lead = _read(source, start - frames, start)
        joined = np.concatenate((tail[:-frames], crossfaded(tail[-frames:], lead)))
        found.append((frames, seam_of(joined, head, facts.rate_hz, reference, frames)))
        if found[-1][1].clean:
            return found[-1]
    return min(found, key=lambda one: one[1].flux)
