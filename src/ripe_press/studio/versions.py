"""Versions of mixes: what changed on disk, what differs, and which stand on one pile.

The number of a mix is that of its pile: ranges, ticket, running orders and the record stay with it when another version
comes into use. What is measured and kept belongs to a version, in a folder named by its content.
"""

import shutil
import threading
from collections.abc import Sequence
from concurrent.futures import Future
from dataclasses import dataclass, field, fields, replace
from datetime import UTC, datetime
from itertools import pairwise
from pathlib import Path
from typing import Any, Literal

from ripe_press.core.errors import BadInput, Conflict, NotFound, RipePressError
from ripe_press.core.stations.source import depth_label
from ripe_press.core.versions.carried import Passage, carried
from ripe_press.core.versions.differences import Differences, Known, differences
from ripe_press.core.versions.names import root_of
from ripe_press.core.wishes.document import bench_of, bench_row
from ripe_press.store.mixes import Mixes, NewMix, Pile, StoredMix
from ripe_press.studio import tasks
from ripe_press.studio.bell import Bell
from ripe_press.studio.faults import sentence_of
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.kept_mix import keep_folder, new_mix, stamp_of
from ripe_press.studio.knowledge import Answers
from ripe_press.studio.logbook import logger
from ripe_press.studio.looking import Looking
from ripe_press.studio.orders import OrderBook
from ripe_press.studio.shelf import Shelf
from ripe_press.studio.workers import WorkerPool

_LOG = logger("versions")
_OF_CONTENT = tuple(one.name for one in fields(NewMix) if one.name not in ("bench", "embedded"))


ChangeState = Literal["reading", "changed", "left", "refused", "gone"]


@dataclass(slots=True)
class Change:
    """A mix whose file is not what it was.

    *reading*: what differs is being found out; *changed*: ``sentences`` say it, and it can be taken as a new version;
    *left*: somebody did not want it; *refused*: it cannot be read, and ``sentences`` say why; *gone*.
    """

    mix_id: int
    state: ChangeState
    stamp: str
    job: JobFolder
    sentences: tuple[str, ...] = ()
    found: tasks.ReadIn | None = field(default=None, repr=False)


@dataclass(frozen=True, slots=True)
class VersionShown:
    """A version on a pile; ``sentences`` say what differs from the one before it."""

    mix: StoredMix
    in_use: bool
    there: bool
    """Whether its file can still be heard and pressed."""
    sentences: tuple[str, ...]


