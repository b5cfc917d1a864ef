"""Rules of the ticket: finish, channels, level, bit depth, names."""

import math
from dataclasses import dataclass

from ripe_press.core.engine.levels import LEAST_WON_LU
from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import Finding, Remedy
from ripe_press.core.rules.rule import Said, speaks
from ripe_press.core.rules.turned_down import turned_down
from ripe_press.core.stations.level import MOST_GAIN_DB
from ripe_press.core.units import print_count, print_db
from ripe_press.core.words import quoted

TOLERANCE_DB = 0.1


@dataclass(frozen=True, slots=True)
class _Raiser:
    rule: str
    words: str


_RAISERS = {
    "range": _Raiser("clipped_by_edges", "the folded or crossfaded end"),
    "channels": _Raiser("clipped_by_channels", "the mono sum"),
    "rate": _Raiser("clipped_by_conversion", "rate conversion"),
    "finish": _Raiser("clips_as_set_out", "the finishing chain"),
    "level": _Raiser("clips_as_set_out", "the level"),
}
"""Stations that can raise a peak above full scale, and how they are called."""
_SAFE_DB = 0.1


@speaks("after", ids=("clipped_by_conversion", "clipped_by_edges", "clipped_by_channels"))
def clipped_by_station(case: Case) -> Said:
    """Clipped samples that the mix did not have: by the first station that raised the peak above full scale."""
    if not case.clipped_samples or case.overs or case.seen is None:
        return
    raised = [one for one in case.seen.peaks if one.kind in _RAISERS]
    first = next((one for one in raised if one.dbfs > 0), None)
    if first is None:
        return
    by, most = _RAISERS[first.kind], max(one.dbfs for one in raised)
    sentence = (
        f"{print_count(case.clipped_samples, 'sample')} clipped: {by.words} raised the peak to {print_db(first.dbfs)}. "
        f"Lower the level by {most + _SAFE_DB:.1f} dB."
    )
    yield Finding(by.rule, "look", sentence)


@speaks("before", ids=("clipped_by_edges",))
def will_be_clipped_by_edges(case: Case) -> Said:
    """A tail that is added to the start raises the peak above full scale, before anything else is done."""
    cut, depth, peak = case.path.cut, case.path.depth, case.signal.sample_peak_dbfs if case.signal else 0.0
    if cut.loops and depth and not case.path.changed and peak > 0 and not case.overs:
        sentence = (
            f"Clips: the folded or crossfaded end raises the peak to {print_db(peak)}. Set the true peak to −1 dBTP."
        )
        yield Finding("clipped_by_edges", "look", sentence, remedy=turned_down(case))


@speaks("before", "after")
def finish_left_out(case: Case) -> Said:
    """A finishing chain is set for the mix, and this delivery goes out without it."""
    if not case.chain.idle and not case.path.finish:
        yield Finding("finish_left_out", "look", "Finishing chain not applied. Enable it in Finishing.")


CANCELS_BELOW_DB = -3.0
"""A mono sum that loses more than this has sides that work against each other (our own choice)."""


@speaks("before", "after")
def mono_cancels(case: Case) -> Said:
    """The sides of the mix cancel each other in the sum."""
    loss_db = case.mono_loss_db
    summed = case.path.channels is not None and case.path.channels.computes
    if summed and loss_db is not None and loss_db <= CANCELS_BELOW_DB:
        sentence = f"Mono sum loses {-loss_db:.1f} dB to phase cancellation. Check it in mono."
        yield Finding("mono_cancels", "look", sentence)


@speaks("before", "after")
def rounded_without_dither(case: Case) -> Said:
    """Bits are dropped and nothing hides it."""
    depth = case.path.depth
    if depth and depth.dither == "none" and not depth.exact:
        sentence = f"{depth.bits} bits without dither. Set dither to Automatic."
        yield Finding("rounded_without_dither", "look", sentence)


@speaks("before", "after")
def clips_as_set_out(case: Case) -> Said:
    """Where finishing or a level changes the signal: its peaks are too high for the integers that are made."""
    if not case.path.changed or not case.path.depth:
        return
    remedy = "Lower the gain or add a limiter."
    peak = case.expected.sample_peak_dbfs
    if case.clipped_samples and (case.overs or not (case.seen and case.seen.peaks)):
        sentence = f"{print_count(case.clipped_samples, 'clipped sample')}. {remedy}"
        yield Finding("clips_as_set_out", "look", sentence)
    elif case.proof is None and peak is not None and peak > 0:
        sentence = f"Clips: peaks reach {print_db(peak)}. {remedy}"
        yield Finding("clips_as_set_out", "look", sentence)


