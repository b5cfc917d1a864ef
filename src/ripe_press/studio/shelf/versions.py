"""Versions of mixes: changes on disk, differences, and grouping.

All versions of a mix share its number: ranges, ticket, running orders and the record stay with it when another version
is selected. Measurements belong to a version, in a folder named by its content.
"""

import shutil
import threading
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from datetime import UTC, datetime
from functools import wraps
from itertools import pairwise
from pathlib import Path
from typing import Any, Concatenate, ParamSpec, TypeVar

from ripe_press.core.errors import BadInput, Conflict, NotFound, RipePressError
from ripe_press.core.requests.document import bench_of, bench_row
from ripe_press.core.versions.carried import FrameMapping, carried
from ripe_press.core.versions.differences import Differences, VersionFacts, differences
from ripe_press.core.versions.names import root_of
from ripe_press.core.words import quoted
from ripe_press.store.mixes import Mixes, NewMix, Pile, StoredMix
from ripe_press.studio.error_text import sentence_of
from ripe_press.studio.jobs import Events, WorkerPool
from ripe_press.studio.log import logger
from ripe_press.studio.planning import AnswerCache
from ripe_press.studio.shelf.file_changes import PYRAMID, FileChanges, being_read, known_of, passage_of
from ripe_press.studio.shelf.mix_row import keep_folder, stamp_of
from ripe_press.studio.shelf.mix_views import MixViews
from ripe_press.studio.shelf.shelf import Shelf

_LOG = logger("versions")
_OF_CONTENT = tuple(one.name for one in fields(NewMix) if one.name not in ("bench", "embedded"))


Carried = Callable[[Mapping[int, tuple[int, FrameMapping]]], dict[int, dict[str, Any]]]
"""Orders with entries of changed mixes, by number, carried over to the new versions."""


@dataclass(frozen=True, slots=True)
class VersionInUse:
    """A mix once another version of it is in use, and in sentences what of its bench could not be carried over."""

    mix: StoredMix
    lost: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class VersionShown:
    """A version of a mix; ``sentences`` are the differences from the previous one."""

    mix: StoredMix
    in_use: bool
    there: bool
    """Whether its file can still be heard and pressed."""
    sentences: tuple[str, ...]


P = ParamSpec("P")
T = TypeVar("T")


def _in_turn(method: "Callable[Concatenate[Versions, P], T]") -> "Callable[Concatenate[Versions, P], T]":
    """Run changes of versions one after another."""

    @wraps(method)
    def waits(self: "Versions", /, *args: P.args, **named: P.kwargs) -> T:
        with self._turn:
            return method(self, *args, **named)

    return waits


