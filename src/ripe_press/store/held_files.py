"""What came of holding pressed files against their mix, as long as they stay as they were."""

import json
from typing import Any

from ripe_press.store.db import Database

_GET = "SELECT report FROM held_files WHERE pressing_id = :pressing_id AND number = :number AND stamp = :stamp"
_KEEP = """
INSERT INTO held_files (pressing_id, number, stamp, held_at, report)
VALUES (:pressing_id, :number, :stamp, strftime('%Y-%m-%dT%H:%M:%SZ', 'now'), :report)
ON CONFLICT (pressing_id, number) DO UPDATE
SET stamp = excluded.stamp, held_at = excluded.held_at, report = excluded.report
"""
_SENTENCES = """
SELECT number, stamp, json_extract(report, '$.sentence') AS sentence FROM held_files WHERE pressing_id = :pressing_id
"""
_PENDING = """
SELECT pressed_files.pressing_id, pressed_files.number FROM pressed_files
LEFT JOIN held_files USING (pressing_id, number)
WHERE pressed_files.state = 'named' AND held_files.pressing_id IS NULL
AND pressed_files.pressing_id > (SELECT max(id) FROM pressings) - :pressings
ORDER BY pressed_files.pressing_id DESC, pressed_files.number LIMIT :most
"""


class HeldFiles:
    """Every statement on the table of files compared with their mix."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def get(self, pressing_id: int, number: int, stamp: str) -> dict[str, Any] | None:
        """The report of a file, if it was held as it is now."""
        with self._database.read() as connection:
            values = {"pressing_id": pressing_id, "number": number, "stamp": stamp}
            row = connection.execute(_GET, values).fetchone()
        return json.loads(row["report"]) if row else None

    def sentences(self, pressing_id: int) -> dict[int, tuple[str, str]]:
        """For each file of a pressing that was held its stamp then, and the result in a sentence."""
        with self._database.read() as connection:
            rows = connection.execute(_SENTENCES, {"pressing_id": pressing_id}).fetchall()
        return {row["number"]: (row["stamp"], row["sentence"]) for row in rows}

    def pending(self, pressings: int, most: int) -> list[tuple[int, int]]:
        """Pressing and number of files of the newest pressings that were never held, newest pressing first."""
        with self._database.read() as connection:
            return [tuple(row) for row in connection.execute(_PENDING, {"pressings": pressings, "most": most})]

    def keep(self, pressing_id: int, number: int, stamp: str, report: dict[str, Any]) -> None:
        """Keeps a report, in the place of an earlier one."""
        values = {"pressing_id": pressing_id, "number": number, "stamp": stamp, "report": json.dumps(report)}
        with self._database.write() as connection:
            connection.execute(_KEEP, values)
