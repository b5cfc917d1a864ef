"""Words of the trade in two sentences each: what the word means, and what that is in this file of this mix."""

import math
from dataclasses import dataclass
from typing import Literal

from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.signal.quantise import added_noise_dbfs
from ripe_press.core.stations import Path
from ripe_press.core.stations.source import depth_label
from ripe_press.core.units import print_db, print_hz, print_rate

Word = Literal[
    "dither", "noise-shaping", "true-peak", "lufs", "dbfs", "sample-rate", "bit-depth", "lossy", "bit-rate", "limiter"
]
PLAYERS_LUFS = -14.0
"""What players that bring everything to one loudness mostly aim at (common practice, no source)."""


_SAME_DB = 0.05


@dataclass(frozen=True, slots=True)
class About:
    """What the figures are taken from: the range before anything is done, the file as it is expected."""

    path: Path
    before: SignalResult
    expected: SignalResult
    quietest_dbfs: float
    bandwidth_hz: float
    """The highest frequency at which something sounds in the mix."""


def explained(about: About) -> dict[Word, str]:
    """Every word, in two sentences."""
    return {
        "dither": f"{_DITHER} {_dither(about)}",
        "noise-shaping": f"{_SHAPING} {_shaping(about)}",
        "true-peak": f"{_TRUE_PEAK} {_true_peak(about)}",
        "lufs": f"{_LUFS} {_lufs(about)}",
        "dbfs": f"{_DBFS} {_dbfs(about)}",
        "sample-rate": f"{_RATE} {_rate(about)}",
        "bit-depth": f"{_DEPTH} {_depth(about)}",
        "lossy": f"{_LOSSY} {_lossy(about)}",
        "bit-rate": f"{_BIT_RATE} {_bit_rate(about)}",
        "limiter": f"{_LIMITER} {_limiter(about)}",
    }


_DITHER = (
    "Dither is a faint noise that is added where a sound is rounded to fewer bits: what is lost becomes an even hiss "
    "and no distortion."
)
_SHAPING = (
    "Noise shaping moves that hiss up to where the ear hears little of it, at the price of more of it altogether."
)
_TRUE_PEAK = (
    "True peak is the highest level that a sound reaches between its samples, where a player makes a smooth curve of "
    "them again."
)
_LUFS = (
    "LUFS tell how loud something is heard over its whole length, with its pauses left out; one more is one decibel "
    "louder."
)
_DBFS = "dBFS count down from the largest number that a file can hold, which is 0: nothing whole can lie above it."
_RATE = (
    "The sample rate says how many times a second the sound is written down; a file holds what lies below half of it."
)
_DEPTH = "Bits say how finely each level is written down: every one of them moves the noise 6 dB further down."
_LOSSY = "A lossy format leaves out what the ear is least likely to miss, and cannot give it back."
_BIT_RATE = "The bit rate is how much may be written down for each second of sound."
_LIMITER = "A limiter turns down for a moment what would pass a ceiling, and lets everything else be."


def _dither(about: About) -> str:
    depth = about.path.depth
    if depth is None:
        if about.path.codec.lossy:
            return "A lossy file is made of finer steps than it can keep, so it needs none."
        return "This file keeps finer steps than its mix all the way, so it needs none."
    if depth.exact:
        return "Nothing is rounded in this file, so it has none."
    noise = added_noise_dbfs(depth.bits, depth.dither, depth.rate_hz)
    if depth.dither == "none":
        return f"It is off here: what is rounded away follows the music, at {print_db(noise)} altogether."
    if not math.isfinite(about.quietest_dbfs):
        return f"Here the hiss lies at {print_db(noise)}; in the silence of this range it is all that is left."
    apart = about.quietest_dbfs - noise
    way = "below" if apart >= 0 else "above"
    return f"Here the hiss lies at {print_db(noise)}, {abs(apart):.0f} dB {way} the quietest half second of this range."


def _shaping(about: About) -> str:
    depth = about.path.depth
    if depth is None or depth.exact:
        return "This file has no such hiss."
    if not depth.dither.startswith("shaped"):
        return "It is off here: the hiss is as loud at every pitch."
    noise, even = (added_noise_dbfs(depth.bits, one, depth.rate_hz) for one in (depth.dither, "triangular"))
    return f"Here all of it together lies at {print_db(noise)}, where an even hiss would lie at {print_db(even)}."


def _true_peak(about: About) -> str:
    peak, samples = about.before.true_peak_dbtp, about.before.sample_peak_dbfs
    if not math.isfinite(peak):
        return "This range is silent."
    over = max(0.0, peak - samples)
    told = f"This range reaches {print_db(peak, 'dBTP')}, {over:.1f} dB above the highest of its samples"
    return f"{told}{_file(about.expected.true_peak_dbtp, peak, 'dBTP')}"


