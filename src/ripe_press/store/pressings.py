"""The record: every pressing, what was asked for, and what came of it."""

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, Literal

from ripe_press.store.db import Database

State = Literal["waiting", "running", "done", "failed", "cancelled"]
FileState = Literal[
    "waiting", "settling", "making", "reading-back", "naming", "named", "left-out", "failed", "cancelled"
]
ENDS: tuple[FileState, ...] = ("named", "left-out", "failed", "cancelled")
"""The states that a file stays in."""

_COLUMNS = "id, mix_id, mix_title, mix_path, ticket, state, error, made_at, seconds, times_realtime"
_INSERT = """
INSERT INTO pressings (mix_id, mix_title, mix_path, ticket, state, made_at)
VALUES (:mix_id, :mix_title, :mix_path, :ticket, 'waiting', strftime('%Y-%m-%dT%H:%M:%SZ', 'now'))
"""
_RECENT = f"SELECT {_COLUMNS} FROM pressings ORDER BY id DESC LIMIT :most"  # noqa: S608 - a constant of this module
_ONE = f"SELECT {_COLUMNS} FROM pressings WHERE id = :id"  # noqa: S608
_UNFINISHED = f"SELECT {_COLUMNS} FROM pressings WHERE state IN ('waiting', 'running') ORDER BY id"  # noqa: S608
_RUNNING = "UPDATE pressings SET state = 'running' WHERE id = :id"
_END = """
UPDATE pressings SET state = :state, error = :error, seconds = :seconds, times_realtime = :times_realtime
WHERE id = :id
"""
_ADD_FILE = """
INSERT INTO pressed_files (pressing_id, number, path, replaces, state, error, report)
VALUES (:pressing_id, :number, :path, :replaces, :state, :error, :report)
"""
_SET_FILE = """
UPDATE pressed_files SET state = :state, error = :error, report = coalesce(:report, report)
WHERE pressing_id = :pressing_id AND number = :number
"""
_END_FILES = """
UPDATE pressed_files SET state = :state, error = :error
WHERE pressing_id = :id AND state NOT IN ('named', 'left-out', 'failed', 'cancelled')
"""
_FILES = """
SELECT number, path, replaces, state, error, report FROM pressed_files WHERE pressing_id = :id ORDER BY number
"""


@dataclass(frozen=True, slots=True)
class StoredFile:
    """A file of a pressing: by its number in the document, where it goes, and how far it came.

    ``report`` is there from *naming* on; ``error`` is the sentence of one that failed.
    """

    number: int
    path: str
    replaces: bool = False
    state: FileState = "waiting"
    error: str | None = None
    report: dict[str, Any] | None = None

    @property
    def ended(self) -> bool:
        """Whether it stays as it is."""
        return self.state in ENDS


@dataclass(frozen=True, slots=True)
class StoredPressing:
    """A pressing of the record; its ``files`` are there from when their places are settled."""

    id: int
    mix_id: int | None
    mix_title: str
    mix_path: str
    ticket: dict[str, Any]
    state: State
    error: str | None
    made_at: str
    seconds: float | None
    times_realtime: float | None
    files: tuple[StoredFile, ...]

    @property
    def reports(self) -> tuple[dict[str, Any], ...]:
        """Of the files that were made."""
        return tuple(file.report for file in self.files if file.report and file.state in ("named", "left-out"))


class Pressings:
    """Every statement on the record."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, mix_id: int | None, mix_title: str, mix_path: str, ticket: dict[str, Any]) -> int:
        """Opens a pressing in the state *waiting* and gives its id."""
        values = {
            "mix_id": mix_id,
            "mix_title": mix_title,
            "mix_path": mix_path,
            "ticket": json.dumps(ticket),
        }
        with self._database.write() as connection:
            return int(connection.execute(_INSERT, values).lastrowid or 0)

    def start(self, pressing_id: int) -> None:
        """Says that the worker has begun."""
        with self._database.write() as connection:
            connection.execute(_RUNNING, {"id": pressing_id})

    def end(
        self,
        pressing_id: int,
        state: State,
        *,
        error: str | None = None,
        seconds: float | None = None,
        times_realtime: float | None = None,
    ) -> None:
        """Closes a pressing; files that have not ended end as it does."""
        values = {
            "id": pressing_id, "state": state, "error": error, "seconds": seconds, "times_realtime": times_realtime,
        }  # fmt: skip
        with self._database.write() as connection:
            connection.execute(_END, values)
            ended = "cancelled" if state == "cancelled" else "failed"
            connection.execute(_END_FILES, {"id": pressing_id, "state": ended, "error": error})

    def set_files(self, pressing_id: int, files: Iterable[StoredFile]) -> None:
        """Writes the files of a pressing, all or nothing: from here on their places are settled."""
        with self._database.write() as connection:
            connection.execute("DELETE FROM pressed_files WHERE pressing_id = :id", {"id": pressing_id})
            for file in files:
                connection.execute(
                    _ADD_FILE, {"pressing_id": pressing_id, "replaces": int(file.replaces), **_row(file)}
                )

    def set_file(self, pressing_id: int, file: StoredFile) -> None:
        """Writes how far a file came."""
        with self._database.write() as connection:
            connection.execute(_SET_FILE, {"pressing_id": pressing_id, **_row(file)})

    def get(self, pressing_id: int) -> StoredPressing | None:
        """The pressing with this id, if there is one."""
        found = self._select(_ONE, {"id": pressing_id})
        return found[0] if found else None

    def recent(self, most: int = 50) -> list[StoredPressing]:
        """The newest pressings, newest first."""
        return self._select(_RECENT, {"most": most})

    def unfinished(self) -> list[StoredPressing]:
        """What was waiting or running when the application ended."""
        return self._select(_UNFINISHED, {})

    def _select(self, statement: str, values: dict[str, object]) -> list[StoredPressing]:
        with self._database.read() as connection:
            return [
                _pressing(row, connection.execute(_FILES, {"id": row["id"]}).fetchall())
                for row in connection.execute(statement, values).fetchall()
            ]


def _pressing(row: sqlite3.Row, files: list[sqlite3.Row]) -> StoredPressing:
    values = {**dict(row), "ticket": json.loads(row["ticket"])}
    return StoredPressing(**values, files=tuple(_file(file) for file in files))


def _file(row: sqlite3.Row) -> StoredFile:
    report = json.loads(row["report"]) if row["report"] else None
    return StoredFile(row["number"], row["path"], bool(row["replaces"]), row["state"], row["error"], report)


def _row(file: StoredFile) -> dict[str, Any]:
    report = json.dumps(file.report) if file.report is not None else None
    return {"number": file.number, "path": file.path, "state": file.state, "error": file.error, "report": report}
