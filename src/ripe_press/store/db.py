"""The one door to SQLite: connections, transactions and numbered migrations."""

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import closing, contextmanager
from importlib.resources import files
from pathlib import Path

from ripe_press.core.errors import Conflict
from ripe_press.core.words import quoted

BUSY_SECONDS = 30.0
"""Seconds to wait for another program that locks the record."""

Clash = sqlite3.IntegrityError
"""Raised for a row that contradicts others, because they changed since they were read."""

_LEDGER = """
CREATE TABLE IF NOT EXISTS migrations (
    name TEXT PRIMARY KEY,
    applied_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%SZ', 'now'))
) STRICT
"""
_APPLIED = "SELECT name FROM migrations ORDER BY name"
_RECORD = "INSERT INTO migrations (name) VALUES (:name)"


class Database:
    """One writer behind a lock, readers of their own; WAL, so that neither waits for the other.

    Raises: Conflict ``store.unusable`` if the file cannot be created or is not a database.
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self._lock = threading.RLock()
        self._closed = False
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            self._writer = self._connect(f"{path.as_uri()}?mode=rwc")
            self._writer.execute("PRAGMA journal_mode = WAL")
        except (OSError, sqlite3.Error) as error:
            message = f"The data folder {quoted(path.parent)} cannot be used: {error}. Choose another with --data."
            raise Conflict("store.unusable", message, path=str(path)) from error

    def close(self) -> None:
        """Closes the writer; readers close themselves."""
        with self._lock:
            self._closed = True
            self._writer.close()

    @contextmanager
    def write(self) -> Iterator[sqlite3.Connection]:
        """A transaction: committed at the end, rolled back on any error.

        Raises: Conflict ``store.busy`` if another program locks the database beyond the wait, or its disk is full;
        ``store.closed`` once it is closed.
        """
        with self._lock, self._with_errors():
            if self._closed:
                message = "Ripe Press is shutting down. Try again after the restart."
                raise Conflict("store.closed", message)
            self._writer.execute("BEGIN IMMEDIATE")
            try:
                yield self._writer
                self._writer.execute("COMMIT")
            except BaseException:
                if self._writer.in_transaction:
                    self._writer.execute("ROLLBACK")
                raise

    @contextmanager
    def read(self) -> Iterator[sqlite3.Connection]:
        """A connection that can only read. Raises: Conflict ``store.busy``."""
        try:
            connection = self._connect(f"{self._path.as_uri()}?mode=ro")
        except sqlite3.OperationalError as error:
            message = f"Could not read the history in {quoted(self._path.parent)}: {error}. Try again."
            raise Conflict("store.busy", message, path=str(self._path)) from error
        try:
            yield connection
        except sqlite3.DatabaseError as error:
            self._refuse_damage(error)
            raise
        finally:
            connection.close()

    def copy_to(self, path: Path) -> None:
        """A whole copy as it is now, while others write. Raises: Conflict ``store.unusable``."""
        with self.read() as connection:
            copy = sqlite3.connect(path)
            try:
                connection.backup(copy)
            except sqlite3.Error as error:
                message = f"Could not copy the history in {quoted(self._path.parent)}: {error}."
                raise Conflict("store.unusable", message, path=str(self._path)) from error
            finally:
                copy.close()

    @contextmanager
    def _with_errors(self) -> Iterator[None]:
        try:
            yield
        except sqlite3.OperationalError as error:
            message = f"Could not save to {quoted(self._path.parent)}: {error}. Try again."
            raise Conflict("store.busy", message, path=str(self._path)) from error
        except sqlite3.DatabaseError as error:
            self._refuse_damage(error)
            raise

    def _refuse_damage(self, error: sqlite3.DatabaseError) -> None:
        # Its other subclasses are contradictory rows, or an internal error.
        if type(error) is sqlite3.DatabaseError:
            message = (
                f"The history in {quoted(self._path.parent)} is damaged: {error}. Stop Ripe Press and run "
                "`ripe-press doctor --restore` to restore the last good copy."
            )
            raise Conflict("store.damaged", message, path=str(self._path)) from error

    def applied(self) -> set[str]:
        """The names of the steps that were applied to it."""
        with self.read() as connection:
            found = connection.execute("SELECT 1 FROM sqlite_master WHERE name = 'migrations'").fetchone()
            return {row["name"] for row in connection.execute(_APPLIED)} if found else set()

    @staticmethod
    def problems_of(path: Path, check: str = "integrity_check") -> list[str]:
        """What SQLite finds wrong with a file; by ``integrity_check`` with its indexes too, which takes longer."""
        try:
            with closing(sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True)) as connection:
                found = [str(row[0]) for row in connection.execute(f"PRAGMA {check}(5)")]
        except sqlite3.DatabaseError as error:
            return [str(error)]
        return [] if found == ["ok"] else found

    def migrate(self, steps: list[tuple[str, str]] | None = None) -> list[str]:
        """Apply missing migrations, each with its ledger row in one transaction; return their names."""
        with self.write() as connection:
            connection.execute(_LEDGER)
        with self.read() as connection:
            applied = {row["name"] for row in connection.execute(_APPLIED)}
        new = [(name, sql) for name, sql in (steps or shipped_migrations()) if name not in applied]
        for name, sql in new:
            with self.write() as connection:
                # Not executescript(): it commits the open transaction, and a failed step would leave half of itself.
                for statement in _statements(sql):
                    connection.execute(statement)
                connection.execute(_RECORD, {"name": name})
        return [name for name, _ in new]

    @staticmethod
    def _connect(uri: str) -> sqlite3.Connection:
        connection = sqlite3.connect(uri, uri=True, isolation_level=None, check_same_thread=False, timeout=BUSY_SECONDS)
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA foreign_keys = ON")
        # The schema of a foreign file may call only harmless functions.
        connection.execute("PRAGMA trusted_schema = OFF")
        return connection


def shipped_migrations() -> list[tuple[str, str]]:
    """The numbered .sql files beside this module, in order."""
    folder = files("ripe_press.store.migrations")
    entries = sorted((entry for entry in folder.iterdir() if entry.name.endswith(".sql")), key=lambda e: e.name)
    return [(entry.name, entry.read_text(encoding="utf-8")) for entry in entries]


def _statements(sql: str) -> Iterator[str]:
    pending = ""
    for line in sql.splitlines(keepends=True):
        pending += line
        if sqlite3.complete_statement(pending):
            yield pending
            pending = ""
    if pending.strip():
        yield pending
