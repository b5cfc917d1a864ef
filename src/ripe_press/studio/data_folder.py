"""The data folder: given by an option, by RIPE_PRESS_DATA, or the user's."""

import fcntl
import os
import shutil
import stat
from dataclasses import dataclass
from pathlib import Path
from typing import TextIO

from platformdirs import user_data_path

from ripe_press.core.errors import Conflict
from ripe_press.core.whole_files import sync_folder
from ripe_press.core.words import quoted

VARIABLE = "RIPE_PRESS_DATA"


@dataclass(frozen=True, slots=True)
class DataFolder:
    """The places inside the data folder."""

    root: Path

    @property
    def database(self) -> Path:
        """The SQLite file."""
        return self.root / "ripe-press.sqlite3"

    @property
    def mixes(self) -> Path:
        """One folder a mix: its peak pyramid, and the file itself when it was uploaded."""
        return self.root / "mixes"

    @property
    def pressed(self) -> Path:
        """Where the page's pressings go."""
        return self.root / "pressed"

    @property
    def covers(self) -> Path:
        """The pictures that pressings of the record embedded, by their content."""
        return self.root / "covers"

    @property
    def journals(self) -> Path:
        """Journals of pressings that the record may not have read yet."""
        return self.root / "journals"

    @property
    def copies(self) -> Path:
        """Copies of the record, made at each start."""
        return self.root / "copies"

    @property
    def log(self) -> Path:
        """The log, for troubleshooting."""
        return self.root / "log"

    @property
    def passing(self) -> Path:
        """Temporary data, useless after the application has ended: running uploads, job folders, cuts for playback."""
        return self.root / "passing"

    def mix(self, sha256: str) -> Path:
        """Where what belongs to the mix with this content is kept."""
        return self.mixes / sha256[:20]

    def prepare(self) -> None:
        """Makes the folders and clears what an earlier run left on its way."""
        shutil.rmtree(self.passing, ignore_errors=True)
        for folder in (self.mixes, self.pressed, self.covers, self.journals, self.passing):
            folder.mkdir(parents=True, exist_ok=True)
            sync_folder(folder.parent)


def data_folder(named: Path | None = None) -> DataFolder:
    """The folder named by the option, else by the environment, else the default of this user."""
    if named is not None:
        return DataFolder(named.absolute())
    if from_environment := os.environ.get(VARIABLE):
        return DataFolder(Path(from_environment).absolute())
    return DataFolder(user_data_path("ripe-press", appauthor=False))


def claim(folder: DataFolder) -> TextIO:
    """Takes the data folder for this process alone. Raises: Conflict ``data.in-use``, ``data.unusable``."""
    try:
        folder.root.mkdir(mode=0o700, parents=True, exist_ok=True)
        _close_to_others(folder.root)
        file = (folder.root / "in-use").open("w")
    except OSError as error:
        message = f"{quoted(folder.root)} cannot be the data folder: {error.strerror}. Choose another with --data."
        raise Conflict("data.unusable", message, folder=str(folder.root)) from error
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        file.close()
        message = f"Another Ripe Press uses {quoted(folder.root)}. Use that one or choose another with --data."
        raise Conflict("data.in-use", message, folder=str(folder.root)) from error
    return file


def _close_to_others(root: Path) -> None:
    """A data folder is its owner's alone; one that is shared on purpose, as /tmp is, stays as it is."""
    found = root.stat()
    if found.st_uid == os.getuid() and not found.st_mode & stat.S_ISVTX and found.st_mode & 0o077:
        root.chmod(0o700)


def is_served(folder: DataFolder) -> bool:
    """Whether the application works in a data folder now."""
    try:
        claim(folder).close()
    except Conflict:
        return True
    return False
