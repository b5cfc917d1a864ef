"""Briefs that people made themselves, as they brought them."""

import json
from typing import Any

from ripe_press.store.db import Database

_ALL = "SELECT body FROM briefs ORDER BY added_at, id"
_KEEP = """
INSERT INTO briefs (id, body, added_at) VALUES (:id, :body, strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
ON CONFLICT (id) DO UPDATE SET body = :body
"""
_DELETE = "DELETE FROM briefs WHERE id = :id"


class OwnBriefs:
    """Every statement on the table of briefs."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[dict[str, Any]]:
        """All of them, oldest first."""
        with self._database.read() as connection:
            return [json.loads(row["body"]) for row in connection.execute(_ALL)]

    def keep(self, brief_id: str, body: dict[str, Any]) -> None:
        """Adds a brief, or puts it in the place of the one with its id."""
        with self._database.write() as connection:
            connection.execute(_KEEP, {"id": brief_id, "body": json.dumps(body)})

    def remove(self, brief_id: str) -> None:
        """Takes a brief away; pressings made to it keep their own copy."""
        with self._database.write() as connection:
            connection.execute(_DELETE, {"id": brief_id})
