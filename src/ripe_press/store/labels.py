"""Label patterns that were kept under a name."""

import json
from dataclasses import dataclass
from typing import Any

from ripe_press.store.db import Database

_ALL = "SELECT name, pattern, style FROM label_patterns ORDER BY name COLLATE NOCASE"
_KEEP = """
INSERT INTO label_patterns (name, pattern, style, added_at)
VALUES (:name, :pattern, :style, strftime('%Y-%m-%dT%H:%M:%SZ', 'now'))
ON CONFLICT (name) DO UPDATE SET pattern = excluded.pattern, style = excluded.style
"""
_REMOVE = "DELETE FROM label_patterns WHERE name = :name"


@dataclass(frozen=True, slots=True)
class KeptPattern:
    """A pattern, its style as plain values, and the name it is kept under."""

    name: str
    pattern: str
    style: dict[str, Any]


class Labels:
    """Every statement on the table of label patterns."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[KeptPattern]:
        """All patterns by name."""
        with self._database.read() as connection:
            rows = connection.execute(_ALL).fetchall()
        return [KeptPattern(row["name"], row["pattern"], json.loads(row["style"])) for row in rows]

    def keep(self, kept: KeptPattern) -> None:
        """Keeps a pattern, in the place of one with the same name."""
        values = {"name": kept.name, "pattern": kept.pattern, "style": json.dumps(kept.style)}
        with self._database.write() as connection:
            connection.execute(_KEEP, values)

    def remove(self, name: str) -> None:
        """Forgets a pattern."""
        with self._database.write() as connection:
            connection.execute(_REMOVE, {"name": name})
