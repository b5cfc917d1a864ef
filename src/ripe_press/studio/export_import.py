"""Export of all data except audio as one file, and its import into another data folder.

Briefs, label patterns, benches with their ranges, tags and tickets, running orders, drop-offs without their secrets,
and the whole history; for each mix its measurements and its picture, without audio.
"""

import errno
import json
import shutil
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import asdict
from datetime import UTC, datetime
from importlib.metadata import version
from pathlib import Path, PurePosixPath
from typing import Any

from ripe_press.core.disk import write_failed
from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.whole_files import sweep_dead, temporary_prefix, whole
from ripe_press.core.words import quoted
from ripe_press.store.db import Database
from ripe_press.store.imports.foreign import foreign_record
from ripe_press.store.imports.merging import Merging
from ripe_press.studio.data_folder import DataFolder, claim
from ripe_press.studio.planning import bring_up_to_date, upgrade_tickets

LABEL, RECORD = "ripe-press-export.json", "record.sqlite3"
FORM = "ripe-press-export"
_KEPT = ("pyramid.bin", "loudness.npz", "clipping.json")
_ENDINGS = (".npy",)
_PICTURES = "cover-"
VERSION = 1
MOST_BYTES = 64 << 30
"""More than the measurements of any number of mixes."""
_MOST_LABEL, _MOST_RECORD, _MOST_FILE, _MOST_FILES = 1 << 16, 8 << 30, 4 << 30, 1_000_000
_MOST_PACKED = 1_100
"""So many times smaller than itself a file can be packed at most: deflate reaches 1,032."""


def carry_off(folder: DataFolder, target: Path) -> dict[str, Any]:
    """Writes everything into a file, which gets its name when it is whole; while the application works, too.

    Raises: NotFound ``export.nothing`` without a history; Interrupted ``write.failed``.
    """
    if not folder.database.is_file():
        message = f"No data in {quoted(folder.root)}. Choose another data folder with --data."
        raise NotFound("export.nothing", message, path=str(folder.root))
    sweep_dead(target.absolute().parent)
    try:
        with whole(target) as new, tempfile.TemporaryDirectory(prefix=temporary_prefix("export")) as place:
            copy = Path(place) / RECORD
            database = Database(folder.database)
            # Copied unchanged: the import upgrades it.
            database.copy_to(copy)
            database.close()
            with zipfile.ZipFile(new, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as file:
                label = {
                    "form": FORM,
                    "version": VERSION,
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

    Raises: NotFound ``import.missing``; BadInput ``import.unreadable``, ``import.newer``; Conflict ``data.in-use``.
    """
    if not source.is_file():
        message = f"File not found: {quoted(source)}. Check the path."
        raise NotFound("import.missing", message, path=str(source))
    unpacked: list[Path] = []
    with claim(folder), tempfile.TemporaryDirectory(prefix=temporary_prefix("import")) as place:
        folder.prepare()
        copy = Path(place) / RECORD
        _take_out(source, copy)
        with foreign_record(copy) as other:
            database = Database(folder.database)
            try:
                bring_up_to_date(database)
                # The files of a mix are stored before the mix.
                with zipfile.ZipFile(source) as file:
                    _unpack(file, folder, unpacked)
                found = Merging(database, folder.mixes).take(other)
                upgrade_tickets(database)
            except BaseException as error:
                _clear(unpacked)
                if isinstance(error, OSError):
                    raise write_failed(folder.root, error) from error
                raise
            finally:
                database.close()
    return asdict(found)


def _clear(unpacked: list[Path]) -> None:
    """Removes unpacked files after a failed import, and folders that are empty then."""
    for path in unpacked:
        path.unlink(missing_ok=True)
        with suppress(OSError):
            path.parent.rmdir()


def _beside(folder: DataFolder) -> Iterator[Path]:
    """What belongs to mixes and to the record, but no sound."""
    for path in sorted(folder.mixes.glob("*/*")):
        if path.name in _KEPT or path.suffix in _ENDINGS or path.name.startswith(_PICTURES):
            yield path
    yield from (one for one in sorted(folder.covers.glob("*")) if one.is_file())


def _unreadable(source: Path, why: str) -> BadInput:
    message = f"{quoted(source.name)} is not a Ripe Press export, or is damaged: {why}. Export it again."
    return BadInput("import.unreadable", message, path=str(source))


def _take_out(source: Path, record: Path) -> None:
    """Takes the record out of an export, once every byte of all of it was read. Sizes are looked at before anything is.

    Raises: BadInput ``import.unreadable``, ``import.newer``; Interrupted.
    """
    try:
        with zipfile.ZipFile(source) as file:
            _check_sizes(source, file)
            label = json.loads(file.read(LABEL))
            if label.get("form") != FORM:
                raise _unreadable(source, "wrong label")
            if label.get("version") != VERSION:
                message = f"{quoted(source.name)} is from a newer Ripe Press. Update this one, then import it."
                raise BadInput("import.newer", message, path=str(source))
            if (broken := file.testzip()) is not None:
                raise _unreadable(source, f"{quoted(broken)} in it is damaged")
    except (zipfile.BadZipFile, zlib.error, KeyError, ValueError, OSError, EOFError, AttributeError) as error:
        raise _unreadable(source, str(error) or type(error).__name__) from error
    except (RecursionError, NotImplementedError, RuntimeError) as error:
        raise _unreadable(source, "unknown compression") from error
    try:
        with zipfile.ZipFile(source) as file, file.open(RECORD) as data, record.open("wb") as out:
            shutil.copyfileobj(data, out)
    except OSError as error:
        raise write_failed(record, error) from error


def _check_sizes(source: Path, file: zipfile.ZipFile) -> None:
    members = file.infolist()
    if len(members) > _MOST_FILES or len({one.filename for one in members}) < len(members):
        raise _unreadable(source, "too many or duplicate files")
    most = {LABEL: _MOST_LABEL, RECORD: _MOST_RECORD}
    for one in members:
        packed = one.file_size > 1 << 20 and one.file_size > _MOST_PACKED * max(1, one.compress_size)
        if one.file_size > most.get(one.filename, _MOST_FILE) or packed:
            raise _unreadable(source, f"{quoted(one.filename[:80])} is too large")
    if sum(one.file_size for one in members) > MOST_BYTES:
        raise _unreadable(source, "too large in total")
    if (free := shutil.disk_usage(tempfile.gettempdir()).free) < file.getinfo(RECORD).file_size:
        raise OSError(errno.ENOSPC, f"{free} bytes free")


def _unpack(file: zipfile.ZipFile, folder: DataFolder, unpacked: list[Path]) -> None:
    """Unpack the files next to the record whose names are free; names with a path to elsewhere are omitted.

    Each created file is added to ``unpacked``, in order.
    """
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
        unpacked.append(target)
