"""Files for the next program: handoffs of a mix to picture, and sidecars of files."""

import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

from ripe_press.core.errors import BadInput, Cancelled, Conflict
from ripe_press.core.naming import safe_stem
from ripe_press.core.requests.document import bench_of, stem_from
from ripe_press.core.words import quoted
from ripe_press.store.stems import Stems
from ripe_press.studio.error_text import sentence_of
from ripe_press.studio.handoff.sidecars import sidecar_job
from ripe_press.studio.handoff.timeline import HandedMix, HandoffWish, hand_off
from ripe_press.studio.jobs.events import Events
from ripe_press.studio.jobs.folder import JobFolder
from ripe_press.studio.jobs.workers import WorkerPool
from ripe_press.studio.log import logger
from ripe_press.studio.planning.kept_levels import facts_of
from ripe_press.studio.pressing.room import PressRoom
from ripe_press.studio.shelf.shelf import Shelf

_LOG = logger("handoff")
Of = tuple[Literal["mix", "pressing"], int]


@dataclass(frozen=True, slots=True)
class HandoffState:
    """How one stands: bytes or files done of all, and what came of it."""

    state: Literal["running", "done", "failed", "cancelled"]
    done: int = 0
    total: int = 0
    sentence: str = ""
    written: tuple[str, ...] = ()


class Handoffs:
    """Runs them on threads, one for each mix and pressing; the last of each is known until the application ends."""

    def __init__(
        self, shelf: Shelf, stems: Stems, press_room: PressRoom, heavy: WorkerPool, passing: Path, pressed: Path,
        events: Events,
    ) -> None:  # fmt: skip
        self._shelf, self._stems, self._press_room = shelf, stems, press_room
        self._heavy, self._passing, self._pressed, self._events = heavy, passing, pressed, events
        self._states: dict[Of, HandoffState] = {}
        self._stopping: set[Of] = set()
        self._lock = threading.Lock()

    @property
    def busy(self) -> bool:
        """Whether any runs."""
        with self._lock:
            return any(one.state == "running" for one in self._states.values())

    def of(self, of: Of) -> HandoffState | None:
        """The last of a mix or a pressing, if there was one."""
        with self._lock:
            return self._states.get(of)

    def usual_folder(self, mix_id: int) -> Path:
        """The default folder for the handoff of a mix."""
        return self._pressed / safe_stem(self._shelf.mix(mix_id).title) / "for picture"

    def hand_off(self, mix_id: int, wish: HandoffWish, folder: str = "") -> HandoffState:
        """Begins to hand a mix off to picture. Raises: NotFound ``mix.unknown``; BadInput ``handoff.folder``;
        Conflict ``handoff.running``.
        """
        mix = self._shelf.mix(mix_id)
        out = Path(folder.strip()).expanduser() if folder.strip() else self.usual_folder(mix_id)
        if "\x00" in folder or not out.is_absolute():
            message = f"{quoted(folder)} is not a full path. Use a path that starts at the root."
            raise BadInput("handoff.folder", message, folder=folder)
        notes = [stem_from(one.note) for one in self._stems.of(mix_id)]
        handed = HandedMix(
            facts_of(mix), mix.title, bench_of(mix.bench).markers, mix.embedded.get("time_reference"),
            tuple(one for one in notes if not one.live_s),
        )  # fmt: skip
        of: Of = ("mix", mix_id)

        def run() -> tuple[str, ...]:
            report = hand_off(handed, wish, out, lambda done, total: self._tell(of, done, total), self._asks(of))
            return (report["timeline"], report["edit_list"])

        return self._begin(of, run)

    def write_sidecars(self, number: int) -> HandoffState:
        """Begins to write a sidecar beside each file of a pressing. Raises: NotFound ``pressing.unknown``;
        Conflict ``handoff.running``.
        """
        pressing = self._press_room.pressing(number)
        paths = [Path(one.path) for one in pressing.files if one.state == "named" and Path(one.path).is_file()]
        of: Of = ("pressing", number)

        def run() -> tuple[str, ...]:
            written = []
            for at, path in enumerate(paths):
                self._tell(of, at, len(paths))
                if self._asks(of)():
                    message = "Cancelled. Written sidecars were kept."
                    raise Cancelled("handoff.cancelled", message)
                # A file is read in a worker: a decoder that crashes ends its job and nothing else.
                job = JobFolder.make(self._passing)
                try:
                    written.append(self._heavy.submit(sidecar_job, str(path), str(job.path)).result())
                finally:
                    job.clear()
            return tuple(written)

        return self._begin(of, run)

    def cancel(self, of: Of) -> None:
        """Asks one to stop."""
        with self._lock:
            if of in self._states and self._states[of].state == "running":
                self._stopping.add(of)

    def _begin(self, of: Of, run: Callable[[], tuple[str, ...]]) -> HandoffState:
        with self._lock:
            if of in self._states and self._states[of].state == "running":
                message = "Already being written."
                raise Conflict("handoff.running", message)
            state = self._states[of] = HandoffState("running")
            self._stopping.discard(of)
        threading.Thread(target=self._run, args=(of, run), name="handoff", daemon=True).start()
        self._events.publish("handoffs")
        return state

    def _run(self, of: Of, run: Callable[[], tuple[str, ...]]) -> None:
        try:
            written = run()
            state = HandoffState("done", 1, 1, written=written)
        except Cancelled as error:
            state = HandoffState("cancelled", sentence=error.message)
        except Exception as error:
            # Any error ends as a sentence, and an internal one also in the log.
            state = HandoffState("failed", sentence=sentence_of(error))
        _LOG.info("handed off", what=of[0], number=of[1], state=state.state, why=state.sentence)
        with self._lock:
            self._states[of] = state
        self._events.publish("handoffs")

    def _tell(self, of: Of, done: int, total: int) -> None:
        with self._lock:
            self._states[of] = replace(self._states[of], done=done, total=total)

    def _asks(self, of: Of) -> Callable[[], bool]:
        return lambda: of in self._stopping
