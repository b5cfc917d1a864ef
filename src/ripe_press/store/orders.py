"""Running orders: their entries by the numbers of mixes on the shelf, as plain values."""

import json
import sqlite3
from dataclasses import dataclass
from typing import Any

from ripe_press.store.db import Database

_COLUMNS = "id, title, body, added_at, changed_at"
_ALL = f"SELECT {_COLUMNS} FROM orders ORDER BY changed_at DESC, id DESC"  # noqa: S608 - a constant of this module
_ONE = f"SELECT {_COLUMNS} FROM orders WHERE id = :id"  # noqa: S608
_ADD = """
INSERT INTO orders (title, body, added_at, changed_at)
VALUES (:title, :body, strftime('%Y-%m-%dT%H:%M:%fZ', 'now'), strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
"""
_SET = """
UPDATE orders SET title = :title, body = :body, changed_at = strftime('%Y-%m-%dT%H:%M:%fZ', 'now') WHERE id = :id
"""
_REMOVE = "DELETE FROM orders WHERE id = :id"


@dataclass(frozen=True, slots=True)
class StoredOrder:
    """A running order that is kept."""

    id: int
    title: str
    body: dict[str, Any]
    added_at: str
    changed_at: str


class Orders:
    """Every statement on the table of running orders."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[StoredOrder]:
        """All of them, the one that was changed last first."""
        with self._database.read() as connection:
            return [_order(row) for row in connection.execute(_ALL)]

    def get(self, order_id: int) -> StoredOrder | None:
        """One of them."""
        with self._database.read() as connection:
            row = connection.execute(_ONE, {"id": order_id}).fetchone()
        return _order(row) if row else None

    def add(self, title: str, body: dict[str, Any]) -> int:
        """Keeps a new one and gives its id."""
        with self._database.write() as connection:
            return int(connection.execute(_ADD, {"title": title, "body": json.dumps(body)}).lastrowid or 0)

    def set(self, order_id: int, title: str, body: dict[str, Any]) -> None:
        """Replace the stored order."""
        with self._database.write() as connection:
            connection.execute(_SET, {"id": order_id, "title": title, "body": json.dumps(body)})

    def remove(self, order_id: int) -> None:
        """Delete the order; pressings of it keep their own copy."""
        with self._database.write() as connection:
            connection.execute(_REMOVE, {"id": order_id})


def _order(row: sqlite3.Row) -> StoredOrder:
    return StoredOrder(row["id"], row["title"], json.loads(row["body"]), row["added_at"], row["changed_at"])
