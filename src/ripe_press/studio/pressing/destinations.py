"""Where the files of a mix go: the folder of its ticket, or the usual one; folders to choose from."""

import json
import os
import shutil
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from platformdirs import user_music_path

from ripe_press.core.errors import BadInput, Conflict, NotFound, RipePressError
from ripe_press.core.naming import safe_stem
from ripe_press.core.words import quoted
from ripe_press.store.settings import Settings
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.shelf import path_on_server

SAVE_TO = "RIPE_PRESS_SAVE_TO"
"""Names the folder that has one folder a mix; relative to the data folder."""
ROOTS = "RIPE_PRESS_ROOTS"
"""Names further folders to save below, separated by colons."""
_DISKS = (Path("/media"), Path("/mnt"), Path("/run/media"))
_NEXT = "folder-next"
_USED = "folders-used"
MOST_USED = 6
MOST_SHOWN = 2_000


@dataclass(frozen=True, slots=True)
class FolderView:
    """A folder with the folders in it, and the free space of its disk in bytes."""

    path: str
    parent: str | None
    """None where one cannot go further up."""
    folders: list[str]
    writable: bool
    free_bytes: int | None


@dataclass(frozen=True, slots=True)
class OfferedFolder:
    """A folder that is offered, why, and the free space of its disk in bytes."""

    path: str
    label: str
    free_bytes: int | None


