"""Measurements of a mix at the edges of a range."""

import math
from dataclasses import dataclass, replace

from ripe_press.core.engine.walker import walk
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.stations import Measure, Source as SourceStation
from ripe_press.core.stations.range import Range
from ripe_press.core.units import db_of_power

EDGE_WINDOW_S = 0.05


@dataclass(frozen=True, slots=True)
class EdgeLevels:
    """RMS in dBFS of the 50 ms on either side of each edge; ``-inf`` where the mix ends or is silent."""

    before_start_dbfs: float
    after_start_dbfs: float
    before_end_dbfs: float
    after_end_dbfs: float

    def joined(self, before: bool, behind: bool) -> "EdgeLevels":
        """The same levels where another entry continues before or after: nothing is cut there."""
        return EdgeLevels(
            -math.inf if before else self.before_start_dbfs, self.after_start_dbfs,
            self.before_end_dbfs, -math.inf if behind else self.after_end_dbfs,
        )  # fmt: skip


def measure_edge_levels(source: AudioSource, cut: Range) -> EdgeLevels:
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


WHOLE_LOOP_S = 45.0
"""A longer loop is measured only at its edges, to answer at once."""


def edged_signal(source: AudioSource, cut: Range, plain: SignalResult) -> SignalResult:
    """Peaks and loudness of a loop with its end folded or crossfaded; ``plain`` are those of the range without.

    Of a long one the loudness is that without its edges.
    """
    loop = replace(cut, silence_before=0, silence_after=0)
    if cut.frames > WHOLE_LOOP_S * source.facts.rate_hz:
        changed = max(cut.tail_frames if cut.fold else 0, cut.crossfade_frames)
        first = 0 if cut.fold else cut.sounding_frames - changed
        loop = replace(loop, window=(first, min(cut.sounding_frames, first + changed)))
    (seen,) = walk([(SourceStation(source), loop, Measure())])
    found = seen.signal or plain
    if loop.window is None:
        return found
    return SignalResult(
        max(found.sample_peak_dbfs, plain.sample_peak_dbfs), max(found.true_peak_dbtp, plain.true_peak_dbtp),
        plain.integrated_lufs,
    )  # fmt: skip
