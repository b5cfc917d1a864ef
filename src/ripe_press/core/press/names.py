"""Names on the disk: temporary ones while a file is made, and the final one, which appears with a whole file."""

import errno
import os
import secrets
from glob import escape
from pathlib import Path

from ripe_press.core.errors import BadInput, Conflict, RipePressError
from ripe_press.core.press.order import OrderedFile, PressOrder

UNFINISHED = ".pressing"
"""The ending of a file that has not been given its name yet."""

_NO_LINKS = {errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK}
"""What a file system answers that has no links; FAT gives the first."""


def target_fault(file: OrderedFile, order: PressOrder) -> RipePressError | None:
    """Why a file cannot have its place: Conflict ``press.name-taken``, BadInput ``press.no-folder``."""
    target = Path(file.target)
    if not target.parent.is_dir():
        message = f"There is no folder {str(target.parent)!r}. Make it, or choose another."
        return BadInput("press.no-folder", message, folder=str(target.parent))
    if (target.exists() and not file.replaces) or sum(one.target == file.target for one in order.files) > 1:
        message = f"{target.name!r} is already in {str(target.parent)!r}. Choose another name or folder."
        return Conflict("press.name-taken", message, path=str(target))
    return None


def temporary_beside(target: Path) -> Path:
    """A name for the file while it is made."""
    return target.with_name(f".{target.name}.{secrets.token_hex(4)}{UNFINISHED}")


def sweep(folder: Path) -> None:
    """Removes unfinished files that a killed worker left in a folder nobody is pressing into."""
    for leftover in folder.rglob(f".*{UNFINISHED}"):
        leftover.unlink(missing_ok=True)


def give_name(temporary: Path, target: Path, replaces: bool) -> None:
    """Gives the file its name; another is replaced only when that was said, where the file system can promise that.

    Raises: Conflict ``press.name-taken``; OSError.
    """
    try:
        if replaces:
            temporary.replace(target)
        else:
            os.link(temporary, target)
    except FileExistsError as error:
        message = f"{target.name!r} appeared in {str(target.parent)!r} while it was pressed. Press again."
        raise Conflict("press.name-taken", message, path=str(target)) from error
    except OSError as error:
        if replaces or error.errno not in _NO_LINKS:
            raise
        # File systems without links (memory cards): the name was free when the pressing began.
        temporary.rename(target)
    temporary.unlink(missing_ok=True)
    descriptor = os.open(target.parent, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def sweep_beside(target: Path) -> None:
    """Removes what is unfinished of one file, beside its place; others in that folder may be under way."""
    for leftover in target.parent.glob(f".{escape(target.name)}.*{UNFINISHED}"):
        leftover.unlink(missing_ok=True)
