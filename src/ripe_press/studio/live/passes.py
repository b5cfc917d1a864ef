"""Live passes of the application: their queue, the units' returns, and captures as stems of their mixes."""

import threading
import time
from collections.abc import Iterator
from dataclasses import asdict, dataclass, replace
from pathlib import Path

from ripe_press.core.disk import not_written
from ripe_press.core.engine.range_source import finished
from ripe_press.core.engine.stems import part_source
from ripe_press.core.errors import BadInput, Cancelled, Conflict, Interrupted, NotFound, RipePressError
from ripe_press.core.formats.capabilities import PLAIN
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.live.score import read_score
from ripe_press.core.requests.bench import bench_offsets, finish_of
from ripe_press.core.requests.document import Document, bench_of, stem_from
from ripe_press.core.requests.part import StemNote
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.whole_files import write_whole
from ripe_press.core.words import quoted
from ripe_press.store.mixes import StoredMix
from ripe_press.store.passes import Passes, StoredPass
from ripe_press.store.stems import Stems, StoredStem
from ripe_press.studio.jobs import Events, JobFolder, JobProgress, WorkerPool
from ripe_press.studio.live.captures import (
    LiveRequest,
    capture_now,
    following,
    layout_of,
    live_seconds,
    wish_of,
)
from ripe_press.studio.live.live_pass import PassLevels
from ripe_press.studio.live.rack import Rack
from ripe_press.studio.live.results import CUT_OFF, PassResults
from ripe_press.studio.log import logger
from ripe_press.studio.planning import facts_of, measured
from ripe_press.studio.shelf import Shelf
from ripe_press.studio.stems import free_name, plain_name

_LOG = logger("passes")
_AGAIN_S = 2.0
_LOOK_S = 0.1


@dataclass(frozen=True, slots=True)
class PassShown:
    """A pass with how far it is, and the levels of its last moment, while it runs."""

    stored: StoredPass
    levels: PassLevels | None
    rate_hz: int