class Versions:
    """Everything that is done with versions; changes that are noticed wait here until somebody decides."""

    def __init__(
        self, shelf: Shelf, table: Mixes, looking: Looking, orders: OrderBook, heavy: WorkerPool, bell: Bell
    ) -> None:
        self._shelf, self._table, self._looking, self._orders = shelf, table, looking, orders
        self._heavy, self._bell = heavy, bell
        self._changes: dict[int, Change] = {}
        self._told = Answers()
        self._lock = threading.Lock()

    def changes(self) -> list[Change]:
        """The mixes whose file is not what it was."""
        with self._lock:
            return list(self._changes.values())

    def settle(self, mix_id: int) -> None:
        """The file of a mix is as it was, or the mix is gone: there is no change any more."""
        with self._lock:
            change = self._changes.pop(mix_id, None)
        if change:
            _drop(change)
            self._bell.ring("shelf")

    def gone(self, mix_id: int) -> None:
        """The file of a mix is not where it was."""
        with self._lock:
            before = self._changes.get(mix_id)
            if before and before.state == "gone":
                return
            self._changes[mix_id] = Change(mix_id, "gone", "", JobFolder(self._shelf.passing))
        if before:
            _drop(before)
        self._bell.ring("shelf")

    def notice(self, mix_id: int, *, again: bool = False) -> bool:
        """Reads the file of a mix where it is not what it was, and says whether it is not; ``again`` what was left."""
        mix = self._shelf.mix(mix_id)
        stamp = stamp_of(Path(mix.path))
        if not stamp or stamp == mix.stamp:
            return False
        with self._lock:
            known = self._changes.get(mix_id)
            if known and known.stamp == stamp and not (again and known.state == "left"):
                return True
            change = Change(mix_id, "reading", stamp, JobFolder.make(self._shelf.passing))
            self._changes[mix_id] = change
        if known:
            _drop(known)
        self._bell.ring("shelf")
        future = self._heavy.submit(tasks.read_in, mix.path, str(_pyramid(change)), str(change.job.path))
        future.add_done_callback(lambda done: self._read(change, done))
        return True

    def take(self, mix_id: int) -> StoredMix:
        """Puts the file as it is now into use, as a new version; everything on the bench is carried over.

        Raises: Conflict ``version.none`` or ``version.changed-again``; Interrupted ``shelf.not-kept``.
        """
        mix = self._shelf.mix(mix_id)
        with self._lock:
            change = self._changes.get(mix_id)
        if not change or change.state != "changed" or not change.found:
            message = f"There is no other version of {mix.title!r} to take: its file is as it was, or is being read."
            raise Conflict("version.none", message, mix=mix_id)
        if stamp_of(Path(mix.path)) != change.stamp:
            self.notice(mix_id)
            message = f"{Path(mix.path).name!r} has changed once more. It is being read again; decide then."
            raise Conflict("version.changed-again", message, mix=mix_id)
        found = replace(
            keep_folder(self._shelf.folder_of, Path(mix.path), mix.title, False, change.found, _pyramid(change)),
            stamp=change.stamp,
        )
        told = self._between(mix, _as_stored(found, mix))
        current = self._used(mix, found, told)
        self._table.set_pile(
            Pile(current, [*self._table.others(mix_id), mix], orders=self._orders_of(mix, found, told))
        )
        _LOG.info("new version", mix=mix_id, version=current.version)
        self._bell.ring("orders")
        self.settle(mix_id)
        return self._shelf.mix(mix_id)

    def leave(self, mix_id: int) -> None:
        """Leaves the mix as it is; it is not offered again until its file changes once more."""
        with self._lock:
            change = self._changes.get(mix_id)
            if not change or change.state == "gone":
                return
            self._changes[mix_id] = Change(mix_id, "left", change.stamp, JobFolder(self._shelf.passing))
        _drop(change)
        self._bell.ring("shelf")

    def pile_up(self, mix_ids: Sequence[int]) -> StoredMix:
        """Puts mixes on one pile, as versions in the order in which they came; the last comes into use.

        Ranges, ticket and tags are those of the first. Raises: BadInput ``version.one``; Conflict ``version.stems``.
        """
        mixes = [self._shelf.mix(one) for one in sorted(set(mix_ids))]
        if len(mixes) < 2:
            message = "A pile is made of two mixes or more. Choose another one too."
            raise BadInput("version.one", message)
        first, last = mixes[0], mixes[-1]
        if sum(1 for one in mixes if self._looking.stems_of(one.id)) > 1:
            message = "Several of them have stems beside them: take away those of all but one first."
            raise Conflict("version.stems", message, mixes=[one.id for one in mixes])
        content = [one for mix in mixes for one in (*self._table.others(mix.id), mix)]
        numbered = [replace(one, id=first.id, version=number) for number, one in enumerate(content, 1)]
        told = self._between(first, last)
        passages = {one.id: (first.id, _passage(one, last, self._between(one, last))) for one in mixes}
        current = replace(self._used(first, last, told), version=len(numbered), version_at=numbered[-1].version_at)
        pile = Pile(current, numbered[:-1], [one.id for one in mixes[1:]], orders=self._orders.carried(passages))
        self._table.set_pile(pile)
        self._told_of(first.id)
        return self._shelf.mix(first.id)

    def back(self, mix_id: int, version: int) -> StoredMix:
        """Puts another version into use. Raises: NotFound ``version.unknown``; Conflict ``version.gone``."""
        mix, others = self._shelf.mix(mix_id), self._table.others(mix_id)
        wanted = _numbered(others, version, mix)
        if not is_there(wanted):
            message = f"The file of version {version} of {mix.title!r} is gone, or holds another version now."
            raise Conflict("version.gone", message, mix=mix_id, version=version)
        told = self._between(mix, wanted)
        current = replace(self._used(mix, wanted, told), version=wanted.version)
        if mix.bench_at == wanted.bench_at:
            # Nobody touched the bench since: what could not be carried to the other version comes back too.
            current = replace(current, bench=wanted.bench)
        rest = [one for one in others if one.version != version]
        self._table.set_pile(Pile(current, [*rest, mix], orders=self._orders_of(mix, wanted, told)))
        self._told_of(mix_id)
        return self._shelf.mix(mix_id)

    def apart(self, mix_id: int, version: int) -> StoredMix:
        """Makes a version a mix of its own again. Raises: NotFound ``version.unknown``; Conflict ``version.only``."""
        mix, others = self._shelf.mix(mix_id), self._table.others(mix_id)
        if not others:
            message = f"{mix.title!r} is the only version on its pile: it is a mix of its own already."
            raise Conflict("version.only", message, mix=mix_id)
        if version != mix.version:
            off = _numbered(others, version, mix)
            pile = Pile(mix, [one for one in others if one is not off], apart=off)
        else:
            last = others[-1]
            told = self._between(mix, last)
            current = replace(self._used(mix, last, told), version=last.version, version_at=last.version_at)
            pile = Pile(current, others[:-1], apart=mix, orders=self._orders_of(mix, last, told))
        number = self._table.set_pile(pile)
        self._told_of(mix_id)
        return self._shelf.mix(number or mix_id)

    def of(self, mix_id: int) -> list[VersionShown]:
        """All versions of a mix, the newest first. Raises: NotFound ``mix.unknown``."""
        mix = self._shelf.mix(mix_id)
        pile = sorted([mix, *self._table.others(mix_id)], key=lambda one: one.version)
        told = [(), *(self._between(one, other).sentences for one, other in pairwise(pile))]
        shown = [VersionShown(one, one is mix, is_there(one), said) for one, said in zip(pile, told, strict=True)]
        return shown[::-1]

    def version(self, mix_id: int, version: int) -> StoredMix:
        """One version of a mix. Raises: NotFound ``mix.unknown`` or ``version.unknown``."""
        mix = self._shelf.mix(mix_id)
        return mix if mix.version == version else _numbered(self._table.others(mix_id), version, mix)

    def pressed_of(self, mix_id: int, content: str) -> StoredMix | None:
        """The version that a pressing was made of, by the sum of its content; the one in use where nothing says."""
        mix = self._table.get(mix_id)
        if mix is None or not content or mix.measures.get("content_sum") == content:
            return mix
        others = self._table.others(mix_id)
        return next((one for one in others if one.measures.get("content_sum") == content), mix)

    def between(self, mix_id: int, other_id: int) -> Differences:
        """What differs in a mix from another one. Raises: NotFound ``mix.unknown``."""
        return self._between(self._shelf.mix(other_id), self._shelf.mix(mix_id))

    def shift_frames(self, earlier: StoredMix, later: StoredMix) -> int:
        """By how many frames later the music lies in one version than in another, at the rate of the later."""
        return self._between(earlier, later).shift_frames

    def suggest(self, mix_id: int) -> None:
        """Looks whether a mix that has come in is called as another one and sounds like it."""
        try:
            root = root_of(self._shelf.mix(mix_id).title)
            for number, title in self._table.titles():
                if number < mix_id and root_of(title) == root and self.between(mix_id, number).related:
                    self._table.set_likely(mix_id, number)
                    return
        except (RipePressError, OSError) as error:
            # A mix is not refused for a suggestion.
            _LOG.warning("not held against its like", mix=mix_id, why=sentence_of(error))

    def on_its_own(self, mix_id: int) -> None:
        """Somebody says that a mix is no version of another."""
        self._shelf.mix(mix_id)
        self._table.set_likely(mix_id, None)
        self._bell.ring("shelf")

    def _read(self, change: Change, done: Future[tasks.ReadIn]) -> None:
        """What was read of a changed file is held against what was known of it."""
        state: Literal["changed", "refused"] = "changed"
        try:
            found = done.result()
            mix = self._shelf.mix(change.mix_id)
            if found.sha256 == mix.sha256:
                # Written again with the same bytes: nothing has changed.
                self._table.set_stamp(mix.id, change.stamp)
                self.settle(mix.id)
                return
            same = self._table.by_hash(found.sha256) or self._table.other_by_hash(found.sha256)
            if same:
                message = f"it holds the same bytes as version {same.version} of {same.title!r} now"
                raise Conflict("shelf.already-there", message, mix=same.id)
            after = _known(new_mix(Path(mix.path), mix.title, False, found), found.survey.loudness)
            sentences = differences(self._known(mix), after).sentences
        except (RipePressError, OSError) as error:
            state, found, sentences = "refused", None, (sentence_of(error),)
        with self._lock:
            if self._changes.get(change.mix_id) is not change:
                # Somebody decided, or the file changed once more, while it was being read.
                change.job.clear()
                return
            change.found, change.sentences, change.state = found, sentences, state
        _LOG.info("file changed", mix=change.mix_id, state=state)
        self._bell.ring("shelf")

    def _known(self, mix: StoredMix) -> Known:
        return _known(mix, self._looking.known(mix).loudness())

    def _between(self, old: StoredMix, new: StoredMix) -> Differences:
        key = (old.sha256, old.downmix, new.sha256, new.downmix)
        return self._told.of(key, lambda: differences(self._known(old), self._known(new)))

    def _used(self, mix: StoredMix, content: NewMix, told: Differences) -> StoredMix:
        """The row of a mix with the content of a version; its bench is carried over, its picture comes along."""
        bench = bench_of(mix.bench)
        if bench.cover:
            target = self._shelf.folder_of(content) / bench.cover
            if not target.exists():
                shutil.copyfile(self._shelf.folder_of(mix) / bench.cover, target)
        number = max(one.version for one in (mix, *self._table.others(mix.id))) + 1
        kept = carried(bench, _passage(mix, content, told))
        values: dict[str, Any] = {name: getattr(content, name) for name in (*_OF_CONTENT, "embedded")}
        return replace(mix, **values, bench=bench_row(kept.bench), version=number, version_at=_now(), likely_of=None)

    def _orders_of(self, mix: StoredMix, content: NewMix, told: Differences) -> dict[int, dict[str, Any]]:
        return self._orders.carried({mix.id: (mix.id, _passage(mix, content, told))})

    def _told_of(self, mix_id: int) -> None:
        self._bell.ring("orders")
        self.settle(mix_id)
        self._bell.ring("shelf")


