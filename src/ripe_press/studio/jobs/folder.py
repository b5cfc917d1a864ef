"""Job folders: progress of a worker process, and requests to pause or stop it.

Only frozen values and file paths cross into a worker, so a job's progress is a small file and its cancelling an empty
one. They work on another machine too, if the worker shares the folder.
"""

import json
import os
import secrets
import shutil
import threading
import time
from dataclasses import asdict, dataclass
from pathlib import Path

_SECONDS_BETWEEN_WRITES = 0.1


@dataclass(frozen=True, slots=True)
class FileProgress:
    """How far a file of a pressing is, from 0 to 1, and how fast it was made, as a multiple of real time."""

    number: int
    """In its document."""
    part: float
    times_realtime: float | None


@dataclass(frozen=True, slots=True)
class JobProgress:
    """Work done of all, in whatever unit, and the seconds since the worker began, without those it was held.

    Pressings tell how many seconds are left, and how far each of their files is.
    """

    done: int
    total: int
    seconds: float
    seconds_left: float | None = None
    files: tuple[FileProgress, ...] = ()


class JobFolder:
    """The folder of one job, seen from both sides."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._began = time.monotonic()
        self._held = 0.0
        self._written = 0.0
        self._holding = threading.Lock()

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
        self.tell(JobProgress(done, total, now - self._began))

    def tell(self, progress: JobProgress) -> None:
        """The worker's side: where it is."""
        new = self.path / "progress.new"
        new.write_text(json.dumps(asdict(progress)))
        new.replace(self.path / "progress.json")

    def progress(self) -> JobProgress | None:
        """The server's side: the last report, if there is one."""
        try:
            row = json.loads((self.path / "progress.json").read_text())
            files = tuple(FileProgress(**one) for one in row["files"])
            return JobProgress(**{**row, "files": files})
        except (OSError, ValueError):
            return None

    def cancel(self) -> None:
        """The server's side: asks the worker to stop at the next block."""
        if self.path.is_dir():
            (self.path / "cancel").touch()

    def cancelled(self) -> bool:
        """The worker's side: whether it was asked to stop."""
        return os.path.exists(self.path / "cancel")  # noqa: PTH110 - asked for every block; the cheapest call

    def hold(self) -> None:
        """The server's side: asks the worker to stand still at the next block."""
        if self.path.is_dir():
            (self.path / "hold").touch()

    def release(self) -> None:
        """The server's side: lets it go on."""
        (self.path / "hold").unlink(missing_ok=True)

    def should_stop(self) -> bool:
        """The worker's side: stands still as long as it is held; then whether it was asked to stop."""
        if os.path.exists(self.path / "hold"):  # noqa: PTH110 - as below
            # The first thread counts the time; other threads of the same job wait for the same reason.
            with self._holding:
                since = time.monotonic()
                while os.path.exists(self.path / "hold") and not self.cancelled():  # noqa: PTH110
                    time.sleep(_SECONDS_BETWEEN_WRITES)
                self._held += time.monotonic() - since
        return self.cancelled()

    def attempt(self) -> str:
        """The server's side: begins another attempt at the work, which ends every earlier one; gives its name."""
        name = secrets.token_hex(8)
        new = self.path / "attempt.new"
        new.write_text(name)
        new.replace(self.path / "attempt")
        return name

    def begin(self, attempt: str) -> bool:
        """In the worker: claim an attempt; false if an earlier worker claimed it and died."""
        try:
            (self.path / f"begun-{attempt}").open("x").close()
        except FileExistsError:
            return False
        return True

    def owns(self, attempt: str) -> bool:
        """The worker's side: whether the attempt still counts. A worker that was taken for dead must name nothing."""
        try:
            return (self.path / "attempt").read_text() == attempt
        except OSError:
            return False

    def seconds(self) -> float:
        """The worker's side: seconds of work, without those it was held; counted from any moment."""
        return time.monotonic() - self._held

    def clear(self) -> None:
        """Removes the folder."""
        shutil.rmtree(self.path, ignore_errors=True)
