"""Finding in the record: slim rows of everything that was pressed, by any word that belongs to it."""

import sqlite3
from dataclasses import dataclass
from typing import Any

from ripe_press.store.db import Database
from ripe_press.store.pressings import State, Verdict

_ROWS = """
SELECT
    id, mix_id, mix_title, state, error, made_at, ended_at, purposes, verdict, again_of,
    (SELECT count(*) FROM pressed_files WHERE pressing_id = pressings.id) AS file_count,
    (SELECT count(*) FROM pressed_files WHERE pressing_id = pressings.id AND state = 'failed') AS failed_count
FROM pressings
"""
_COUNT = "SELECT count(*) FROM pressings"
_NEWEST = " ORDER BY id DESC LIMIT :most"
_TRIGRAM = 3
"""Characters that a word needs for the index; a shorter one is looked for in every row."""


@dataclass(frozen=True, slots=True)
class RecordRow:
    """One line of the record."""

    id: int
    mix_id: int | None
    mix_title: str
    state: State
    error: str | None
    made_at: str
    ended_at: str | None
    purposes: str
    verdict: Verdict | None
    again_of: int | None
    file_count: int
    failed_count: int


class Record:
    """Every statement that looks through the record."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def find(
        self, words: str = "", verdict: str = "", before: int | None = None, most: int = 50, *, ended: bool = True
    ) -> tuple[list[RecordRow], int]:
        """The newest pressings that have all these words somewhere, and how many there are in all.

        ``verdict`` keeps those with this verdict, ``before`` those with a lower number, for the next lines, ``ended``
        those that have ended; without it only queued ones are left out.
        """
        where, values = _where(words, verdict, ended)
        further = [*where, "id < :before"] if before is not None else where
        with self._database.read() as connection:
            count = connection.execute(_COUNT + _clause(where), values).fetchone()[0]
            values |= {"before": before, "most": most}
            rows = connection.execute(_ROWS + _clause(further) + _NEWEST, values).fetchall()
        return [_row(row) for row in rows], count


def _where(words: str, verdict: str, ended: bool) -> tuple[list[str], dict[str, Any]]:
    """Conditions of fixed text, and the values for them."""
    where = ["state IN ('done', 'failed', 'cancelled')" if ended else "state != 'queued'"]
    values: dict[str, Any] = {}
    parts = words.replace("\0", " ").split()
    if long := [f'"{part.replace(chr(34), chr(34) * 2)}"' for part in parts if len(part) >= _TRIGRAM]:
        where.append("id IN (SELECT rowid FROM words_of_pressings WHERE words MATCH :match)")
        values["match"] = " AND ".join(long)
    for at, part in enumerate(part for part in parts if len(part) < _TRIGRAM):
        where.append(f"id IN (SELECT rowid FROM words_of_pressings WHERE instr(lower(words), lower(:short{at})))")  # noqa: S608 - the name of a value, not the value
        values[f"short{at}"] = part
    if verdict:
        where.append("verdict = :verdict")
        values["verdict"] = verdict
    return where, values


def _clause(where: list[str]) -> str:
    return " WHERE " + " AND ".join(where)


def _row(row: sqlite3.Row) -> RecordRow:
    return RecordRow(**dict(row))
