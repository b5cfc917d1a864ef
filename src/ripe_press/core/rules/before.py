"""Rules that can be judged from the mix's measures and the path, before and after pressing."""

from collections.abc import Callable
from dataclasses import dataclass

from ripe_press.core.engine import stations as st
from ripe_press.core.engine.stations import Path
from ripe_press.core.measure.clipping import ClippingResult
from ripe_press.core.rules.findings import Finding
from ripe_press.core.units import print_clock, print_count


@dataclass(frozen=True, slots=True)
class RangeMeasures:
    """What is known of the range in the mix: clipped samples and the first one's frame, and whether it sounds."""

    overs: int
    first_over_frame: int | None
    clipped_samples: int
    first_clipped_frame: int | None
    sounding: bool = True


def range_measures(clipping: ClippingResult, sounding: bool = True) -> RangeMeasures:
    """The rules' view of the clipping inside a range."""
    return RangeMeasures(
        overs=clipping.overs,
        first_over_frame=min((run.start_frame for run in clipping.runs if run.overs), default=None),
        clipped_samples=clipping.clipped_samples,
        first_clipped_frame=min((run.start_frame for run in clipping.runs), default=None),
        sounding=sounding,
    )


def samples_over_full_scale(path: Path, measures: RangeMeasures) -> Finding | None:
    """Samples of the mix above full scale that integers cannot hold."""
    if not measures.overs or not any(isinstance(station, st.Depth) for station in path):
        return None
    rate_hz = next(station.rate_hz for station in path if isinstance(station, st.Source))
    frame = measures.first_over_frame or 0
    sentence = (
        f"The mix is above full scale in {print_count(measures.overs, 'sample')} of this range, first at "
        f"{print_clock(frame, rate_hz, 2)}: this file clips there."
    )
    return Finding("samples_over_full_scale", "look", sentence, frame)


def clipped_in_the_mix(path: Path, measures: RangeMeasures) -> Finding | None:
    """Runs held at full scale: the mix was clipped before it came here."""
    held = measures.clipped_samples - measures.overs
    if held <= 0 or measures.overs:
        return None
    rate_hz = next(station.rate_hz for station in path if isinstance(station, st.Source))
    frame = measures.first_clipped_frame or 0
    sentence = (
        f"The mix itself is clipped: {print_count(held, 'sample')} held at full scale, first at "
        f"{print_clock(frame, rate_hz, 2)}. Nothing here can undo that; look at the mix."
    )
    return Finding("clipped_in_the_mix", "look", sentence, frame)


def range_is_silent(_path: Path, measures: RangeMeasures) -> Finding | None:
    """Nothing sounds in the range."""
    if measures.sounding:
        return None
    return Finding("range_is_silent", "look", "Nothing sounds in this range. Is it the right part of the mix?")


BEFORE: tuple[Callable[[Path, RangeMeasures], Finding | None], ...] = (
    samples_over_full_scale,
    clipped_in_the_mix,
    range_is_silent,
)


def findings_before(path: Path, measures: RangeMeasures) -> tuple[Finding, ...]:
    """All that the rules notice, in the order of the list."""
    return tuple(finding for rule in BEFORE if (finding := rule(path, measures)))
