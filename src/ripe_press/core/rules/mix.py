"""Rules about the mix and the range of it, which can be judged before pressing and after."""

from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import Finding, Remedy
from ripe_press.core.rules.speaks import Said, speaks
from ripe_press.core.rules.turned_down import turned_down
from ripe_press.core.units import print_clock, print_count, print_db
from ripe_press.core.wishes.edges import DECLICK_MS


@speaks("before")
def channels_unheard(case: Case) -> Said:
    """Nothing says what the channels of the file are for, and nobody has chosen yet."""
    if case.channels_unheard:
        sentence = (
            f"Nothing in the file says what its {case.channels_unheard} channels are for: channels 1 and 2 are taken, "
            f"the others are not heard. Choose at the mix."
        )
        yield Finding("channels_unheard", "look", sentence)


@speaks("before", "after")
def samples_over_full_scale(case: Case) -> Said:
    """Samples of the mix above full scale that integers cannot hold."""
    measures = case.measures
    if not measures or not measures.overs or case.path.changed or not case.path.depth:
        return
    frame = measures.first_over_frame or 0
    sentence = (
        f"The mix is above full scale in {print_count(measures.overs, 'sample')} of this range, first at "
        f"{print_clock(frame, case.path.source.facts.rate_hz, 2)}: this file clips there."
    )
    yield Finding("samples_over_full_scale", "look", sentence, frame, turned_down(case))


@speaks("before", "after")
def clipped_in_the_mix(case: Case) -> Said:
    """Runs held at full scale: the mix was clipped before it came here."""
    measures = case.measures
    if not measures or measures.overs or not measures.clipped_samples:
        return
    frame = measures.first_clipped_frame or 0
    sentence = (
        f"The mix itself is clipped: {print_count(measures.clipped_samples, 'sample')} held at full scale, first at "
        f"{print_clock(frame, case.path.source.facts.rate_hz, 2)}. Nothing here can undo that; look at the mix."
    )
    yield Finding("clipped_in_the_mix", "look", sentence, frame)


@speaks("before", "after")
def range_is_silent(case: Case) -> Said:
    """Nothing sounds in the range."""
    if case.measures and not case.measures.sounding:
        yield Finding("range_is_silent", "look", "Nothing sounds in this range. Is it the right part of the mix?")


CUT_ABOVE_DBFS = -60.0
"""Sound that is cut off above this level is noticed (our own choice; the tail of a room is heard to about here)."""

SHORT_FADE_S = 0.05
"""A fade up to this length takes a click away, but the sound is cut off all the same (our own choice)."""

DEAD_AIR_S = 0.5


@speaks("before", "after")
def end_cuts_sound(case: Case) -> Said:
    """The range stops while the mix still sounds, and nothing softens it."""
    cut, rate_hz = case.path.cut, case.path.source.facts.rate_hz
    levels = case.measures.edges if case.measures else None
    if levels is None or cut.fade_out.frames > SHORT_FADE_S * rate_hz or (cut.fold and cut.tail_frames):
        return
    if case.brief.prefer.longest_s:
        # What takes a piece of a mix cuts it on purpose.
        return
    if min(levels.before_end_dbfs, levels.after_end_dbfs) < CUT_ABOVE_DBFS:
        return
    at = print_clock(cut.read_end, rate_hz, 2)
    sentence = f"The range ends at {at} while the mix is at {print_db(levels.before_end_dbfs)}: its tail is cut off."
    yield Finding("end_cuts_sound", "look", sentence, cut.read_end, Remedy("Ring out", end="ring"))


@speaks("before", "after")
def start_cuts_sound(case: Case) -> Said:
    """The range begins in the middle of sound, and nothing softens it."""
    cut = case.path.cut
    levels = case.measures.edges if case.measures else None
    if levels is None or cut.fade_in.frames or cut.fold:
        return
    if min(levels.before_start_dbfs, levels.after_start_dbfs) < CUT_ABOVE_DBFS:
        return
    at = print_clock(cut.start_frame, case.path.source.facts.rate_hz, 2)
    sentence = f"The range begins at {at} in the middle of sound at {print_db(levels.before_start_dbfs)}."
    remedy = Remedy("De-click", declick_ms=DECLICK_MS)
    yield Finding("start_cuts_sound", "look", sentence, cut.start_frame, remedy)


@speaks("before", "after")
def dead_air(case: Case) -> Said:
    """More than half a second of silence is left at either end."""
    cut, rate_hz, measures = case.path.cut, case.path.source.facts.rate_hz, case.measures
    if not measures or not measures.sounding:
        return
    head, tail = measures.head_silence_frames, measures.tail_silence_frames
    places = [
        f"{frames / rate_hz:.1f} s at the {name}"
        for name, frames in (("start", head), ("end", tail))
        if frames > DEAD_AIR_S * rate_hz
    ]
    if not places:
        return
    start, end = cut.start_frame + head, max(cut.start_frame + head + 1, min(cut.end_frame, cut.read_end - tail))
    remedy = Remedy("Only what sounds", start, end)
    yield Finding("dead_air", "look", f"Silence is left: {' and '.join(places)}.", cut.start_frame, remedy)
