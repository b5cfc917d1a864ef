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


_DITHER = "Faint noise added before bit-depth reduction, so that rounding becomes even noise instead of distortion."
_SHAPING = "Moves dither noise to less audible frequencies; total noise rises."
_TRUE_PEAK = "Highest level of the reconstructed signal, between samples too."
_LUFS = "Integrated loudness of the whole range, pauses excluded."
_DBFS = "Level relative to digital full scale, 0 dBFS."
_RATE = "Samples per second; audio up to half the sample rate can be stored."
_DEPTH = "Bits per sample; each bit lowers the noise by 6 dB."
_LOSSY = "Discards the least audible parts for good."
_BIT_RATE = "Data per second of audio."
_LIMITER = "Reduces gain briefly to keep peaks below a ceiling."


def _dither(about: About) -> str:
    depth = about.path.depth
    if depth is None:
        if about.path.codec.lossy:
            return "Not needed here: lossy encoders take floating point."
        return "Not needed here: the file is floating point."
    if depth.exact:
        return "Not needed here: no bits are lost."
    noise = added_noise_dbfs(depth.bits, depth.dither, depth.rate_hz)
    if depth.dither == "none":
        return f"Off here: rounding distortion at {print_db(noise)} in total."
    if not math.isfinite(about.quietest_dbfs):
        return f"Noise here: {print_db(noise)}; the quietest half second is digital silence."
    apart = about.quietest_dbfs - noise
    way = "below" if apart >= 0 else "above"
    return f"Noise here: {print_db(noise)}, {abs(apart):.0f} dB {way} the quietest half second of this range."


def _shaping(about: About) -> str:
    depth = about.path.depth
    if depth is None or depth.exact:
        return "No dither in this file."
    if not depth.dither.startswith("shaped"):
        return "Off here: equal noise at all frequencies."
    noise, even = (added_noise_dbfs(depth.bits, one, depth.rate_hz) for one in (depth.dither, "triangular"))
    return f"Total noise here: {print_db(noise)}; without shaping {print_db(even)}."


def _true_peak(about: About) -> str:
    peak, samples = about.before.true_peak_dbtp, about.before.sample_peak_dbfs
    if not math.isfinite(peak):
        return "This range is silent."
    over = max(0.0, peak - samples)
    text = f"This range: {print_db(peak, 'dBTP')}, {over:.1f} dB above its sample peak"
    return f"{text}{_file(about.expected.true_peak_dbtp, peak, 'dBTP')}"


def _lufs(about: About) -> str:
    loudness, there = about.before.integrated_lufs, about.expected.integrated_lufs
    if not math.isfinite(loudness):
        return "This range is too short or too quiet to measure."
    text = f"This range: {print_db(loudness, 'LUFS')}"
    text += "" if abs(there - loudness) < _SAME_DB else f", the file: {print_db(there, 'LUFS')}"
    step, players = PLAYERS_LUFS - there, f"players that normalise to {print_db(PLAYERS_LUFS, 'LUFS')}"
    if abs(step) < _SAME_DB:
        return f"{text}; {players} do not change it."
    return f"{text}; {players} turn it {'up' if step > 0 else 'down'} by {abs(step):.1f} dB."


def _dbfs(about: About) -> str:
    peak = about.before.sample_peak_dbfs
    if not math.isfinite(peak):
        return "This range is silent."
    text = f"Sample peak of this range: {print_db(peak)}"
    return f"{text}{_file(about.expected.sample_peak_dbfs, peak, 'dBFS')}"


def _file(there: float, before: float, unit: str) -> str:
    """The end of a sentence: what the file will have, where that is another figure."""
    if not math.isfinite(there) or abs(there - before) < _SAME_DB:
        return "."
    return f"; the file: {print_db(there, unit)}."


def _rate(about: About) -> str:
    mix_hz, file_hz = about.path.source.facts.rate_hz, about.path.codec.rate_hz
    heard = about.bandwidth_hz > 0
    sounds = f"audio bandwidth {print_hz(about.bandwidth_hz)}" if heard else "the mix is silent"
    if mix_hz == file_hz:
        return f"Mix and file: {print_rate(mix_hz)}; {sounds}."
    file = f"file: {print_rate(file_hz)}, up to {print_hz(file_hz / 2)}"
    return f"Mix: {print_rate(mix_hz)}; {file}; {sounds}."


def _depth(about: About) -> str:
    facts, depth = about.path.source.facts, about.path.depth
    mix = f"Mix: {depth_label(facts.bit_depth, facts.codec)}"
    used = facts.effective_bits
    if used and facts.bit_depth and used < facts.bit_depth:
        mix += f" ({used} used)"
    if about.path.codec.lossy:
        return f"{mix}; lossy files have no bit depth."
    if depth is None:
        return f"{mix}; file: floating point."
    return f"{mix}; file: {depth.bits} bits, dynamic range {_range_db(depth.bits):.0f} dB."


def _range_db(bits: int) -> float:
    """From a full-scale sine down to the noise of plain rounding: 6.02 dB a bit and 1.76 (a textbook's figure)."""
    return 20 * math.log10(2) * bits + 10 * math.log10(1.5)


def _lossy(about: About) -> str:
    codec = about.path.codec
    if not codec.lossy:
        return "This file is lossless: every sample is kept."
    return f"This file is lossy: {codec.coding}." if codec.coding else "This file is lossy."


def _bit_rate(about: About) -> str:
    codec, facts = about.path.codec, about.path.source.facts
    bits = facts.bit_depth or 16
    mix = facts.rate_hz * facts.channels * bits / 1000
    if codec.coding and codec.coding.kbps:
        share = mix / codec.coding.kbps
        return f"Mix: {mix:,.0f} kbit/s; file: {codec.coding.kbps} kbit/s, {share:.0f} times smaller."
    if codec.lossy:
        return f"Mix: {mix:,.0f} kbit/s; file: variable, by quality."
    depth = about.path.depth.bits if about.path.depth else 32
    return f"Mix: {mix:,.0f} kbit/s; file: max {codec.rate_hz * codec.channels * depth / 1000:,.0f} kbit/s."


def _limiter(about: About) -> str:
    path, peak = about.path, print_db(about.before.true_peak_dbtp, "dBTP")
    ceiling = path.finish.ceiling_dbtp if path.finish else None
    if path.target and path.target.limits:
        ceiling = path.target.ceiling_dbtp
    if path.settled and path.settled.ceiling_dbtp is not None:
        ceiling = path.settled.ceiling_dbtp
    if ceiling is None:
        return "No limiter in this delivery."
    return f"Ceiling here: {print_db(ceiling, 'dBTP')}; the range peaks at {peak}."
