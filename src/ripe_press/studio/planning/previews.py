"""Playback of a range: cut and converted by the server, sent during its rendering."""

import secrets
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from dataclasses import dataclass, replace
from pathlib import Path

from ripe_press.core.engine.resolve import Mix, PlannedFile, files_of, resolve
from ripe_press.core.errors import BadInput, Interrupted
from ripe_press.core.formats.capabilities import PLAIN
from ripe_press.core.formats.writing.wav import wav_bytes
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.stations import Path as StationPath
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.jobs import JobFolder, WorkerPool
from ripe_press.studio.planning import tasks
from ripe_press.studio.planning.knowledge import Knowledge

HIGHEST_RATE_HZ = 48_000
_CHUNK_BYTES = 1 << 18
_PATIENCE_S = 0.01
_SAMPLE_BYTES = 3
_MOST = 0xFFFFFFFF


def listening_path(
    source: AudioSource, stretch: Stretch, from_frame: int | None = None, to_frame: int | None = None
) -> StationPath:
    """A path for the ear: 24-bit WAV at the mix's rate, or at 44.1 or 48 kHz when that is higher.

    Only the part between two frames of the mix when they are given, with the same edges as the whole.
    """
    facts = source.facts
    rate_hz = listening_rate_hz(facts.rate_hz)
    start = stretch.start_frame
    wish = Delivery(
        brief="listening", stretch=stretch, encoding="s24", rate_hz=rate_hz, quality="high", label_pattern="listen"
    )
    mix = Mix(source, "listen")
    if from_frame is None and to_frame is None:
        return resolve(wish, mix)[0].path
    cut = stretch.cut(facts)
    first = max(0, (from_frame if from_frame is not None else start) - start)
    last = min(cut.sounding_frames, (to_frame if to_frame is not None else cut.read_end) - start)
    if last <= first:
        message = "No audio of the range between these positions."
        raise BadInput("range.empty", message, from_frame=from_frame, to_frame=to_frame)
    return files_of(wish, mix, replace(cut, window=(first, last)))[0].path


def delivery_path(
    file: PlannedFile, known: Knowledge, from_frame: int | None = None, to_frame: int | None = None
) -> StationPath:
    """A file of a ticket for the ear: through all its stations up to its level, whose gain is foreseen, as 24-bit WAV.

    Raises: BadInput ``range.empty``.
    """
    made, facts = file.path, known.facts
    start = made.cut.start_frame
    first = max(0, (from_frame if from_frame is not None else start) - start)
    last = min(made.cut.sounding_frames, (to_frame if to_frame is not None else made.cut.read_end) - start)
    if last <= first:
        message = "No audio of this file between these positions. Choose a place inside its range."
        raise BadInput("range.empty", message, from_frame=from_frame, to_frame=to_frame)
    rate_hz = listening_rate_hz(facts.rate_hz)
    cut = replace(made.cut, window=(first, last), silence_before=0, silence_after=0)
    wish = replace(
        file.wish, container=PLAIN, encoding="s24", rate_hz=rate_hz, mode=None, kbps=None, coding_quality=None,
        dither="auto", label_pattern="listen", channels="stereo" if file.half else file.wish.channels,
    )  # fmt: skip
    mix = Mix(made.source.of, "listen")
    mix = replace(mix, finish=made.finish) if made.finish else mix
    heard = files_of(wish, mix, cut)[0].path
    whole = known.edged(made.cut) if made.cut.loops else known.signal(made.cut.start_frame, made.cut.read_end)
    return heard.settled_about(whole)


def listening_rate_hz(rate_hz: int) -> int:
    """The rate that is heard: the mix's own up to 48 kHz, else that of its family."""
    family = 44_100 if rate_hz % 44_100 == 0 else HIGHEST_RATE_HZ
    return rate_hz if rate_hz <= HIGHEST_RATE_HZ else family


class Previews:
    """Cuts for the ear, each gone once it has been sent."""

    def __init__(self, folder: DataFolder, workers: WorkerPool) -> None:
        self._folder = folder
        self._workers = workers

    def play(
        self, source: AudioSource, stretch: Stretch, from_frame: int | None = None, to_frame: int | None = None
    ) -> tuple[int, Iterator[bytes]]:
        """The exact number of bytes to come, and the bytes.

        Raises: BadInput ``range.empty``, ``range.outside``; while sending, Interrupted when the worker failed.
        """
        return self.play_path(listening_path(source, stretch, from_frame, to_frame))

    def loop(
        self,
        source: AudioSource,
        stretch: Stretch,
        times: int,
        from_frame: int | None = None,
        to_frame: int | None = None,
    ) -> tuple[int, Iterator[bytes]]:
        """The same so many times without a seam.

        Raises: as `play`.
        """
        return self.play_path(listening_path(source, stretch, from_frame, to_frame), times)

    def play_path(self, path: StationPath, times: int = 1) -> tuple[int, Iterator[bytes]]:
        """A path that ends in plain WAV, so many times without a seam. Raises: as `play`."""
        codec = path.codec
        if times == 1:
            size = wav_bytes(codec.encoding, codec.channels, codec.frames)
            return size, self._follow(path, lambda target, future: _tail(target, size, future))
        data = codec.frames * codec.channels * _SAMPLE_BYTES
        size = wav_bytes(codec.encoding, codec.channels, codec.frames)
        # A chunk of odd length is padded with a byte that is not audio.
        head = size - data - data % 2
        again = _Again(head, data, times)
        return head + data * times, self._follow(path, lambda target, future: again.read(target, size, future))

    def _follow(self, path: StationPath, read: Callable[[Path, Future[None]], Iterator[bytes]]) -> Iterator[bytes]:
        job = JobFolder.make(self._folder.passing)
        target = job.path / f"{secrets.token_hex(4)}.wav"
        future = self._workers.submit(tasks.cut_to_listen, path, str(target), str(job.path))
        try:
            yield from read(target, future)
        finally:
            job.cancel()
            future.add_done_callback(lambda _done: job.clear())


@dataclass(frozen=True, slots=True)
class _Again:
    """A file of ``head`` and ``data`` bytes whose sound is sent so many ``times``."""

    head: int
    data: int
    times: int

    def read(self, target: Path, size: int, future: Future[None]) -> Iterator[bytes]:
        """The bytes of a growing file under a header that names all of them, and then those of its sound again."""
        sent = 0
        for chunk in _tail(target, size, future):
            yield (chunk if sent else self._named(chunk))[: self.head + self.data - sent]
            sent += len(chunk)
        for _ in range(1, self.times):
            with target.open("rb") as file:
                file.seek(self.head)
                left = self.data
                while chunk := file.read(min(_CHUNK_BYTES, left)):
                    left -= len(chunk)
                    yield chunk

    def _named(self, first: bytes) -> bytes:
        data = self.data * self.times
        riff, body = (min(one, _MOST).to_bytes(4, "little") for one in (self.head - 8 + data, data))
        return first[:4] + riff + first[8 : self.head - 4] + body + first[self.head :]


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
                message = f"Playback data ended after {sent:,} of {size:,} bytes."
                raise Interrupted("listen.short", message)
            else:
                time.sleep(_PATIENCE_S)
