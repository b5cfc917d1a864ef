"""The record's file: checked before use, copied at each start, and restored if damaged."""

import hashlib
import shutil
from datetime import UTC, datetime
from pathlib import Path

from ripe_press.core.errors import Conflict, NotFound, RipePressError
from ripe_press.core.whole_files import move_whole, sync_folder, whole
from ripe_press.core.words import quoted
from ripe_press.store.db import Database, shipped_migrations
from ripe_press.studio.data_folder import DataFolder, claim
from ripe_press.studio.log import logger

_LOG = logger("record")
COPIES = 3
_BESIDE = ("-wal", "-shm")
_REMEDY = "Run `ripe-press doctor --restore` to put back the last good copy"


def look_at_record(folder: DataFolder) -> None:
    """Whether the record can be used. Raises: Conflict ``store.gone``, ``store.damaged``, ``store.newer``."""
    path, copies = folder.database, copies_of(folder)
    if not path.exists() or path.stat().st_size == 0:
        if copies:
            what = "is empty" if path.exists() else "is missing"
            message = (
                f"The history {quoted(path)} {what}; there is a copy of {_day_of(copies[0])}. {_REMEDY}, "
                f"or delete {quoted(copies[0].parent)} to start empty."
            )
            raise Conflict("store.gone", message, path=str(path))
        return
    problems, newer = Database.problems_of(path, "quick_check"), []
    if not problems:
        database = Database(path)
        newer = sorted(database.applied() - {name for name, _ in shipped_migrations()})
        database.close()
    if problems:
        there = f" ({_day_of(copies[0])})" if copies else ", if there is one"
        message = f"The history {quoted(path)} is damaged: {problems[0]}. {_REMEDY}{there}."
        raise Conflict("store.damaged", message, path=str(path))
    if newer:
        message = (
            f"A newer Ripe Press used this data folder ({newer[-1]}). Use that version or choose another with --data."
        )
        raise Conflict("store.newer", message, path=str(path))


def keep_copy(folder: DataFolder, database: Database) -> bool:
    """Keeps a copy of the record as it is now, where it is whole and another than the newest; whether it did.

    The newest three are kept: a record that was emptied by mistake is found in them after two more starts.
    """
    place = folder.copies
    try:
        place.mkdir(mode=0o700, exist_ok=True)
        new = place / f"record {datetime.now(UTC):%Y-%m-%dT%H%M%S.%f}.sqlite3"
        with whole(new) as made:
            database.copy_to(made)
            problems = Database.problems_of(made)
            if problems:
                raise Conflict("store.damaged", problems[0])
        before = copies_of(folder)[1:]
        if before and _sum(before[0]) == _sum(new):
            new.unlink()
            return False
        for old in before[COPIES - 1 :]:
            old.unlink()
        sync_folder(place)
    except (RipePressError, OSError) as error:
        _LOG.warning("no copy of the record was kept", why=str(error))
        return False
    return True


def restore(folder: DataFolder) -> tuple[Path, Path | None]:
    """Restore the newest intact copy; return it, and the new path of the replaced file.

    Raises: NotFound ``store.no-copy``; Conflict ``data.in-use``; OSError.
    """
    with claim(folder):
        good = next((one for one in copies_of(folder) if not Database.problems_of(one)), None)
        if good is None:
            message = f"No good copy of the history in {quoted(folder.copies)}."
            raise NotFound("store.no-copy", message, path=str(folder.copies))
        path, aside = folder.database, None
        if path.exists():
            aside = path.with_name(f"{path.name}.damaged {datetime.now(UTC):%Y-%m-%dT%H%M%S}")
            for ending in ("", *_BESIDE):
                part = Path(f"{path}{ending}")
                if part.exists():
                    move_whole(part, Path(f"{aside}{ending}"))
        with whole(path) as new:
            shutil.copyfile(good, new)
    return good, aside


def copies_of(folder: DataFolder) -> list[Path]:
    """The copies that there are, newest first."""
    return sorted(folder.copies.glob("record *.sqlite3"), reverse=True) if folder.copies.is_dir() else []


def _day_of(copy: Path) -> str:
    return copy.stem.removeprefix("record ")[:10]


def _sum(path: Path) -> bytes:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").digest()
