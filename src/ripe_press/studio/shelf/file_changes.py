"""Mixes with a changed file: found, read and shown, until the user decides."""

import threading
from concurrent.futures import Future
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

from ripe_press.core.errors import Conflict, RipePressError
from ripe_press.core.measure.loudness import LoudnessResult
from ripe_press.core.requests.document import bench_of
from ripe_press.core.stations.source import depth_label
from ripe_press.core.versions.carried import FrameMapping, carried
from ripe_press.core.versions.differences import Differences, VersionFacts, differences
from ripe_press.core.words import quoted
from ripe_press.store.mixes import Mixes, NewMix, StoredMix
from ripe_press.studio.error_text import sentence_of
from ripe_press.studio.jobs import Events, JobFolder, WorkerPool
from ripe_press.studio.log import logger
from ripe_press.studio.shelf import tasks
from ripe_press.studio.shelf.mix_row import new_mix, stamp_of
from ripe_press.studio.shelf.mix_views import MixViews
from ripe_press.studio.shelf.shelf import Shelf

_LOG = logger("versions")
PYRAMID = "pyramid.bin"
NO_DIFFERENCES = Differences(())
ChangeState = Literal["reading", "changed", "left", "refused", "gone"]


@dataclass(slots=True)
class Change:
    """A mix whose file is not what it was.

    *reading*: the change is being analysed; *changed*: ``differences`` has the result, and the file can be used as a
    new version; *left*: the user ignored it; *refused*: it is not readable, and ``differences`` has the reason; *gone*.
    """

    mix_id: int
    state: ChangeState
    stamp: str
    lost: tuple[str, ...] = ()
    """What of its bench could not be carried over."""
    job: JobFolder | None = None
    found: tasks.ReadIn | None = field(default=None, repr=False)
    differences: Differences = NO_DIFFERENCES