def is_there(mix: StoredMix) -> bool:
    """Whether the file of a version is still that version."""
    return Path(mix.path).is_file() if mix.owned or not mix.stamp else stamp_of(Path(mix.path)) == mix.stamp


def _known(mix: NewMix, loudness: Any) -> Known:
    return Known(
        mix.frames, mix.rate_hz, mix.channels, depth_label(mix.bit_depth, mix.codec),
        mix.measures["head_silence_frames"], mix.measures["true_peak_dbtp"], loudness,
        mix.measures.get("spectrum") or (), mix.measures.get("content_sum") or "",
    )  # fmt: skip


def _passage(old: NewMix, new: NewMix, told: Differences) -> Passage:
    return Passage(old.frames, old.rate_hz, new.frames, new.rate_hz, told.shift_frames)


def _as_stored(found: NewMix, mix: StoredMix) -> StoredMix:
    return replace(mix, **{name: getattr(found, name) for name in _OF_CONTENT})


def _numbered(others: Sequence[StoredMix], version: int, mix: StoredMix) -> StoredMix:
    found = next((one for one in others if one.version == version), None)
    if found is None:
        message = f"{mix.title!r} has no version {version} that is not in use."
        raise NotFound("version.unknown", message, mix=mix.id, version=version)
    return found


def _drop(change: Change) -> None:
    """Ends the reading of a change, and takes away what was read; its worker ends by itself at the next block."""
    if change.state == "reading":
        change.job.cancel()
    elif change.state in ("changed", "refused"):
        change.job.clear()


def _pyramid(change: Change) -> Path:
    return change.job.path / "pyramid.bin"


def _now() -> str:
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%S.%f")[:-3] + "Z"
