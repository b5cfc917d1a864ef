"""Blind tests: the sources, the seed of their order, and every answer."""

import json
import sqlite3
from dataclasses import dataclass
from typing import Any, Literal

from ripe_press.store.db import Database

BlindState = Literal["open", "done", "left-off"]

_COLUMNS = "id, pressing_id, mix_id, began_at, ended_at, state, trials, seed, setting, answers"
_ADD = """
INSERT INTO blind_tests (pressing_id, mix_id, began_at, state, trials, seed, setting, answers)
VALUES (:pressing_id, :mix_id, strftime('%Y-%m-%dT%H:%M:%SZ', 'now'), 'open', :trials, :seed, :setting, '[]')
"""
_ONE = f"SELECT {_COLUMNS} FROM blind_tests WHERE id = :id"  # noqa: S608 - a constant of this module
_OF_PRESSING = f"SELECT {_COLUMNS} FROM blind_tests WHERE pressing_id = :pressing_id ORDER BY id DESC"  # noqa: S608
_OF_MIX = f"SELECT {_COLUMNS} FROM blind_tests WHERE mix_id = :mix_id ORDER BY id DESC"  # noqa: S608
_ANSWER = """
UPDATE blind_tests
SET answers = json_insert(answers, '$[#]', :answer),
    state = CASE WHEN json_array_length(answers) + 1 = trials THEN 'done' ELSE state END,
    ended_at = CASE WHEN json_array_length(answers) + 1 = trials THEN strftime('%Y-%m-%dT%H:%M:%SZ', 'now') END
WHERE id = :id AND state = 'open' AND json_array_length(answers) = :trial
"""
_LEAVE_OFF = """
UPDATE blind_tests SET state = 'left-off', ended_at = strftime('%Y-%m-%dT%H:%M:%SZ', 'now')
WHERE state = 'open' AND (:id IS NULL OR id = :id)
"""


@dataclass(frozen=True, slots=True)
class StoredBlindTest:
    """A blind test; ``setting`` has sources and passage, ``answers`` the alternative chosen for X in each trial."""

    id: int
    pressing_id: int | None
    mix_id: int | None
    began_at: str
    ended_at: str | None
    state: BlindState
    trials: int
    seed: str
    setting: dict[str, Any]
    answers: tuple[int, ...]


class BlindTestTable:
    """Every statement on the table of blind tests."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, pressing_id: int | None, mix_id: int | None, trials: int, seed: str, setting: dict[str, Any]) -> int:
        """Begins one and gives its id."""
        values = {
            "pressing_id": pressing_id, "mix_id": mix_id, "trials": trials, "seed": seed,
            "setting": json.dumps(setting),
        }  # fmt: skip
        with self._database.write() as connection:
            return int(connection.execute(_ADD, values).lastrowid or 0)

    def get(self, test_id: int) -> StoredBlindTest | None:
        """The test with this id, if there is one."""
        with self._database.read() as connection:
            row = connection.execute(_ONE, {"id": test_id}).fetchone()
        return _test(row) if row else None

    def of_pressing(self, pressing_id: int) -> list[StoredBlindTest]:
        """All tests of a pressing, newest first."""
        with self._database.read() as connection:
            return [_test(row) for row in connection.execute(_OF_PRESSING, {"pressing_id": pressing_id})]

    def of_mix(self, mix_id: int) -> list[StoredBlindTest]:
        """All tests in which a mix came first, newest first."""
        with self._database.read() as connection:
            return [_test(row) for row in connection.execute(_OF_MIX, {"mix_id": mix_id})]

    def answer(self, test_id: int, trial: int, answer: int) -> bool:
        """Writes an answer down, if it is the turn of that trial; the last one ends the test."""
        with self._database.write() as connection:
            found = connection.execute(_ANSWER, {"id": test_id, "trial": trial, "answer": answer})
            return found.rowcount == 1

    def leave_off(self, test_id: int | None = None) -> None:
        """Ends one that is open without a result; without an id all that are."""
        with self._database.write() as connection:
            connection.execute(_LEAVE_OFF, {"id": test_id})


def _test(row: sqlite3.Row) -> StoredBlindTest:
    return StoredBlindTest(
        row["id"], row["pressing_id"], row["mix_id"], row["began_at"], row["ended_at"], row["state"], row["trials"],
        row["seed"], json.loads(row["setting"]), tuple(json.loads(row["answers"])),
    )  # fmt: skip
