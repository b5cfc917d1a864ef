"""Simulated faults: one word per line in ``faults.txt`` of the folder, used up from the top."""

import threading
from collections import deque
from collections.abc import Iterable
from pathlib import Path

NAME = "faults.txt"
SLOW_S = 3.0


class Faults:
    """The next faults, from the folder, or from a list for tests."""

    def __init__(self, folder: Path, listed: Iterable[str] = ()) -> None:
        self._path = folder / NAME
        self._listed = deque(listed)
        self._lock = threading.Lock()

    def add(self, *words: str) -> None:
        """Puts more at the end."""
        with self._lock:
            self._listed.extend(words)

    @property
    def left(self) -> int:
        """How many are still to come of those that were listed."""
        return len(self._listed)

    def next(self) -> str:
        """The next fault, which is used up; empty where nothing goes wrong."""
        with self._lock:
            if self._listed:
                return self._listed.popleft()
            try:
                first, _, rest = self._path.read_text(encoding="utf-8").partition("\n")
            except (OSError, ValueError):
                return ""
            if rest.strip():
                new = self._path.with_name(f".{NAME}.new")
                new.write_text(rest, encoding="utf-8")
                new.replace(self._path)
            else:
                self._path.unlink(missing_ok=True)
            return first.strip()
