"""Hearing a range: the server cuts and converts it, and sends it while it is still being made."""

import secrets
import time
from collections.abc import Iterator
from concurrent.futures import Future
from dataclasses import replace
from pathlib import Path

from ripe_press.core.engine.resolve import Mix, files_of, resolve
from ripe_press.core.errors import BadInput, Interrupted
from ripe_press.core.formats.capabilities import PLAIN
from ripe_press.core.formats.wav import wav_bytes
from ripe_press.core.sources.source import Source
from ripe_press.core.stations import Path as StationPath
from ripe_press.core.wishes.delivery import Delivery
from ripe_press.core.wishes.edges import Stretch, range_of
from ripe_press.studio import tasks
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.workers import WorkerPool

HIGHEST_RATE_HZ = 48_000
_CHUNK_BYTES = 1 << 18
_PATIENCE_S = 0.01


def listening_path(
    source: Source, stretch: Stretch, from_frame: int | None = None, to_frame: int | None = None
) -> StationPath:
    """A path for the ear: 24-bit WAV at the mix's rate, or at 44.1 or 48 kHz when that is higher.

    Only the part between two frames of the mix when they are given, with the same edges as the whole.
    """
    facts = source.facts
    family = 44_100 if facts.rate_hz % 44_100 == 0 else HIGHEST_RATE_HZ
    rate_hz = facts.rate_hz if facts.rate_hz <= HIGHEST_RATE_HZ else family
    start, end = stretch.start_frame, stretch.end_frame
    wish = Delivery("listening", stretch, PLAIN, "s24", rate_hz, "high", "listen")
    mix = Mix(source, "listen")
    if from_frame is None and to_frame is None:
        return resolve(wish, mix)[0].path
    cut = range_of(facts, start, end, stretch.edges, stretch.ring_frames)
    first = max(0, (from_frame if from_frame is not None else start) - start)
    last = min(cut.sounding_frames, (to_frame if to_frame is not None else cut.read_end) - start)
    if last <= first:
        message = "There is nothing of the range between these two frames."
        raise BadInput("range.empty", message, from_frame=from_frame, to_frame=to_frame)
    return files_of(wish, mix, replace(cut, window=(first, last)))[0].path


class Cuts:
    """Cuts for the ear, each gone once it has been sent."""

    def __init__(self, folder: DataFolder, workers: WorkerPool) -> None:
        self._folder = folder
        self._workers = workers

    def play(
        self, source: Source, stretch: Stretch, from_frame: int | None = None, to_frame: int | None = None
    ) -> tuple[int, Iterator[bytes]]:
        """The exact number of bytes to come, and the bytes.

        Raises: BadInput ``range.empty``, ``range.outside``; while sending, Interrupted when the worker failed.
        """
        path = listening_path(source, stretch, from_frame, to_frame)
        codec = path.codec
        size = wav_bytes(codec.encoding, codec.channels, codec.frames)
        return size, self._follow(path, size)

    def _follow(self, path: StationPath, size: int) -> Iterator[bytes]:
        job = JobFolder.make(self._folder.passing)
        target = job.path / f"{secrets.token_hex(4)}.wav"
        future = self._workers.submit(tasks.cut_to_listen, path, str(target), str(job.path))
        try:
            yield from _tail(target, size, future)
        finally:
            job.cancel()
            future.add_done_callback(lambda _done: job.clear())


def _tail(target: Path, size: int, future: Future[None]) -> Iterator[bytes]:
    """The bytes of a growing file, until ``size`` have come."""
    while not target.exists():
        if future.done():
            future.result()
            break
        time.sleep(_PATIENCE_S)
    sent = 0
    with target.open("rb") as file:
        while sent < size:
            chunk = file.read(min(_CHUNK_BYTES, size - sent))
            if chunk:
                sent += len(chunk)
                yield chunk
            elif future.done() and target.stat().st_size <= sent:
                future.result()
                message = f"The cut ended after {sent:,} of {size:,} bytes."
                raise Interrupted("listen.short", message)
            else:
                time.sleep(_PATIENCE_S)
