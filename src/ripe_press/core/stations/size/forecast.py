"""The forecast of a file's size: exact, or a range."""

from dataclasses import dataclass
from typing import Literal

from ripe_press.core.units import print_count, print_size

Basis = Literal["exact", "bit rate", "trial", "bound"]


@dataclass(frozen=True, slots=True)
class Forecast:
    """A size between two bounds, both in bytes and included; ``basis`` says how they came about."""

    low: int
    high: int
    basis: Basis

    @property
    def exact(self) -> bool:
        """Whether the size is known to the byte."""
        return self.basis == "exact"

    @property
    def middle(self) -> int:
        """What to count with where one number is needed."""
        return self.high if self.basis == "bound" else (self.low + self.high) // 2

    def error_percent(self, found_bytes: int) -> float:
        """How far a size lies outside the bounds, in percent of it; 0 inside."""
        off = max(self.low - found_bytes, found_bytes - self.high, 0)
        return 100.0 * off / found_bytes if found_bytes else 0.0

    def __str__(self) -> str:
        """``26,592,044 bytes``, ``11.2 to 12.9 MB``, ``at most 26.6 MB``."""
        if self.exact:
            return print_count(self.low, "byte")
        if self.basis == "bound":
            return f"max {print_size(self.high)}"
        low, high = print_size(self.low), print_size(self.high)
        return high if low == high else f"{low} to {high}"


def known_size(size: int) -> Forecast:
    """What a file that is there has, in the same shape."""
    return Forecast(size, size, "exact")
