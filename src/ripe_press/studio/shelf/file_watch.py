"""Watches the files of mixes outside the data folder: a file saved again is offered as the next version."""

import threading
import time
from datetime import UTC, datetime
from pathlib import Path

from ripe_press.core.errors import RipePressError
from ripe_press.store.mixes import Mixes, Watched
from ripe_press.studio.log import logger
from ripe_press.studio.shelf.file_changes import FileChanges
from ripe_press.studio.shelf.mix_row import stamp_of

_LOG = logger("shelf")
EVERY_S = 2.0
_SHARE = 20
"""It rests so many times as long as looking takes: a slow network drive is not kept busy."""


class ShelfWatch:
    """One thread that looks at sizes and times. A file that is still being written is left until it rests."""

    def __init__(self, table: Mixes, changes: FileChanges, every_s: float = EVERY_S) -> None:
        self._table, self._changes, self.every_s = table, changes, every_s
        self._seen: dict[int, str] = {}
        self._ending = threading.Event()
        self._thread = threading.Thread(target=self._run, name="shelf watch", daemon=True)

    def start(self) -> None:
        """Begins to look."""
        self._thread.start()

    def close(self) -> None:
        """Stop watching; changes are found again at the next start."""
        self._ending.set()
        if self._thread.is_alive():
            self._thread.join(self.every_s + 1)

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

    def _run(self) -> None:
        rest = self.every_s
        while not self._ending.wait(rest):
            began = time.monotonic()
            try:
                self.look()
            except (RipePressError, OSError) as error:
                # The mix was removed in between; the next round sees the new state.
                _LOG.warning("shelf not looked after", why=str(error))
            rest = max(self.every_s, _SHARE * (time.monotonic() - began))


def _older(path: Path, added_at: str) -> bool:
    return path.stat().st_mtime < datetime.strptime(added_at, "%Y-%m-%dT%H:%M:%SZ").replace(tzinfo=UTC).timestamp()
