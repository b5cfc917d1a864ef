"""Stems of each mix: adding them, checking them against the mix, and aligning them."""

import fnmatch
import hashlib
import secrets
import shutil
import threading
from collections.abc import AsyncIterator
from concurrent.futures import CancelledError, Future
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any

from ripe_press.core.disk import not_written
from ripe_press.core.errors import BadInput, Cancelled, NotFound, RipePressError
from ripe_press.core.formats.capabilities import READ_SUFFIXES
from ripe_press.core.requests.document import bench_of, stem_from
from ripe_press.core.requests.part import MOST_STEM_NAME, MOST_STEMS, Part, StemNote, check_stems
from ripe_press.core.words import quoted
from ripe_press.store.mixes import StoredMix
from ripe_press.store.stems import Stems, StoredStem
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.jobs import Events, JobFolder, JobState, WorkerPool, running
from ripe_press.studio.log import logger
from ripe_press.studio.planning import facts_of, measured
from ripe_press.studio.shelf import Shelf, path_on_server, printable_title, stream_to_file
from ripe_press.studio.stems import tasks as stem_tasks
from ripe_press.studio.stems.files import stem_name

_LOG = logger("stems")


@dataclass(frozen=True, slots=True)
class Beside:
    """Something beside a mix: its number, what it is, and where it came from in a few words."""

    id: int
    note: StemNote
    origin: dict[str, Any]
    owned: bool


@dataclass(frozen=True, slots=True)
class StemsView:
    """All of a mix; ``reading`` are files on their way, ``refused`` sentences about those that could not come in.

    ``check`` is what the last check found, ``stale`` where it was of other stems, ``checking`` a running one.
    """

    stems: tuple[Beside, ...]
    reading: tuple[str, ...]
    refused: tuple[str, ...]
    check: dict[str, Any] | None
    stale: bool
    checking: JobState[None] | None


class _Coming:
    """Running work on the stems of one mix."""

    def __init__(self) -> None:
        self.reading: list[str] = []
        self.refused: list[str] = []
        self.job: JobFolder | None = None


