"""Playback on services that normalise loudness: gain and limiting.

Levels: −23 LUFS is EBU R 128; −16 and −18 LUFS are among those of AES TD1008 (from memory); −14 LUFS is common
practice, no source. Limiting at −1 dBTP after raising is common practice as well; some players never raise.
"""

from dataclasses import dataclass

LEVELS_LUFS = (-14.0, -16.0, -18.0, -23.0)
CEILING_DBTP = -1.0
_NOTHING_DB = 0.05


@dataclass(frozen=True, slots=True)
class Playback:
    """Gain at a normalisation level, and the limiting of its highest peaks in dB (0: none).

    ``limited_db`` is None if the audio is raised and its peaks are unknown.
    """

    level_lufs: float
    gain_db: float
    limited_db: float | None

    @property
    def sentence(self) -> str:
        """In words."""
        if abs(self.gain_db) < _NOTHING_DB:
            return "unchanged"
        moved = f"{abs(self.gain_db):.1f} dB {'up' if self.gain_db > 0 else 'down'}"
        if self.limited_db is None:
            return f"{moved}, if peaks allow"
        return f"{moved}; peaks limited by up to {self.limited_db:.1f} dB" if self.limited_db else moved


def plays_at(loudness_lufs: float, true_peak_dbtp: float | None) -> tuple[Playback, ...]:
    """What happens to a file of this loudness and true peak at each usual level."""
    return tuple(_at(level, level - loudness_lufs, true_peak_dbtp) for level in LEVELS_LUFS)


def _at(level_lufs: float, gain_db: float, true_peak_dbtp: float | None) -> Playback:
    if gain_db <= 0:
        return Playback(level_lufs, gain_db, 0.0)
    if true_peak_dbtp is None:
        return Playback(level_lufs, gain_db, None)
    held = true_peak_dbtp + gain_db - CEILING_DBTP
    # No more than it is turned up by: a peak that is above the ceiling already is not the player's doing.
    return Playback(level_lufs, gain_db, min(gain_db, held) if held > _NOTHING_DB else 0.0)
