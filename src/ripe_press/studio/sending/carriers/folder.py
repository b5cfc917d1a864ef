"""Delivery into a folder: complete or nothing, never overwriting, on any file system."""

import errno
import hashlib
import os
from contextlib import suppress
from pathlib import Path, PurePosixPath
from typing import Any

from ripe_press.core.disk import not_written
from ripe_press.core.errors import BadInput, Conflict, Interrupted, RipePressError
from ripe_press.core.naming import NameStyle, file_name, safe_stem
from ripe_press.core.sending.drop_off import DropOff
from ripe_press.core.sending.parcel import Parcel
from ripe_press.core.units import print_size
from ripe_press.core.whole_files import sync_folder
from ripe_press.core.words import quoted
from ripe_press.studio.sending.carriers.carrier import (
    DropOffState,
    RunningTransfer,
    TransferResult,
    changed,
    file_of,
    later,
)

BLOCK = 1 << 20
_NAME_REFUSED = {errno.EINVAL, errno.EILSEQ, errno.ENAMETOOLONG}
_NO_LINKS = {errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK, errno.EXDEV}
_FOR_NOW = {errno.ENOSPC, errno.EDQUOT, errno.EIO, errno.ESTALE, errno.EBUSY, errno.ENODEV, errno.ETIMEDOUT}
_SHORT = 60
"""Letters of a name for file systems that do not take longer ones."""


class FolderCarrier:
    """Carries files into a folder, below it where its label pattern says so."""

    def __init__(self, drop_off: DropOff) -> None:
        self.drop_off = drop_off

    def carry(self, parcel: Parcel, _kept: dict[str, Any], hand: RunningTransfer) -> TransferResult:
        """Copies a file there and names it when it is whole. An existing file of the same bytes counts as delivered."""
        self.look()
        path = put_into(parcel, self.drop_off.folder, self._name(parcel), hand)
        return lying(path, parcel)

    def ask(self, parcel: Parcel, kept: dict[str, Any]) -> TransferResult:
        """Return whether the file is still there. Raises: Interrupted ``send.lost``, ``send.later``."""
        FolderCarrier.look(self)
        path = Path(kept.get("path") or self.drop_off.folder / self._name(parcel))
        if not is_same(path, parcel):
            raise lost(path)
        return lying(path, parcel)

    def look(self) -> DropOffState:
        """Whether the folder is there and can be written. It is never made: a disk that is not there has none.

        Raises: Interrupted ``send.later``.
        """
        folder = self.drop_off.folder
        if not folder.is_dir():
            message = f"Folder not found: {quoted(folder)}. Connect its disk or create it."
            raise later(message, folder=str(folder))
        if not os.access(folder, os.W_OK | os.X_OK):
            message = f"No permission to write in {quoted(folder)}. Allow it or choose another folder."
            raise later(message, folder=str(folder))
        found = os.statvfs(folder)
        return DropOffState(f"Folder found, {print_size(found.f_bavail * found.f_frsize)} free.")

    def _name(self, parcel: Parcel) -> str:
        pattern = self.drop_off.sub_folder.strip(" /")
        return below(pattern, parcel) if pattern else parcel.name


def lying(path: Path, parcel: Parcel) -> TransferResult:
    """The answer for a file that is in the folder."""
    receipt = {"path": str(path), "sha256": parcel.sha256, "bytes": parcel.bytes}
    return TransferResult("taken", f"Saved to {quoted(path.parent)}.", receipt, kept={"path": str(path)})


def lost(path: Path) -> Interrupted:
    """The error of a file that was there, and is not any more."""
    message = f"{quoted(path.name)} is missing from {quoted(path.parent)}. Sending again."
    return Interrupted("send.lost", message)


def below(pattern: str, parcel: Parcel) -> str:
    """The name of a file in the sub-folders of a label pattern, separated by slashes. Raises: BadInput ``label.…``."""
    folders = file_name(pattern, parcel.fields, NameStyle(), "")
    return str(PurePosixPath(folders, PurePosixPath(parcel.name).name))


