"""The record: every pressing, what was asked for, and what came of it."""

import json
import sqlite3
from dataclasses import dataclass
from typing import Any, Literal

from ripe_press.store.db import Database

State = Literal["waiting", "running", "done", "failed", "cancelled"]

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
_ADD_FILE = "INSERT INTO pressed_files (pressing_id, number, report) VALUES (:pressing_id, :number, :report)"
_FILES = "SELECT report FROM pressed_files WHERE pressing_id = :id ORDER BY number"


@dataclass(frozen=True, slots=True)
class StoredPressing:
    """A pressing of the record; ``files`` are the reports of its files, empty until it is done."""

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
    files: tuple[dict[str, Any], ...]


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
        files: tuple[dict[str, Any], ...] = (),
    ) -> None:
        """Closes a pressing with its files, all or nothing."""
        values = {
            "id": pressing_id, "state": state, "error": error, "seconds": seconds, "times_realtime": times_realtime,
        }  # fmt: skip
        with self._database.write() as connection:
            connection.execute(_END, values)
            for number, report in enumerate(files):
                row = {"pressing_id": pressing_id, "number": number, "report": json.dumps(report)}
                connection.execute(_ADD_FILE, row)

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
    return StoredPressing(**values, files=tuple(json.loads(file["report"]) for file in files))