@speaks("before", "after")
def loudness_out_of_reach(case: Case) -> Said:
    """A loudness that this mix does not reach within its limits; it stops the file where the brief requires it."""
    level, short, required = case.asked.target, case.shortfall, case.brief.require.loudness_lufs
    if level is None or short is None:
        return
    why = {
        "reduction": f"more needs over {level.max_reduction_db:g} dB of gain reduction",
        "won": f"1 dB more gain adds less than {LEAST_WON_LU:g} LU",
        "gain": f"max gain is {MOST_GAIN_DB:g} dB",
    }[short.bound]
    most = math.floor(short.reached_lufs * 10) / 10
    sentence = f"Target {print_db(short.target_lufs, 'LUFS')} not reached; maximum {print_db(most, 'LUFS')} ({why})."
    meets = required is None or required[0] - TOLERANCE_DB <= short.reached_lufs <= required[1] + TOLERANCE_DB
    remedy = Remedy(f"Set {print_db(most, 'LUFS')}", target_lufs=most)
    yield Finding("loudness_out_of_reach", "look" if meets else "stop", sentence, remedy=remedy, measure="loudness")


@speaks("before", ids=("loudness_out_of_reach",))
def loudness_surely_out_of_reach(case: Case) -> Said:
    """The same where no test is needed: the limiter would have to reduce too much."""
    level, signal, required = case.asked.target, case.signal, case.brief.require.loudness_lufs
    if level is None or signal is None or case.shortfall or not level.limits or level.only_down:
        return
    wanted, gain = level.target - signal.integrated_lufs, level.first_gain(signal)
    if not math.isfinite(wanted) or wanted - gain < TOLERANCE_DB:
        return
    sentence = (
        f"{print_db(level.target, 'LUFS')} needs over {level.max_reduction_db:g} dB of gain reduction. "
        f"Measure the level to find the maximum."
    )
    sure = required is not None and signal.integrated_lufs + gain < required[0] - TOLERANCE_DB
    yield Finding("loudness_out_of_reach", "stop" if sure else "look", sentence, measure="loudness")


@speaks("before", "after", ids=("turned_down",))
def turned_down_by_level(case: Case) -> Said:
    """A mix above full scale is lowered as a whole, for its level asks for that."""
    level, settled, peak = case.asked.target, case.path.settled, None
    if level is None or case.wish.part:
        return
    gain = settled.gain_db if settled else level.first_gain(case.signal) if case.signal else 0.0
    if case.proof is None and case.signal:
        peak = case.signal.true_peak_dbtp
    elif case.proof and case.proof.true_peak_dbtp is not None and settled and settled.ceiling_dbtp is None:
        peak = case.proof.true_peak_dbtp - gain
    if peak is not None and peak > 0 and gain <= -_SAFE_DB:
        sentence = f"Lowered by {-gain:.1f} dB: the mix peaks {peak:.1f} dB over full scale (true peak)."
        yield Finding("turned_down", "ready", sentence)


HARD_LIMITING_DB = 6.0


@speaks("after")
def limited_hard(case: Case) -> Said:
    """The limiter reduces more than is inaudible."""
    curve = case.seen.reduction_db(case.path.codec.rate_hz) if case.seen else None
    deepest = float(curve.min(initial=0.0)) if curve is not None else 0.0
    if deepest <= -HARD_LIMITING_DB:
        sentence = f"{-deepest:.1f} dB of gain reduction will be audible. Lower the target."
        yield Finding("limited_hard", "look", sentence)


@speaks("before", ids=("name_twice", "name_skipped", "name_replaced"))
def clash_told(case: Case) -> Said:
    """Another file has the name: the decision about it, before the run."""
    placed = case.placed
    if placed is None or not placed.clash:
        return
    # That both are kept needs no decision: the name with its number is seen.
    name = placed.path.name
    if placed.clash == "ticket":
        sentence = f"Same name as another delivery; saved as {quoted(name)}."
        yield Finding("name_twice", "look", sentence)
    elif placed.skipped:
        yield Finding("name_skipped", "look", f"{quoted(name)} exists; skipped. Choose another name to press it.")
    elif placed.replaces:
        yield Finding("name_replaced", "look", f"{quoted(name)} exists and will be replaced.")