class Destinations:
    """Folders for the files of a mix: below the home folder, on other disks, below configured roots, beside the mix."""

    def __init__(self, folder: DataFolder, settings: Settings) -> None:
        self._data = folder
        self._settings = settings
        named = os.environ.get(SAVE_TO)
        self._save_to = folder.root / named if named else None
        asked = (Path(one) for one in os.environ.get(ROOTS, "").split(":") if one)
        roots = (Path.home(), *_DISKS, *asked, folder.pressed, *([self._save_to] if self._save_to else []))
        self._roots = tuple(dict.fromkeys(one.absolute() for one in roots))

    def of(self, title: str, path: str, wanted: str = "") -> Path:
        """The folder of a mix: the wanted one, or the usual one."""
        return Path(wanted) if wanted else self.usual(title, path)

    def usual(self, title: str, path: str) -> Path:
        """The remembered folder, the configured one, or one beside the mix; never in the application's data unasked."""
        kept = json.loads(self._settings.get(_NEXT, "{}"))
        if kept:
            return Path(kept["folder"]) / safe_stem(title) if kept["each"] else Path(kept["folder"])
        if self._save_to:
            return self._save_to / safe_stem(title)
        beside = self.beside(title, path)
        return beside or user_music_path() / "Ripe Press" / safe_stem(title)

    def beside(self, title: str, path: str) -> Path | None:
        """The folder beside a mix; None where it was uploaded or is gone, or its own folder cannot be written."""
        if not path:
            return None
        parent = Path(path).parent
        inside = parent.is_relative_to(self._data.root)
        return None if inside or not os.access(parent, os.W_OK | os.X_OK) else parent / safe_stem(title)

    def remember(self, folder: Path, title: str) -> None:
        """Makes a folder the usual one; a folder with the name of its mix stands for one folder a mix."""
        each = folder.name == safe_stem(title)
        self._settings.set(_NEXT, json.dumps({"folder": str(folder.parent if each else folder), "each": each}))

    def forget(self) -> None:
        """Goes back to the folder beside each mix."""
        self._settings.set(_NEXT, "{}")

    def used(self, folder: Path) -> None:
        """Notes that files went to a folder."""
        before = [one for one in json.loads(self._settings.get(_USED, "[]")) if one != str(folder)]
        self._settings.set(_USED, json.dumps([str(folder), *before][:MOST_USED]))

    def offered(self, title: str, path: str) -> list[OfferedFolder]:
        """The usual folder, those that were used last, the one beside the mix, the desktop, each once."""
        found = [("Usual", self.usual(title, path))]
        found += [("Used last", Path(one)) for one in json.loads(self._settings.get(_USED, "[]"))]
        if beside := self.beside(title, path):
            found.append(("Beside the mix", beside))
        found += [(one, Path.home() / one) for one in ("Desktop", "Music") if (Path.home() / one).is_dir()]
        first = {folder: label for label, folder in reversed(found)}
        ordered = dict.fromkeys(folder for _, folder in found)
        return [OfferedFolder(str(one), first[one], _free(one)) for one in ordered if not self.problem(str(one), path)]

    def problem(self, folder: str, mix_path: str = "") -> str:
        """Why files cannot go to a folder; empty where they can."""
        try:
            self.checked(folder, mix_path)
        except RipePressError as error:
            return error.message
        return ""

    def checked(self, folder: str, mix_path: str = "") -> Path:
        """A folder as it was typed or chosen, existing or not.

        Raises: BadInput ``path.…``, ``folder.outside``, ``folder.hidden``, ``folder.data``,
        ``folder.file``.
        """
        path = path_on_server(folder)
        real = path.resolve()
        beside = Path(mix_path).parent if mix_path else None
        root = next((one for one in (*self._roots, beside) if one and _below(real, one)), None)
        if root is None:
            message = f"{quoted(folder)} is outside the home folder. Choose a folder in it, or add {ROOTS}."
            raise BadInput("folder.outside", message, path=folder)
        if any(one.startswith(".") for one in real.relative_to(root.resolve()).parts):
            message = f"{quoted(folder)} is hidden. Choose another folder."
            raise BadInput("folder.hidden", message, path=folder)
        allowed = (self._data.pressed, self._save_to, beside)
        if _below(real, self._data.root) and not any(one and _below(real, one) for one in allowed):
            message = f"{quoted(folder)} belongs to the application's data. Choose another folder."
            raise BadInput("folder.data", message, path=folder)
        blocking = next((one for one in (path, *path.parents) if one.exists()), None)
        if blocking and not blocking.is_dir():
            message = f"{quoted(blocking)} is a file. Choose a folder."
            raise BadInput("folder.file", message, path=folder)
        return path

    def look(self, folder: str, mix_path: str = "") -> FolderView:
        """The folders in a folder; without a path, in the home folder.

        Raises: NotFound ``folder.gone``; as `checked`.
        """
        path = self.checked(folder, mix_path) if folder else Path.home()
        try:
            names = sorted(_folders_in(path), key=str.casefold)
        except OSError as error:
            message = f"Cannot open {quoted(path)}: {error.strerror}. Choose another folder."
            raise NotFound("folder.gone", message, path=folder) from error
        up = str(path.parent) if path.parent != path and not self.problem(str(path.parent), mix_path) else None
        return FolderView(str(path), up, names[:MOST_SHOWN], os.access(path, os.W_OK | os.X_OK), _free(path))

    def make(self, folder: str, name: str, mix_path: str = "") -> FolderView:
        """A new folder in a folder. Raises: BadInput ``folder.name``; Conflict ``folder.not-made``; as `checked`."""
        if not name or name != safe_stem(name) or name.startswith("."):
            message = f"{quoted(name)} cannot be a folder name. Use letters, digits and spaces."
            raise BadInput("folder.name", message, name=name)
        path = self.checked(str(Path(folder) / name), mix_path)
        try:
            path.mkdir(parents=True)
        except OSError as error:
            message = f"Cannot create {quoted(name)}: {error.strerror}."
            raise Conflict("folder.not-made", message, path=str(path)) from error
        return self.look(str(path), mix_path)


def order_title(title: str) -> str:
    """The title of a running order for its folder and the history."""
    return title or "Running order"


def _below(path: Path, root: Path) -> bool:
    return path.is_relative_to(root) or path.is_relative_to(root.resolve())


def _folders_in(path: Path) -> Iterable[str]:
    with os.scandir(path) as found:
        return [one.name for one in found if not one.name.startswith(".") and one.is_dir()]


def _free(path: Path) -> int | None:
    """The free space where a folder is, or will be."""
    for one in (path, *path.parents):
        try:
            return shutil.disk_usage(one).free
        except OSError:
            continue
    return None
