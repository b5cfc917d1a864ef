"""Measurements of a mix without stored data, made on demand."""

import tempfile
from collections.abc import Sequence
from functools import cached_property
from pathlib import Path
from typing import Any

from ripe_press.core.engine.edges import EdgeLevels
from ripe_press.core.engine.seams import choose_crossfade
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.measure.clipping import ClippingResult
from ripe_press.core.measure.level_history import LevelHistory
from ripe_press.core.measure.places.programme import Sounding
from ripe_press.core.measure.places.speech import Speech
from ripe_press.core.measure.places.tail import Tail
from ripe_press.core.measure.places.tempo import TempoFound
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.stations import Range
from ripe_press.core.survey import level_history, survey_source
from ripe_press.core.whole_files import temporary_prefix
from ripe_press.studio.planning.kept_levels import keep_measures
from ripe_press.studio.planning.knowledge import AnswerCache, KeptKnowledge, Knowledge
from ripe_press.studio.reports import measures_of


class MeasuredKnowledge:
    """The same for a mix without stored data: one reading for its levels over time, one more for the rest."""

    def __init__(self, source: AudioSource) -> None:
        self.source = source
        self._beside: dict[AudioSource, MeasuredKnowledge] = {}
        self._folder: tempfile.TemporaryDirectory[str] | None = None

    def close(self) -> None:
        """Delete the measurements."""
        if self._folder:
            self._folder.cleanup()
        for one in self._beside.values():
            one.close()

    @property
    def facts(self) -> SourceFacts:
        """As `Knowledge` has it."""
        return self.source.facts

    def part(self, source: AudioSource) -> "Knowledge":
        """As `Knowledge` has it."""
        return self._beside.setdefault(source, MeasuredKnowledge(source))

    @cached_property
    def _surveyed(self) -> KeptKnowledge:
        self._folder = tempfile.TemporaryDirectory(prefix=temporary_prefix("known"))
        folder = Path(self._folder.name)
        result = survey_source(self.source, folder / "pyramid.bin")
        keep_measures(folder, result)
        return KeptKnowledge(self.facts, measures_of(result), folder, AnswerCache(), folder.name)

    @cached_property
    def _history(self) -> LevelHistory:
        return level_history(self.source)

    @property
    def measures(self) -> dict[str, Any]:
        """As `Knowledge` has it."""
        return self._surveyed.measures

    def tail(self, end_frame: int, below_dbfs: float, limit_s: float) -> Tail:
        """As `Knowledge` has it."""
        return self._history.tail(end_frame, below_dbfs, limit_s)

    def sounding(self, silence_dbfs: float | None = None) -> Sounding:
        """As `Knowledge` has it."""
        return self._history.sounding(silence_dbfs)

    def tempo(self) -> TempoFound | None:
        """As `Knowledge` has it."""
        return self._history.tempo()

    def crossfade_frames(self, start_frame: int, end_frame: int, *, needed: bool = True) -> int:
        """As `Knowledge` has it."""
        return choose_crossfade(self.source, start_frame, end_frame, needed=needed)[0]

    def loudest(self, starts: Sequence[int], frames: int) -> int:
        """As `Knowledge` has it."""
        return self._history.loudest(starts, frames)

    def quietest_half_second_dbfs(self, start_frame: int, end_frame: int) -> float:
        """As `Knowledge` has it."""
        return self._surveyed.quietest_half_second_dbfs(start_frame, end_frame)

    def signal(self, start_frame: int, end_frame: int) -> SignalResult:
        """As `Knowledge` has it."""
        return self._surveyed.signal(start_frame, end_frame)

    def quiet_stretch(self) -> tuple[int, int] | None:
        """As `Knowledge` has it."""
        return self._history.quiet_stretch()

    def speech(self, start_frame: int, end_frame: int) -> Speech:
        """As `Knowledge` has it."""
        return self._surveyed.speech(start_frame, end_frame)

    def edged(self, cut: Range) -> SignalResult:
        """As `Knowledge` has it."""
        return self._surveyed.edged(cut)

    def clipping(self, start_frame: int, end_frame: int) -> ClippingResult:
        """As `Knowledge` has it."""
        return self._surveyed.clipping(start_frame, end_frame)

    def edge_levels(self, cut: Range) -> EdgeLevels:
        """As `Knowledge` has it."""
        return self._surveyed.edge_levels(cut)


def measured(facts: SourceFacts) -> MeasuredKnowledge:
    """Return the measurements of a file without stored data."""
    return MeasuredKnowledge(FileSource(facts))
