"""The shelf: adding mixes, storing their measurements, and removing them."""

import asyncio
import os
import secrets
import shutil
import threading
from collections.abc import AsyncIterator, Callable, Iterator
from concurrent.futures import Future
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path

from ripe_press.core.disk import not_written
from ripe_press.core.errors import BadInput, Conflict, Interrupted, NotFound, RipePressError
from ripe_press.core.formats.capabilities import READ_SUFFIXES
from ripe_press.core.requests.bench import Bench, checked
from ripe_press.core.requests.document import bench_of, bench_row
from ripe_press.core.requests.sets import FIRST_SET, opened
from ripe_press.core.sources.source import facts_of_file
from ripe_press.core.survey import Survey
from ripe_press.core.tags.cover import Cover
from ripe_press.core.whole_files import move_whole, write_whole
from ripe_press.core.words import JobStateName, quoted
from ripe_press.store.mixes import Mixes, NewMix, ShelfRow, StoredMix
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.jobs import Events, JobFolder, JobState, WorkerPool, running
from ripe_press.studio.log import logger
from ripe_press.studio.shelf import tasks
from ripe_press.studio.shelf.mix_row import cover_name, keep_folder, measures_row, stamp_of, write_measures

_LOG = logger("shelf")
_RUNNING: JobState[None] = JobState("running")


@dataclass(slots=True)
class Arrival:
    """A file on its way to the shelf; it reports to the folder ``job``. ``state`` is how it stood last."""

    id: str
    name: str
    job: JobFolder
    mix_id: int | None = None
    state: JobState[None] = _RUNNING

    def now(self) -> JobState[None]:
        """How it stands now."""
        return running(self.job) if self.state.state == "running" else self.state


