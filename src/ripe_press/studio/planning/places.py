"""Existing files in the target folders."""

from collections.abc import Iterable
from pathlib import Path

from ripe_press.core.naming import InTheWay, folded_name


class Places:
    """Folders that are looked into, each of them read once; ``under_way`` are files that will have their names soon."""

    def __init__(self, under_way: Iterable[str] = ()) -> None:
        self._under_way = {folded_name(Path(one)) for one in under_way}
        self._names: dict[Path, set[str]] = {}

    def in_the_way(self, path: Path) -> InTheWay:
        """What has that name already, or one that many disks take for the same."""
        folder = path.parent
        if folder not in self._names:
            try:
                self._names[folder] = {folded_name(one) for one in folder.iterdir()}
            except OSError:
                # Not there yet, or not to be looked into: then only the very name can be asked for.
                self._names[folder] = set()
        if folded_name(path) in self._under_way:
            return "other"
        if folded_name(path) not in self._names[folder] and not path.exists():
            return ""
        return "file" if path.is_file() else "other"