class Versions:
    """Everything that is done with versions; ``changes`` wait for the user's decision."""

    def __init__(
        self, shelf: Shelf, table: Mixes, mix_views: MixViews, orders: Carried, heavy: WorkerPool, events: Events
    ) -> None:
        self._shelf, self._table, self._mix_views, self._orders = shelf, table, mix_views, orders
        self.changes = FileChanges(shelf, table, mix_views, heavy, events)
        self._events = events
        self._told = AnswerCache()
        # The versions of a mix are read, changed and written as a whole: one change at a time.
        self._turn = threading.RLock()

    @_in_turn
    def take(self, mix_id: int) -> VersionInUse:
        """Puts the file as it is now into use, as a new version; everything on the bench is carried over.

        Raises: Conflict ``version.none``, ``version.changed-again`` or ``shelf.already-there``; Interrupted
        ``shelf.not-kept``.
        """
        mix = self._shelf.mix(mix_id)
        change, found, job = self.changes.take_up(mix)
        path = Path(mix.came_from)
        try:
            if stamp_of(path) != change.stamp:
                raise being_read(mix)
            # A mix with the same bytes may have been added since: its stored data is not touched.
            self.changes.refuse_known(found.sha256)
            kept = keep_folder(self._shelf.folder_of, path, mix.title, False, found, job.path / PYRAMID)
            content = replace(kept, stamp=change.stamp)
            current, lost = self._used(mix, content, change.differences)
            others = [*self._table.others(mix_id), mix]
            self._table.set_pile(Pile(current, others, orders=self._orders_of(mix, content, change.differences)))
        finally:
            # The analysis is used up in any case: if the file still differs, it is read again.
            self.changes.settle(mix_id)
            self.changes.notice(mix_id)
        _LOG.info("new version", mix=mix_id, version=current.version, lost=lost)
        self._events.publish("orders")
        return VersionInUse(self._shelf.mix(mix_id), lost)

    @_in_turn
    def pile_up(self, mix_ids: Sequence[int]) -> VersionInUse:
        """Group mixes as versions of one, in the order they were added; the last one is selected.

        Ranges, ticket and tags are those of the first. Raises: BadInput ``version.one``; Conflict ``version.stems``.
        """
        mixes = [self._shelf.mix(one) for one in sorted(set(mix_ids))]
        if len(mixes) < 2:
            message = "Select at least two mixes."
            raise BadInput("version.one", message)
        first, last = mixes[0], mixes[-1]
        if sum(1 for one in mixes if self._mix_views.stems_of(one.id)) > 1:
            message = "Several of them have stems. Remove the stems of all but one first."
            raise Conflict("version.stems", message, mixes=[one.id for one in mixes])
        content = [one for mix in mixes for one in (*self._table.others(mix.id), mix)]
        numbered = [replace(one, id=first.id, version=number) for number, one in enumerate(content, 1)]
        differences = self._between(first, last)
        passages = {one.id: (first.id, passage_of(one, last, self._between(one, last))) for one in mixes}
        used, lost = self._used(first, last, differences)
        current = replace(used, version=len(numbered), version_at=numbered[-1].version_at)
        pile = Pile(current, numbered[:-1], [one.id for one in mixes[1:]], orders=self._orders(passages))
        self._table.set_pile(pile)
        self._told_of(first.id)
        return VersionInUse(self._shelf.mix(first.id), lost)

    @_in_turn
    def back(self, mix_id: int, version: int) -> VersionInUse:
        """Puts another version into use. Raises: NotFound ``version.unknown``; Conflict ``version.gone``."""
        mix, others = self._shelf.mix(mix_id), self._table.others(mix_id)
        wanted = _numbered(others, version, mix)
        _refuse_gone(wanted)
        differences = self._between(mix, wanted)
        used, lost = self._used(mix, wanted, differences)
        current = _seen(replace(used, version=wanted.version), mix)
        if mix.bench_at == wanted.bench_at:
            # The bench has not changed since: parts that could not be transferred to the other version are restored.
            current, lost = replace(current, bench=wanted.bench), ()
        rest = [one for one in others if one.version != version]
        self._table.set_pile(Pile(current, [*rest, mix], orders=self._orders_of(mix, wanted, differences)))
        self._told_of(mix_id)
        return VersionInUse(self._shelf.mix(mix_id), lost)

    @_in_turn
    def apart(self, mix_id: int, version: int) -> VersionInUse:
        """Makes a version a mix of its own again; where it was in use, the newest other whose file is there is.

        Raises: NotFound ``version.unknown``; Conflict ``version.only`` or ``version.gone``.
        """
        mix, others = self._shelf.mix(mix_id), self._table.others(mix_id)
        lost: tuple[str, ...] = ()
        if not others:
            message = f"{quoted(mix.title)} is the only version of its mix."
            raise Conflict("version.only", message, mix=mix_id)
        if version != mix.version:
            off = _numbered(others, version, mix)
            _refuse_gone(off)
            pile = Pile(mix, [one for one in others if one is not off], apart=_on_its_own(off))
        else:
            heir = next((one for one in reversed(others) if is_there(one)), others[-1])
            _refuse_gone(heir)
            differences = self._between(mix, heir)
            used, lost = self._used(mix, heir, differences)
            current = _seen(replace(used, version=heir.version, version_at=heir.version_at), mix)
            rest = [one for one in others if one is not heir]
            pile = Pile(current, rest, apart=_on_its_own(mix), orders=self._orders_of(mix, heir, differences))
        number = self._table.set_pile(pile)
        self._told_of(mix_id)
        return VersionInUse(self._shelf.mix(number or mix_id), lost)

    def of(self, mix_id: int) -> list[VersionShown]:
        """All versions of a mix, the newest first. Raises: NotFound ``mix.unknown``."""
        mix = self._shelf.mix(mix_id)
        pile = sorted([mix, *self._table.others(mix_id)], key=lambda one: one.version)
        differences = [(), *(self._between(one, other).sentences for one, other in pairwise(pile))]
        shown = [
            VersionShown(one, one is mix, is_there(one), said) for one, said in zip(pile, differences, strict=True)
        ]
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
        """Differences of a mix from another one. Raises: NotFound ``mix.unknown``."""
        return self._between(self._shelf.mix(other_id), self._shelf.mix(mix_id))

    def shift_frames(self, earlier: StoredMix, later: StoredMix) -> int:
        """The lag of the music in one version relative to another, in frames at the rate of the later."""
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
            _LOG.warning("not compared with similar mixes", mix=mix_id, why=sentence_of(error))

    def on_its_own(self, mix_id: int) -> None:
        """The user separates a version from its mix."""
        self._shelf.mix(mix_id)
        self._table.set_likely(mix_id, None)
        self._events.publish("shelf")

    def _known(self, mix: StoredMix) -> VersionFacts:
        return known_of(mix, self._mix_views.known(mix).loudness())

    def _between(self, old: StoredMix, new: StoredMix) -> Differences:
        key = (old.sha256, old.downmix, new.sha256, new.downmix)
        return self._told.of(key, lambda: differences(self._known(old), self._known(new)))

    def _used(self, mix: StoredMix, content: NewMix, differences: Differences) -> tuple[StoredMix, tuple[str, ...]]:
        """The row of a mix with the content of a version, and what could not be carried; its picture comes along."""
        bench = bench_of(mix.bench)
        if bench.cover:
            target = self._shelf.folder_of(content) / bench.cover
            if not target.exists():
                shutil.copyfile(self._shelf.folder_of(mix) / bench.cover, target)
        number = max(one.version for one in (mix, *self._table.others(mix.id))) + 1
        kept = carried(bench, passage_of(mix, content, differences))
        values: dict[str, Any] = {name: getattr(content, name) for name in (*_OF_CONTENT, "embedded")}
        row = replace(mix, **values, bench=bench_row(kept.bench), version=number, version_at=_now(), likely_of=None)
        return row, kept.lost

    def _orders_of(self, mix: StoredMix, content: NewMix, differences: Differences) -> dict[int, dict[str, Any]]:
        return self._orders({mix.id: (mix.id, passage_of(mix, content, differences))})

    def _told_of(self, mix_id: int) -> None:
        self._events.publish("orders")
        self.changes.settle(mix_id)
        self._events.publish("shelf")


