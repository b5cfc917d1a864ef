"""Loudness as players read it from tags.

Sources: ReplayGain 2.0 specification (reference −18 LUFS, gain in dB with two decimals, peak linear); RFC 7845,
section 5.2.1 (R128_TRACK_GAIN: Q7.8, reference −23 LUFS). From memory of the texts.
"""

import math
from typing import Literal

from ripe_press.core.measure.signal import SignalResult

REPLAYGAIN_LUFS = -18.0
R128_LUFS = -23.0


GainOf = Literal["TRACK", "ALBUM"]


def replaygain_texts(found: SignalResult, of: GainOf = "TRACK") -> dict[str, str]:
    """REPLAYGAIN_TRACK_GAIN and _PEAK, or those of the album; nothing for silence."""
    if not math.isfinite(found.integrated_lufs):
        return {}
    return {
        f"REPLAYGAIN_{of}_GAIN": f"{REPLAYGAIN_LUFS - found.integrated_lufs:.2f} dB",
        f"REPLAYGAIN_{of}_PEAK": f"{10 ** (found.sample_peak_dbfs / 20):.6f}",
    }


def r128_text(found: SignalResult, of: GainOf = "TRACK") -> dict[str, str]:
    """R128_TRACK_GAIN or that of the album, on top of the header's output gain, which is 0; nothing for silence."""
    if not math.isfinite(found.integrated_lufs):
        return {}
    steps = round(256 * (R128_LUFS - found.integrated_lufs))
    return {f"R128_{of}_GAIN": str(max(-32_768, min(32_767, steps)))}


def broadcast_word(value: float | None) -> int:
    """A loudness in bext v2 form: hundredths, 0x7FFF for unknown (EBU Tech 3285 v2, 2.3)."""
    if value is None or not -99.99 <= value <= 99.99:
        return 0x7FFF
    return round(value * 100)