def put_into(parcel: Parcel, root: Path, name: str, hand: RunningTransfer, staging: Path | None = None) -> Path:
    """Copies a file to a name below a folder and gives where it lies; it is made in ``staging``, beside its name
    otherwise.

    A name that this file system does not take, found out by trying, is made shorter and plainer. Raises: Interrupted
    ``send.later``; NotFound ``send.gone``, ``send.changed``; Conflict ``send.too-large``; Cancelled; BadInput.
    """
    source, target = file_of(parcel), root / name
    if not target.absolute().is_relative_to(root.absolute()) or ".." in PurePosixPath(name).parts:
        message = f"{quoted(name)} is outside {quoted(root)}."
        raise BadInput("send.outside", message)
    for wanted in (target, root.joinpath(*(_plain(one) for one in PurePosixPath(name).parts))):
        try:
            return _put(parcel, source, wanted, hand, staging)
        except OSError as error:
            if error.errno in _NAME_REFUSED and wanted == target and _plain(target.name) != target.name:
                continue
            raise _told(error, wanted, parcel) from error
    raise AssertionError  # pragma: no cover - the second try returns or raises


def _plain(part: str) -> str:
    stem, dot, suffix = part.rpartition(".")
    short = safe_stem((stem if dot else part).encode("ascii", "ignore").decode())[:_SHORT].strip(" .")
    return f"{short or 'untitled'}{dot}{suffix if dot else ''}"


def _put(parcel: Parcel, source: Path, target: Path, hand: RunningTransfer, staging: Path | None) -> Path:
    target.parent.mkdir(parents=True, exist_ok=True)
    if is_same(target, parcel):
        return target
    # The name is in it: a file system that does not take the name says so before anything is copied.
    part = (staging or target.parent) / f".{target.name}.{parcel.sha256[:8]}.part"
    try:
        _copy(parcel, source, part, hand)
        return _named(part, target, parcel)
    finally:
        with suppress(OSError):
            part.unlink()


def _copy(parcel: Parcel, source: Path, part: Path, hand: RunningTransfer) -> None:
    digest, done = hashlib.sha256(), 0
    with source.open("rb") as reader, part.open("wb") as writer:
        while block := reader.read(BLOCK):
            hand.go_on()
            digest.update(block)
            writer.write(block)
            done += len(block)
            hand.progress(done, parcel.bytes)
        writer.flush()
        os.fsync(writer.fileno())
    if digest.hexdigest() != parcel.sha256:
        raise changed(parcel)


def _named(part: Path, target: Path, parcel: Parcel) -> Path:
    """Give a complete file its name, or the next free one: no existing file is ever removed."""
    for number in range(1, 1_000):
        path = target if number == 1 else target.with_name(f"{target.stem} ({number}){target.suffix}")
        if is_same(path, parcel):
            return path
        if os.path.lexists(path):
            continue
        try:
            os.link(part, path)
        except FileExistsError:
            continue
        except OSError as error:
            if error.errno not in _NO_LINKS:
                raise
            part.rename(path)
        sync_folder(path.parent)
        return path
    message = f"Too many files named {quoted(target.name)} in {quoted(target.parent)}. Choose another folder."
    raise Conflict("send.no-free-name", message)


def is_same(path: Path, parcel: Parcel) -> bool:
    """Return whether a path has the exact bytes of a file to send."""
    try:
        if not path.is_file() or path.stat().st_size != parcel.bytes:
            return False
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest() == parcel.sha256
    except OSError:
        return False


def _told(error: OSError, target: Path, parcel: Parcel) -> RipePressError:
    if error.errno == errno.EFBIG:
        message = (
            f"The disk of {quoted(target.parent)} cannot store a file of {print_size(parcel.bytes)}. Choose another."
        )
        return Conflict("send.too-large", message, bytes=parcel.bytes)
    sentence = not_written(target, error)
    if error.errno in _FOR_NOW or error.errno in (errno.ENOENT, errno.EACCES, errno.EROFS):
        return later(sentence)
    return Conflict("send.not-written", sentence)
