"""Stems and captures of mixes, and the results of their checks."""

import json
import sqlite3
from dataclasses import dataclass
from typing import Any

from ripe_press.store.db import Database

_COLUMNS = "id, mix_id, note, owned, origin, added_at"
# Files of a folder are read side by side and arrive in any order: their names give a lasting one.
_OF_MIX = f"""
SELECT {_COLUMNS} FROM stems WHERE mix_id = :mix_id
ORDER BY json_extract(note, '$.apart'), json_extract(note, '$.name') COLLATE NOCASE, id
"""  # noqa: S608 - a constant of this module
_ONE = f"SELECT {_COLUMNS} FROM stems WHERE id = :id"  # noqa: S608
_ADD = """
INSERT INTO stems (mix_id, note, owned, origin, added_at)
VALUES (:mix_id, :note, :owned, :origin, strftime('%Y-%m-%dT%H:%M:%SZ', 'now'))
"""
_SET = "UPDATE stems SET note = :note WHERE id = :id"
_SET_ORIGIN = "UPDATE stems SET origin = :origin, owned = 1 WHERE id = :id"
_REMOVE = "DELETE FROM stems WHERE id = :id"
_CHECK = "SELECT about, report FROM stem_checks WHERE mix_id = :mix_id"
_SET_CHECK = """
INSERT INTO stem_checks (mix_id, about, report) VALUES (:mix_id, :about, :report)
ON CONFLICT (mix_id) DO UPDATE SET about = excluded.about, report = excluded.report
"""


@dataclass(frozen=True, slots=True)
class StoredStem:
    """A stem that is kept: its note as plain values, whether its file is ours, and where it came from."""

    id: int
    mix_id: int
    note: dict[str, Any]
    owned: bool
    origin: dict[str, Any]
    added_at: str


class Stems:
    """Every statement on the tables of stems."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def of(self, mix_id: int) -> list[StoredStem]:
        """Return the stems of a mix by name; captures and pressed files last."""
        with self._database.read() as connection:
            return [_stem(row) for row in connection.execute(_OF_MIX, {"mix_id": mix_id})]

    def get(self, stem_id: int) -> StoredStem | None:
        """One of them."""
        with self._database.read() as connection:
            row = connection.execute(_ONE, {"id": stem_id}).fetchone()
        return _stem(row) if row else None

    def add(self, mix_id: int, note: dict[str, Any], owned: bool, origin: dict[str, Any]) -> int:
        """Puts something beside a mix and gives its id."""
        values = {"mix_id": mix_id, "note": json.dumps(note), "owned": owned, "origin": json.dumps(origin)}
        with self._database.write() as connection:
            return int(connection.execute(_ADD, values).lastrowid or 0)

    def set(self, stem_id: int, note: dict[str, Any], origin: dict[str, Any] | None = None) -> None:
        """Store the current facts of a stem; with an ``origin`` it is another file, and one of ours."""
        with self._database.write() as connection:
            connection.execute(_SET, {"id": stem_id, "note": json.dumps(note)})
            if origin is not None:
                connection.execute(_SET_ORIGIN, {"id": stem_id, "origin": json.dumps(origin)})

    def remove(self, stem_id: int) -> None:
        """Takes a stem away from its mix."""
        with self._database.write() as connection:
            connection.execute(_REMOVE, {"id": stem_id})

    def check(self, mix_id: int) -> tuple[str, dict[str, Any]] | None:
        """What the last check was about, and what it found."""
        with self._database.read() as connection:
            row = connection.execute(_CHECK, {"mix_id": mix_id}).fetchone()
        return (row["about"], json.loads(row["report"])) if row else None

    def set_check(self, mix_id: int, about: str, report: dict[str, Any]) -> None:
        """Keeps what a check found."""
        values = {"mix_id": mix_id, "about": about, "report": json.dumps(report)}
        with self._database.write() as connection:
            connection.execute(_SET_CHECK, values)


def _stem(row: sqlite3.Row) -> StoredStem:
    note, origin = json.loads(row["note"]), json.loads(row["origin"])
    return StoredStem(row["id"], row["mix_id"], note, bool(row["owned"]), origin, row["added_at"])
