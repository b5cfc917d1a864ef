"""How often levels occur, in a table of fixed size, so that hours take no more memory than seconds."""

import numpy as np
from numpy.typing import NDArray

_LEAST_DB, _MOST_DB, _STEP_DB = -120.0, 80.0, 0.02


class HearingLevels:
    """Counts levels in dB to a fiftieth of a dB, from −120 to 80; what lies beyond counts as that."""

    def __init__(self) -> None:
        self._counts = np.zeros(round((_MOST_DB - _LEAST_DB) / _STEP_DB) + 1, dtype=np.int64)
        self.count = 0

    def add(self, ratios: NDArray[np.float64]) -> None:
        """Counts ratios of powers."""
        with np.errstate(divide="ignore"):
            levels = np.clip(10 * np.log10(ratios), _LEAST_DB, _MOST_DB)
        places = np.rint((levels - _LEAST_DB) / _STEP_DB).astype(np.int64)
        self._counts += np.bincount(places, minlength=len(self._counts))
        self.count += len(places)

    def at(self, share: float) -> float:
        """The level in dB below which a share of all lies; minus infinity where nothing was counted."""
        if not self.count:
            return float("-inf")
        place = int(np.searchsorted(np.cumsum(self._counts), share * self.count))
        return float("-inf") if place == 0 else _LEAST_DB + place * _STEP_DB

    def share_above(self, level_db: float) -> float:
        """The share of all that lies above a level."""
        first = round((level_db - _LEAST_DB) / _STEP_DB) + 1
        return float(self._counts[first:].sum()) / self.count if self.count else 0.0
