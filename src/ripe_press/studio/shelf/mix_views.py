"""Display of a mix: stored data, and the few parts read again."""

import threading
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.errors import BadInput
from ripe_press.core.measure.places.tail import Tail
from ripe_press.core.measure.pyramid import BASE_FRAMES, STEP, PyramidShape, sounding_pieces
from ripe_press.core.measure.true_peak import TRUE_PEAK_BIN
from ripe_press.core.requests.bench import Bench
from ripe_press.core.requests.edges import RING_LIMIT_S
from ripe_press.core.requests.part import StemNote
from ripe_press.core.rules.proposals import Proposal, propose
from ripe_press.core.tempo_hints import first_bar_frame, tempo_hint
from ripe_press.core.units import db_from_linear, finite
from ripe_press.store.mixes import NewMix, StoredMix
from ripe_press.studio.jobs import Events, WorkerPool
from ripe_press.studio.planning import AnswerCache, KeptKnowledge, StemMeasures, facts_of
from ripe_press.studio.shelf import tasks

TILE_BINS = 1024
FINE_BINS = (1, 4, 16, 64)
"""Frames a bin below the kept pyramid: read from the mix itself when they are looked at."""


@dataclass(frozen=True, slots=True)
class AfterCut:
    """What follows a frame, where the music continues, and both in a sentence."""

    tail: Tail
    music_frame: int | None
    sentence: str


@dataclass(frozen=True, slots=True)
class TempoSuggestion:
    """A tempo that is offered, by what, with its octaves, and bar 1."""

    bpm: float
    by: str
    confidence: float | None
    others: list[float]
    beats: int
    first_bar_frame: int


