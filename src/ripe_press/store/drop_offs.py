"""Drop-offs that are set up, and what each said when it was last tried."""

import json
import sqlite3
from dataclasses import dataclass
from typing import Any

from ripe_press.core.errors import Conflict
from ripe_press.core.words import quoted
from ripe_press.store.db import Database

_COLUMNS = "id, name, settings, said, made_at"
_ALL = f"SELECT {_COLUMNS} FROM drop_offs ORDER BY id"  # noqa: S608 - a constant of this module
_ONE = f"SELECT {_COLUMNS} FROM drop_offs WHERE id = :id"  # noqa: S608
_ADD = """
INSERT INTO drop_offs (name, settings, made_at) VALUES (:name, :settings, strftime('%Y-%m-%dT%H:%M:%SZ', 'now'))
"""
_SET = "UPDATE drop_offs SET name = :name, settings = :settings, said = '{}' WHERE id = :id"
_SAY = "UPDATE drop_offs SET said = :said WHERE id = :id"
_REMOVE = "DELETE FROM drop_offs WHERE id = :id"


@dataclass(frozen=True, slots=True)
class StoredDropOff:
    """A drop-off as plain values; ``said`` is what it answered when it was last tried."""

    id: int
    name: str
    settings: dict[str, Any]
    said: dict[str, Any]
    made_at: str


class DropOffs:
    """Every statement on the table of drop-offs."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[StoredDropOff]:
        """All of them, in the order in which they were set up."""
        with self._database.read() as connection:
            return [_drop_off(row) for row in connection.execute(_ALL)]

    def get(self, number: int) -> StoredDropOff | None:
        """One of them."""
        with self._database.read() as connection:
            row = connection.execute(_ONE, {"id": number}).fetchone()
        return _drop_off(row) if row else None

    def add(self, name: str, settings: dict[str, Any]) -> int:
        """Another one; gives its number. Raises: Conflict ``drop-off.name-taken``."""
        with self._named(name), self._database.write() as connection:
            return int(connection.execute(_ADD, {"name": name, "settings": json.dumps(settings)}).lastrowid or 0)

    def set(self, number: int, name: str, settings: dict[str, Any]) -> bool:
        """Changes one; whether it was there. Raises: Conflict ``drop-off.name-taken``."""
        values = {"id": number, "name": name, "settings": json.dumps(settings)}
        with self._named(name), self._database.write() as connection:
            return connection.execute(_SET, values).rowcount > 0

    def say(self, number: int, said: dict[str, Any]) -> None:
        """Keeps what one answered."""
        with self._database.write() as connection:
            connection.execute(_SAY, {"id": number, "said": json.dumps(said)})

    def remove(self, number: int) -> bool:
        """Delete a drop-off; return whether it existed. Its transfers stay in the record."""
        with self._database.write() as connection:
            return connection.execute(_REMOVE, {"id": number}).rowcount > 0

    @staticmethod
    def _named(name: str) -> "_Taken":
        return _Taken(name)


class _Taken:
    """Says that a name is taken, where the table says so."""

    def __init__(self, name: str) -> None:
        self._name = name

    def __enter__(self) -> None:
        return None

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, _where: object) -> None:
        if isinstance(error, sqlite3.IntegrityError):
            message = f"Drop-off {quoted(self._name)} exists. Choose another name."
            raise Conflict("drop-off.name-taken", message, name=self._name) from error


def _drop_off(row: sqlite3.Row) -> StoredDropOff:
    values = dict(row)
    return StoredDropOff(**{**values, "settings": json.loads(values["settings"]), "said": json.loads(values["said"])})