class Shelf:
    """Mixes by id; ``arrivals`` are those still being read."""

    def __init__(self, folder: DataFolder, mixes: Mixes, heavy: WorkerPool, events: Events) -> None:
        self._folder = folder
        self._mixes = mixes
        self._heavy = heavy
        self._events = events
        self._arrivals: dict[str, Arrival] = {}
        self._lock = threading.Lock()
        self.arrived: Callable[[int], None] = lambda _: None
        """Called for each new mix on the shelf."""
        self.opening: Callable[[Bench, int], Bench] = lambda own, frames: opened(own, FIRST_SET, (0, frames))
        """The bench of a new mix of so many frames, with its first deliveries."""
        self.looked_at_again: Callable[[int], bool] = lambda _: False
        """Called when the file of a mix is added again; returns whether it has changed and is being read."""

    @property
    def passing(self) -> Path:
        """Where lies what does not stay."""
        return self._folder.passing

    def mixes(self) -> list[StoredMix]:
        """All mixes on the shelf."""
        return self._mixes.all()

    def rows(self) -> list[ShelfRow]:
        """What the shelf shows of all mixes."""
        return self._mixes.rows()

    def arrivals(self) -> list[Arrival]:
        """Files that are being read, or were refused and not yet dismissed."""
        with self._lock:
            return [arrival for arrival in self._arrivals.values() if arrival.state.state != "done"]

    def arrival(self, arrival_id: str) -> Arrival:
        """One arrival. Raises: NotFound ``arrival.unknown``."""
        with self._lock:
            if arrival_id not in self._arrivals:
                message = "Import not found."
                raise NotFound("arrival.unknown", message, arrival=arrival_id)
            return self._arrivals[arrival_id]

    def mix(self, mix_id: int) -> StoredMix:
        """One mix. Raises: NotFound ``mix.unknown``."""
        mix = self._mixes.get(mix_id)
        if mix is None:
            message = f"Mix {mix_id} is not on the Shelf."
            raise NotFound("mix.unknown", message, mix=mix_id)
        return mix

    async def receive(self, name: str, body: AsyncIterator[bytes]) -> Arrival:
        """Streams an upload to disk and begins to read it; nothing is left when the sender goes away."""
        path = await stream_to_file(self._folder.passing, "mix", name, body)
        return self._begin(path, printable_title(name), owned=True)

    def fetch(self, path_text: str, origin: str = "") -> Arrival:
        """Begins to read a file on the server, which stays where it is; ``origin`` says what it was made of.

        Raises: BadInput ``path.relative``; NotFound ``source.missing``.
        """
        path = path_on_server(path_text)
        if not path.is_file():
            message = f"File not found: {quoted(path_text)}. Check the path."
            raise NotFound("source.missing", message, path=path_text)
        there = self._mixes.by_path(str(path.resolve()))
        if there and self.looked_at_again(there.id):
            return Arrival(secrets.token_hex(8), path.name, JobFolder(self._folder.passing), there.id, JobState("done"))
        return self._begin(path.resolve(), path.name, owned=False, origin=origin)

    def fetch_all(self, path_text: str) -> list[Arrival]:
        """The same of a file, or of all sound of a folder and the folders in it that is not on the shelf as it is.

        Raises: BadInput ``shelf.too-many``; NotFound ``shelf.nothing-new``; as `fetch`.
        """
        folder = path_on_server(path_text)
        if not folder.is_dir():
            return [self.fetch(path_text)]
        there = {mix.came_from: mix.stamp for mix in self._mixes.watched() if Path(mix.path).exists()}
        found = _sound_in(folder.resolve())
        new = [one for one in found if str(one) not in there or there[str(one)] != stamp_of(one)]
        if not new:
            why = "all audio files are already on the Shelf" if found else "no audio files"
            message = f"Nothing added from {quoted(folder)}: {why}."
            raise NotFound("shelf.nothing-new", message, path=path_text)
        return [self._fetched(one) for one in new]

    def _fetched(self, path: Path) -> Arrival:
        """One file of a folder; its faults refuse this file alone."""
        try:
            return self.fetch(str(path))
        except (RipePressError, OSError) as error:
            why = error.message if isinstance(error, RipePressError) else not_written(path, error)
            arrival = Arrival(secrets.token_hex(8), printable(path.name), JobFolder(self._folder.passing))
            arrival.state = JobState("failed", sentence=why)
            with self._lock:
                self._arrivals[arrival.id] = arrival
            self._events.publish("shelf")
            return arrival

    def fetch_once(self, path: Path) -> None:
        """Brings a file in unless it is on the shelf already."""
        if self._mixes.by_path(str(path.resolve())) is None:
            self.fetch(str(path.resolve()))

    def dismiss(self, arrival_id: str) -> None:
        """Cancels an arrival that is being read, or forgets one that was refused."""
        arrival = self.arrival(arrival_id)
        arrival.job.cancel()
        with self._lock:
            self._arrivals.pop(arrival_id, None)
        self._events.publish("shelf")

    def set_bench(self, mix_id: int, bench: Bench) -> StoredMix:
        """Keeps ranges, markers and tempo map of a mix. Raises: BadInput as `bench.checked`."""
        mix = self.mix(mix_id)
        self._mixes.set_bench(mix_id, bench_row(checked(bench, mix.frames, mix.rate_hz)))
        self._events.publish("shelf")
        return self.mix(mix_id)

    def set_downmix(self, mix_id: int, wish: str) -> Arrival:
        """Makes the mix of other channels of its file and measures it again; the arrival says how far that is.

        Raises: BadInput as `downmix.settle`.
        """
        mix = self.mix(mix_id)
        facts = facts_of_file(Path(mix.path), wish)
        arrival = Arrival(secrets.token_hex(8), mix.title, JobFolder.make(self._folder.passing), mix_id)
        with self._lock:
            self._arrivals[arrival.id] = arrival
        pyramid = arrival.job.path / "pyramid.bin"
        self._events.publish("shelf")
        future = self._heavy.submit(tasks.read_again, mix.path, facts.downmix, str(pyramid), str(arrival.job.path))

        def keep(done: Future[Survey]) -> None:
            with self._ending(arrival, mix.title, mix.title):
                result = done.result()
                write_measures(self.folder_of(mix), result, pyramid)
                kept = measures_row(result, mix.measures.get("content_sum", ""))
                self._mixes.set_downmix(mix_id, facts.downmix, facts.channels, kept)

        future.add_done_callback(keep)
        return arrival

    def keep_cover(self, mix_id: int, data: bytes, name: str) -> tuple[str, Cover]:
        """Makes a picture ready and keeps it with the mix; gives its file name, for the bench.

        Raises: Unreadable ``cover.not-picture``.
        """
        mix = self.mix(mix_id)
        cover = self._heavy.submit(tasks.prepare_cover, data, name).result()
        write_whole(self.folder_of(mix) / cover_name(cover), cover.data)
        return cover_name(cover), cover

    def remove(self, mix_id: int) -> None:
        """Takes a mix off the shelf: an uploaded file goes with it, a file given by path stays where it is."""
        versions = [self.mix(mix_id), *self._mixes.others(mix_id)]
        self._mixes.remove(mix_id)
        for one in versions:
            shutil.rmtree(self.folder_of(one), ignore_errors=True)
        self._events.publish("shelf")

    def folder_of(self, mix: NewMix) -> Path:
        """Where what belongs to a mix is kept."""
        return self._folder.mix(mix.sha256)

    def _begin(self, path: Path, name: str, owned: bool, origin: str = "") -> Arrival:
        arrival = Arrival(secrets.token_hex(8), name, JobFolder.make(self._folder.passing))
        with self._lock:
            self._arrivals[arrival.id] = arrival
        pyramid = arrival.job.path / "pyramid.bin"
        stamp = stamp_of(path)
        self._events.publish("shelf")
        future = self._heavy.submit(tasks.read_in, str(path), str(pyramid), str(arrival.job.path))

        def finish(done: Future[tasks.ReadIn]) -> None:
            with self._ending(arrival, path.name, name):
                try:
                    arrival.mix_id = self._keep(path, Path(name).stem, owned, done.result(), pyramid, stamp)
                    if origin:
                        self._mixes.set_origin(arrival.mix_id, origin)
                    self.arrived(arrival.mix_id)
                finally:
                    if owned:
                        shutil.rmtree(path.parent, ignore_errors=True)

        future.add_done_callback(finish)
        return arrival

    @contextmanager
    def _ending(self, arrival: Arrival, file_name: str, name: str) -> Iterator[None]:
        """Whatever happens inside, the arrival ends as done or as failed with a sentence."""
        try:
            yield
            arrival.state = JobState("done")
        except RipePressError as error:
            ended: JobStateName = "interrupted" if isinstance(error, Interrupted) else "failed"
            arrival.state = JobState(ended, sentence=error.message.replace(file_name, name))
        except OSError as error:
            arrival.state = JobState("failed", sentence=not_written(self._folder.mixes / name, error))
        except BaseException:
            why = f"{quoted(name)} was not read: Ripe Press was shutting down. Add it again."
            arrival.state = JobState("interrupted", sentence=why)
            raise
        finally:
            arrival.job.clear()
            state = arrival.state
            _LOG.info("file arrived", state=state.state, file=name, mix=arrival.mix_id, why=state.sentence)
            self._events.publish("shelf")

    def _keep(self, path: Path, title: str, owned: bool, found: tasks.ReadIn, pyramid: Path, stamp: str) -> int:
        earlier = self._mixes.other_by_hash(found.sha256)
        if earlier:
            message = (
                f"{quoted(path.name)} is already on the Shelf as version {earlier.version} of {quoted(earlier.title)}."
            )
            raise Conflict("shelf.already-there", message, mix=earlier.id)
        there = self._mixes.by_hash(found.sha256)
        came_from = "" if owned else str(path)
        heard = there is not None and Path(there.path).exists()
        if there and heard and there.came_from == came_from != "":
            return there.id
        if there and heard and Path(there.came_from or there.path).exists():
            message = f"{quoted(path.name)} is already on the Shelf as {quoted(there.title)}."
            raise Conflict("shelf.already-there", message, mix=there.id)
        if there:
            # The file was moved, or our copy is missing: it is the same mix, and keeps its bench.
            kept = Path(found.decoded) if found.decoded else path if owned else None
            if kept:
                path = self.folder_of(there) / kept.name
                move_whole(kept, path)
            self._mixes.set_path(there.id, str(path), kept is not None, came_from, stamp)
            return there.id
        mix = keep_folder(self.folder_of, path, title, owned, found, pyramid)
        bench = bench_row(self.opening(bench_of(mix.bench), mix.frames))
        return self._mixes.add(replace(mix, stamp=stamp, bench=bench))