class PassRoom:
    """Runs passes one after the other; what wants another unit goes beside."""

    def __init__(
        self, table: Passes, stems: Stems, shelf: Shelf, rack: Rack, heavy: WorkerPool, events: Events
    ) -> None:
        self._table = table
        self._stems = stems
        self._shelf = shelf
        self._results = PassResults(table, stems, heavy)
        self._events = events
        self.rack = rack
        self._lock = threading.Lock()
        self._running: dict[int, PassLevels] = {}
        self._units: set[str] = set()
        self._stopping: set[int] = set()
        self._cut_off: set[int] = set()
        self._closing = threading.Event()
        self._wake = threading.Event()
        self._thread = threading.Thread(target=self._work, name="passes", daemon=True)
        self._passing: list[threading.Thread] = []

    def start(self) -> None:
        """Keep the recordings of interrupted passes, and restore queued passes."""
        for one in self._table.open():
            if one.state == "running":
                self._cut_off.add(one.id)
                threading.Thread(target=self._keep_cut_off, args=(one,), name="interrupted pass", daemon=True).start()
        self._thread.start()

    def give_up(self) -> None:
        """From now on a pass that ends was interrupted."""
        self._closing.set()
        self._wake.set()

    def close(self) -> None:
        """Stop running passes: their recordings are kept at the next start."""
        self.give_up()
        for one in self._passing:
            one.join(3)
        self.rack.close()

    @property
    def busy(self) -> bool:
        """Whether any pass runs."""
        with self._lock:
            return bool(self._running)

    def make(self, mix_id: int, name: str, wish: LiveRequest, score: bytes = b"") -> int:
        """Puts a source beside a mix that is captured in a live pass; gives its number.

        Raises: NotFound ``mix.unknown`` or ``stem.unknown``; BadInput ``stem.name``, ``pass.no-score``; Unreadable
        ``score.…``.
        """
        mix = self._shelf.mix(mix_id)
        notes = [stem_from(one.note) for one in self._stems.of(mix_id)]
        facts = facts_of(mix)
        if wish.kind == "instrument":
            if not score:
                message = "Choose a MIDI file for the instrument."
                raise BadInput("pass.no-score", message)
            seconds = read_score(score).seconds
            wish = replace(wish, score=str(self._keep_score(mix, score)))
            rate_hz = facts.rate_hz
            # At least the length of its mix; the decay of its last note is recorded to its end.
            frames, channels = max(facts.frames, round((seconds + 2.0) * rate_hz)), 2
        else:
            source = self._source(mix, wish, notes)
            frames, channels, rate_hz = source.facts.frames, source.facts.channels, source.facts.rate_hz
        called = free_name(plain_name(name or f"through {wish.unit}"), notes)
        to_come = SourceFacts("", PLAIN, "pcm-float", rate_hz, channels, frames, 32, file_channels=channels)
        note = StemNote(called, to_come, apart=True, live_s=live_seconds(rate_hz, frames), unit=wish.unit)
        origin = {"kind": "live", "wish": asdict(wish), "sentence": ""}
        number = self._stems.add(mix_id, asdict(note), False, origin)
        self._events.publish("stems")
        return number

    def begin(self, mix_id: int, stem_id: int) -> int:
        """Puts the pass of a live source into the line; gives its number.

        Raises: NotFound ``stem.unknown``; BadInput ``pass.not-live``; Conflict ``pass.under-way``.
        """
        stored, _ = self._live(mix_id, stem_id)
        if any(one.stem_id == stem_id for one in self._table.open()):
            message = "This source is already recording or queued."
            raise Conflict("pass.under-way", message, stem=stem_id)
        number = self._table.add(mix_id, stem_id, str(stored.note["name"]))
        self._wake.set()
        self._events.publish("passes")
        return number

    def of(self, mix_id: int) -> list[PassShown]:
        """The passes of a mix, newest first."""
        rate_hz = self._shelf.mix(mix_id).rate_hz
        with self._lock:
            return [PassShown(one, self._running.get(one.id), rate_hz) for one in self._table.of(mix_id)]

    def get(self, number: int) -> StoredPass:
        """One pass. Raises: NotFound ``pass.unknown``."""
        found = self._table.get(number)
        if found is None:
            message = f"Live pass {number} not found."
            raise NotFound("pass.unknown", message, number=number)
        return found

    def stop(self, number: int) -> None:
        """Stop a running pass and keep its recording, or remove a queued one.

        Raises: NotFound ``pass.unknown``; Conflict ``pass.ended``.
        """
        self.get(number)
        with self._lock:
            if number in self._running:
                self._stopping.add(number)
                return
        if not self._table.take_out(number, "Removed from the queue before it started."):
            message = f"Live pass {number} has already ended."
            raise Conflict("pass.ended", message, number=number)
        self._events.publish("passes")

    def sound(self, number: int) -> tuple[int, int, Iterator[bytes]]:
        """The return of a running pass, live: rate, channels, and float32 samples.

        Raises: NotFound ``pass.unknown``; Conflict ``pass.ended`` where it does not run.
        """
        stored = self.get(number)
        with self._lock:
            running = number in self._running
        if not running:
            message = "This pass is not running."
            raise Conflict("pass.ended", message, number=number)
        note = self._note(stored)
        return (
            note.facts.rate_hz,
            note.facts.channels,
            following(self._spool(stored), note.facts.channels, lambda: number in self._running),
        )

    def settled(self, mix: StoredMix, document: Document, job: JobFolder) -> Document:
        """The document once everything live that it asks for has been captured; passes that are missing are run.

        The job reports the progress of a pass. Raises: Interrupted ``pass.failed`` with what a pass ended of;
        Cancelled.
        """
        by_name = {stem_from(one.note).name: one for one in self._stems.of(mix.id)}
        wish = document.mixes[0]
        asked = {
            name
            for line in wish.bench.ticket if line.on and not line.part.is_mix
            for name in line.part.of(wish.stems)
        }  # fmt: skip
        for name in sorted(asked):
            stored = by_name.get(name)
            if stored and stem_from(stored.note).live_s:
                self._wait_for(mix.id, stored, job)
        now = {one.name: one for one in (stem_from(row.note) for row in self._stems.of(mix.id))}
        stems = tuple(now.get(one.name, one) if one.live_s else one for one in wish.stems)
        return replace(document, mixes=(replace(wish, stems=stems), *document.mixes[1:]))

    def _wait_for(self, mix_id: int, stored: StoredStem, job: JobFolder) -> None:
        number = next((one.id for one in self._table.open() if one.stem_id == stored.id), None)
        if number in self._cut_off:
            # Its recording is kept, then it runs again: the waiting pressing continues.
            self._end_of(number, stored, job)
            number = None
        found = self._end_of(self.begin(mix_id, stored.id) if number is None else number, stored, job)
        if found.state != "done":
            raise Interrupted("pass.failed", f"The live pass of {quoted(found.name)} failed. {found.sentence}")

    def _end_of(self, number: int, stored: StoredStem, job: JobFolder) -> StoredPass:
        while (found := self.get(number)).state in ("queued", "running"):
            with self._lock:
                levels = self._running.get(number)
            if levels:
                rate_hz = stored.note["facts"]["rate_hz"]
                left = (levels.total - levels.done) / rate_hz
                job.tell(JobProgress(levels.done, levels.total, levels.done / rate_hz, left))
            if job.should_stop() or self._closing.is_set():
                if not self._closing.is_set():
                    self.stop(number)
                message = "Cancelled during its live pass."
                raise Cancelled("press.cancelled", message)
            time.sleep(_LOOK_S)
        return found

    def _live(self, mix_id: int, stem_id: int) -> tuple[StoredStem, LiveRequest]:
        stored = self._stems.get(stem_id)
        if stored is None or stored.mix_id != mix_id:
            message = "Source not found for this mix."
            raise NotFound("stem.unknown", message, stem=stem_id)
        if "wish" not in stored.origin:
            message = f"{quoted(stored.note['name'])} is a file and needs no live pass."
            raise BadInput("pass.not-live", message, stem=stem_id)
        return stored, wish_of(stored.origin["wish"])

    def _note(self, stored: StoredPass) -> StemNote:
        stem = self._stems.get(stored.stem_id)
        if stem is None:
            message = "The source of this pass was removed."
            raise NotFound("stem.unknown", message, stem=stored.stem_id)
        return stem_from(stem.note)

    def _source(self, mix: StoredMix, wish: LiveRequest, notes: list[StemNote]) -> AudioSource:
        """The sent signal. Raises: NotFound ``stem.unknown``; Conflict ``part.live`` where that is live itself."""
        files = [one for one in notes if not one.live_s]
        source = part_source(measured(facts_of(mix)).source, files, wish.part)
        bench = bench_of(mix.bench)
        chain = finish_of(bench.finish, bench_offsets(bench, mix.measures["dc_offset"]))
        return finished(source, chain if wish.finish else None)

    def _keep_score(self, mix: StoredMix, score: bytes) -> Path:
        folder = self._folder(mix)
        number = len(list(folder.glob("score *.mid"))) + 1
        path = folder / f"score {number}.mid"
        write_whole(path, score)
        return path

    def _folder(self, mix: StoredMix) -> Path:
        folder = self._shelf.folder_of(mix) / "captures"
        folder.mkdir(parents=True, exist_ok=True)
        return folder

    def _spool(self, stored: StoredPass) -> Path:
        return self._folder(self._shelf.mix(stored.mix_id)) / f"pass {stored.id}.f32"

    def _target(self, stored: StoredPass) -> Path:
        return self._folder(self._shelf.mix(stored.mix_id)) / f"pass {stored.id}.wav"

    def _work(self) -> None:
        while not self._closing.is_set():
            self._wake.clear()
            try:
                began = self._take()
            except (RipePressError, OSError) as error:
                _LOG.warning("passes wait", why=str(error))
                began = False
            if not began:
                self._wake.wait(_AGAIN_S)

    def _take(self) -> bool:
        """Begins the next pass whose unit is free; whether there was one."""
        for one in self._table.open():
            if one.state != "queued":
                continue
            try:
                _, wish = self._live(one.mix_id, one.stem_id)
            except RipePressError as error:
                self._table.end(one.id, "failed", error.message, {})
                continue
            with self._lock:
                if wish.address in self._units or not self._table.run(one.id):
                    continue
                self._units.add(wish.address)
                self._running[one.id] = PassLevels(0, 1, 0.0, 0.0, 0, 0)
            thread = threading.Thread(target=self._run, args=(one, wish), name=f"pass {one.id}", daemon=True)
            self._passing = [*(old for old in self._passing if old.is_alive()), thread]
            thread.start()
            return True
        return False

    def _run(self, stored: StoredPass, wish: LiveRequest) -> None:
        try:
            mix = self._shelf.mix(stored.mix_id)
            note = self._note(stored)
            layout = layout_of(wish, note.facts.rate_hz, note.facts.channels, note.facts.frames)
            sound = None
            if wish.kind == "outboard":
                sound = self._source(mix, wish, [stem_from(one.note) for one in self._stems.of(mix.id)])
            target = self._target(stored)
            passed = capture_now(
                wish, layout, sound, self._spool(stored), target, lambda levels: self._told(stored.id, levels),
                lambda: stored.id in self._stopping or self._closing.is_set(), self._closing.is_set,
                self._results.made,
            )  # fmt: skip
            if self._closing.is_set():
                return
            self._results.settle(stored, wish, passed, target)
        except RipePressError as error:
            self._failed(stored.id, error.message)
        except OSError as error:
            self._failed(stored.id, not_written(Path(error.filename or "The capture"), error))
        except Exception as error:
            _LOG.exception("pass failed with an internal error", number=stored.id)
            sentence = f"Internal error ({type(error).__name__}: {error})."
            self._failed(stored.id, sentence)
        finally:
            with self._lock:
                self._running.pop(stored.id, None)
                self._stopping.discard(stored.id)
                self._units.discard(wish.address)
            self._wake.set()
            self._events.publish("passes")
            self._events.publish("stems")

    def _failed(self, number: int, sentence: str) -> None:
        # What the closing cuts off is settled at the next start, as if the power had gone.
        if not self._closing.is_set():
            self._table.end(number, "failed", sentence, {})

    def _told(self, number: int, levels: PassLevels) -> None:
        with self._lock:
            self._running[number] = levels

    def _keep_cut_off(self, stored: StoredPass) -> None:
        """Keeps what a pass heard that ended with the application."""
        try:
            _, wish = self._live(stored.mix_id, stored.stem_id)
            note, target = self._note(stored), self._target(stored)
            layout = layout_of(wish, note.facts.rate_hz, note.facts.channels, note.facts.frames)
            self._results.keep_cut_off(stored, wish, self._spool(stored), layout, target)
        except (RipePressError, OSError) as error:
            self._table.end(stored.id, "failed", f"{CUT_OFF} {error}", {})
        finally:
            self._events.publish("passes")
            self._events.publish("stems")