def _lufs(about: About) -> str:
    loudness, there = about.before.integrated_lufs, about.expected.integrated_lufs
    if not math.isfinite(loudness):
        return "This range is too short or too quiet to have any."
    told = f"This range has {print_db(loudness, 'LUFS')}"
    told += "" if abs(there - loudness) < _SAME_DB else f" and the file will have {print_db(there, 'LUFS')}"
    step, players = PLAYERS_LUFS - there, f"players that bring all to {print_db(PLAYERS_LUFS, 'LUFS')}"
    if abs(step) < _SAME_DB:
        return f"{told}; {players} leave it as it is."
    return f"{told}; {players} turn it {'up' if step > 0 else 'down'} by {abs(step):.1f} dB."


def _dbfs(about: About) -> str:
    peak = about.before.sample_peak_dbfs
    if not math.isfinite(peak):
        return "This range is silent."
    told = f"The highest sample of this range lies at {print_db(peak)}"
    return f"{told}{_file(about.expected.sample_peak_dbfs, peak, 'dBFS')}"


def _file(there: float, before: float, unit: str) -> str:
    """The end of a sentence: what the file will have, where that is another figure."""
    if not math.isfinite(there) or abs(there - before) < _SAME_DB:
        return "."
    return f"; the file will have {print_db(there, unit)}."


def _rate(about: About) -> str:
    mix_hz, file_hz = about.path.source.facts.rate_hz, about.path.codec.rate_hz
    heard = about.bandwidth_hz > 0
    sounds = f"something sounds in this mix up to {print_hz(about.bandwidth_hz)}" if heard else "nothing sounds in it"
    if mix_hz == file_hz:
        return f"Mix and file have {print_rate(mix_hz)}; {sounds}."
    file = f"the file {print_rate(file_hz)}, up to {print_hz(file_hz / 2)}"
    return f"The mix has {print_rate(mix_hz)} and {file}; {sounds}."


def _depth(about: About) -> str:
    facts, depth = about.path.source.facts, about.path.depth
    mix = f"The mix has {depth_label(facts.bit_depth, facts.codec)}"
    used = facts.effective_bits
    if used and facts.bit_depth and used < facts.bit_depth:
        mix += f", of which {used} {'is' if used == 1 else 'are'} in use"
    if about.path.codec.lossy:
        return f"{mix}; a lossy file has no bits of its own."
    if depth is None:
        return f"{mix}; the file keeps floating point, which never runs out of steps."
    return f"{mix}; the file has {depth.bits} bits, with room for {_range_db(depth.bits):.0f} dB above its noise."


def _range_db(bits: int) -> float:
    """From a full-scale sine down to the noise of plain rounding: 6.02 dB a bit and 1.76 (a textbook's figure)."""
    return 20 * math.log10(2) * bits + 10 * math.log10(1.5)


def _lossy(about: About) -> str:
    codec = about.path.codec
    if not codec.lossy:
        return "This file is not: it gives back every sample that was written."
    return f"This file is: it is made at {codec.coding}." if codec.coding else "This file is."


def _bit_rate(about: About) -> str:
    codec, facts = about.path.codec, about.path.source.facts
    bits = facts.bit_depth or 16
    mix = facts.rate_hz * facts.channels * bits / 1000
    if codec.coding and codec.coding.kbps:
        share = mix / codec.coding.kbps
        return f"The mix has {mix:,.0f} kbit/s and this file {codec.coding.kbps}: it is {share:.0f} times smaller."
    if codec.lossy:
        return f"The mix has {mix:,.0f} kbit/s; this file takes what each second needs for the quality that is set."
    depth = about.path.depth.bits if about.path.depth else 32
    return f"The mix has {mix:,.0f} kbit/s and this file {codec.rate_hz * codec.channels * depth / 1000:,.0f} at most."


def _limiter(about: About) -> str:
    path, peak = about.path, print_db(about.before.true_peak_dbtp, "dBTP")
    ceiling = path.finish.ceiling_dbtp if path.finish else None
    if path.target and path.target.limits:
        ceiling = path.target.ceiling_dbtp
    if path.settled and path.settled.ceiling_dbtp is not None:
        ceiling = path.settled.ceiling_dbtp
    if ceiling is None:
        return "There is none in the way of this file."
    return f"Here the ceiling is {print_db(ceiling, 'dBTP')}, and the range reaches {peak}."