class FileChanges:
    """Found changes of mix files; not stored, and found again at the next start."""

    def __init__(self, shelf: Shelf, table: Mixes, mix_views: MixViews, heavy: WorkerPool, events: Events) -> None:
        self._shelf, self._table, self._mix_views, self._heavy, self._events = shelf, table, mix_views, heavy, events
        self._changes: dict[int, Change] = {}
        self._lock = threading.Lock()

    def all(self) -> list[Change]:
        """The mixes whose file is not what it was."""
        with self._lock:
            return list(self._changes.values())

    def settle(self, mix_id: int) -> None:
        """End the change: the file is as recorded, or the mix is removed."""
        with self._lock:
            change = self._changes.pop(mix_id, None)
        if change:
            _drop(change)
            self._events.publish("shelf")

    def gone(self, mix_id: int) -> None:
        """The file of a mix is not where it was."""
        with self._lock:
            before = self._changes.get(mix_id)
            if before and before.state == "gone":
                return
            self._changes[mix_id] = Change(mix_id, "gone", "")
        if before:
            _drop(before)
        self._events.publish("shelf")

    def notice(self, mix_id: int, *, again: bool = False) -> bool:
        """Reads the file of a mix where it is not what it was, and says whether it is not; ``again`` includes ignored
        changes.
        """
        mix = self._shelf.mix(mix_id)
        stamp = stamp_of(Path(mix.came_from)) if mix.came_from else ""
        if not stamp or stamp == mix.stamp:
            return False
        with self._lock:
            known = self._changes.get(mix_id)
            if known and known.stamp == stamp and not (again and known.state == "left"):
                return True
            job = JobFolder.make(self._shelf.passing)
            change = Change(mix_id, "reading", stamp, job=job)
            self._changes[mix_id] = change
        if known:
            _drop(known)
        self._events.publish("shelf")
        future = self._heavy.submit(tasks.read_in, mix.came_from, str(job.path / PYRAMID), str(job.path))
        future.add_done_callback(lambda done: self._read(change, job, done))
        return True

    def leave(self, mix_id: int) -> None:
        """Leaves the mix as it is; it is not offered again until its file changes once more."""
        with self._lock:
            change = self._changes.get(mix_id)
            if not change or change.state == "gone":
                return
            self._changes[mix_id] = Change(mix_id, "left", change.stamp)
        _drop(change)
        self._events.publish("shelf")

    def take_up(self, mix: StoredMix) -> tuple[Change, tasks.ReadIn, JobFolder]:
        """Claim a change for processing; only the first caller gets it.

        Raises: Conflict ``version.none`` or ``version.changed-again``.
        """
        with self._lock:
            change = self._changes.get(mix.id)
            if change and change.state == "changed" and change.found and change.job:
                found, change.found = change.found, None
                return change, found, change.job
        if change and change.state == "reading":
            raise being_read(mix)
        message = f"No new version of {quoted(mix.title)}: its file is unchanged."
        raise Conflict("version.none", message, mix=mix.id)

    def refuse_known(self, sha256: str) -> None:
        """Raises: Conflict ``shelf.already-there`` where a mix, or a version of one, has this content."""
        same = self._table.by_hash(sha256) or self._table.other_by_hash(sha256)
        if same:
            message = f"It is now identical with version {same.version} of {quoted(same.title)}."
            raise Conflict("shelf.already-there", message, mix=same.id)

    def _read(self, change: Change, job: JobFolder, done: Future[tasks.ReadIn]) -> None:
        """Compare the analysis of a changed file with the recorded one."""
        found: tasks.ReadIn | None = None
        lost: tuple[str, ...] = ()
        compared = NO_DIFFERENCES
        try:
            found = done.result()
            mix = self._shelf.mix(change.mix_id)
            if found.sha256 == mix.sha256:
                # Written again with the same bytes: nothing has changed.
                self._table.set_stamp(mix.id, change.stamp)
                self.settle(mix.id)
                return
            self.refuse_known(found.sha256)
            after = new_mix(Path(mix.came_from), mix.title, False, found)
            compared = differences(
                known_of(mix, self._mix_views.known(mix).loudness()), known_of(after, found.survey.loudness)
            )
            lost = carried(bench_of(mix.bench), passage_of(mix, after, compared)).lost
        except (RipePressError, OSError) as error:
            found, compared = None, Differences((sentence_of(error),))
        except BaseException:
            # The application is stopping, or a worker died: it is noticed again.
            self.settle(change.mix_id)
            job.clear()
            raise
        with self._lock:
            if self._changes.get(change.mix_id) is not change:
                # The user decided, or the file changed again, during the analysis.
                job.clear()
                return
            change.found, change.differences, change.lost = found, compared, lost
            change.state = "changed" if found else "refused"
        _LOG.info("file changed", mix=change.mix_id, state=change.state)
        self._events.publish("shelf")


def being_read(mix: StoredMix) -> Conflict:
    """The error of a change that is not read yet."""
    message = f"{quoted(Path(mix.came_from).name)} changed again and is being read. Try again."
    return Conflict("version.changed-again", message, mix=mix.id)


def known_of(mix: NewMix, loudness: LoudnessResult) -> VersionFacts:
    """Return the facts of a version, for a comparison with another."""
    return VersionFacts(
        mix.frames, mix.rate_hz, mix.channels, depth_label(mix.bit_depth, mix.codec),
        mix.measures["head_silence_frames"], mix.measures["true_peak_dbtp"], loudness,
        mix.measures.get("spectrum") or (), mix.measures.get("content_sum") or "",
    )  # fmt: skip


def passage_of(old: NewMix, new: NewMix, found: Differences) -> FrameMapping:
    """The way from the frames of one version to those of another."""
    return FrameMapping(old.frames, old.rate_hz, new.frames, new.rate_hz, found.shift_frames)


def _drop(change: Change) -> None:
    """Stop the analysis of a change and delete its results; its worker ends at the next block."""
    if change.job and change.state == "reading":
        change.job.cancel()
    elif change.job:
        change.job.clear()
