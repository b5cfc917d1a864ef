"""Rules that can be judged from the mix's measures and the path, before and after pressing."""

from collections.abc import Callable
from dataclasses import dataclass

from ripe_press.core.engine import stations as st
from ripe_press.core.engine.edges import DECLICK_MS, EdgeLevels
from ripe_press.core.engine.stations import Path, Range, Source
from ripe_press.core.measure.clipping import ClippingResult
from ripe_press.core.measure.silence import SilenceResult
from ripe_press.core.rules.findings import Finding, Remedy
from ripe_press.core.units import print_clock, print_count, print_db


@dataclass(frozen=True, slots=True)
class RangeMeasures:
    """What is known of the range in the mix: clipped samples and the first one's frame, and whether it sounds."""

    overs: int
    first_over_frame: int | None
    clipped_samples: int
    first_clipped_frame: int | None
    sounding: bool = True
    head_silence_frames: int = 0
    tail_silence_frames: int = 0
    edges: EdgeLevels | None = None


def range_measures(
    clipping: ClippingResult, silence: SilenceResult | None = None, edges: EdgeLevels | None = None
) -> RangeMeasures:
    """The rules' view of a range of the mix: its clipping, the silence at its ends, and the levels at its edges."""
    sounding = silence is None or silence.head_frames < silence.frames
    return RangeMeasures(
        overs=clipping.overs,
        first_over_frame=min((run.start_frame for run in clipping.runs if run.overs), default=None),
        clipped_samples=clipping.clipped_samples,
        first_clipped_frame=min((run.start_frame for run in clipping.runs), default=None),
        sounding=sounding,
        head_silence_frames=silence.head_frames if silence and sounding else 0,
        tail_silence_frames=silence.tail_frames if silence and sounding else 0,
        edges=edges,
    )


def samples_over_full_scale(path: Path, measures: RangeMeasures) -> Finding | None:
    """Samples of the mix above full scale that integers cannot hold."""
    changed = any(isinstance(station, st.Level | st.Finish) and not station.idle for station in path)
    if not measures.overs or changed or not any(isinstance(station, st.Depth) for station in path):
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


def channels_unheard(channels: int, asked: bool) -> Finding | None:
    """Nothing says what the channels of the file are for, and nobody has chosen yet."""
    if not asked:
        return None
    sentence = (
        f"Nothing in the file says what its {channels} channels are for: channels 1 and 2 are taken, the others are "
        f"not heard. Choose at the mix."
    )
    return Finding("channels_unheard", "look", sentence)


def range_is_silent(_path: Path, measures: RangeMeasures) -> Finding | None:
    """Nothing sounds in the range."""
    if measures.sounding:
        return None
    return Finding("range_is_silent", "look", "Nothing sounds in this range. Is it the right part of the mix?")


CUT_ABOVE_DBFS = -60.0
"""Sound that is cut off above this level is noticed (our own choice; the tail of a room is heard to about here)."""

SHORT_FADE_S = 0.05
"""A fade up to this length takes a click away, but the sound is cut off all the same (our own choice)."""

DEAD_AIR_S = 0.5


def _parts(path: Path) -> tuple[Source, Range]:
    source = next(station for station in path if isinstance(station, st.Source))
    return source, next(station for station in path if isinstance(station, st.Range))


def end_cuts_sound(path: Path, measures: RangeMeasures) -> Finding | None:
    """The range stops while the mix still sounds, and nothing softens it."""
    source, cut = _parts(path)
    levels = measures.edges
    if levels is None or cut.fade_out.frames > SHORT_FADE_S * source.rate_hz or (cut.fold and cut.tail_frames):
        return None
    if min(levels.before_end_dbfs, levels.after_end_dbfs) < CUT_ABOVE_DBFS:
        return None
    at = print_clock(cut.read_end, source.rate_hz, 2)
    sentence = f"The range ends at {at} while the mix is at {print_db(levels.before_end_dbfs)}: its tail is cut off."
    return Finding("end_cuts_sound", "look", sentence, cut.read_end, Remedy("Ring out", end="ring"))


def start_cuts_sound(path: Path, measures: RangeMeasures) -> Finding | None:
    """The range begins in the middle of sound, and nothing softens it."""
    source, cut = _parts(path)
    levels = measures.edges
    if levels is None or cut.fade_in.frames or cut.fold:
        return None
    if min(levels.before_start_dbfs, levels.after_start_dbfs) < CUT_ABOVE_DBFS:
        return None
    at = print_clock(cut.start_frame, source.rate_hz, 2)
    sentence = f"The range begins at {at} in the middle of sound at {print_db(levels.before_start_dbfs)}."
    remedy = Remedy("De-click", declick_ms=DECLICK_MS)
    return Finding("start_cuts_sound", "look", sentence, cut.start_frame, remedy)


def dead_air(path: Path, measures: RangeMeasures) -> Finding | None:
    """More than half a second of silence is left at either end."""
    source, cut = _parts(path)
    head, tail = measures.head_silence_frames, measures.tail_silence_frames
    if not measures.sounding or max(head, tail) <= DEAD_AIR_S * source.rate_hz:
        return None
    places = [
        f"{frames / source.rate_hz:.1f} s at the {name}"
        for name, frames in (("start", head), ("end", tail))
        if frames > DEAD_AIR_S * source.rate_hz
    ]
    start, end = cut.start_frame + head, max(cut.start_frame + head + 1, min(cut.end_frame, cut.read_end - tail))
    remedy = Remedy("Only what sounds", start, end)
    return Finding("dead_air", "look", f"Silence is left: {' and '.join(places)}.", cut.start_frame, remedy)


BEFORE: tuple[Callable[[Path, RangeMeasures], Finding | None], ...] = (
    samples_over_full_scale,
    clipped_in_the_mix,
    range_is_silent,
    end_cuts_sound,
    start_cuts_sound,
    dead_air,
)


def findings_before(path: Path, measures: RangeMeasures) -> tuple[Finding, ...]:
    """All that the rules notice, in the order of the list."""
    return tuple(finding for rule in BEFORE if (finding := rule(path, measures)))
