"""What is measured of a mix at the edges of a range."""

import math
from dataclasses import dataclass

from ripe_press.core.sources.source import Source
from ripe_press.core.stations.range import Range
from ripe_press.core.units import db_of_power

EDGE_WINDOW_S = 0.05


@dataclass(frozen=True, slots=True)
class EdgeLevels:
    """RMS in dBFS of the 50 ms on either side of what is heard; ``-inf`` where the mix ends or is silent."""

    before_start_dbfs: float
    after_start_dbfs: float
    before_end_dbfs: float
    after_end_dbfs: float

    def joined(self, before: bool, behind: bool) -> "EdgeLevels":
        """The same where another entry goes on before or behind it: nothing is cut there."""
        return EdgeLevels(
            -math.inf if before else self.before_start_dbfs, self.after_start_dbfs,
            self.before_end_dbfs, -math.inf if behind else self.after_end_dbfs,
        )  # fmt: skip


def measure_edge_levels(source: Source, cut: Range) -> EdgeLevels:
    """Reads the mix around both edges of a range."""
    facts = source.facts
    width = round(EDGE_WINDOW_S * facts.rate_hz)
    with source.open() as reader:

        def level(start: int, end: int) -> float:
            start, end = max(0, start), min(facts.frames, end)
            power = sum(float((block**2).sum()) for block in reader.blocks(start, end)) if end > start else 0.0
            return db_of_power(power / max(1, end - start) / facts.channels)

        first, last = cut.start_frame, cut.read_end
        return EdgeLevels(
            before_start_dbfs=level(first - width, first),
            after_start_dbfs=level(first, first + width),
            before_end_dbfs=level(last - width, last),
            after_end_dbfs=level(last, last + width),
        )
