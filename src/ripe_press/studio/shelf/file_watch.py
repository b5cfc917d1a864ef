"""Watches the files of mixes outside the data folder: a file saved again is offered as the next version."""

from datetime import UTC, datetime
from pathlib import Path

from ripe_press.store.mixes import Mixes, Watched
from ripe_press.studio.jobs import Watch
from ripe_press.studio.shelf.file_changes import FileChanges
from ripe_press.studio.shelf.mix_row import stamp_of

EVERY_S = 2.0
_SHARE = 20
"""It rests so many times as long as looking takes: a slow network drive is not kept busy."""


class ShelfWatch(Watch):
    """One thread that looks at sizes and times. A file that is still being written is left until it rests."""

    def __init__(self, table: Mixes, changes: FileChanges, every_s: float = EVERY_S) -> None:
        super().__init__("shelf watch", every_s, _SHARE)
        self._table, self._changes = table, changes
        self._seen: dict[int, str] = {}

    def look(self) -> None:
        """Looks at every file once."""
        watched = self._table.watched()
        known = {one.mix_id: one for one in self._changes.all()}
        for one in watched:
            self._look_at(one, one.id in known)
        for mix_id in known.keys() - {one.id for one in watched}:
            self._changes.settle(mix_id)

    def _look_at(self, mix: Watched, known: bool) -> None:
        stamp = stamp_of(Path(mix.came_from))
        rests, self._seen[mix.id] = self._seen.get(mix.id) == stamp, stamp
        if not stamp and mix.path != mix.came_from:
            # The original is deleted; our copy of it is enough.
            self._changes.settle(mix.id)
        elif not stamp:
            self._changes.gone(mix.id)
        elif stamp == mix.stamp:
            if known:
                self._changes.settle(mix.id)
        elif not mix.stamp and _older(Path(mix.came_from), mix.added_at):
            # Added before sizes and times were recorded, and not changed since.
            self._table.set_stamp(mix.id, stamp)
        elif rests:
            self._changes.notice(mix.id)


def _older(path: Path, added_at: str) -> bool:
    return path.stat().st_mtime < datetime.strptime(added_at, "%Y-%m-%dT%H:%M:%SZ").replace(tzinfo=UTC).timestamp()
