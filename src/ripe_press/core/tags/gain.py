"""Loudness as players read it from tags.

Sources: ReplayGain 2.0 specification (reference −18 LUFS, gain in dB with two decimals, peak linear); RFC 7845,
section 5.2.1 (R128_TRACK_GAIN: Q7.8, reference −23 LUFS). From memory of the texts.
"""

import math

from ripe_press.core.measure.signal import SignalResult

REPLAYGAIN_LUFS = -18.0
R128_LUFS = -23.0


def replaygain_texts(found: SignalResult) -> dict[str, str]:
    """REPLAYGAIN_TRACK_GAIN and _PEAK; nothing for silence."""
    if not math.isfinite(found.integrated_lufs):
        return {}
    return {
        "REPLAYGAIN_TRACK_GAIN": f"{REPLAYGAIN_LUFS - found.integrated_lufs:.2f} dB",
        "REPLAYGAIN_TRACK_PEAK": f"{10 ** (found.sample_peak_dbfs / 20):.6f}",
    }


def r128_text(found: SignalResult) -> dict[str, str]:
    """R128_TRACK_GAIN, to be applied on top of the header's output gain, which is 0 here; nothing for silence."""
    if not math.isfinite(found.integrated_lufs):
        return {}
    steps = round(256 * (R128_LUFS - found.integrated_lufs))
    return {"R128_TRACK_GAIN": str(max(-32_768, min(32_767, steps)))}


def broadcast_word(value: float | None) -> int:
    """A loudness as bext v2 carries it: hundredths, 0x7FFF for what is not known (EBU Tech 3285 v2, 2.3)."""
    if value is None or not -99.99 <= value <= 99.99:
        return 0x7FFF
    return round(value * 100)
