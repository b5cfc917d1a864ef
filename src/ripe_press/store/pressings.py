"""The record: every pressing with its request and its result."""

import json
import sqlite3
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from statistics import median
from typing import Any, Literal

from ripe_press.core.sheet.file_report import FileReport, report_from_row, report_row
from ripe_press.core.words import JobStateName
from ripe_press.store.db import Database

State = JobStateName
"""*interrupted*: by the end of the application, resumed on request."""
Verdict = Literal["ready", "look", "stop"]
Found = Literal["as-pressed", "moved", "changed", "gone"]
FileState = Literal[
    "queued", "settling", "making", "reading-back", "naming", "named", "left-out", "failed", "cancelled"
]
ENDS: tuple[FileState, ...] = ("named", "left-out", "failed", "cancelled")
"""The states that a file stays in."""

_COLUMNS = """
id, mix_id, mix_title, mix_path, ticket, state, error, made_at, ended_at, seconds, times_realtime, again_of,
purposes, verdict, work_seconds, off_by, libraries, disc
"""
_INSERT = """
INSERT INTO pressings (
    mix_id, mix_title, mix_path, ticket, state, made_at, place, again_of, purposes, work_seconds, libraries
)
VALUES (
    :mix_id, :mix_title, :mix_path, :ticket, :state, strftime('%Y-%m-%dT%H:%M:%fZ', 'now'),
    (SELECT coalesce(max(place), 0) + 1 FROM pressings), :again_of, :purposes, :work_seconds, :libraries
)
"""
"""To the millisecond, as benches and versions: changes within the same second are ordered too."""
_INSERT_WORDS = "INSERT INTO words_of_pressings (rowid, words) VALUES (:id, :words)"
_ADD_WORDS = "UPDATE words_of_pressings SET words = words || ' ' || :words WHERE rowid = :id"
_ONE = f"SELECT {_COLUMNS} FROM pressings WHERE id = :id"  # noqa: S608 - a constant of this module
_LATEST = f"SELECT {_COLUMNS} FROM pressings WHERE mix_id = :mix_id ORDER BY id DESC LIMIT 1"  # noqa: S608
_OPEN = f"""
SELECT {_COLUMNS} FROM pressings WHERE state IN ('queued', 'running', 'interrupted')
ORDER BY state = 'running' DESC, state = 'interrupted', place
"""  # noqa: S608
_UNFINISHED = f"SELECT {_COLUMNS} FROM pressings WHERE state IN ('queued', 'running') ORDER BY place"  # noqa: S608
_NEXT = """
UPDATE pressings SET state = 'running', error = NULL
WHERE id = (SELECT id FROM pressings WHERE state = 'queued' ORDER BY place LIMIT 1)
RETURNING id
"""
_PUT_BACK = "UPDATE pressings SET state = 'queued' WHERE id = :id"
_CUT_OFF = "UPDATE pressings SET state = 'interrupted', error = :error WHERE id = :id"
_TAKE_OUT = """
UPDATE pressings SET state = 'cancelled', error = :error, ended_at = strftime('%Y-%m-%dT%H:%M:%SZ', 'now')
WHERE id = :id AND state IN ('queued', 'interrupted')
"""
_REOPEN = """
UPDATE pressings
SET state = 'queued', error = NULL, ended_at = NULL, place = CASE state
    WHEN 'interrupted' THEN place ELSE (SELECT max(place) + 1 FROM pressings) END
WHERE id = :id AND (
    state IN ('interrupted', 'failed', 'cancelled')
    OR state = 'done'
    AND EXISTS (SELECT 1 FROM pressed_files WHERE pressing_id = :id AND state IN ('failed', 'cancelled'))
)
"""
_REOPEN_FILES = """
UPDATE pressed_files SET state = 'queued', error = NULL, report = NULL
WHERE pressing_id = :id AND state IN ('failed', 'cancelled')
"""
_WAITING = "SELECT id, place FROM pressings WHERE state = 'queued' ORDER BY place"
_PLACE = "UPDATE pressings SET place = :place WHERE id = :id"
_END = """
UPDATE pressings
SET state = :state, error = :error, seconds = :seconds, times_realtime = :times_realtime, off_by = :off_by,
    ended_at = strftime('%Y-%m-%dT%H:%M:%SZ', 'now'),
    verdict = (
        SELECT CASE max(CASE
            WHEN state = 'failed' THEN 3
            WHEN report IS NULL THEN 0
            ELSE CASE json_extract(report, '$.verdict') WHEN 'stop' THEN 3 WHEN 'look' THEN 2 ELSE 1 END
        END) WHEN 3 THEN 'stop' WHEN 2 THEN 'look' WHEN 1 THEN 'ready' END
        FROM pressed_files WHERE pressing_id = pressings.id
    )
WHERE id = :id
"""
_SPEEDS = """
SELECT seconds / work_seconds AS pace, off_by FROM pressings
WHERE state = 'done' AND seconds > 0 AND work_seconds > 0 ORDER BY id DESC LIMIT :most
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
SELECT number, path, replaces, state, error, report, found, found_path, found_at FROM pressed_files
WHERE pressing_id = :id ORDER BY number
"""
_FILE_AT = """
SELECT pressing_id, number FROM pressed_files WHERE path = :path AND state = 'named' ORDER BY pressing_id DESC LIMIT 1
"""
_UNDER_WAY = """
SELECT path FROM pressed_files JOIN pressings ON pressings.id = pressing_id
WHERE pressings.state = 'running' AND pressing_id != :id
AND pressed_files.state NOT IN ('named', 'left-out', 'failed', 'cancelled')
"""
_FOUND = """
UPDATE pressed_files
SET found = :found, found_path = :found_path, found_at = strftime('%Y-%m-%dT%H:%M:%SZ', 'now')
WHERE pressing_id = :pressing_id AND number = :number
"""
_SET_TICKET = "UPDATE pressings SET ticket = :ticket WHERE id = :id"
_SET_DISC = "UPDATE pressings SET disc = :disc WHERE id = :id"
_LAST_PACES = 20
"""Pressings whose speed stands for that of the next."""