_SYSTEM = (Path("/proc"), Path("/sys"), Path("/dev"))
MOST_TITLE = 200
MOST_AT_ONCE = 2_000
MOST_LOOKED_AT = 20_000


def _sound_in(folder: Path) -> list[Path]:
    """All files with audio extensions in a folder and its sub-folders; hidden ones are omitted."""
    found: list[Path] = []
    looked_at = 0
    for place, folders, names in os.walk(folder):
        folders[:] = sorted(one for one in folders if not one.startswith("."))
        looked_at += len(names) + len(folders)
        paths = (Path(place) / one for one in sorted(names) if not one.startswith("."))
        found += [one for one in paths if one.suffix.lower() in READ_SUFFIXES and one.is_file()]
        if looked_at > MOST_LOOKED_AT or len(found) > MOST_AT_ONCE:
            message = (
                f"{quoted(folder)} exceeds the limit ({MOST_AT_ONCE:,} audio files, "
                f"{MOST_LOOKED_AT:,} files in total). Choose a folder inside it."
            )
            raise BadInput("shelf.too-many", message, path=str(folder))
    return found


async def stream_to_file(passing: Path, what: str, name: str, body: AsyncIterator[bytes]) -> Path:
    """A file that is sent, in a folder of its own; nothing is left when the sender goes away.

    Named by us, for it will lie beside files of ours: what its sender calls it is kept as its title.
    """
    folder = passing / f"{what}-{secrets.token_hex(8)}"
    folder.mkdir(parents=True)
    path = folder / f"{what}{_ending_of(name)}"
    try:
        with path.open("wb") as file:
            async for chunk in body:
                file.write(chunk)
    except BaseException:
        # On another thread: deleting a folder may wait for the disk, and other requests must not.
        asyncio.get_running_loop().run_in_executor(None, shutil.rmtree, folder, True)
        raise
    return path