class MixViews:
    """Measures of stretches, tiles of the waveform, proposals: nothing here changes anything."""

    def __init__(
        self,
        folder_of: Callable[[NewMix], Path],
        reading: WorkerPool,
        heavy: WorkerPool,
        events: Events,
        stems_of: Callable[[int], tuple[StemNote, ...]],
    ) -> None:
        self.stems_of = stems_of
        self._folder_of = folder_of
        self._reading = reading
        self._heavy = heavy
        self._lock = threading.Lock()
        self._peaking: dict[Path, Future[None]] = {}
        self._answers = AnswerCache()
        self._parts = StemMeasures(heavy, self._answers, events)

    def cover_path(self, mix: StoredMix, name: str) -> Path | None:
        """The picture of a tag sheet, if it is still there."""
        path = self._folder_of(mix) / Path(name).name
        # The folder has other files of the mix too, which are not pictures.
        return path if path.name.startswith("cover-") and path.is_file() else None

    def known(self, mix: StoredMix, *, wait: bool = False) -> KeptKnowledge:
        """Return the stored measurements of a mix and its stems; with ``wait``, missing ones are made first."""
        folder, parts = self._folder_of(mix), self._parts.waiting if wait else self._parts.known
        return KeptKnowledge(facts_of(mix), mix.measures, folder, self._answers, mix.sha256, parts=parts)

    def loudness_curve(self, mix: StoredMix, points: int) -> bytes:
        """Momentary loudness of the whole mix at even places: little-endian 32-bit floats, NaN where it is silent."""
        return self.known(mix).loudness().curve(points).astype("<f4").tobytes()

    def tile(self, mix: StoredMix, frames_per_bin: int, index: int) -> bytes:
        """1024 bins of the waveform as 32-bit floats (minimum, maximum, mean square), channel by channel.

        Raises: BadInput ``tile.unknown`` for a zoom that is not a power of four or a place past the end.
        """
        start = index * TILE_BINS * frames_per_bin
        if index < 0 or start >= mix.frames:
            message = f"No tile {index} at {frames_per_bin} samples per bin."
            raise BadInput("tile.unknown", message, index=index)
        if frames_per_bin in FINE_BINS:
            frames = TILE_BINS * frames_per_bin
            return self._reading.submit(tasks.read_tile, mix.path, mix.downmix, start, frames, frames_per_bin).result()
        shape = PyramidShape(mix.frames, mix.channels)
        for level in range(len(shape.levels())):
            if BASE_FRAMES * STEP**level == frames_per_bin:
                bins = shape.open_level(self._folder_of(mix) / "pyramid.bin", level)
                return bins[index * TILE_BINS : (index + 1) * TILE_BINS].tobytes()
        message = f"{frames_per_bin} samples per bin is not a zoom step of this mix."
        raise BadInput("tile.unknown", message, frames_per_bin=frames_per_bin)

    def pieces(self, mix: StoredMix, silence_dbfs: float | None = None) -> list[tuple[int, int]]:
        """The pieces of a mix that long silence parts, in frames, from the pyramid."""
        known = self.known(mix)
        below = known.sounding().silence_dbfs if silence_dbfs is None else silence_dbfs
        return sounding_pieces(known.bins(1), BASE_FRAMES * STEP, mix.rate_hz, mix.frames, below)

    def proposals(self, mix: StoredMix, bench: Bench) -> tuple[Proposal, ...]:
        """Ranges that could leave, each with its reason."""
        known = self.known(mix)
        sounding = known.sounding(bench.silence_dbfs)

        def tail_of(frame: int) -> Tail:
            return known.tail(frame, sounding.silence_dbfs, RING_LIMIT_S)

        pieces = self.pieces(mix, sounding.silence_dbfs)
        return propose(bench, mix.frames, mix.rate_hz, sounding, pieces, tail_of)

    def after(self, mix: StoredMix, frame: int, silence_dbfs: float | None = None) -> AfterCut:
        """What follows a frame of a mix, in a sentence too. Raises: BadInput ``range.empty``."""
        check_inside(mix.frames, 0, frame)
        known = self.known(mix)
        tail = known.tail(frame, known.sounding(silence_dbfs).silence_dbfs, RING_LIMIT_S)
        music = None if tail.music_s is None else frame + round(tail.music_s * mix.rate_hz)
        sentence = {
            "nothing": "Silence after the end.",
            "tail": f"A tail of {tail.decay_s:.1f} s follows the end.",
            "music": "The music continues after the end. Use Cut, a fade out or Crossfade.",
            "unsure": "Tail or music follows the end. Listen across it.",
        }[tail.kind]
        return AfterCut(tail, music, sentence)

    def tempo_hints(self, mix: StoredMix, bpm: float | None = None) -> list[TempoSuggestion]:
        """Tempos that are offered for a mix: what tags, a MIDI file and its name tell, and its sound where it is sure.

        For one that is given bar 1 is found.
        """
        known = self.known(mix)
        found, sounding = known.tempo(), known.sounding()

        def bar_one(tempo_bpm: float) -> int:
            return first_bar_frame(sounding, found, tempo_bpm, mix.rate_hz)

        if bpm is not None:
            return [TempoSuggestion(bpm, "typed", None, [], 4, bar_one(bpm))]
        hints = []
        path = Path(mix.came_from or mix.path)
        if hint := tempo_hint(path, mix.embedded.get("tempo_bpm"), mix.title):
            first = hint.changes[0]
            hints.append(
                TempoSuggestion(first.tempo_bpm, hint.told_by, None, [], first.beats, bar_one(first.tempo_bpm))
            )
        if found:
            hints.append(
                TempoSuggestion(
                    found.bpm, "sound", found.confidence, list(found.others), found.beats, bar_one(found.bpm)
                )
            )
        return hints

    def true_peaks(self, mix: StoredMix) -> NDArray[np.float32]:
        """The true peak of every 8192 frames, linear; of mixes from before they were kept, measured when asked for."""
        known = self.known(mix)
        path = known.true_peaks_path
        if not path.is_file():
            with self._lock:
                task = self._peaking.get(path)
                if task is None:
                    task = self._heavy.submit(tasks.read_true_peaks, mix.path, mix.downmix, str(path))
                    self._peaking[path] = task
            try:
                task.result()
            finally:
                with self._lock:
                    self._peaking.pop(path, None)
        peaks = known.true_peaks()
        return np.zeros(0, dtype=np.float32) if peaks is None else peaks

    def true_peak(self, mix: StoredMix, start_frame: int, end_frame: int) -> tuple[float | None, int]:
        """The true peak of a range in dBTP and the nearest frame: from stored data, with the ends read again.

        Raises: BadInput ``range.empty``.
        """
        check_inside(mix.frames, start_frame, end_frame)
        peaks = self.true_peaks(mix)
        first, last = -(-start_frame // TRUE_PEAK_BIN), end_frame // TRUE_PEAK_BIN
        found: list[tuple[float, int]] = []
        if last > first:
            at = int(peaks[first:last].argmax())
            found.append((float(peaks[first + at]), (first + at) * TRUE_PEAK_BIN))
            ends = [(start_frame, first * TRUE_PEAK_BIN), (last * TRUE_PEAK_BIN, end_frame)]
        else:
            ends = [(start_frame, end_frame)]
        ends = [(start, end) for start, end in ends if end > start]
        found += self._reading.submit(tasks.read_peaks_of, mix.path, mix.downmix, ends).result()
        peak, frame = max(found)
        return finite(db_from_linear(peak)), frame

    def spectrum(self, mix: StoredMix, start_frame: int, end_frame: int) -> list[tuple[float, float]]:
        """The mean spectrum of a range as (Hz, dB), from up to 300 windows spread evenly over it.

        Raises: BadInput ``range.empty``.
        """
        check_inside(mix.frames, start_frame, end_frame)
        return self._reading.submit(tasks.read_spectrum, mix.path, mix.downmix, start_frame, end_frame).result()

    def zero_crossing(self, mix: StoredMix, frame: int) -> int:
        """The frame nearest to this one where the sum of the channels changes sign, at most 20 ms away."""
        check_inside(mix.frames, 0, frame or 1)
        return self._reading.submit(tasks.find_crossing, mix.path, mix.downmix, frame, mix.rate_hz // 50).result()


def check_inside(frames: int, start_frame: int, end_frame: int) -> None:
    """Raises: BadInput ``range.empty`` for an invalid range."""
    if not 0 <= start_frame < end_frame <= frames:
        message = "A range needs a start before its end, inside the mix."
        raise BadInput("range.empty", message, start_frame=start_frame, end_frame=end_frame)
