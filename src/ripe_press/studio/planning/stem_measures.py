"""Measurements of stems and sums: made once, in a worker, and stored with their mix by their content."""

import hashlib
import json
import secrets
import shutil
import threading
from concurrent.futures import Future
from pathlib import Path

from ripe_press.core.errors import Conflict
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.survey import survey_source
from ripe_press.core.whole_files import sync_folder, write_whole
from ripe_press.studio.jobs import Events, WorkerPool
from ripe_press.studio.planning.kept_levels import keep_measures
from ripe_press.studio.planning.knowledge import BEING_MEASURED, AnswerCache, KeptKnowledge
from ripe_press.studio.reports import measures_of

MOST_KEPT = 60
"""So many parts of a mix are kept; the one that was asked for longest ago goes first."""


class StemMeasures:
    """Measurements of stems; a missing one starts at the first request."""

    def __init__(self, heavy: WorkerPool, answers: AnswerCache, events: Events) -> None:
        self._heavy = heavy
        self._answers = answers
        self._events = events
        self._lock = threading.Lock()
        self._measuring: dict[Path, Future[None]] = {}

    def known(self, folder: Path, source: AudioSource) -> KeptKnowledge:
        """Return the stored measurements of a stem. Raises: Conflict ``part.being-measured``; what measuring it failed
        of.
        """
        return self._known(folder, source, wait=False)

    def waiting(self, folder: Path, source: AudioSource) -> KeptKnowledge:
        """The same for callers that can wait. Raises: as reading it."""
        return self._known(folder, source, wait=True)

    def _known(self, folder: Path, source: AudioSource, *, wait: bool) -> KeptKnowledge:
        name = hashlib.blake2b(source.fingerprint.encode(), digest_size=10).hexdigest()
        place = folder / "parts" / name
        if not (place / "measures.json").is_file():
            measuring = self._begun(place, source)
            if wait or measuring.done():
                with self._lock:
                    self._measuring.pop(place, None)
                measuring.result()
            else:
                message = "Measuring its source. You can press now."
                raise Conflict(BEING_MEASURED, message)
        row = self._answers.of((name, "part"), lambda: json.loads((place / "measures.json").read_text()))
        return KeptKnowledge(source.facts, row, place, self._answers, name, source)

    def _begun(self, place: Path, source: AudioSource) -> Future[None]:
        with self._lock:
            if place in self._measuring:
                return self._measuring[place]
            _make_room(place.parent)
            new = place.parent / f"new-{secrets.token_hex(4)}"
            future = self._heavy.submit(measure_part, source, str(new), str(place))
            self._measuring[place] = future
        future.add_done_callback(lambda _done: self._events.publish("stems"))
        return future


def _make_room(parts: Path) -> None:
    kept = sorted(parts.glob("*/measures.json"), key=lambda one: one.stat().st_atime) if parts.is_dir() else []
    for one in kept[: max(0, len(kept) - MOST_KEPT)]:
        shutil.rmtree(one.parent, ignore_errors=True)


def measure_part(source: AudioSource, new: str, place: str) -> None:
    """Measures a part of a mix; its folder appears when it is whole."""
    folder = Path(new)
    folder.mkdir(parents=True)
    result = survey_source(source, folder / "pyramid.bin")
    keep_measures(folder, result)
    write_whole(folder / "measures.json", json.dumps(measures_of(result)))
    if not Path(place).is_dir():
        folder.rename(place)
        sync_folder(Path(place).parent)
