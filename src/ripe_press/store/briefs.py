"""Briefs and sets of deliveries that people saved."""

import json
from typing import Any

from ripe_press.store.db import Database

_ALL = "SELECT body FROM briefs ORDER BY added_at, id"
_KEEP = """
INSERT INTO briefs (id, body, added_at) VALUES (:id, :body, strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
ON CONFLICT (id) DO UPDATE SET body = :body
"""
_DELETE = "DELETE FROM briefs WHERE id = :id"

_ALL_SETS = "SELECT name, body FROM delivery_sets ORDER BY name"
_KEEP_SET = """
INSERT INTO delivery_sets (name, body, added_at)
VALUES (:name, :body, strftime('%Y-%m-%dT%H:%M:%SZ', 'now'))
ON CONFLICT (name) DO UPDATE SET name = excluded.name, body = excluded.body
"""
_DELETE_SET = "DELETE FROM delivery_sets WHERE name = :name"


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


class DeliverySets:
    """Every statement on the table of sets."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> dict[str, dict[str, Any]]:
        """Every set as plain values, by name."""
        with self._database.read() as connection:
            return {row["name"]: json.loads(row["body"]) for row in connection.execute(_ALL_SETS)}

    def keep(self, name: str, body: dict[str, Any]) -> None:
        """Keeps a set, in the place of one with the same name."""
        with self._database.write() as connection:
            connection.execute(_KEEP_SET, {"name": name, "body": json.dumps(body)})

    def remove(self, name: str) -> None:
        """Deletes a set."""
        with self._database.write() as connection:
            connection.execute(_DELETE_SET, {"name": name})
