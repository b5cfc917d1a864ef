"""Measurements of a mix: stored at import, or made on demand. One planner works on either."""

import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence
from pathlib import Path
from typing import Any, Protocol, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.engine.edges import EDGE_WINDOW_S, EdgeLevels, edged_signal
from ripe_press.core.engine.seams import choose_crossfade
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.measure.bands import BandLevels
from ripe_press.core.measure.clipping import ClippedRun, ClippingResult
from ripe_press.core.measure.level_history import LevelHistory
from ripe_press.core.measure.loudness import LoudnessResult
from ripe_press.core.measure.places.programme import Sounding
from ripe_press.core.measure.places.quiet import longest_silence
from ripe_press.core.measure.places.silence import SilenceResult
from ripe_press.core.measure.places.speech import Speech, speech_of
from ripe_press.core.measure.places.tail import Tail
from ripe_press.core.measure.places.tempo import TempoFound
from ripe_press.core.measure.pyramid import (
    BASE_FRAMES,
    STEP,
    Bins,
    PyramidShape,
    quietest_dbfs,
)
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.measure.true_peak import TRUE_PEAK_BIN
from ripe_press.core.signal.channels import mono_loss_db
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.stations import Range
from ripe_press.core.units import db_from_linear, finite
from ripe_press.studio.planning.kept_levels import kept_bands
from ripe_press.studio.reports import loudness_of

T = TypeVar("T")
MOST_ANSWERS = 5_000
BEING_MEASURED, LIVE = "part.being-measured", "part.live"
"""Codes of rejections that end once the measurement or capture exists."""


class AnswerCache:
    """Answered questions about mixes: by content, choice of channels, question and frames, up to a limit.

    The key says all that an answer depends on, so none can go stale.
    """

    def __init__(self, most: int = MOST_ANSWERS) -> None:
        self._most = most
        self._kept: OrderedDict[Hashable, Any] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, key: Hashable, work_out: Callable[[], T]) -> T:
        """The answer that is kept, or worked out now."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return cast("T", self._kept[key])
        found = work_out()
        with self._lock:
            self._kept[key] = found
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return found


class Knowledge(Protocol):
    """What the planner asks of a mix."""

    @property
    def facts(self) -> SourceFacts:
        """What its file declares, with the bits in use and the sum of its content."""
        ...

    @property
    def source(self) -> AudioSource:
        """The source that is pressed."""
        ...

    @property
    def measures(self) -> dict[str, Any]:
        """Measurements of the whole mix."""
        ...

    def part(self, source: AudioSource) -> "Knowledge":
        """Measurements of one of its stems. Raises: Conflict ``part.being-measured``."""
        ...

    def tail(self, end_frame: int, below_dbfs: float, limit_s: float) -> Tail:
        """What follows a frame, followed for so many seconds at most, until it stays below a level."""
        ...

    def sounding(self, silence_dbfs: float | None = None) -> Sounding:
        """From where to where the mix sounds: above a level that is set, or out of its own noise."""
        ...

    def tempo(self) -> TempoFound | None:
        """The tempo by the sound, where it is sure."""
        ...

    def crossfade_frames(self, start_frame: int, end_frame: int, *, needed: bool = True) -> int:
        """The length of a crossfade that hides the seam of a loop; 0 where it is not ``needed`` and none is heard."""
        ...

    def loudest(self, starts: Sequence[int], frames: int) -> int:
        """The first frame of the loudest of some stretches of one length."""
        ...

    def quiet_stretch(self) -> tuple[int, int] | None:
        """The quietest half second that is not digital silence: the room."""
        ...

    def quietest_half_second_dbfs(self, start_frame: int, end_frame: int) -> float:
        """The lowest RMS of any half second of a range."""
        ...

    def signal(self, start_frame: int, end_frame: int) -> SignalResult:
        """Peaks and loudness of a stretch."""
        ...

    def edged(self, cut: Range) -> SignalResult:
        """Peaks and loudness of a loop with its end folded or crossfaded."""
        ...

    def speech(self, start_frame: int, end_frame: int) -> Speech:
        """Level, noise and room tone of a stretch of a spoken recording."""
        ...

    def clipping(self, start_frame: int, end_frame: int) -> ClippingResult:
        """Clipped samples inside a range."""
        ...

    def edge_levels(self, cut: Range) -> EdgeLevels:
        """The levels at the edges of a range."""
        ...


def silence_of(known: Knowledge, cut: Range) -> SilenceResult:
    """Silence at the ends of a range, as far as the mix's own silence reaches into it."""
    frames = known.facts.frames
    head, tail = known.measures["head_silence_frames"], known.measures["tail_silence_frames"]
    return SilenceResult(frames, head, tail).within(cut.start_frame, cut.read_end)