class StemBook:
    """Stems by the numbers of their mixes."""

    def __init__(self, folder: DataFolder, table: Stems, shelf: Shelf, heavy: WorkerPool, events: Events) -> None:
        self._folder = folder
        self._table = table
        self._shelf = shelf
        self._heavy = heavy
        self._events = events
        self._lock = threading.Lock()
        self._coming: dict[int, _Coming] = {}

    @property
    def busy(self) -> bool:
        """Return whether stems are being added or checked."""
        with self._lock:
            return any(one.reading or one.job for one in self._coming.values())

    def notes(self, mix_id: int) -> tuple[StemNote, ...]:
        """The stems of a mix as wishes name them."""
        return tuple(stem_from(one.note) for one in self._table.of(mix_id))

    def part_of(self, mix_id: int, numbers: str) -> Part:
        """The part of a mix that numbers of stems, parted by commas, mean. Raises: NotFound ``stem.unknown``."""
        try:
            ids = [int(one) for one in numbers.split(",")]
        except ValueError as error:
            message = f"{quoted(numbers)} are not stem numbers separated by commas."
            raise BadInput("stem.numbers", message) from error
        return Part(tuple(self._stem(mix_id, one).note["name"] for one in ids))

    def view(self, mix_id: int) -> StemsView:
        """Everything of a mix. Raises: NotFound ``mix.unknown``."""
        mix = self._shelf.mix(mix_id)
        stems = tuple(Beside(one.id, stem_from(one.note), one.origin, one.owned) for one in self._table.of(mix_id))
        about, report = self._table.check(mix_id) or ("", None)
        with self._lock:
            coming = self._coming.get(mix_id) or _Coming()
            return StemsView(
                stems, tuple(coming.reading), tuple(coming.refused), report if stems else None,
                about != _about(mix, [one.note for one in stems if not one.note.apart]),
                running(coming.job) if coming.job else None,
            )  # fmt: skip

    async def receive(self, mix_id: int, name: str, body: AsyncIterator[bytes]) -> None:
        """Streams a file that was sent to disk and reads it. Raises: NotFound ``mix.unknown``."""
        mix = self._shelf.mix(mix_id)
        path = await stream_to_file(self._folder.passing, "stem", name, body)
        self._begin(mix, path, printable_title(name), {"kind": "file", "name": printable_title(name)}, owned=True)

    def fetch(self, mix_id: int, path_text: str) -> int:
        """Brings in a file, or all sound of a folder, or what a pattern like ``/stems/Millrace *.wav`` names; the files
        stay where they are. Gives how many there are.

        Raises: NotFound ``stems.no-folder`` or ``stems.none-there``; BadInput ``path.relative``.
        """
        mix = self._shelf.mix(mix_id)
        paths = self._named(mix, path_text.strip())
        for path in paths:
            self._begin(mix, path, path.name, {"kind": "file", "name": path.name}, owned=False)
        return len(paths)

    def add(self, mix_id: int, path: Path, name: str, origin: dict[str, Any], *, owned: bool) -> None:
        """Puts a file beside a mix that Ripe Press made itself: a pressed file, or a capture."""
        self._begin(self._shelf.mix(mix_id), path, name, origin, owned=owned)

    def change(self, mix_id: int, stem_id: int, **changes: Any) -> None:
        """Change the name, place or mono setting of a stem; deliveries follow a new name.

        Raises: NotFound ``stem.unknown``; BadInput ``stem.twice`` or ``stem.name``.
        """
        mix, stored = self._shelf.mix(mix_id), self._stem(mix_id, stem_id)
        old = stem_from(stored.note)
        made = {name: value for name, value in changes.items() if value is not None}
        if "name" in made:
            made["name"] = plain_name(made["name"])
        note = stem_from(asdict(replace(old, **made)))
        check_stems([note, *(stem_from(one.note) for one in self._table.of(mix_id) if one.id != stem_id)])
        self._table.set(stem_id, asdict(note))
        if note.name != old.name:
            bench = bench_of(mix.bench)
            ticket = tuple(replace(line, part=line.part.renamed(old.name, note.name)) for line in bench.ticket)
            self._shelf.set_bench(mix_id, replace(bench, ticket=ticket))
        self._events.publish("stems")

    def remove(self, mix_id: int, stem_id: int) -> None:
        """Takes a stem away; a file of ours goes with it. Raises: NotFound ``stem.unknown``."""
        stored = self._stem(mix_id, stem_id)
        self._table.remove(stem_id)
        if stored.owned:
            path = Path(stored.note["facts"]["path"])
            for one in (path, path.with_suffix(".json")):
                one.unlink(missing_ok=True)
        self._events.publish("stems")

    def forget_refused(self, mix_id: int) -> None:
        """Delete the messages about rejected files."""
        with self._lock:
            if mix_id in self._coming:
                self._coming[mix_id].refused.clear()
        self._events.publish("stems")

    def check(self, mix_id: int) -> None:
        """Start the check of a mix's stems, unless it is running. Raises: BadInput ``stem.none``."""
        mix, notes = self._shelf.mix(mix_id), tuple(one for one in self.notes(mix_id) if not one.apart)
        if not notes:
            message = "No stems yet. Add the stems of this mix first."
            raise BadInput("stem.none", message)
        with self._lock:
            coming = self._coming.setdefault(mix_id, _Coming())
            if coming.job:
                return
            job = coming.job = JobFolder.make(self._folder.passing)
        facts = facts_of(mix)
        source = measured(facts).source
        future = self._heavy.submit(stem_tasks.hold_stems, source, facts, notes, str(job.path))
        future.add_done_callback(lambda done: self._checked(mix, notes, coming, done))
        self._events.publish("stems")

    def cancel_check(self, mix_id: int) -> None:
        """Cancel the running check."""
        with self._lock:
            job = self._coming[mix_id].job if mix_id in self._coming else None
        if job:
            job.cancel()

    def align(self, mix_id: int) -> int:
        """Moves every stem by what the last check found; gives how many were moved.

        Raises: BadInput ``stem.not-checked`` if they changed after the check.
        """
        view = self.view(mix_id)
        if view.check is None or view.stale:
            message = "Stems not checked yet. Check them first."
            raise BadInput("stem.not-checked", message)
        late = {one["name"]: one["late_frames"] for one in view.check["stems"] if one["in_mix"]}
        moved = [one for one in view.stems if late.get(one.note.name)]
        for one in moved:
            found = replace(one.note, late_frames=one.note.late_frames + late[one.note.name])
            self._table.set(one.id, asdict(found))
        if moved:
            self.check(mix_id)
        return len(moved)

    def _named(self, mix: StoredMix, text: str) -> list[Path]:
        path = path_on_server(text)
        if path.is_file():
            return [path]
        pattern = "*"
        if any(one in path.name for one in "*?["):
            path, pattern = path.parent, path.name
        if not path.is_dir():
            message = f"File or folder not found: {quoted(text)}. Check the path."
            raise NotFound("stems.no-folder", message, path=text)
        found = [
            one for one in sorted(path.iterdir())
            if one.suffix.lower() in READ_SUFFIXES and fnmatch.fnmatch(one.name, pattern) and one.is_file()
            and one.resolve() != Path(mix.path).resolve()
        ]  # fmt: skip
        if not found:
            message = f"No audio files in {quoted(path)} match {quoted(pattern)}. Choose another folder or pattern."
            raise NotFound("stems.none-there", message, path=text)
        return found

    def _stem(self, mix_id: int, stem_id: int) -> StoredStem:
        stored = self._table.get(stem_id)
        if stored is None or stored.mix_id != mix_id:
            message = "Stem not found for this mix."
            raise NotFound("stem.unknown", message, stem=stem_id)
        return stored

    def _begin(self, mix: StoredMix, path: Path, name: str, origin: dict[str, Any], *, owned: bool) -> None:
        with self._lock:
            coming = self._coming.setdefault(mix.id, _Coming())
            coming.reading.append(name)
        self._events.publish("stems")

        def finish(done: Future[dict[str, Any]]) -> None:
            try:
                self._keep(mix, path, name, origin, done.result(), owned=owned)
            except RipePressError as error:
                coming.refused.append(error.message.replace(path.name, name))
            except OSError as error:
                coming.refused.append(not_written(self._folder.mixes / name, error))
            except CancelledError:
                coming.refused.append(f"{quoted(name)} was not read: Ripe Press was shutting down. Add it again.")
            finally:
                with self._lock:
                    coming.reading.remove(name)
                    last = not coming.reading
                _LOG.info("stem arrived", mix=mix.id, file=name)
                if owned and path.parent.parent == self._folder.passing:
                    shutil.rmtree(path.parent, ignore_errors=True)
                self._events.publish("stems")
                if last and any(not one.apart for one in self.notes(mix.id)):
                    self.check(mix.id)

        self._heavy.submit(stem_tasks.read_stem, str(path)).add_done_callback(finish)

    def _keep(
        self, mix: StoredMix, path: Path, name: str, origin: dict[str, Any], row: dict[str, Any], *, owned: bool
    ) -> None:
        note = stem_from(row)
        if note.facts.content_sum == mix.measures.get("content_sum"):
            message = f"{quoted(name)} is the mix itself, not a stem."
            raise BadInput("stem.is-mix", message)
        with self._lock:
            there = [stem_from(one.note) for one in self._table.of(mix.id)]
            if len(there) >= MOST_STEMS:
                message = f"{MOST_STEMS} stems is the maximum; {quoted(name)} was not added."
                raise BadInput("stem.too-many", message)
            if any(one.facts.content_sum == note.facts.content_sum for one in there):
                message = f"{quoted(name)} is already a stem of this mix (same audio)."
                raise BadInput("stem.already-there", message)
            called = stem_name(Path(name), Path(mix.path).with_name(f"{mix.title}.wav"))
            note = replace(note, name=free_name(plain_name(called), there), apart=origin["kind"] != "file")
            if owned and path.parent.parent == self._folder.passing:
                kept = self._shelf.folder_of(mix) / "stems" / f"{secrets.token_hex(6)}{path.suffix}"
                kept.parent.mkdir(parents=True, exist_ok=True)
                path.replace(kept)
                note = replace(note, facts=replace(note.facts, path=str(kept)))
            self._table.add(mix.id, asdict(note), owned, origin)

    def _checked(
        self, mix: StoredMix, notes: tuple[StemNote, ...], coming: _Coming, done: Future[dict[str, Any]]
    ) -> None:
        try:
            self._table.set_check(mix.id, _about(mix, notes), done.result())
        except (Cancelled, CancelledError):
            pass
        except RipePressError as error:
            with self._lock:
                coming.refused.append(error.message)
        finally:
            with self._lock:
                job, coming.job = coming.job, None
            if job:
                job.clear()
            self._events.publish("stems")


def _about(mix: StoredMix, notes: "tuple[StemNote, ...] | list[StemNote]") -> str:
    """A text that is the same as long as a check says the same."""
    rows = [(one.name, one.facts.content_sum, one.late_frames) for one in notes]
    return hashlib.blake2b(repr((mix.sha256, mix.downmix, rows)).encode(), digest_size=12).hexdigest()


def plain_name(name: str) -> str:
    """A name as it is kept. Raises: BadInput ``stem.name`` for none at all."""
    found = " ".join("".join(one for one in name if one.isprintable()).split())[:MOST_STEM_NAME]
    if not found:
        message = "Give the stem a name."
        raise BadInput("stem.name", message)
    return found


def free_name(name: str, there: list[StemNote]) -> str:
    """The name, with a number where another stem has it."""
    taken = {one.name.casefold() for one in there}
    if name.casefold() not in taken:
        return name
    return next(free for at in range(2, MOST_STEMS + 2) if (free := f"{name} {at}").casefold() not in taken)
