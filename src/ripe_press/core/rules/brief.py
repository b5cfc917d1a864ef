"""Rules that hold a delivery against its brief, and against what is set out for the mix."""

import math
from dataclasses import dataclass

from ripe_press.core.briefs.library import Brief
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.levels import LEAST_WON_LU, MOST_GAIN_DB, Shortfall, first_gain
from ripe_press.core.engine.size import Forecast, print_size
from ripe_press.core.formats.capabilities import CAPABILITIES, DEPTH_WORDS, print_depths
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.rules.findings import Finding, Remedy
from ripe_press.core.units import print_count, print_db, print_rate, print_were

TOLERANCE_DB = 0.1


@dataclass(frozen=True, slots=True)
class Expected:
    """What is known of a file, before it is made or after: None where nothing is."""

    size: Forecast | None = None
    sample_peak_dbfs: float | None = None
    true_peak_dbtp: float | None = None
    integrated_lufs: float | None = None


def findings_for_brief(brief: Brief, path: st.Path, expected: Expected) -> tuple[Finding, ...]:
    """Every requirement of the brief that the file does not meet, in one sentence each."""
    codec = next(station for station in path if isinstance(station, st.Codec))
    found = [*_format(brief, codec), *_levels(brief, expected), *_size(brief.require.bytes_max, expected.size)]
    return tuple(
        Finding(f"brief_asks_{number}", "look", f"{brief.title} {sentence}.") for number, sentence in enumerate(found)
    )


def _format(brief: Brief, codec: st.Codec) -> list[str]:
    require, found = brief.require, []
    if require.containers and codec.container not in require.containers:
        takes = " or ".join(dict.fromkeys(CAPABILITIES[one].title for one in require.containers))
        found.append(f"takes {takes}, not {CAPABILITIES[codec.container].title}")
    if require.encodings and codec.encoding not in ("lossy", *require.encodings):
        found.append(f"takes {print_depths(require.encodings)}, not {DEPTH_WORDS[codec.encoding]}")
    coding = codec.coding
    if require.kbps_min and coding and coding.kbps and coding.kbps < require.kbps_min:
        found.append(f"takes {require.kbps_min} kbit/s or more, not {coding.kbps}")
    if require.rates_hz and codec.rate_hz not in require.rates_hz:
        takes = ", ".join(print_rate(one) for one in require.rates_hz)
        found.append(f"takes {takes}, not {print_rate(codec.rate_hz)}")
    if require.channels and codec.channels not in require.channels:
        takes = " or ".join(print_count(one, "channel") for one in require.channels)
        found.append(f"takes {takes}, not {codec.channels}")
    return found


def _size(most: int | None, size: Forecast | None) -> list[str]:
    """A bound alone says nothing: how small the sound packs is not known yet."""
    if not most or size is None or size.high <= most or size.basis == "bound":
        return []
    if size.exact:
        told = f"this file has {print_size(size.high)}"
    else:
        told = f"this file {'will' if size.low > most else 'may'} pass that, with {size}"
    return [f"takes at most {print_size(most)}; {told}"]


def _levels(brief: Brief, expected: Expected) -> list[str]:
    require, found = brief.require, []
    peaks = (
        (require.sample_peak_max_dbfs, expected.sample_peak_dbfs, "dBFS"),
        (require.true_peak_max_dbtp, expected.true_peak_dbtp, "dBTP"),
    )
    for most, peak, unit in peaks:
        if most is not None and peak is not None and peak > most + TOLERANCE_DB:
            found.append(f"takes peaks up to {print_db(most, unit)}; this file reaches {print_db(peak, unit)}")
    if require.loudness_lufs and expected.integrated_lufs is not None:
        low, high = require.loudness_lufs
        if not low - TOLERANCE_DB <= expected.integrated_lufs <= high + TOLERANCE_DB:
            takes = f"{print_db(low, 'LUFS')} to {print_db(high, 'LUFS')}"
            found.append(f"takes {takes}; this file has {print_db(expected.integrated_lufs, 'LUFS')}")
    return found


def finish_left_out(path: st.Path, chain: st.Finish) -> Finding | None:
    """A finishing chain is set for the mix, and this delivery goes out without it."""
    if chain.idle or any(isinstance(station, st.Finish) for station in path):
        return None
    return Finding("finish_left_out", "look", "This file leaves without the finishing chain that is set for the mix.")


