"""The shelf: bringing mixes in, keeping what was measured of them, and letting them go."""

import json
import secrets
import shutil
import threading
from collections.abc import AsyncIterator
from concurrent.futures import Future
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Literal

import numpy as np

from ripe_press.core.engine.edges import EDGE_WINDOW_S, NO_EDGES, EdgeLevels, Edges
from ripe_press.core.engine.stations import Range
from ripe_press.core.errors import BadInput, Conflict, Interrupted, NotFound, RipePressError
from ripe_press.core.measure.clipping import ClippedRun, ClippingResult
from ripe_press.core.measure.loudness import LoudnessResult
from ripe_press.core.measure.pyramid import BASE_FRAMES, STEP, PyramidShape, quietest_dbfs
from ripe_press.core.naming import safe_stem
from ripe_press.core.survey import Survey
from ripe_press.core.units import db_from_linear, linear_from_db
from ripe_press.store.mixes import Mixes, NewMix, StoredMix
from ripe_press.studio import tasks
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.reports import finite, loudness_of, measures_of, spectrum_of
from ripe_press.studio.workers import WorkerPool

TILE_BINS = 1024
FINE_BINS = (1, 4, 16, 64)
"""Frames a bin below the kept pyramid: read from the mix itself when they are looked at."""


@dataclass(slots=True)
class Arrival:
    """A file on its way to the shelf. ``error`` says in one sentence why it was refused."""

    id: str
    name: str
    state: Literal["reading", "done", "refused"]
    job: JobFolder
    mix_id: int | None = None
    error: str | None = None


