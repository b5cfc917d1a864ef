"""The journal of a pressing: a line for each event of a file, written by the process that presses.

It is kept in the data folder until the record has read it. The line about a name is on the disk before the name is:
after a power cut, it identifies the file that has the name.
"""

import fcntl
import json
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import replace
from pathlib import Path
from typing import Any, Literal

from ripe_press.core.press import Event
from ripe_press.core.proof.read_back import hash_file
from ripe_press.core.sheet.file_report import FileReport, report_from_row, report_row
from ripe_press.core.whole_files import sync_folder
from ripe_press.store.pressings import StoredFile
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.reports import file_report


class Journal:
    """One file, written at its end by one process and read by another while it grows."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._read = 0

    @property
    def job(self) -> Path:
        """The job folder of a pressing that another process runs."""
        return self._path.with_suffix(".job")

    @contextmanager
    def held(self) -> Iterator[JobFolder]:
        """Marks the pressing as run by this process, for as long as it lives; gives its job folder."""
        # What a command left that was killed before its pressing was in the history: the number is given again.
        shutil.rmtree(self.job, ignore_errors=True)
        self.job.mkdir(parents=True)
        with (self.job / "held").open("w") as file:
            fcntl.flock(file, fcntl.LOCK_EX)
            try:
                yield JobFolder(self.job)
            finally:
                shutil.rmtree(self.job, ignore_errors=True)

    @property
    def holder(self) -> Literal["none", "alive", "dead"]:
        """Whether a process of the command line runs the pressing, or did until it was killed."""
        try:
            with (self.job / "held").open() as file:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except FileNotFoundError:
            return "none"
        except OSError:
            return "alive"
        return "dead"

    @property
    def disc_note(self) -> Path:
        """Where stands which disc was made of it."""
        return self._path.with_suffix(".disc.json")

    def write(self, number: int, event: Event) -> None:
        """Notes what happened to the file with this number in the document; on the disk before it returns."""
        line: dict[str, Any] = {"number": number, "state": event.state}
        if event.made:
            line["report"] = report_row(file_report(event.made))
        if event.failed:
            line["error"] = event.failed.sentence
        new = not self._path.exists()
        with self._path.open("ab") as file:
            # A newline before it as well: an interrupted write leaves a line without an end.
            file.write(b"\n" + json.dumps(line).encode() + b"\n")
            file.flush()
            if event.state == "naming":
                os.fsync(file.fileno())
        if new:
            sync_folder(self._path.parent)

    def news(self) -> Iterator[dict[str, Any]]:
        """The whole lines since the last time."""
        try:
            with self._path.open("rb") as file:
                file.seek(self._read)
                lines = file.read()
        except FileNotFoundError:
            return
        whole = lines.rfind(b"\n") + 1
        self._read += whole
        for line in lines[:whole].splitlines():
            with suppress(ValueError):
                yield json.loads(line)

    def clear(self) -> None:
        """Delete the journal."""
        self._path.unlink(missing_ok=True)
        self.disc_note.unlink(missing_ok=True)


def after(file: StoredFile, line: dict[str, Any]) -> StoredFile:
    """A file once a line of the journal is taken in; what has ended stays as it is."""
    if file.ended:
        return file
    report = report_from_row(line["report"]) if "report" in line else file.report
    return replace(file, state=line["state"], report=report, error=line.get("error", file.error))


def as_found(file: StoredFile) -> StoredFile:
    """The state of a file whose pressing has ended: *named* where its name was given, otherwise to be made again."""
    if file.ended:
        return file
    if file.state == "naming" and file.report and _is_there(Path(file.path), file.report):
        return replace(file, state="named")
    return replace(file, state="queued", report=None)


def _is_there(path: Path, report: FileReport) -> bool:
    try:
        return bool(path.stat().st_size == report.bytes and hash_file(path) == report.sha256)
    except OSError:
        return False