@dataclass(frozen=True, slots=True)
class StoredFile:
    """A file of a pressing: by its number in the document, where it goes, and how far it came.

    ``report`` is there from *naming* on; ``error`` is the sentence of one that failed.
    """

    number: int
    path: str
    replaces: bool = False
    state: FileState = "queued"
    error: str | None = None
    report: FileReport | None = None
    found: Found | None = None
    """Result, place and time of the last check."""
    found_path: str | None = None
    found_at: str | None = None

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
    ended_at: str | None
    seconds: float | None
    times_realtime: float | None
    again_of: int | None
    purposes: str
    verdict: Verdict | None
    work_seconds: float | None
    off_by: float | None
    libraries: dict[str, str]
    files: tuple[StoredFile, ...]
    disc: dict[str, Any] | None = None
    """The report of its disc."""

    @property
    def reports(self) -> tuple[FileReport, ...]:
        """Of the files that were made."""
        return tuple(file.report for file in self.files if file.report and file.state in ("named", "left-out"))


@dataclass(frozen=True, slots=True)
class NewPressing:
    """The facts of a pressing when it is queued.

    ``purposes`` are the titles of its briefs, ``words`` what it is found by, ``work_seconds`` how long it takes at
    the common pace, ``libraries`` names and versions of what makes its bytes.
    """

    mix_id: int | None
    mix_title: str
    mix_path: str
    ticket: dict[str, Any]
    purposes: str = ""
    words: str = ""
    work_seconds: float | None = None
    libraries: Mapping[str, str] = field(default_factory=dict)
    again_of: int | None = None


