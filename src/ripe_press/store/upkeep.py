"""Maintenance of the whole record: checks of all files, and updates of rows in old forms."""

import json
from typing import Any

from ripe_press.store.db import Database

_NOT_AS_PRESSED = """
SELECT found, count(*) AS how_many FROM pressed_files WHERE found IN ('changed', 'gone') GROUP BY found
"""
_WHERE_NOT = """
SELECT DISTINCT pressing_id FROM pressed_files WHERE found IN ('changed', 'gone') ORDER BY pressing_id DESC LIMIT 5
"""
_LONGEST_UNSEEN = """
SELECT pressing_id FROM pressed_files WHERE state = 'named' GROUP BY pressing_id ORDER BY min(coalesce(found_at, ''))
"""
_WITHOUT_VERSION = """
SELECT id, mix_id, made_at, mix_title, ticket FROM pressings WHERE json_extract(ticket, '$.version') IS NULL
"""
_SET_TICKET = "UPDATE pressings SET ticket = :ticket WHERE id = :id"


class Upkeep:
    """Every statement that keeps the record as a whole."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def not_as_pressed(self) -> tuple[int, int, tuple[int, ...]]:
        """How many files were found changed, and how many gone; and the newest pressings that they are of, a few."""
        with self._database.read() as connection:
            counts = {row["found"]: row["how_many"] for row in connection.execute(_NOT_AS_PRESSED)}
            where = tuple(int(row["pressing_id"]) for row in connection.execute(_WHERE_NOT)) if counts else ()
        return counts.get("changed", 0), counts.get("gone", 0), where

    def longest_unseen(self) -> list[int]:
        """Pressings with files, those first of which some were not looked at for the longest time."""
        with self._database.read() as connection:
            return [int(row["pressing_id"]) for row in connection.execute(_LONGEST_UNSEEN)]

    def without_version(self) -> list[tuple[int, int | None, str, str, str]]:
        """Number, mix, time, title and ticket of those whose tickets are of the first form, as text."""
        with self._database.read() as connection:
            return [tuple(row) for row in connection.execute(_WITHOUT_VERSION)]

    def set_ticket(self, number: int, ticket: dict[str, Any]) -> None:
        """Writes a ticket in another form."""
        with self._database.write() as connection:
            connection.execute(_SET_TICKET, {"id": number, "ticket": json.dumps(ticket)})
