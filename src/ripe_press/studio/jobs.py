"""Job folders: how a worker process tells how far it is, and how it is told to stop.

Only frozen values and file paths cross into a worker, so a job's progress is a small file and its cancelling an
empty one. The same works when the worker runs on another machine that shares the folder.
"""

import json
import os
import secrets
import shutil
import time
from dataclasses import dataclass
from pathlib import Path

_SECONDS_BETWEEN_WRITES = 0.1


@dataclass(frozen=True, slots=True)
class JobProgress:
    """Frames done of all, and the seconds since the worker began."""

    done: int
    total: int
    seconds: float


class JobFolder:
    """The folder of one job, seen from both sides."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._began = time.monotonic()
        self._written = 0.0

    @classmethod
    def make(cls, parent: Path) -> "JobFolder":
        """A new, empty job folder."""
        path = parent / f"job-{secrets.token_hex(8)}"
        path.mkdir(parents=True)
        return cls(path)

    def report(self, done: int, total: int) -> None:
        """The worker's side: how far it is; written at most ten times a second, and always at the end."""
        now = time.monotonic()
        if done < total and now - self._written < _SECONDS_BETWEEN_WRITES:
            return
        self._written = now
        new = self.path / "progress.new"
        new.write_text(json.dumps({"done": done, "total": total, "seconds": now - self._began}))
        new.replace(self.path / "progress.json")

    def progress(self) -> JobProgress | None:
        """The server's side: the last report, if there is one."""
        try:
            return JobProgress(**json.loads((self.path / "progress.json").read_text()))
        except (OSError, ValueError):
            return None

    def cancel(self) -> None:
        """The server's side: asks the worker to stop at the next block."""
        if self.path.is_dir():
            (self.path / "cancel").touch()

    def cancelled(self) -> bool:
        """The worker's side: whether it was asked to stop."""
        return os.path.exists(self.path / "cancel")  # noqa: PTH110 - asked for every block; the cheapest call

    def clear(self) -> None:
        """Removes the folder."""
        shutil.rmtree(self.path, ignore_errors=True)
