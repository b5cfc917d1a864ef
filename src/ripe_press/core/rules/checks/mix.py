"""Rules about the mix and the range of it, which can be judged before pressing and after."""

from ripe_press.core.requests.edges import DECLICK_MS, TAKES_A_TAIL, Stretch
from ripe_press.core.rules.case import Case, is_loop
from ripe_press.core.rules.findings import Finding, Remedy
from ripe_press.core.rules.rule import Said, speaks
from ripe_press.core.rules.turned_down import turned_down
from ripe_press.core.units import print_clock, print_count, print_db


@speaks("before")
def channels_unheard(case: Case) -> Said:
    """The file has no channel labels, and no channels are chosen yet."""
    if case.channels_unheard:
        sentence = f"{case.channels_unheard} unlabelled channels; using 1 and 2. Choose the channels in Mix."
        yield Finding("channels_unheard", "look", sentence)


@speaks("before", "after")
def samples_over_full_scale(case: Case) -> Said:
    """Samples of the mix above full scale that integers cannot hold."""
    measures = case.measures
    if not measures or not measures.overs or case.path.changed or not case.path.depth:
        return
    frame = measures.first_over_frame or 0
    at = print_clock(frame, case.path.source.facts.rate_hz)
    sentence = f"{print_count(measures.overs, 'sample')} over full scale, first at {at}. Lower the true peak."
    yield Finding("samples_over_full_scale", "look", sentence, frame, turned_down(case))


@speaks("before", "after")
def clipped_in_the_mix(case: Case) -> Said:
    """Runs held at full scale: the mix was clipped before it came here."""
    measures = case.measures
    if not measures or measures.overs or not measures.clipped_samples:
        return
    frame = measures.first_clipped_frame or 0
    at = print_clock(frame, case.path.source.facts.rate_hz)
    clipped = print_count(measures.clipped_samples, "clipped sample")
    sentence = f"{clipped} in the mix, first at {at}. Check the mix."
    yield Finding("clipped_in_the_mix", "look", sentence, frame)


@speaks("before", "after")
def range_is_silent(case: Case) -> Said:
    """Nothing sounds in the range."""
    if case.measures and not case.measures.sounding:
        yield Finding("range_is_silent", "look", "Range is silent. Check its start and end.")


CUT_ABOVE_DBFS = -60.0
"""Sound cut above this level is a finding (our own choice; a room's decay is audible to about here)."""

SHORT_FADE_S = 0.05
"""A fade up to this length removes a click but still cuts the sound (our own choice)."""

FADE_OUT_S = 2.0
DEAD_AIR_S = 0.5


@speaks("before", "after")
def end_cuts_sound(case: Case) -> Said:
    """The range stops while the mix still sounds, and nothing softens it."""
    cut, rate_hz = case.path.cut, case.path.source.facts.rate_hz
    levels, tail = case.measures.edges if case.measures else None, case.wish.stretch.tail
    if levels is None or cut.fade_out.frames > SHORT_FADE_S * rate_hz or cut.loops or is_loop(case):
        return
    if case.brief.prefer.longest_s or (case.wish.bars and tail.kind != "tail"):
        # What takes a piece of a mix, or cuts music at bar lines, cuts it on purpose; a tail is cut by mistake.
        return
    if tail_is_music(case.wish.stretch, rate_hz):
        return
    rings, limit = case.wish.stretch.edges.end == "ring", case.wish.stretch.edges.ring_limit_s
    over = tail.kind == "nothing" or (rings and tail.decay_s < limit)
    if over or min(levels.before_end_dbfs, levels.after_end_dbfs) < CUT_ABOVE_DBFS:
        return
    at, level = print_clock(cut.read_end, rate_hz), print_db(levels.before_end_dbfs)
    if tail.kind == "tail" and not rings:
        sentence = f"Tail cut off at {at}, at {level}. Ring out adds {tail.decay_s:.1f} s."
        yield Finding("end_cuts_sound", "look", sentence, cut.read_end, Remedy("Ring out", end="ring"))
    elif tail.kind == "tail":
        sentence = f"Tail cut off at {at}, at {level}, by the limit of {limit:g} s. Raise the limit."
        yield Finding("end_cuts_sound", "look", sentence, cut.read_end)
    elif tail.kind == "music":
        sentence = f"Ends in the music at {at}, at {level}. Add a fade out, or move the end."
        remedy = Remedy(f"Fade out {FADE_OUT_S:g} s", fade_out_s=FADE_OUT_S)
        yield Finding("end_cuts_sound", "look", sentence, cut.read_end, remedy)
    else:
        sentence = (
            f"Ends at {at}, at {level}: tail or music follows. Listen across the end, then choose Ring out or a fade."
        )
        yield Finding("end_cuts_sound", "look", sentence, cut.read_end)


