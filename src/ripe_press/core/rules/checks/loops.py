"""Rules about loops: a known tempo, whole bars, a seam that is not heard."""

from ripe_press.core.measure.places.seam import MOST_FLUX, MOST_HOLE_DB, MOST_STEP
from ripe_press.core.rules.case import Case, is_loop
from ripe_press.core.rules.findings import Check, Finding, Remedy
from ripe_press.core.rules.rule import Said, speaks
from ripe_press.core.timeline import TempoChange, TempoMap
from ripe_press.core.units import print_clock, print_count


@speaks("before", "after")
def loop_tempo(case: Case) -> Said:
    """A loop needs a tempo: without one its bars are not known."""
    if not case.brief.require.whole_bars or case.wish.tempo:
        return
    found, rate_hz = case.tempo_found, case.path.source.facts.rate_hz
    if found is None:
        yield Finding("loop_tempo", "look", "No tempo, so no bars. Set the tempo and bar 1 in Tempo and metre.")
        return
    tempo = TempoMap((TempoChange(1, found.bpm, found.beats),), max(0, round(found.first_beat_s * rate_hz)))
    sentence = f"No tempo; detected {found.bpm:g} bpm (confidence {found.confidence:.2f}). Check and use it."
    yield Finding("loop_tempo", "look", sentence, remedy=Remedy(f"Use {found.bpm:g} bpm", tempo=tempo))


@speaks("before", "after")
def loop_length(case: Case) -> Said:
    """A loop is whole bars at its tempo, to one sample."""
    wish, codec = case.wish, case.path.codec
    if not case.brief.require.whole_bars or not wish.tempo:
        return
    frames = case.proof.frames if case.proof and not case.proof.unreadable else codec.frames
    if not wish.bars_s:
        sentence = f"Not whole bars: {frames / codec.rate_hz:.3f} s at {wish.tempo}. Snap start and end to bar lines."
        bars = wish.stretch.on_bars
        remedy = Remedy("Snap to bars", *bars) if bars and not case.proof else None
        yield Finding("loop_length", "look", sentence, remedy=remedy)
        return
    wanted = round(wish.bars_s * codec.rate_hz)
    if abs(frames - wanted) > 1:
        off = print_count(abs(frames - wanted), "sample")
        way = "long" if frames > wanted else "short"
        sentence = f"{off} too {way} for bars {wish.bars} at {wish.tempo}. Use Cut, Fold or Crossfade."
        yield Finding("loop_length", "look", sentence)
    elif case.proof:
        yield Check("loop_length", "Loop length", f"bars {wish.bars} at {wish.tempo}: {print_count(frames, 'sample')}")


@speaks("after")
def loop_seam(case: Case) -> Said:
    """Two rounds of the decoded file, end to end: neither a click nor a sudden sound nor a hole where they meet."""
    seam = case.proof.seam if case.proof else None
    if seam is None or not is_loop(case):
        return
    figures = f"step {seam.step:.2f}, flux {seam.flux:.2f}, level {seam.level_db:+.1f} dB".replace("-", "−")
    if seam.clean:
        yield Check("loop_seam", "Loop seam", figures)
        return
    where = print_clock(case.path.cut.end_frame, case.path.source.facts.rate_hz)
    if seam.step >= MOST_STEP:
        sentence = f"Loop clicks at its seam ({where}): step {seam.step:.1f} times its surroundings."
    elif seam.hole_db <= MOST_HOLE_DB:
        sentence = f"Loop drops by {-seam.hole_db:.0f} dB at its seam ({where})."
    else:
        sentence = f"Loop jumps at its seam ({where}): {seam.flux / MOST_FLUX:.2f} times the limit for sudden sound."
    remedy = None if case.path.cut.crossfade_frames else Remedy("Crossfade", end="crossfade")
    fix = "Use Crossfade." if remedy else "Choose a longer crossfade or other bars."
    yield Finding("loop_seam", "look", f"{sentence} {fix}", case.path.cut.end_frame, remedy)


@speaks("before")
def part_to_choose(case: Case) -> Said:
    """The brief takes less than is asked for: which part that is, a person decides."""
    stretch, rate_hz = case.wish.stretch, case.path.source.facts.rate_hz
    if not stretch.shortened:
        return
    first, last = (print_clock(one, rate_hz) for one in (stretch.start_frame, stretch.end_frame))
    remedy, hint = None, "Choose the part as a range."
    if stretch.loudest and stretch.loudest != (stretch.start_frame, stretch.end_frame):
        start, end = stretch.loudest
        hint = f"The loudest part begins at {print_clock(start, rate_hz)}."
        remedy = Remedy("Use the loudest part", start, end)
    sentence = f"{case.brief.title} takes {case.brief.prefer.longest_s:g} s: {first} to {last}. {hint}"
    yield Finding("part_to_choose", "look", sentence, stretch.start_frame, remedy)


@speaks("before", "after")
def start_on_bar(case: Case) -> Said:
    """The brief begins on a bar line, so the start was moved there."""
    moved = case.wish.stretch.moved_frames
    if moved:
        rate_hz = case.path.source.facts.rate_hz
        asked, start = (case.wish.stretch.start_frame + moved, case.wish.stretch.start_frame)
        sentence = f"Start moved from {print_clock(asked, rate_hz)} to the bar line at {print_clock(start, rate_hz)}."
        yield Finding("start_on_bar", "ready", sentence, start)
