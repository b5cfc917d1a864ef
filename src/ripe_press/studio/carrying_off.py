"""Everything that one has made, as one file: out of a data folder, and into another.

Briefs, label patterns, benches with their ranges, tags and tickets, running orders, drop-offs without their secrets,
and the whole record; with each mix what was measured of it and its picture, and no sound.
"""

import json
import shutil
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import asdict
from datetime import UTC, datetime
from importlib.metadata import version
from pathlib import Path, PurePosixPath
from typing import Any

from ripe_press.core.disk import write_failed
from ripe_press.core.errors import BadInput, Conflict, NotFound
from ripe_press.core.whole_files import whole
from ripe_press.store.db import Database
from ripe_press.store.merging import Merging
from ripe_press.studio.data_folder import DataFolder, claim

LABEL, RECORD = "ripe-press-export.json", "record.sqlite3"
FORM = "ripe-press-export"
_KEPT = ("pyramid.bin", "loudness.npz", "clipping.json")
_ENDINGS = (".npy",)
_PICTURES = "cover-"
MOST_BYTES = 64 << 30
"""More than all that was ever measured of anybody's mixes."""


def carry_off(folder: DataFolder, target: Path) -> dict[str, Any]:
    """Writes everything into a file, which gets its name when it is whole; while the application works, too.

    Raises: NotFound ``export.nothing`` where there is no record; Interrupted ``write.failed``.
    """
    if not folder.database.is_file():
        message = f"There is nothing in {str(folder.root)!r} yet. Name another data folder with --data."
        raise NotFound("export.nothing", message, path=str(folder.root))
    try:
        with whole(target) as new, tempfile.TemporaryDirectory(prefix="ripe-press-export-") as place:
            copy = Path(place) / RECORD
            database = Database(folder.database)
            # As it is: whoever takes it in brings it up to date.
            database.copy_to(copy)
            database.close()
            with zipfile.ZipFile(new, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as file:
                label = {
                    "form": FORM,
                    "version": 1,
                    "program": version("ripe-press"),
                    "made_at": datetime.now(UTC).isoformat(),
                }
                file.writestr(LABEL, json.dumps(label))
                file.write(copy, RECORD)
                count = 0
                for path in _beside(folder):
                    file.write(path, path.relative_to(folder.root).as_posix())
                    count += 1
    except OSError as error:
        raise write_failed(target, error) from error
    return {"path": str(target), "bytes": target.stat().st_size, "files": count}


def carry_in(folder: DataFolder, source: Path) -> dict[str, Any]:
    """Takes everything in a file over into a data folder; nothing that is there is written over.

    Raises: NotFound ``import.missing``; BadInput ``import.unreadable``; Conflict ``data.in-use``.
    """
    if not source.is_file():
        message = f"There is no file at {str(source)!r}. Check the path and its spelling."
        raise NotFound("import.missing", message, path=str(source))
    with claim(folder), tempfile.TemporaryDirectory(prefix="ripe-press-import-") as place:
        folder.prepare()
        copy = Path(place) / RECORD
        _take_out(source, copy)
        other, database = _record_in(source, copy), Database(folder.database)
        try:
            database.migrate()
            # What belongs to a mix lies there before the mix does.
            with zipfile.ZipFile(source) as file:
                _unpack(file, folder)
            found = Merging(database, folder.mixes).take(other)
        except OSError as error:
            raise write_failed(folder.root, error) from error
        finally:
            other.close()
            database.close()
    return asdict(found)


def _beside(folder: DataFolder) -> Iterator[Path]:
    """What belongs to mixes and to the record, but no sound."""
    for path in sorted(folder.mixes.glob("*/*")):
        if path.name in _KEPT or path.suffix in _ENDINGS or path.name.startswith(_PICTURES):
            yield path
    yield from (one for one in sorted(folder.covers.glob("*")) if one.is_file())


def _unreadable(source: Path) -> BadInput:
    message = f"{source.name!r} is no export of Ripe Press, or is damaged. Export it once more."
    return BadInput("import.unreadable", message, path=str(source))


def _take_out(source: Path, record: Path) -> None:
    """Takes the record out of an export, once every byte of all of it was read. Raises: BadInput; Interrupted."""
    try:
        with zipfile.ZipFile(source) as file:
            label = json.loads(file.read(LABEL))
            size = sum(one.file_size for one in file.infolist())
            if label.get("form") != FORM or size > MOST_BYTES or file.testzip():
                raise _unreadable(source)
            file.getinfo(RECORD)
    except (zipfile.BadZipFile, zlib.error, KeyError, ValueError, OSError, EOFError, AttributeError) as error:
        raise _unreadable(source) from error
    try:
        with zipfile.ZipFile(source) as file, file.open(RECORD) as data, record.open("wb") as out:
            shutil.copyfileobj(data, out)
    except OSError as error:
        raise write_failed(record, error) from error


def _record_in(source: Path, record: Path) -> Database:
    try:
        found = Database(record)
        found.migrate()
    except Conflict as error:
        raise _unreadable(source) from error
    return found


def _unpack(file: zipfile.ZipFile, folder: DataFolder) -> None:
    """What lies beside the record, where nothing of that name is there; names that lead elsewhere are left out."""
    for one in file.infolist():
        parts = PurePosixPath(one.filename).parts
        inside = (parts[:1] == ("mixes",) and len(parts) == 3) or (parts[:1] == ("covers",) and len(parts) == 2)
        if not inside or any(part in ("..", ".") or part.startswith("/") for part in parts):
            continue
        target = folder.root.joinpath(*parts)
        if target.exists():
            continue
        target.parent.mkdir(parents=True, exist_ok=True)
        with whole(target) as new, file.open(one) as packed, new.open("wb") as out:
            shutil.copyfileobj(packed, out)