class Shelf:
    """Mixes by id; ``arrivals`` are those still being read."""

    def __init__(self, folder: DataFolder, mixes: Mixes, heavy: WorkerPool, looking: WorkerPool) -> None:
        self._folder = folder
        self._mixes = mixes
        self._heavy = heavy
        self._looking = looking
        self._arrivals: dict[str, Arrival] = {}
        self._lock = threading.Lock()

    def mixes(self) -> list[StoredMix]:
        """All mixes on the shelf."""
        return self._mixes.all()

    def arrivals(self) -> list[Arrival]:
        """Files that are being read, or were refused and not yet dismissed."""
        with self._lock:
            return [arrival for arrival in self._arrivals.values() if arrival.state != "done"]

    def arrival(self, arrival_id: str) -> Arrival:
        """One arrival. Raises: NotFound ``arrival.unknown``."""
        with self._lock:
            if arrival_id not in self._arrivals:
                message = "That file is no longer arriving."
                raise NotFound("arrival.unknown", message, arrival=arrival_id)
            return self._arrivals[arrival_id]

    def mix(self, mix_id: int) -> StoredMix:
        """One mix. Raises: NotFound ``mix.unknown``."""
        mix = self._mixes.get(mix_id)
        if mix is None:
            message = f"There is no mix number {mix_id} on the shelf. It may have been taken off."
            raise NotFound("mix.unknown", message, mix=mix_id)
        return mix

    async def receive(self, name: str, body: AsyncIterator[bytes]) -> Arrival:
        """Streams an upload to disk and begins to read it; nothing is left when the sender goes away."""
        folder = self._folder.passing / f"upload-{secrets.token_hex(8)}"
        folder.mkdir(parents=True)
        path = folder / (safe_stem(Path(name).stem) + Path(name).suffix.lower())
        try:
            with path.open("wb") as file:
                async for chunk in body:
                    file.write(chunk)
        except BaseException:
            shutil.rmtree(folder, ignore_errors=True)
            raise
        return self._begin(path, Path(name).name, owned=True)

    def fetch(self, path_text: str) -> Arrival:
        """Begins to read a file on the server, which stays where it is.

        Raises: BadInput ``path.relative``; NotFound ``source.missing``.
        """
        path = Path(path_text.strip()).expanduser()
        if not path.is_absolute():
            message = f"{path_text!r} is not a full path. Write it from the root, with a leading slash."
            raise BadInput("path.relative", message, path=path_text)
        if not path.is_file():
            message = f"There is no file at {path_text!r} on this machine. Check the path and its spelling."
            raise NotFound("source.missing", message, path=path_text)
        return self._begin(path.resolve(), path.name, owned=False)

    def fetch_once(self, path: Path) -> None:
        """Brings a file in unless it is on the shelf already."""
        if not any(mix.path == str(path.resolve()) for mix in self._mixes.all()):
            self.fetch(str(path.resolve()))

    def dismiss(self, arrival_id: str) -> None:
        """Cancels an arrival that is being read, or forgets one that was refused."""
        arrival = self.arrival(arrival_id)
        arrival.job.cancel()
        with self._lock:
            self._arrivals.pop(arrival_id, None)

    def set_range(self, mix_id: int, start_frame: int, end_frame: int, edges: Edges = NO_EDGES) -> StoredMix:
        """Keeps the range of a mix and its edges. Raises: BadInput ``range.empty``."""
        mix = self.mix(mix_id)
        if not 0 <= start_frame < end_frame <= mix.frames:
            message = "A range starts before it ends and lies inside the mix."
            raise BadInput("range.empty", message, start_frame=start_frame, end_frame=end_frame)
        self._mixes.set_range(mix_id, start_frame, end_frame, asdict(edges))
        return self.mix(mix_id)

    def remove(self, mix_id: int) -> None:
        """Takes a mix off the shelf: an uploaded file goes with it, a file given by path stays where it is."""
        mix = self.mix(mix_id)
        self._mixes.remove(mix_id)
        shutil.rmtree(self.folder_of(mix), ignore_errors=True)

    def folder_of(self, mix: NewMix) -> Path:
        """Where what belongs to a mix is kept."""
        return self._folder.mixes / mix.sha256[:20]

    def clipping(self, mix: StoredMix, start_frame: int, end_frame: int) -> ClippingResult:
        """Clipped samples inside a range, from what was kept at import."""
        kept = json.loads((self.folder_of(mix) / "clipping.json").read_text())
        runs = tuple(ClippedRun(*run) for run in kept["runs"])
        whole = ClippingResult(kept["clipped_samples"], kept["overs"], runs, kept["complete"])
        if (start_frame, end_frame) == (0, mix.frames):
            return whole
        return whole.within(start_frame, end_frame)

    def quietest_half_second_dbfs(self, mix: StoredMix, start_frame: int, end_frame: int) -> float:
        """The lowest RMS of any half second of a range, from the pyramid."""
        bins = PyramidShape(mix.frames, mix.channels).open_level(self.folder_of(mix) / "pyramid.bin", 0)
        part = bins[start_frame // BASE_FRAMES : max(start_frame // BASE_FRAMES + 1, end_frame // BASE_FRAMES)]
        return quietest_dbfs(part, BASE_FRAMES, mix.rate_hz // 2)

    def loudness(self, mix: StoredMix) -> LoudnessResult:
        """The energies of every hundredth of a second, kept at import."""
        path = self.folder_of(mix) / "loudness.npz"
        with np.load(path) as kept:
            return LoudnessResult(float(kept["stretch_s"]), kept["weighted"], kept["plain"])

    def ring_frames(self, mix: StoredMix, end_frame: int, below_dbfs: float, limit_s: float) -> int:
        """How long the mix goes on above a level after a frame, to the end of a bin of the pyramid."""
        bins = PyramidShape(mix.frames, mix.channels).open_level(self.folder_of(mix) / "pyramid.bin", 0)
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

    def range_measures(self, mix_id: int, start_frame: int, end_frame: int) -> dict[str, float | None]:
        """Peak and loudness of a stretch from what was kept: to 256 frames and to a hundredth of a second."""
        mix = self.mix(mix_id)
        bins = PyramidShape(mix.frames, mix.channels).open_level(self.folder_of(mix) / "pyramid.bin", 0)
        first, last = start_frame // BASE_FRAMES, max(start_frame // BASE_FRAMES + 1, -(-end_frame // BASE_FRAMES))
        peak = float(np.abs(bins[first:last, :, :2]).max(initial=0.0))
        loudness, end_s = self.loudness(mix), end_frame / mix.rate_hz
        return {
            "sample_peak_dbfs": finite(db_from_linear(peak)),
            **loudness_of(loudness.within(start_frame / mix.rate_hz, end_s)),
            "end_level_dbfs": finite(loudness.level_dbfs(end_s - EDGE_WINDOW_S, end_s)),
        }

    def loudness_curve(self, mix_id: int, points: int) -> bytes:
        """Momentary loudness of the whole mix at even places: little-endian 32-bit floats, NaN where it is silent."""
        return self.loudness(self.mix(mix_id)).curve(points).astype("<f4").tobytes()

    def tile(self, mix_id: int, frames_per_bin: int, index: int) -> bytes:
        """1024 bins of the waveform as 32-bit floats (minimum, maximum, mean square), channel by channel.

        Raises: BadInput ``tile.unknown`` for a zoom that is not a power of four or a place past the end.
        """
        mix = self.mix(mix_id)
        start = index * TILE_BINS * frames_per_bin
        if index < 0 or start >= mix.frames:
            message = f"There is no tile {index} at {frames_per_bin} frames a bin."
            raise BadInput("tile.unknown", message, index=index)
        if frames_per_bin in FINE_BINS:
            task = self._looking.submit(tasks.read_tile, mix.path, start, TILE_BINS * frames_per_bin, frames_per_bin)
            return task.result()
        shape = PyramidShape(mix.frames, mix.channels)
        for level in range(len(shape.levels())):
            if BASE_FRAMES * STEP**level == frames_per_bin:
                bins = shape.open_level(self.folder_of(mix) / "pyramid.bin", level)
                return bins[index * TILE_BINS : (index + 1) * TILE_BINS].tobytes()
        message = f"{frames_per_bin} frames a bin is not a zoom step of this mix."
        raise BadInput("tile.unknown", message, frames_per_bin=frames_per_bin)

    def _begin(self, path: Path, name: str, owned: bool) -> Arrival:
        arrival = Arrival(secrets.token_hex(8), name, "reading", JobFolder.make(self._folder.passing))
        with self._lock:
            self._arrivals[arrival.id] = arrival
        pyramid = arrival.job.path / "pyramid.bin"
        future = self._heavy.submit(tasks.read_in, str(path), str(pyramid), str(arrival.job.path))

        def finish(done: Future[tasks.ReadIn]) -> None:
            try:
                found = done.result()
                arrival.mix_id = self._keep(path, Path(name).stem, owned, found, pyramid)
                arrival.state = "done"
            except RipePressError as error:
                arrival.state, arrival.error = "refused", error.message.replace(path.name, name)
            except BaseException:
                arrival.state = "refused"
                arrival.error = f"{name!r} could not be read: the application was stopping. Add it again."
                raise
            finally:
                if owned:
                    shutil.rmtree(path.parent, ignore_errors=True)
                arrival.job.clear()

        future.add_done_callback(finish)
        return arrival

    def _keep(self, path: Path, title: str, owned: bool, found: tasks.ReadIn, pyramid: Path) -> int:
        result, sha256 = found.survey, found.sha256
        there = self._mixes.by_hash(sha256)
        if there and there.path == str(path):
            return there.id
        if there and Path(there.path).exists():
            message = f"{path.name!r} is already on the shelf as {there.title!r}: it holds the same bytes."
            raise Conflict("shelf.already-there", message, mix=there.id)
        if there:
            self.remove(there.id)
        mix = _new_mix(path, title, owned, result, sha256)
        folder = self.folder_of(mix)
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir(parents=True)
        try:
            pyramid.replace(folder / "pyramid.bin")
            (folder / "clipping.json").write_text(json.dumps(_clipping_row(result.clipping)))
            energies = result.loudness
            np.savez(
                folder / "loudness.npz",
                stretch_s=energies.stretch_s, weighted=energies.weighted, plain=energies.plain,
            )  # fmt: skip
            kept = Path(found.decoded) if found.decoded else path if owned else None
            if kept:
                kept.replace(folder / kept.name)
                mix = _new_mix(folder / kept.name, title, True, result, sha256)
            return self._mixes.add(mix)
        except OSError as error:
            shutil.rmtree(folder, ignore_errors=True)
            message = f"{path.name!r} could not be kept: {error.strerror}. Free some space and add it again."
            raise Interrupted("shelf.not-kept", message) from error


def _clipping_row(clipping: ClippingResult) -> dict[str, Any]:
    row = asdict(clipping)
    row["runs"] = [[run.start_frame, run.frames, run.channel, run.overs] for run in clipping.runs]
    return row


def _new_mix(path: Path, title: str, owned: bool, result: Survey, sha256: str) -> NewMix:
    facts = result.facts
    return NewMix(
        title=title, path=str(path), owned=owned, sha256=sha256, container=facts.container, codec=facts.codec,
        rate_hz=facts.rate_hz, channels=facts.channels, frames=facts.frames, bit_depth=facts.bit_depth,
        measures={**measures_of(result), "spectrum": spectrum_of(result)}, edges={}, start_frame=0,
        end_frame=facts.frames,
    )  # fmt: skip
