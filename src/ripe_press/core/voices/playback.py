"""How something will play where loudness is evened out: what it is turned up or down by, and whether that limits.

The levels: −23 LUFS is EBU R 128; −16 and −18 LUFS are among those of AES TD1008 (from memory); −14 LUFS is common
practice, no source. That what is turned up is held at −1 dBTP is common practice as well; other players do not turn
up at all, and what they do not turn up stays as far below the level as it is.
"""

from dataclasses import dataclass

LEVELS_LUFS = (-14.0, -16.0, -18.0, -23.0)
CEILING_DBTP = -1.0
_NOTHING_DB = 0.05


@dataclass(frozen=True, slots=True)
class Playback:
    """At a level: the gain that is applied, and by how much its highest peaks are then held down (0: not at all).

    ``limited_db`` is None where it is turned up and nobody knows its peaks.
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
