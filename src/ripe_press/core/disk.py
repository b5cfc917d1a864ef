"""What a disk refuses, in words: what could not be written, why, and what to do."""

import errno
import os
from pathlib import Path

from ripe_press.core.errors import Interrupted
from ripe_press.core.words import quoted

UNFINISHED = ".pressing"
"""The ending of a file that has not been given its name yet."""
_FULL = {errno.ENOSPC, errno.EDQUOT}
_FORBIDDEN = {errno.EACCES, errno.EPERM}
_NO_ROOM_BYTES = 65_536


def final_of(path: Path) -> Path:
    """The path with final names in place of temporary ones, which no sentence may show."""
    return Path(*(one[1:].rsplit(".", 2)[0] if one.endswith(UNFINISHED) else one for one in path.parts))


def not_written(path: Path, error: Exception) -> str:
    """One sentence and its remedy. An error without a system error number is checked for obvious causes: folder
    missing, no permission, read-only.
    """
    if path.parent.name.endswith(UNFINISHED):
        # One of several that are made together, beside the folder that they go to.
        path = path.parent.with_name(path.name)
    path = final_of(path)
    why, remedy = _why(path.parent, error)
    return f"{quoted(path.name)} could not be written: {why}. {remedy}"


def write_failed(path: Path, error: Exception) -> Interrupted:
    """The error for a disk that refuses: full, gone, or the file is there already."""
    return Interrupted("write.failed", not_written(path, error), path=str(final_of(path)))


def _why(folder: Path, error: Exception) -> tuple[str, str]:
    number = getattr(error, "errno", None)
    if number in _FULL or (number is None and _is_full(folder)):
        return "the disk is full", "Free some space and try again."
    if not folder.is_dir():
        return "the folder is missing", f"Create {quoted(folder)} or choose another folder."
    if number in _FORBIDDEN:
        return f"no permission to write in {quoted(folder)}", "Allow it or choose another folder."
    if number == errno.EROFS:
        return f"{quoted(folder)} is read-only", "Choose another folder."
    said = getattr(error, "strerror", "") or getattr(error, "error_string", "") or error
    return str(said).rstrip(". "), "Check the disk and try again."


def _is_full(folder: Path) -> bool:
    try:
        found = os.statvfs(folder)
    except OSError:
        return False
    return found.f_bavail * found.f_frsize < _NO_ROOM_BYTES
