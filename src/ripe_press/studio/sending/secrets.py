"""Secrets of drop-offs: in the system keyring or, without one, in an owner-only file.

Never in the record, the log, a document or an answer.
"""

import json
import os
import stat
import threading
from contextlib import suppress
from pathlib import Path
from typing import Literal

from ripe_press.core.errors import Conflict
from ripe_press.core.whole_files import write_whole
from ripe_press.core.words import quoted

_SERVICE = "ripe-press"
FILE = "secrets.json"


class Secrets:
    """Passwords and tokens by the number of their drop-off and the word of its place: at another place none is."""

    def __init__(self, root: Path) -> None:
        self._root = root
        self._path = root / "secrets" / FILE
        self._lock = threading.Lock()

    @property
    def where(self) -> Literal["keyring", "file"]:
        """Where they are kept here."""
        # Imported here because only sending needs the library.
        import keyring
        from keyring.backends import fail

        found = keyring.get_keyring()
        return "file" if isinstance(found, fail.Keyring) or found.priority <= 0 else "keyring"

    def get(self, number: int, place: str) -> str:
        """A secret; empty where there is none. Raises: Conflict ``secrets.open`` or ``secrets.away``."""
        with self._lock:
            if self.where == "keyring":
                import keyring
                from keyring.errors import KeyringError

                try:
                    return keyring.get_password(_SERVICE, self._name(number, place)) or ""
                except KeyringError as error:
                    raise _away(error) from error
            return self._read().get(_key(number, place), "")

    def set(self, number: int, place: str, secret: str) -> None:
        """Keeps a secret, or forgets it where it is empty. Raises: as `get`; Interrupted."""
        with self._lock:
            if self.where == "keyring":
                import keyring
                from keyring.errors import KeyringError, PasswordDeleteError

                try:
                    if secret:
                        keyring.set_password(_SERVICE, self._name(number, place), secret)
                    else:
                        with suppress(PasswordDeleteError):
                            keyring.delete_password(_SERVICE, self._name(number, place))
                except KeyringError as error:
                    raise _away(error) from error
                return
            kept = self._read()
            kept.pop(_key(number, place), None)
            if secret:
                kept[_key(number, place)] = secret
            self._write(kept)

    def _name(self, number: int, place: str) -> str:
        return f"drop-off {_key(number, place)} of {self._root}"

    def _read(self) -> dict[str, str]:
        try:
            number = os.open(self._path, os.O_RDONLY | os.O_NOFOLLOW)
        except FileNotFoundError:
            return {}
        except OSError as error:
            message = f"{quoted(self._path)} cannot be read ({error.strerror}). Check its permissions."
            raise Conflict("secrets.open", message, path=str(self._path)) from error
        with os.fdopen(number, encoding="utf-8") as file:
            if stat.S_IMODE(os.fstat(file.fileno()).st_mode) & 0o077:
                message = f"Others can read {quoted(self._path)}. Run `chmod 600` on it."
                raise Conflict("secrets.open", message, path=str(self._path))
            try:
                row = json.load(file)
            except ValueError:
                return {}
        return {str(name): str(value) for name, value in row.items()} if isinstance(row, dict) else {}

    def _write(self, kept: dict[str, str]) -> None:
        self._path.parent.mkdir(mode=0o700, exist_ok=True)
        write_whole(self._path, json.dumps(kept), 0o600)


def _key(number: int, place: str) -> str:
    return f"{number} {place}"


def _away(error: Exception) -> Conflict:
    message = f"No answer from the system keyring: {error}. Unlock it and try again."
    return Conflict("secrets.away", message)