def mono_loss_of(known: Knowledge) -> float | None:
    """How much quieter the sum of both sides of the mix is than if they were alike."""
    return mono_loss_db(known.measures["correlation"], known.measures["balance_db"])


class KeptKnowledge:
    """What a folder keeps of a mix: pyramid, energies, clipping, true peaks."""

    def __init__(
        self,
        facts: SourceFacts,
        measures: dict[str, Any],
        folder: Path,
        answers: AnswerCache,
        key: str,
        source: AudioSource | None = None,
        parts: "KnownParts | None" = None,
    ) -> None:
        self.facts = facts
        self.source = source or FileSource(facts)
        self.measures = measures
        self.folder = folder
        self._answers = answers
        self._key = key
        self._parts = parts or _nothing_beside

    def part(self, source: AudioSource) -> "Knowledge":
        """As `Knowledge` has it: kept beside the mix once it was measured."""
        return self._parts(self.folder, source)

    def _asked(self, question: str, *about: Hashable) -> Hashable:
        return (self._key, self.facts.downmix, question, *about)

    @property
    def _shape(self) -> PyramidShape:
        return PyramidShape(self.facts.frames, self.facts.channels)

    def bins(self, level: int = 0) -> Bins:
        """A level of the pyramid."""
        return self._shape.open_level(self.folder / "pyramid.bin", level)

    def loudness(self) -> LoudnessResult:
        """The energies of every hundredth of a second. A few mixes' worth is kept in memory, for they are large."""

        def read() -> LoudnessResult:
            with np.load(self.folder / "loudness.npz") as kept:
                return LoudnessResult(float(kept["stretch_s"]), kept["weighted"], kept["plain"])

        return _ENERGIES.of(self._asked("energies"), read)

    def bands(self) -> BandLevels:
        """The levels of the bands. Of mixes from before they were kept, measured when they are first needed."""
        return _ENERGIES.of(self._asked("bands"), lambda: kept_bands(self.folder, self.source))

    def _history(self) -> LevelHistory:
        def read() -> LevelHistory:
            head, tail = (self.measures[f"{end}_silence_frames"] for end in ("head", "tail"))
            silence = SilenceResult(self.facts.frames, head, tail)
            return LevelHistory(silence, self.loudness(), self.bands(), self.facts.rate_hz)

        return _ENERGIES.of(self._asked("history"), read)

    def tail(self, end_frame: int, below_dbfs: float, limit_s: float) -> Tail:
        """As in `Knowledge`, from stored data."""
        about = ("tail", end_frame, below_dbfs, limit_s)
        return self._answers.of(self._asked(*about), lambda: self._history().tail(end_frame, below_dbfs, limit_s))

    def sounding(self, silence_dbfs: float | None = None) -> Sounding:
        """As `Knowledge` has it; measured once, at import, where no level is set."""
        kept = self.measures.get("sounding")
        if kept and silence_dbfs is None:
            return Sounding(**kept)
        return self._answers.of(self._asked("sounding", silence_dbfs), lambda: self._history().sounding(silence_dbfs))

    def tempo(self) -> TempoFound | None:
        """The tempo by the sound, where it is sure; measured once, at import."""
        if "tempo_found" in self.measures:
            kept = self.measures["tempo_found"]
            return TempoFound(**kept) if kept else None
        return self._answers.of(self._asked("tempo"), lambda: self._history().tempo())

    def crossfade_frames(self, start_frame: int, end_frame: int, *, needed: bool = True) -> int:
        """As `Knowledge` has it."""
        return self._answers.of(
            self._asked("crossfade", start_frame, end_frame, needed),
            lambda: choose_crossfade(self.source, start_frame, end_frame, needed=needed)[0],
        )

    def loudest(self, starts: Sequence[int], frames: int) -> int:
        """As `Knowledge` has it."""
        return self._answers.of(
            self._asked("loudest", tuple(starts), frames), lambda: self._history().loudest(starts, frames)
        )

    def quietest_half_second_dbfs(self, start_frame: int, end_frame: int) -> float:
        """As `Knowledge` has it, from the pyramid."""

        def work_out() -> float:
            first = start_frame // BASE_FRAMES
            part = self.bins()[first : max(first + 1, end_frame // BASE_FRAMES)]
            return quietest_dbfs(part, BASE_FRAMES, self.facts.rate_hz // 2)

        return self._answers.of(self._asked("quietest", start_frame, end_frame), work_out)

    def quiet_stretch(self) -> tuple[int, int] | None:
        """As `Knowledge` has it."""
        return self._answers.of(self._asked("quiet"), lambda: self._history().quiet_stretch())

    def range_measures(self, start_frame: int, end_frame: int) -> dict[str, float | None]:
        """Peak and loudness of a stretch: to 256 frames and to a hundredth of a second."""

        def work_out() -> dict[str, float | None]:
            first, last = start_frame // BASE_FRAMES, max(start_frame // BASE_FRAMES + 1, -(-end_frame // BASE_FRAMES))
            peak = float(np.abs(self.bins()[first:last, :, :2]).max(initial=0.0))
            loudness, rate_hz = self.loudness(), self.facts.rate_hz
            end_s = end_frame / rate_hz
            return {
                "sample_peak_dbfs": finite(db_from_linear(peak)),
                **loudness_of(loudness.within(start_frame / rate_hz, end_s)),
                "end_level_dbfs": finite(loudness.level_dbfs(end_s - EDGE_WINDOW_S, end_s)),
            }

        return self._answers.of(self._asked("measures", start_frame, end_frame), work_out)

    @property
    def true_peaks_path(self) -> Path:
        """Where the true peak of every 8192 frames is kept; other channels of the file have other peaks."""
        return self.folder / f"true_peaks {self.facts.downmix or 'all'}.npy"

    def true_peaks(self) -> NDArray[np.float32] | None:
        """The true peak, linear, of every 8192 frames; None where it was not measured yet."""
        path = self.true_peaks_path
        if not path.is_file():
            return None
        return self._answers.of(self._asked("true peaks"), lambda: cast("NDArray[np.float32]", np.load(path)))

    def signal(self, start_frame: int, end_frame: int) -> SignalResult:
        """As in `Knowledge`; the sample peak replaces an unknown true peak."""
        found = self.range_measures(start_frame, end_frame)
        peak, loudness = found["sample_peak_dbfs"], found["integrated_lufs"]
        true_peak = peak
        peaks = self.true_peaks()
        if (start_frame, end_frame) == (0, self.facts.frames):
            true_peak = self.measures["true_peak_dbtp"]
        elif peaks is not None:
            part = peaks[start_frame // TRUE_PEAK_BIN : -(-end_frame // TRUE_PEAK_BIN)]
            true_peak = max(peak if peak is not None else -200.0, db_from_linear(float(part.max(initial=0.0))))
        silent = float("-inf")
        return SignalResult(
            silent if peak is None else peak,
            silent if true_peak is None else true_peak,
            silent if loudness is None else loudness,
        )

    def edged(self, cut: Range) -> SignalResult:
        """As `Knowledge` has it."""
        return self._answers.of(
            self._asked("edged", cut),
            lambda: edged_signal(self.source, cut, self.signal(cut.start_frame, cut.end_frame)),
        )

    def speech(self, start_frame: int, end_frame: int) -> Speech:
        """As `Knowledge` has it."""
        rate = self.facts.rate_hz
        return self._answers.of(
            self._asked("speech", start_frame, end_frame),
            lambda: speech_of(self.loudness().within(start_frame / rate, end_frame / rate)),
        )

    def clipping(self, start_frame: int, end_frame: int) -> ClippingResult:
        """As `Knowledge` has it."""

        def read() -> ClippingResult:
            kept = json.loads((self.folder / "clipping.json").read_text())
            runs = tuple(ClippedRun(*run) for run in kept["runs"])
            return ClippingResult(kept["clipped_samples"], kept["overs"], runs, kept["complete"])

        whole = self._answers.of(self._asked("clipping"), read)
        if (start_frame, end_frame) == (0, self.facts.frames):
            return whole
        return self._answers.of(
            self._asked("clipping", start_frame, end_frame), lambda: whole.within(start_frame, end_frame)
        )

    def longest_silence(self, start_frame: int, end_frame: int) -> tuple[float, float]:
        """Where the longest silence of a stretch begins in the mix, and how long it is, in seconds."""
        rate = self.facts.rate_hz
        return self._answers.of(
            self._asked("silence", start_frame, end_frame),
            lambda: longest_silence(self.loudness(), start_frame / rate, end_frame / rate),
        )

    def blocks(self, start_frame: int, end_frame: int) -> NDArray[np.float64]:
        """The mean squares of the blocks that the loudness of a stretch is gated from."""
        rate = self.facts.rate_hz
        return self._answers.of(
            self._asked("blocks", start_frame, end_frame),
            lambda: np.array(self.loudness().within(start_frame / rate, end_frame / rate).blocks),
        )

    def wave(self, start_frame: int, end_frame: int, points: int) -> tuple[float, ...]:
        """Peaks of a stretch for drawing, from 0 to 1, out of a coarse level of the pyramid."""

        def work_out() -> tuple[float, ...]:
            wanted = max(1, (end_frame - start_frame) // points)
            sizes = [BASE_FRAMES * STEP**level for level in range(len(self._shape.levels()))]
            level = max((at for at, size in enumerate(sizes) if size <= wanted), default=0)
            first = start_frame // sizes[level]
            last = max(first + 1, end_frame // sizes[level])
            peaks = np.abs(self.bins(level)[first:last, :, :2]).max(axis=(1, 2), initial=0.0)
            if not len(peaks):
                return ()
            edges = np.linspace(0, len(peaks), min(points, len(peaks)) + 1).astype(int)[:-1]
            return tuple(round(float(one), 3) for one in np.minimum(1.0, np.maximum.reduceat(peaks, edges)))

        return self._answers.of(self._asked("wave", start_frame, end_frame, points), work_out)

    def edge_levels(self, cut: Range) -> EdgeLevels:
        """As `Knowledge` has it, to a hundredth of a second."""
        rate = self.facts.rate_hz
        first, last = cut.start_frame / rate, cut.read_end / rate

        def work_out() -> EdgeLevels:
            loudness = self.loudness()
            return EdgeLevels(
                before_start_dbfs=loudness.level_dbfs(first - EDGE_WINDOW_S, first),
                after_start_dbfs=loudness.level_dbfs(first, first + EDGE_WINDOW_S),
                before_end_dbfs=loudness.level_dbfs(last - EDGE_WINDOW_S, last),
                after_end_dbfs=loudness.level_dbfs(last, last + EDGE_WINDOW_S),
            )

        return self._answers.of(self._asked("edges", cut.start_frame, cut.read_end), work_out)


KnownParts = Callable[[Path, AudioSource], KeptKnowledge]
"""Gives what a folder of a mix keeps of something beside that mix."""
_ENERGIES = AnswerCache(12)


def _nothing_beside(folder: Path, source: AudioSource) -> KeptKnowledge:
    message = f"no measurements of {source} in {folder}"
    raise TypeError(message)