class Pressings:
    """Every statement on the life of pressings and their files."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, new: NewPressing, state: State = "queued", begin: Callable[[int], None] = lambda _id: None) -> int:
        """Opens a pressing, last in the line, and gives its id; ``begin`` is called before others can see it."""
        values = {
            "mix_id": new.mix_id, "mix_title": new.mix_title, "mix_path": new.mix_path,
            "ticket": json.dumps(new.ticket), "state": state, "purposes": new.purposes,
            "work_seconds": new.work_seconds, "libraries": json.dumps(dict(new.libraries)), "again_of": new.again_of,
        }  # fmt: skip
        with self._database.write() as connection:
            number = int(connection.execute(_INSERT, values).lastrowid or 0)
            words = " ".join((new.mix_title, new.mix_path, new.purposes, new.words))
            connection.execute(_INSERT_WORDS, {"id": number, "words": words})
            begin(number)
        return number

    def take_next(self) -> int | None:
        """Take the next queued pressing and mark it as running; None when nothing waits."""
        with self._database.write() as connection:
            row = connection.execute(_NEXT).fetchone()
        return row["id"] if row else None

    def put_back(self, pressing_id: int) -> None:
        """Return pressings that ran when the application ended to their old places in the queue."""
        with self._database.write() as connection:
            connection.execute(_PUT_BACK, {"id": pressing_id})

    def cut_off(self, pressing_id: int, sentence: str) -> None:
        """Mark a pressing as interrupted until the user resumes it."""
        with self._database.write() as connection:
            connection.execute(_CUT_OFF, {"id": pressing_id, "error": sentence})

    def take_out(self, pressing_id: int, sentence: str) -> bool:
        """Ends a pressing that waits; whether it did."""
        with self._database.write() as connection:
            taken = connection.execute(_TAKE_OUT, {"id": pressing_id, "error": sentence}).rowcount > 0
            if taken:
                connection.execute(_END_FILES, {"id": pressing_id, "state": "cancelled", "error": sentence})
        return taken

    def reopen(self, pressing_id: int) -> bool:
        """Queue an interrupted, failed or cancelled pressing again; return whether there was one."""
        with self._database.write() as connection:
            reopened = connection.execute(_REOPEN, {"id": pressing_id}).rowcount > 0
            if reopened:
                connection.execute(_REOPEN_FILES, {"id": pressing_id})
        return reopened

    def move(self, pressing_id: int, to: int) -> bool:
        """Puts a pressing that waits at another place of those that do, counted from 0; whether it waits."""
        with self._database.write() as connection:
            rows = connection.execute(_WAITING).fetchall()
            order = [row["id"] for row in rows if row["id"] != pressing_id]
            if len(order) == len(rows):
                return False
            order.insert(max(0, to), pressing_id)
            for row, number in zip(rows, order, strict=True):
                connection.execute(_PLACE, {"id": number, "place": row["place"]})
        return True

    def end(
        self,
        pressing_id: int,
        state: State,
        *,
        error: str | None = None,
        seconds: float | None = None,
        times_realtime: float | None = None,
        off_by: float | None = None,
    ) -> None:
        """Closes a pressing; files that have not ended end as it does. It is found by its files from here on."""
        values = {
            "id": pressing_id, "state": state, "error": error, "seconds": seconds, "times_realtime": times_realtime,
            "off_by": off_by,
        }  # fmt: skip
        with self._database.write() as connection:
            ended = "cancelled" if state == "cancelled" else "failed"
            connection.execute(_END_FILES, {"id": pressing_id, "state": ended, "error": error})
            connection.execute(_END, values)
            files = (_file(row) for row in connection.execute(_FILES, {"id": pressing_id}).fetchall())
            words = " ".join(f"{file.path} {file.report.sha256 if file.report else ''}" for file in files)
            connection.execute(_ADD_WORDS, {"id": pressing_id, "words": words})

    def set_files(self, pressing_id: int, files: Iterable[StoredFile], ticket: dict[str, Any] | None = None) -> None:
        """Writes the files of a pressing, all or nothing: from here on their places are settled.

        A ``ticket`` is what they are made of: it has what live passes captured since the pressing was added.
        """
        with self._database.write() as connection:
            if ticket is not None:
                connection.execute(_SET_TICKET, {"id": pressing_id, "ticket": json.dumps(ticket)})
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

    def file_at(self, path: str) -> tuple[StoredPressing, StoredFile] | None:
        """The newest file that was pressed to a path, and its pressing; None where none was."""
        with self._database.read() as connection:
            row = connection.execute(_FILE_AT, {"path": path}).fetchone()
        pressing = self.get(row["pressing_id"]) if row else None
        file = next((one for one in pressing.files if one.number == row["number"]), None) if pressing else None
        return (pressing, file) if pressing and file else None

    def latest(self, mix_id: int) -> StoredPressing | None:
        """The newest pressing of a mix, if there is one."""
        found = self._select(_LATEST, {"mix_id": mix_id})
        return found[0] if found else None

    def open(self) -> tuple[StoredPressing, ...]:
        """Return the running pressings, the queued ones in order, and the interrupted ones."""
        return tuple(self._select(_OPEN, {}))

    def under_way(self, besides: int) -> list[str]:
        """The files that other pressings are making just now."""
        with self._database.read() as connection:
            return [row["path"] for row in connection.execute(_UNDER_WAY, {"id": besides})]

    def set_found(self, pressing_id: int, number: int, found: Found, path: str | None) -> None:
        """Notes what has become of a file since it was pressed."""
        values = {"pressing_id": pressing_id, "number": number, "found": found, "found_path": path}
        with self._database.write() as connection:
            connection.execute(_FOUND, values)

    def set_disc(self, pressing_id: int, report: dict[str, Any]) -> None:
        """Store the report of a pressing's disc."""
        with self._database.write() as connection:
            connection.execute(_SET_DISC, {"id": pressing_id, "disc": json.dumps(report)})

    def pace(self) -> tuple[float | None, float | None]:
        """How much longer than foretold at the common pace the last pressings took, and how wrong the time left was.

        The middle one of each; None before there are any.
        """
        with self._database.read() as connection:
            rows = connection.execute(_SPEEDS, {"most": _LAST_PACES}).fetchall()
        wrong = [row["off_by"] for row in rows if row["off_by"] is not None]
        return median(row["pace"] for row in rows) if rows else None, median(wrong) if wrong else None

    def unfinished(self) -> list[StoredPressing]:
        """Return pressings that were queued or running when the application ended."""
        return self._select(_UNFINISHED, {})

    def _select(self, statement: str, values: dict[str, object]) -> list[StoredPressing]:
        with self._database.read() as connection:
            return [
                _pressing(row, connection.execute(_FILES, {"id": row["id"]}).fetchall())
                for row in connection.execute(statement, values).fetchall()
            ]


def _pressing(row: sqlite3.Row, files: list[sqlite3.Row]) -> StoredPressing:
    values = {**dict(row), "ticket": json.loads(row["ticket"]), "libraries": json.loads(row["libraries"])}
    values["disc"] = json.loads(row["disc"]) if row["disc"] else None
    return StoredPressing(**values, files=tuple(_file(file) for file in files))


def _file(row: sqlite3.Row) -> StoredFile:
    report = report_from_row(json.loads(row["report"])) if row["report"] else None
    return StoredFile(**{**dict(row), "replaces": bool(row["replaces"]), "report": report})


def _row(file: StoredFile) -> dict[str, Any]:
    report = json.dumps(report_row(file.report)) if file.report else None
    return {"number": file.number, "path": file.path, "state": file.state, "error": file.error, "report": report}
