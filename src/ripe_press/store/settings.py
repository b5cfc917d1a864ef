"""Settings that hold until they are changed."""

from ripe_press.store.db import Database

_GET = "SELECT value FROM settings WHERE name = :name"
_SET = """
INSERT INTO settings (name, value) VALUES (:name, :value)
ON CONFLICT (name) DO UPDATE SET value = excluded.value
"""


class Settings:
    """Every statement on the table of settings."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def get(self, name: str, otherwise: str) -> str:
        """Return the value of this name, or its default."""
        with self._database.read() as connection:
            row = connection.execute(_GET, {"name": name}).fetchone()
        return str(row["value"]) if row else otherwise

    def set(self, name: str, value: str) -> None:
        """Sets the value under this name."""
        with self._database.write() as connection:
            connection.execute(_SET, {"name": name, "value": value})
