"""What lies on the disk where files are to go."""

from pathlib import Path

from ripe_press.core.naming import InTheWay, folded_name


class Places:
    """Folders that are looked into, each of them read once."""

    def __init__(self) -> None:
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
        if folded_name(path) not in self._names[folder] and not path.exists():
            return ""
        return "file" if path.is_file() else "other"
