"""What is known of a mix that nothing was kept of: measured where it is asked for."""

import tempfile
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np

from ripe_press.core.engine.edges import EdgeLevels
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.measure.clipping import ClippingResult
from ripe_press.core.measure.pyramid import BASE_FRAMES, reduce_frames
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import Source
from ripe_press.core.stations import Range
from ripe_press.core.survey import survey_source
from ripe_press.studio.knowledge import Answers, KeptKnowledge, Knowledge, keep_measures, last_frame, ring_frames
from ripe_press.studio.reports import measures_of


class MeasuredKnowledge:
    """The same of a mix that nothing was kept of: its tail is read where it is asked for, the whole only for more."""

    def __init__(self, source: Source) -> None:
        self.source = source
        self._beside: dict[Source, MeasuredKnowledge] = {}
        self._folder: tempfile.TemporaryDirectory[str] | None = None

    def close(self) -> None:
        """Forgets what was measured."""
        if self._folder:
            self._folder.cleanup()
        for one in self._beside.values():
            one.close()

    @property
    def facts(self) -> SourceFacts:
        """As `Knowledge` has it."""
        return self.source.facts

    def part(self, source: Source) -> "Knowledge":
        """As `Knowledge` has it."""
        return self._beside.setdefault(source, MeasuredKnowledge(source))

    @cached_property
    def _surveyed(self) -> KeptKnowledge:
        self._folder = tempfile.TemporaryDirectory(prefix="ripe-press-known-")
        folder = Path(self._folder.name)
        result = survey_source(self.source, folder / "pyramid.bin")
        keep_measures(folder, result)
        return KeptKnowledge(self.facts, measures_of(result), folder, Answers(), folder.name)

    @property
    def measures(self) -> dict[str, Any]:
        """As `Knowledge` has it."""
        return self._surveyed.measures

    def ring_frames(self, end_frame: int, below_dbfs: float, limit_s: float) -> int:
        """As `Knowledge` has it; only what comes after the frame is read."""
        last = last_frame(self.facts, end_frame, limit_s)
        first = end_frame // BASE_FRAMES * BASE_FRAMES
        whole = min(self.facts.frames, -(-last // BASE_FRAMES) * BASE_FRAMES)
        if whole <= first:
            return 0
        with self.source.open() as reader:
            bins = np.concatenate([reduce_frames(block, BASE_FRAMES) for block in reader.blocks(first, whole)])
        return ring_frames(bins, end_frame, last, below_dbfs)

    def quietest_half_second_dbfs(self, start_frame: int, end_frame: int) -> float:
        """As `Knowledge` has it."""
        return self._surveyed.quietest_half_second_dbfs(start_frame, end_frame)

    def signal(self, start_frame: int, end_frame: int) -> SignalResult:
        """As `Knowledge` has it."""
        return self._surveyed.signal(start_frame, end_frame)

    def clipping(self, start_frame: int, end_frame: int) -> ClippingResult:
        """As `Knowledge` has it."""
        return self._surveyed.clipping(start_frame, end_frame)

    def edge_levels(self, cut: Range) -> EdgeLevels:
        """As `Knowledge` has it."""
        return self._surveyed.edge_levels(cut)


def measured(facts: SourceFacts) -> MeasuredKnowledge:
    """What is known of a file of which nothing was kept."""
    return MeasuredKnowledge(FileSource(facts))
