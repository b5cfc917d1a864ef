"""Looking at a mix on the shelf: what was kept at import, and the little that has to be read again."""

import json
import threading
from collections.abc import Callable
from concurrent.futures import Future
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.bench import Bench
from ripe_press.core.engine.edges import EDGE_WINDOW_S, EdgeLevels
from ripe_press.core.engine.stations import Range
from ripe_press.core.errors import BadInput
from ripe_press.core.measure.clipping import ClippedRun, ClippingResult
from ripe_press.core.measure.loudness import LoudnessResult
from ripe_press.core.measure.pyramid import BASE_FRAMES, STEP, PyramidShape, quietest_dbfs, sounding_pieces
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.measure.true_peak import TRUE_PEAK_BIN
from ripe_press.core.rules.proposals import Proposal, propose
from ripe_press.core.units import db_from_linear, linear_from_db
from ripe_press.store.mixes import NewMix, StoredMix
from ripe_press.studio import tasks
from ripe_press.studio.reports import finite, loudness_of
from ripe_press.studio.workers import WorkerPool

TILE_BINS = 1024
FINE_BINS = (1, 4, 16, 64)
"""Frames a bin below the kept pyramid: read from the mix itself when they are looked at."""


class Looking:
    """Measures of stretches, tiles of the waveform, proposals: nothing here changes anything."""

    def __init__(self, folder_of: Callable[[NewMix], Path], looking: WorkerPool, heavy: WorkerPool) -> None:
        self._folder_of = folder_of
        self._looking = looking
        self._heavy = heavy
        self._lock = threading.Lock()
        self._peaking: dict[Path, Future[None]] = {}
        self._loudness: tuple[tuple[str, str], LoudnessResult] | None = None
        """The energies of the mix that was last looked at: a range that is being dragged asks for them each time."""

    def cover_path(self, mix: StoredMix, name: str) -> Path | None:
        """The picture of a tag sheet, if it is still there."""
        path = self._folder_of(mix) / Path(name).name
        # Other things of the mix lie there too, and are nobody's picture.
        return path if path.name.startswith("cover-") and path.is_file() else None

    def clipping(self, mix: StoredMix, start_frame: int, end_frame: int) -> ClippingResult:
        """Clipped samples inside a range, from what was kept at import."""
        kept = json.loads((self._folder_of(mix) / "clipping.json").read_text())
        runs = tuple(ClippedRun(*run) for run in kept["runs"])
        whole = ClippingResult(kept["clipped_samples"], kept["overs"], runs, kept["complete"])
        if (start_frame, end_frame) == (0, mix.frames):
            return whole
        return whole.within(start_frame, end_frame)

    def quietest_half_second_dbfs(self, mix: StoredMix, start_frame: int, end_frame: int) -> float:
        """The lowest RMS of any half second of a range, from the pyramid."""
        bins = PyramidShape(mix.frames, mix.channels).open_level(self._folder_of(mix) / "pyramid.bin", 0)
        part = bins[start_frame // BASE_FRAMES : max(start_frame // BASE_FRAMES + 1, end_frame // BASE_FRAMES)]
        return quietest_dbfs(part, BASE_FRAMES, mix.rate_hz // 2)

    def loudness(self, mix: StoredMix) -> LoudnessResult:
        """The energies of every hundredth of a second, kept at import."""
        with self._lock:
            if self._loudness is None or self._loudness[0] != (mix.sha256, mix.downmix):
                with np.load(self._folder_of(mix) / "loudness.npz") as kept:
                    found = LoudnessResult(float(kept["stretch_s"]), kept["weighted"], kept["plain"])
                self._loudness = ((mix.sha256, mix.downmix), found)
            return self._loudness[1]

    def ring_frames(self, mix: StoredMix, end_frame: int, below_dbfs: float, limit_s: float) -> int:
        """How long the mix goes on above a level after a frame, to the end of a bin of the pyramid."""
        bins = PyramidShape(mix.frames, mix.channels).open_level(self._folder_of(mix) / "pyramid.bin", 0)
        first = end_frame // BASE_FRAMES
        last = min(mix.frames, end_frame + round(limit_s * mix.rate_hz))
        part = bins[first : -(-last // BASE_FRAMES)]
        loud = np.flatnonzero((np.abs(part[..., :2]) >= linear_from_db(below_dbfs)).any(axis=(1, 2)))
        if not len(loud):
            return 0
        return max(0, min(last, (first + int(loud[-1]) + 1) * BASE_FRAMES) - end_frame)

    def edge_levels(self, mix: StoredMix, cut: Range) -> EdgeLevels:
        """The levels at the edges of a range, to a hundredth of a second, from what was kept."""
        loudness, rate = self.loudness(mix), mix.rate_hz
        first, last = cut.start_frame / rate, cut.read_end / rate
        return EdgeLevels(
            before_start_dbfs=loudness.level_dbfs(first - EDGE_WINDOW_S, first),
            after_start_dbfs=loudness.level_dbfs(first, first + EDGE_WINDOW_S),
            before_end_dbfs=loudness.level_dbfs(last - EDGE_WINDOW_S, last),
            after_end_dbfs=loudness.level_dbfs(last, last + EDGE_WINDOW_S),
        )

    def range_measures(self, mix: StoredMix, start_frame: int, end_frame: int) -> dict[str, float | None]:
        """Peak and loudness of a stretch from what was kept: to 256 frames and to a hundredth of a second."""
        bins = PyramidShape(mix.frames, mix.channels).open_level(self._folder_of(mix) / "pyramid.bin", 0)
        first, last = start_frame // BASE_FRAMES, max(start_frame // BASE_FRAMES + 1, -(-end_frame // BASE_FRAMES))
        peak = float(np.abs(bins[first:last, :, :2]).max(initial=0.0))
        loudness, end_s = self.loudness(mix), end_frame / mix.rate_hz
        return {
            "sample_peak_dbfs": finite(db_from_linear(peak)),
            **loudness_of(loudness.within(start_frame / mix.rate_hz, end_s)),
            "end_level_dbfs": finite(loudness.level_dbfs(end_s - EDGE_WINDOW_S, end_s)),
        }

    def signal(self, mix: StoredMix, start_frame: int, end_frame: int) -> SignalResult:
        """Peaks and loudness of a stretch from what is kept; the sample peak stands in for an unknown true peak."""
        found = self.range_measures(mix, start_frame, end_frame)
        peak = found["sample_peak_dbfs"]
        true_peak = peak
        if (start_frame, end_frame) == (0, mix.frames):
            true_peak = mix.measures["true_peak_dbtp"]
        elif self._true_peaks_path(mix).is_file():
            peaks = self.true_peaks(mix)[start_frame // TRUE_PEAK_BIN : -(-end_frame // TRUE_PEAK_BIN)]
            true_peak = max(peak if peak is not None else -200.0, db_from_linear(float(peaks.max(initial=0.0))))
        loudness = found["integrated_lufs"]
        silent = float("-inf")
        return SignalResult(
            silent if peak is None else peak,
            silent if true_peak is None else true_peak,
            silent if loudness is None else loudness,
        )

    def loudness_curve(self, mix: StoredMix, points: int) -> bytes:
        """Momentary loudness of the whole mix at even places: little-endian 32-bit floats, NaN where it is silent."""
        return self.loudness(mix).curve(points).astype("<f4").tobytes()

    def tile(self, mix: StoredMix, frames_per_bin: int, index: int) -> bytes:
        """1024 bins of the waveform as 32-bit floats (minimum, maximum, mean square), channel by channel.

        Raises: BadInput ``tile.unknown`` for a zoom that is not a power of four or a place past the end.
        """
        start = index * TILE_BINS * frames_per_bin
        if index < 0 or start >= mix.frames:
            message = f"There is no tile {index} at {frames_per_bin} frames a bin."
            raise BadInput("tile.unknown", message, index=index)
        if frames_per_bin in FINE_BINS:
            frames = TILE_BINS * frames_per_bin
            return self._looking.submit(tasks.read_tile, mix.path, mix.downmix, start, frames, frames_per_bin).result()
        shape = PyramidShape(mix.frames, mix.channels)
        for level in range(len(shape.levels())):
            if BASE_FRAMES * STEP**level == frames_per_bin:
                bins = shape.open_level(self._folder_of(mix) / "pyramid.bin", level)
                return bins[index * TILE_BINS : (index + 1) * TILE_BINS].tobytes()
        message = f"{frames_per_bin} frames a bin is not a zoom step of this mix."
        raise BadInput("tile.unknown", message, frames_per_bin=frames_per_bin)

    def pieces(self, mix: StoredMix) -> list[tuple[int, int]]:
        """The pieces of a mix that long silence parts, in frames, from the pyramid."""
        bins = PyramidShape(mix.frames, mix.channels).open_level(self._folder_of(mix) / "pyramid.bin", 1)
        return sounding_pieces(bins, BASE_FRAMES * STEP, mix.rate_hz, mix.frames)

    def proposals(self, mix: StoredMix, bench: Bench) -> tuple[Proposal, ...]:
        """Ranges that could leave, each with its reason."""
        head, tail = mix.measures["head_silence_frames"], mix.measures["tail_silence_frames"]
        return propose(bench, mix.frames, mix.rate_hz, (head, mix.frames - tail), self.pieces(mix))

    def _true_peaks_path(self, mix: StoredMix) -> Path:
        # Other channels of the file have other peaks, also while theirs are still being measured.
        return self._folder_of(mix) / f"true_peaks {mix.downmix or 'all'}.npy"

    def true_peaks(self, mix: StoredMix) -> NDArray[np.float32]:
        """The true peak of every 8192 frames, linear; measured when first asked for, in a pass of its own."""
        path = self._true_peaks_path(mix)
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
        peaks: NDArray[np.float32] = np.load(path)
        return peaks

    def true_peak(self, mix: StoredMix, start_frame: int, end_frame: int) -> tuple[float | None, int]:
        """The true peak of a range in dBTP and the frame it lies near: from what is kept, the ends read again."""
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
        found += self._looking.submit(tasks.read_peaks_of, mix.path, mix.downmix, ends).result()
        peak, frame = max(found)
        return finite(db_from_linear(peak)), frame

    def spectrum(self, mix: StoredMix, start_frame: int, end_frame: int) -> list[tuple[float, float]]:
        """The mean spectrum of a range as (Hz, dB), from up to 300 windows spread evenly over it.

        Raises: BadInput ``range.empty``.
        """
        if not 0 <= start_frame < end_frame <= mix.frames:
            message = "A range starts before it ends and lies inside the mix."
            raise BadInput("range.empty", message, start_frame=start_frame, end_frame=end_frame)
        return self._looking.submit(tasks.read_spectrum, mix.path, mix.downmix, start_frame, end_frame).result()

    def zero_crossing(self, mix: StoredMix, frame: int) -> int:
        """The frame nearest to this one where the sum of the channels changes sign, at most 20 ms away."""
        return self._looking.submit(tasks.find_crossing, mix.path, mix.downmix, frame, mix.rate_hz // 50).result()