def _seen(mix: StoredMix, before: StoredMix) -> StoredMix:
    """A version that comes into use again while its file has gone on: only what changes from now on is offered."""
    return replace(mix, stamp=before.stamp) if mix.owned and mix.came_from == before.came_from else mix


def _on_its_own(mix: StoredMix) -> StoredMix:
    """A version separated from its mix; the original of a copied file stays with the mix."""
    return replace(mix, came_from="") if mix.owned else mix


def is_there(mix: StoredMix) -> bool:
    """Whether the file of a version is still that version."""
    return Path(mix.path).is_file() if mix.owned or not mix.stamp else stamp_of(Path(mix.path)) == mix.stamp


def _refuse_gone(version: StoredMix) -> None:
    if not is_there(version):
        message = f"The file of version {version.version} of {quoted(version.title)} is missing or overwritten."
        raise Conflict("version.gone", message, mix=version.id, version=version.version)


def _numbered(others: Sequence[StoredMix], version: int, mix: StoredMix) -> StoredMix:
    found = next((one for one in others if one.version == version), None)
    if found is None:
        message = f"{quoted(mix.title)} has no other version {version}."
        raise NotFound("version.unknown", message, mix=mix.id, version=version)
    return found


def _now() -> str:
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%S.%f")[:-3] + "Z"