def printable(name: str) -> str:
    """A name as it can be shown and kept, whatever bytes it has on the disk."""
    return name.encode("utf-8", "surrogateescape").decode("utf-8", "replace")


def path_on_server(path_text: str) -> Path:
    """A typed path, existing or not.

    Raises: BadInput ``path.unusable``, ``path.system``, ``path.relative``.
    """
    try:
        path = Path(path_text.strip()).expanduser()
        os.fsencode(path)
        real = path.resolve()
        path.is_file()
        if str(path) != printable(str(path)):
            message = f"The name of {quoted(printable(path.name))} is not UTF-8. Rename the file."
            raise BadInput("path.not-utf8", message)
    except (OSError, ValueError, RuntimeError) as error:
        message = "Not a valid path. Check the spelling."
        raise BadInput("path.unusable", message) from error
    if any(real.is_relative_to(one) for one in _SYSTEM):
        message = f"{quoted(path_text)} is not an audio file."
        raise BadInput("path.system", message, path=path_text)
    if not path.is_absolute():
        message = f"{quoted(path_text)} is not a full path. Start it with a slash."
        raise BadInput("path.relative", message, path=path_text)
    return path


def _ending_of(name: str) -> str:
    """The extension of an uploaded name if it is a plain one: the format is read from the file's bytes."""
    ending = Path(name.replace("\0", "")).suffix.lower()
    return ending if ending[1:].isascii() and ending[1:].isalnum() and len(ending) <= MOST_ENDING else ""


MOST_ENDING = 8


def printable_title(name: str) -> str:
    """A sender's name as a title: printable, and no longer than a title is."""
    plain = "".join(one for one in Path(name.replace("\0", "")).name if one.isprintable())
    return (plain if len(plain) <= MOST_TITLE else plain[:MOST_TITLE]) or "Mix"