def tail_is_music(stretch: Stretch, rate_hz: int) -> str:
    """Why a tail that is asked for cannot be used: the music continues; empty where it can, or none is asked for."""
    if stretch.tail.kind != "music" or stretch.edges.end not in TAKES_A_TAIL:
        return ""
    at = print_clock(stretch.end_frame, rate_hz)
    return f"The music continues after {at}: no tail to use. Choose Cut, a fade out or Crossfade."


@speaks("before", "after", ids=("tail_is_music",))
def tail_taken_from_music(case: Case) -> Said:
    """A tail is asked for, and the music continues."""
    stretch = case.wish.stretch
    if sentence := tail_is_music(stretch, case.path.source.facts.rate_hz):
        fold = stretch.edges.end == "fold"
        remedy = Remedy("Crossfade", end="crossfade") if fold else Remedy("Cut", end="stop")
        yield Finding("tail_is_music", "stop", sentence, stretch.end_frame, remedy)


@speaks("before", "after")
def tail_unsure(case: Case) -> Said:
    """A tail is used, and it is not sure that what follows the end is one."""
    stretch, cut = case.wish.stretch, case.path.cut
    if stretch.tail.kind == "unsure" and cut.tail_frames and stretch.edges.end in TAKES_A_TAIL:
        used = "added to the start" if cut.fold else "included"
        at = print_clock(stretch.end_frame, case.path.source.facts.rate_hz)
        sentence = f"{stretch.tail.decay_s:.1f} s after {at} are {used}: tail or music. Listen across the end."
        yield Finding("tail_unsure", "look", sentence, stretch.end_frame)


@speaks("before", "after")
def start_cuts_sound(case: Case) -> Said:
    """The range begins in the middle of sound, and nothing softens it."""
    cut = case.path.cut
    levels = case.measures.edges if case.measures else None
    if levels is None or cut.fade_in.frames or cut.loops or is_loop(case) or case.wish.bars:
        return
    if min(levels.before_start_dbfs, levels.after_start_dbfs) < CUT_ABOVE_DBFS:
        return
    at = print_clock(cut.start_frame, case.path.source.facts.rate_hz)
    sentence = f"Starts mid-sound at {at}, at {print_db(levels.before_start_dbfs)}. De-click or move the start."
    remedy = Remedy("De-click", declick_ms=DECLICK_MS)
    yield Finding("start_cuts_sound", "look", sentence, cut.start_frame, remedy)


@speaks("before", "after")
def dead_air(case: Case) -> Said:
    """More than half a second of silence is left at either end."""
    cut, rate_hz, measures = case.path.cut, case.path.source.facts.rate_hz, case.measures
    # A stem is silent where its instrument is.
    if not measures or not measures.sounding or case.wish.part:
        return
    # A bit-exact copy of a whole mix is to be as the mix is, and some recipients ask for room tone.
    whole = cut.start_frame == 0 and cut.read_end == case.path.source.facts.frames
    if (whole and case.path.codec.exact) or case.brief.require.head_s:
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
    remedy = Remedy("Trim silence", start, end)
    yield Finding("dead_air", "look", f"Silence: {', '.join(places)}. Trim it.", cut.start_frame, remedy)
