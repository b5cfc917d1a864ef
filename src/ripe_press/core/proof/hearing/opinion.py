"""Sentences for the figures of the hearing model: prediction, reasons, places.

The limits follow common opinions on encoders, not a listening test (common practice, no source): of 36 files of low
rates none passes, of 36 of high rates 33 do. The model assumes one playback level and ignores losses above 18 kHz.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ripe_press.core.proof.hearing.meter import Audibility
from ripe_press.core.units import print_clock, print_count, print_hz

Prediction = Literal["same", "none", "perhaps", "noticed"]
"""Nothing differs; no difference is predicted; perhaps one; one is."""

TOTAL_DB, P95_DB, ABOVE_SHARE = -14.0, -12.0, 0.02
LIKELY_TOTAL_DB, LIKELY_P99_DB, LIKELY_ABOVE_SHARE = -12.0, -8.0, 0.1
WORST_BAND_DB, SHORT_DB, SIDE_DB = -6.0, 0.0, -10.0
_MOST_PLACES = 20
_JOINED_S = 0.5
_MOST_ABOVE_DB = 200.0
"""Where nothing at all masks, a ratio has no end."""


@dataclass(frozen=True, slots=True)
class AudiblePlace:
    """Where the ear may notice: from when to when, in seconds, and the frequency and ratio that stand out most."""

    start_s: float
    end_s: float
    hz: float
    above_db: float


@dataclass(frozen=True, slots=True)
class Opinion:
    """The prediction, one sentence, and the reasons against transparency."""

    prediction: Prediction
    sentence: str
    reasons: tuple[str, ...] = ()


def opinion_of(heard: Audibility, begins_s: float = 0.0) -> Opinion:
    """The opinion of a comparison; ``begins_s`` is the start of the compared part in seconds."""
    if heard.nothing:
        return Opinion("same", "No audible difference.")
    reasons = _reasons(heard)
    below = f"{-heard.p99_db:.0f} dB below masking for 99 % of the time"
    if heard.p99_db > -1:
        below = f"{max(0.0, heard.p99_db):.0f} dB or more above masking for 1 % of the time"
    if not reasons:
        return Opinion("none", f"Transparent: {below}.")
    places = places_of(heard)
    where = ""
    if places:
        loudest = max(places, key=lambda one: one.above_db)
        clock = print_clock(round((begins_s + loudest.start_s) * 10), 10, 1)
        count = print_count(len(places), "place")
        where = f" in {count}, worst at {clock} near {print_hz(loudest.hz)}"
    likely = (
        heard.total_db <= LIKELY_TOTAL_DB and heard.p99_db <= LIKELY_P99_DB and heard.above_share <= LIKELY_ABOVE_SHARE
    )
    first = "Possibly audible" if likely else "Probably audible"
    return Opinion("perhaps" if likely else "noticed", f"{first}{where}: {below}.", reasons)


def _reasons(heard: Audibility) -> tuple[str, ...]:
    said = (
        (heard.total_db > TOTAL_DB, f"mean ratio {heard.total_db:.1f} dB, limit {TOTAL_DB:.0f} dB"),
        (heard.p95_db > P95_DB, f"above {heard.p95_db:.1f} dB for 5 % of the time, limit {P95_DB:.0f} dB"),
        (
            heard.above_share > ABOVE_SHARE,
            f"one band above masking for {heard.above_share:.1%} of the time, limit {ABOVE_SHARE:.0%}",
        ),
        (
            heard.worst_band_db > WORST_BAND_DB,
            f"mean near {print_hz(heard.worst_band_hz)} {heard.worst_band_db:.1f} dB, limit {WORST_BAND_DB:.0f} dB",
        ),
        (heard.short_p99_db > SHORT_DB, f"pre-echo up to {heard.short_p99_db:.1f} dB"),
        (
            heard.side_db is not None and heard.side_db > SIDE_DB,
            f"side-channel mean {heard.side_db or 0:.1f} dB, limit {SIDE_DB:.0f} dB",
        ),
    )
    return tuple(sentence for holds, sentence in said if holds)


def places_of(heard: Audibility) -> tuple[AudiblePlace, ...]:
    """The places where anything lies above its mask, in their order; of very many the loudest."""
    highest = heard.picture.max(axis=1, initial=-np.inf)
    loud = np.flatnonzero(highest > 0)
    if not len(loud):
        return ()
    apart = max(1, round(_JOINED_S / heard.column_s))
    groups = np.split(loud, np.flatnonzero(np.diff(loud) > apart) + 1)
    found = []
    for group in groups:
        column = int(group[np.argmax(highest[group])])
        band = int(np.argmax(heard.picture[column]))
        start, end = float(group[0]) * heard.column_s, float(group[-1] + 1) * heard.column_s
        found.append(AudiblePlace(start, end, heard.band_hz[band], min(_MOST_ABOVE_DB, float(highest[column]))))
    loudest = sorted(found, key=lambda one: -one.above_db)[:_MOST_PLACES]
    return tuple(sorted(loudest, key=lambda one: one.start_s))
