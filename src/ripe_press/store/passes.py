"""Live passes: which source each is to capture, how it stands, and what came of it."""

import json
import sqlite3
from dataclasses import dataclass
from typing import Any

from ripe_press.core.words import JobStateName
from ripe_press.store.db import Database

_COLUMNS = "id, mix_id, stem_id, name, state, sentence, report, made_at, ended_at"
_OF_MIX = f"SELECT {_COLUMNS} FROM passes WHERE mix_id = :mix_id ORDER BY id DESC LIMIT 50"  # noqa: S608 - constants
_OPEN = f"SELECT {_COLUMNS} FROM passes WHERE state IN ('queued', 'running') ORDER BY id"  # noqa: S608
_ONE = f"SELECT {_COLUMNS} FROM passes WHERE id = :id"  # noqa: S608
_ADD = """
INSERT INTO passes (mix_id, stem_id, name, state, sentence, report, made_at)
VALUES (:mix_id, :stem_id, :name, 'queued', '', '{}', strftime('%Y-%m-%dT%H:%M:%SZ', 'now'))
"""
_RUN = "UPDATE passes SET state = 'running' WHERE id = :id AND state = 'queued'"
_END = """
UPDATE passes SET state = :state, sentence = :sentence, report = :report,
                  ended_at = strftime('%Y-%m-%dT%H:%M:%SZ', 'now')
WHERE id = :id
"""
_TAKE_OUT = """
UPDATE passes SET state = 'cancelled', sentence = :sentence, ended_at = strftime('%Y-%m-%dT%H:%M:%SZ', 'now')
WHERE id = :id AND state = 'queued'
"""


@dataclass(frozen=True, slots=True)
class StoredPass:
    """A pass of the record."""

    id: int
    mix_id: int
    stem_id: int
    name: str
    state: JobStateName
    sentence: str
    report: dict[str, Any]
    made_at: str
    ended_at: str | None


class Passes:
    """Every statement on the table of passes."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def of(self, mix_id: int) -> list[StoredPass]:
        """The passes of a mix, newest first."""
        with self._database.read() as connection:
            return [_pass(row) for row in connection.execute(_OF_MIX, {"mix_id": mix_id})]

    def open(self) -> list[StoredPass]:
        """Return queued and running passes, in their order."""
        with self._database.read() as connection:
            return [_pass(row) for row in connection.execute(_OPEN)]

    def get(self, number: int) -> StoredPass | None:
        """One of them."""
        with self._database.read() as connection:
            row = connection.execute(_ONE, {"id": number}).fetchone()
        return _pass(row) if row else None

    def add(self, mix_id: int, stem_id: int, name: str) -> int:
        """A new one, which waits; gives its number."""
        with self._database.write() as connection:
            values = {"mix_id": mix_id, "stem_id": stem_id, "name": name}
            return int(connection.execute(_ADD, values).lastrowid or 0)

    def run(self, number: int) -> bool:
        """Takes it up; whether it still waited."""
        with self._database.write() as connection:
            return connection.execute(_RUN, {"id": number}).rowcount > 0

    def take_out(self, number: int, sentence: str) -> bool:
        """Takes one that waits out of the line; whether it still waited."""
        with self._database.write() as connection:
            return connection.execute(_TAKE_OUT, {"id": number, "sentence": sentence}).rowcount > 0

    def end(self, number: int, state: JobStateName, sentence: str, report: dict[str, Any]) -> None:
        """Ends it."""
        values = {"id": number, "state": state, "sentence": sentence, "report": json.dumps(report)}
        with self._database.write() as connection:
            connection.execute(_END, values)


def _pass(row: sqlite3.Row) -> StoredPass:
    values = dict(row)
    return StoredPass(**{**values, "report": json.loads(values["report"])})
