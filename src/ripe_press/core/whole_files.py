"""Files that are there whole or not at all: made beside their place, synced, named, and their folder synced.

After a power cut at any instant there is the old file or the new one, never a part.
"""

import errno
import os
import secrets
import shutil
import socket
import tempfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import cache
from glob import escape
from pathlib import Path

from ripe_press.core.disk import UNFINISHED, write_failed
from ripe_press.core.errors import Conflict
from ripe_press.core.words import quoted

_NO_LINKS = {errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK}
"""What a file system answers that has no links; FAT gives the first."""
_NO_SYNC = {errno.EINVAL, errno.EOPNOTSUPP, errno.EBADF, errno.EACCES}
"""What it answers where a folder cannot be synced at all."""


@cache
def _machine() -> str:
    return f"{zlib.crc32(socket.gethostname().encode()) & 0xFFFF:04x}"


def temporary_beside(target: Path) -> Path:
    """A name for the file while it is made; machine and process are in it, so that a dead one's can be swept."""
    return target.with_name(f".{target.name}.{_machine()}{os.getpid():06x}{secrets.token_hex(2)}{UNFINISHED}")


def sync(path: Path) -> None:
    """Waits until the contents of a file are on the disk. Raises: OSError."""
    with path.open("rb") as file:
        os.fsync(file.fileno())


def sync_folder(folder: Path) -> None:
    """Waits until the names in a folder are on the disk, where its file system can do that. Raises: OSError."""
    try:
        descriptor = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    except PermissionError:
        return
    try:
        os.fsync(descriptor)
    except OSError as error:
        if error.errno not in _NO_SYNC:
            raise
    finally:
        os.close(descriptor)


def give_name(temporary: Path, target: Path, replaces: bool) -> None:
    """Gives a synced file its name; another is replaced only when that was said (on a file system with links).

    Raises: Conflict ``press.name-taken``; OSError.
    """
    if replaces:
        temporary.replace(target)
    else:
        _link(temporary, target)
    temporary.unlink(missing_ok=True)
    sync_folder(target.parent)


def _link(temporary: Path, target: Path) -> None:
    """Gives a file a second name that nothing has yet."""
    try:
        os.link(temporary, target)
    except FileExistsError as error:
        message = f"{quoted(target.name)} was created in {quoted(target.parent)} by another program. Press again."
        raise Conflict("press.name-taken", message, path=str(target)) from error
    except OSError as error:
        if error.errno not in _NO_LINKS:
            raise
        # File systems without links (memory cards): the name was free when the pressing began.
        temporary.rename(target)


@contextmanager
def whole(target: Path, *, replaces: bool = True) -> Iterator[Path]:
    """A path to write a file to, which gets its name, synced, when the block ends well.

    Raises: Interrupted ``write.failed``; Conflict as `give_name`.
    """
    temporary = temporary_beside(target)
    try:
        yield temporary
        sync(temporary)
        give_name(temporary, target, replaces)
    except OSError as error:
        raise write_failed(target, error) from error
    finally:
        with suppress(OSError):
            temporary.unlink(missing_ok=True)


def write_whole(path: Path, data: bytes | str, mode: int = 0o666) -> None:
    """A small file, text as UTF-8; an earlier file is replaced. Raises: Interrupted ``write.failed``."""
    with whole(path) as new:
        descriptor = os.open(new, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW, mode)
        with os.fdopen(descriptor, "wb") as file:
            file.write(data.encode() if isinstance(data, str) else data)


def move_whole(source: Path, target: Path) -> None:
    """Moves a file on its disk to its final name. Raises: OSError."""
    sync(source)
    source.replace(target)
    sync_folder(target.parent)


def temporary_prefix(what: str, folder: Path | None = None) -> str:
    """How a temporary folder begins; machine and process are in it. What dead processes left there is swept first."""
    place = folder or Path(tempfile.gettempdir())
    hidden = "." if folder else ""
    for leftover in place.glob(f"{hidden}ripe-press-*-{_machine()}??????-*"):
        with suppress(ValueError, OSError):
            if not _is_alive(int(leftover.name.rpartition("-")[0][-6:], 16)):
                shutil.rmtree(leftover, ignore_errors=True)
    return f"{hidden}ripe-press-{what}-{_machine()}{os.getpid():06x}-"


@contextmanager
def whole_set(folder: Path, name: str, last: str) -> Iterator[Path]:
    """A folder to make several files in, which get their names beside each other: all of them, or none.

    The file that ends in ``last`` is named last: where it is, the others are. What a process that died had named by
    then is taken back by `sweep_dead`. Raises: Interrupted ``write.failed``; Conflict as `give_name`.
    """
    aside = temporary_beside(folder / name)
    named: list[Path] = []
    try:
        aside.mkdir()
        yield aside
        files = sorted(aside.iterdir(), key=lambda one: one.name.endswith(last))
        for one in files:
            sync(one)
        sync_folder(aside)
        for one in files:
            # Both names stay until all are there: by the one aside, what a killed process named is taken back.
            _link(one, folder / one.name)
            named.append(folder / one.name)
        sync_folder(folder)
        named.clear()
    except OSError as error:
        raise write_failed(folder / name, error) from error
    finally:
        with suppress(OSError):
            for one in reversed(named):
                one.unlink(missing_ok=True)
            shutil.rmtree(aside, ignore_errors=True)


def sweep(folder: Path) -> None:
    """Removes unfinished files of killed workers from a folder that no process is pressing into."""
    for leftover in folder.rglob(f".*{UNFINISHED}"):
        _take_back(leftover)


def sweep_dead(folder: Path) -> None:
    """Removes what processes of this machine that are gone left unfinished in a folder; others go on."""
    for leftover in folder.glob(f".*.{_machine()}*{UNFINISHED}"):
        process = leftover.name.removesuffix(UNFINISHED).rpartition(".")[2][4:10]
        with suppress(ValueError, OSError):
            if not _is_alive(int(process, 16)):
                _take_back(leftover)


def _take_back(leftover: Path) -> None:
    if not leftover.is_dir():
        leftover.unlink(missing_ok=True)
        return
    pairs = [(one, leftover.parent / one.name) for one in leftover.iterdir()]
    # The very same file by two names, and not another that was called so since.
    named = [there for one, there in pairs if there.exists() and there.samefile(one)]
    if len(named) < len(pairs):
        for there in named:
            there.unlink()
    shutil.rmtree(leftover, ignore_errors=True)


def _is_alive(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


def sweep_beside(target: Path) -> None:
    """Removes the unfinished versions of one file; other files of that folder stay."""
    for leftover in target.parent.glob(f".{escape(target.name)}.*{UNFINISHED}"):
        leftover.unlink(missing_ok=True)