CANCELS_BELOW_DB = -3.0
"""A mono sum that loses more than this has sides that work against each other (our own choice)."""


def mono_cancels(path: st.Path, loss_db: float | None) -> Finding | None:
    """The sides of the mix cancel each other in the sum."""
    summed = any(isinstance(station, st.Channels) and station.sides == "mono" for station in path)
    if not summed or loss_db is None or loss_db > CANCELS_BELOW_DB:
        return None
    sentence = f"The sides cancel each other: the mono sum is {-loss_db:.1f} dB quieter than if they were alike."
    return Finding("mono_cancels", "look", sentence)


def rounded_without_dither(path: st.Path) -> Finding | None:
    """Bits are dropped and nothing hides it."""
    for station in path:
        if isinstance(station, st.Depth) and station.dither == "none" and not station.exact:
            sentence = f"{station.bits} bits are made without dither: quiet passages will sound rough."
            return Finding("rounded_without_dither", "look", sentence)
    return None


def clips_as_set_out(path: st.Path, peak_dbfs: float | None, clipped_samples: int = 0) -> Finding | None:
    """Where finishing or a level changes the signal: its peaks are too high for the integers that are made."""
    changed = any(isinstance(station, st.Level | st.Finish) and not station.idle for station in path)
    if not changed or not any(isinstance(station, st.Depth) for station in path):
        return None
    remedy = "Lower the gain, or switch a limiter on."
    if clipped_samples:
        sentence = f"{print_were(clipped_samples, 'sample')} held at full scale at this level. {remedy}"
        return Finding("clips_as_set_out", "look", sentence)
    if peak_dbfs is None or peak_dbfs <= 0:
        return None
    sentence = f"At this level peaks reach {print_db(peak_dbfs)}: this file clips. {remedy}"
    return Finding("clips_as_set_out", "look", sentence)


def loudness_out_of_reach(brief: Brief, level: st.Level | None, short: Shortfall | None) -> Finding | None:
    """A loudness that this mix does not reach without harm; it stops the file where the brief requires it."""
    if level is None or short is None:
        return None
    why = {
        "reduction": f"for more the limiter would take off over {level.max_reduction_db:g} dB",
        "won": f"from there another decibel of gain wins less than {LEAST_WON_LU:g} LU",
        "gain": f"more than {MOST_GAIN_DB:g} dB of gain is never given",
    }[short.bound]
    most = math.floor(short.reached_lufs * 10) / 10
    sentence = (
        f"{print_db(short.target_lufs, 'LUFS')} was asked for. The loudest that this mix reaches without harm is "
        f"{print_db(most, 'LUFS')}: {why}."
    )
    required = brief.require.loudness_lufs
    meets = required is None or required[0] - TOLERANCE_DB <= short.reached_lufs <= required[1] + TOLERANCE_DB
    remedy = Remedy(f"Take {print_db(most, 'LUFS')}", target_lufs=most)
    return Finding("loudness_out_of_reach", "look" if meets else "stop", sentence, remedy=remedy)


def level_out_of_reach(brief: Brief, path: st.Path, found: Shortfall | None, signal: SignalResult) -> Finding | None:
    """The same before pressing: as a trial or a pressing found it, or where it is sure without one."""
    level = next((station for station in path if isinstance(station, st.Level)), None)
    if level is None or found:
        return loudness_out_of_reach(brief, level, found)
    wanted, gain = level.target - signal.integrated_lufs, first_gain(level, signal)
    if not level.limits or level.only_down or not math.isfinite(wanted) or wanted - gain < TOLERANCE_DB:
        return None
    sentence = (
        f"{print_db(level.target, 'LUFS')} is out of reach: the limiter would have to take off more than "
        f"{level.max_reduction_db:g} dB. Measure the level to see how loud this mix can be."
    )
    required = brief.require.loudness_lufs
    sure = required is not None and signal.integrated_lufs + gain < required[0] - TOLERANCE_DB
    return Finding("loudness_out_of_reach", "stop" if sure else "look", sentence)


HARD_LIMITING_DB = 6.0


def limited_hard(reduction_db: float | None) -> Finding | None:
    """The limiter takes off more than it can without being heard."""
    if reduction_db is None or reduction_db > -HARD_LIMITING_DB:
        return None
    sentence = f"The limiter takes off up to {-reduction_db:.1f} dB: that will be heard. Ask for less loudness."
    return Finding("limited_hard", "look", sentence)
