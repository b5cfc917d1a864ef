"""Burns of the application: one disc at a time, in the simulated writer."""

import threading
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal

from ripe_press.core.errors import Conflict, NotFound, RipePressError
from ripe_press.core.words import quoted
from ripe_press.studio.discs.burning import BurnWish, Writer, burn
from ripe_press.studio.error_text import sentence_of
from ripe_press.studio.jobs.events import Events
from ripe_press.studio.log import logger

HURRY = 40.0
"""Speed of the simulated writer relative to a drive: 80 minutes at 16 times take eight seconds."""
_LOG = logger("burn")


@dataclass(frozen=True, slots=True)
class BurnState:
    """State of a burn: its step, progress in frames, and result."""

    pressing: int
    state: Literal["burning", "done", "failed", "cancelled"]
    doing: str = ""
    done: int = 0
    total: int = 0
    sentence: str = ""
    report: dict[str, Any] | None = None


class Burns:
    """Runs burns on a thread; what came of the last one of each pressing is known until the application ends."""

    def __init__(self, folder: Path, events: Events, hurry: float = HURRY) -> None:
        self._folder, self._events, self._hurry = folder, events, hurry
        self._states: dict[int, BurnState] = {}
        self._lock = threading.Lock()
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None

    def of(self, pressing: int) -> BurnState | None:
        """The burn of a pressing's disc, if there was one."""
        with self._lock:
            return self._states.get(pressing)

    @property
    def busy(self) -> bool:
        """Whether a disc is being burnt."""
        with self._lock:
            return any(one.state == "burning" for one in self._states.values())

    def begin(self, pressing: int, cue: Path, kind: str, speed: int, *, simulate: bool, finalize: bool) -> BurnState:
        """Begins to burn a disc. Raises: Conflict ``writer.busy``; NotFound ``disc.gone``."""
        if not cue.is_file():
            message = f"{quoted(cue.name)} moved or deleted. Press the disc again."
            raise NotFound("disc.gone", message, path=str(cue))
        with self._lock:
            if any(one.state == "burning" for one in self._states.values()):
                message = "The disc writer is busy. Wait until it is done."
                raise Conflict("writer.busy", message)
            state = self._states[pressing] = BurnState(pressing, "burning", "burning")
            self._stop.clear()
        wish = BurnWish(self._blank(pressing), kind, speed, simulate, finalize)
        self._thread = threading.Thread(target=self._run, args=(pressing, cue, wish), name="burn", daemon=True)
        self._thread.start()
        self._events.publish("burns")
        return state

    def cancel(self, pressing: int) -> None:
        """Stops the burn of a pressing. Raises: Conflict ``writer.idle``."""
        state = self.of(pressing)
        if state is None or state.state != "burning":
            message = "No burn to cancel."
            raise Conflict("writer.idle", message)
        self._stop.set()

    def close(self) -> None:
        """Stops whatever is being burnt."""
        self._stop.set()
        if self._thread:
            self._thread.join(10)

    def _blank(self, pressing: int) -> Path:
        """A new folder for a blank disc."""
        number = 1
        while (place := self._folder / f"disc {pressing}-{number}").exists():
            number += 1
        return place

    def _run(self, pressing: int, cue: Path, wish: BurnWish) -> None:
        def progress(doing: str, done: int, total: int) -> None:
            self._set(replace(BurnState(pressing, "burning"), doing=doing, done=done, total=total))

        try:
            with Writer.own(self._hurry) as writer:
                report = burn(cue, wish, writer, progress, self._stop.is_set)
            self._set(BurnState(pressing, "done", sentence=report["worth"], report=report))
        except RipePressError as error:
            ended: Literal["cancelled", "failed"] = "cancelled" if error.code == "disc.cancelled" else "failed"
            self._set(BurnState(pressing, ended, sentence=error.message))
        except Exception as error:
            _LOG.exception("burning failed with an internal error", pressing=pressing)
            self._set(BurnState(pressing, "failed", sentence=sentence_of(error)))
        found = self.of(pressing)
        _LOG.info("burning ended", pressing=pressing, state=found.state if found else "", why=found and found.sentence)
        self._events.publish("burns")

    def _set(self, state: BurnState) -> None:
        with self._lock:
            self._states[state.pressing] = state
