"""The signing key, its predecessors, and the trusted keys of others."""

import base64
import json
import os
from contextlib import suppress
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from ripe_press.core.errors import BadInput, Conflict, NotFound
from ripe_press.core.sheet.signature import Link, Signature, fingerprint, linked, public_of, signed
from ripe_press.core.whole_files import write_whole
from ripe_press.core.words import quoted

_MOST_NAME = 80


@dataclass(frozen=True, slots=True)
class OwnKey:
    """The key in use: whose it is called, the public key in base64, since when, and the keys that it follows."""

    name: str
    public: str
    made_at: str
    chain: tuple[Link, ...] = ()

    @property
    def fingerprint(self) -> str:
        """Of the public key, for reading out loud."""
        return fingerprint(self.public)


class Keys:
    """Keys in a folder of the data folder that only its owner can read."""

    def __init__(self, root: Path) -> None:
        self._folder = root / "keys"

    def own(self) -> OwnKey | None:
        """The key in use; None where there is none. Raises: Conflict ``key.unreadable``."""
        row = self._read("own.json")
        return _own(row) if row else None

    def make(self, name: str = "") -> OwnKey:
        """A new key; where there is one, the new one follows it, and says so. Raises: BadInput ``key.name``."""
        before, row = self.own(), self._read("own.json")
        called = " ".join(name.split()) or (before.name if before else "")
        if not called or len(called) > _MOST_NAME:
            message = f"Name the owner of the key (max {_MOST_NAME} characters), for example --name 'Weir House'."
            raise BadInput("key.name", message)
        private = os.urandom(32)
        public = public_of(private)
        chain: tuple[Link, ...] = ()
        if before and row:
            chain = (linked(base64.b64decode(row["private"]), before.public, public), *before.chain)
        made = OwnKey(called, public, datetime.now(UTC).isoformat(timespec="seconds"), chain)
        self._write("own.json", {**asdict(made), "private": base64.b64encode(private).decode()})
        return made

    def sign(self, files: dict[str, str]) -> Signature | None:
        """A signature of files by their names and SHA-256; None without a key. Raises: as `own`."""
        own, row = self.own(), self._read("own.json")
        if own is None or row is None:
            return None
        now = datetime.now(UTC).isoformat(timespec="seconds")
        return signed(base64.b64decode(row["private"]), Signature(own.name, now, files, own.public, chain=own.chain))

    def known(self) -> dict[str, str]:
        """The names under which public keys are known here; one's own are among them."""
        found = {str(key): str(name) for key, name in (self._read("known.json") or {}).items()}
        if own := self.own():
            found |= {link.earlier: own.name for link in own.chain} | {own.public: own.name}
        return found

    def trust(self, public: str, name: str) -> str:
        """Knows a public key in base64 by a name from here on; gives its fingerprint. Raises: BadInput ``key.…``."""
        called = " ".join(name.split())
        if not called or len(called) > _MOST_NAME:
            message = f"Name the owner of the key (max {_MOST_NAME} characters)."
            raise BadInput("key.name", message)
        try:
            if len(base64.b64decode(public, validate=True)) != 32:
                raise ValueError(public)
        except ValueError as error:
            message = "Not a public key. Use the 44 characters that `ripe-press key` prints."
            raise BadInput("key.unusable", message) from error
        self._write("known.json", {**(self._read("known.json") or {}), public: called})
        return fingerprint(public)

    def distrust(self, name: str) -> None:
        """Forgets the keys that are known by a name. Raises: NotFound ``key.unknown``."""
        known = self._read("known.json") or {}
        kept = {key: called for key, called in known.items() if called != name}
        if len(kept) == len(known):
            message = f"Unknown key {quoted(name)}. Available: {', '.join(sorted(set(known.values()))) or 'none'}."
            raise NotFound("key.unknown", message, name=name)
        self._write("known.json", kept)

    def _read(self, name: str) -> dict[str, Any] | None:
        path = self._folder / name
        try:
            row = json.loads(path.read_bytes())
        except (FileNotFoundError, NotADirectoryError):
            return None
        except (OSError, ValueError) as error:
            message = f"{quoted(path)} has no readable keys. Restore it from a copy or delete it."
            raise Conflict("key.unreadable", message, path=str(path)) from error
        return row if isinstance(row, dict) else None

    def _write(self, name: str, row: dict[str, Any]) -> None:
        self._folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        with suppress(OSError):
            self._folder.chmod(0o700)
        write_whole(self._folder / name, json.dumps(row, indent=1), 0o600)


def _own(row: dict[str, Any]) -> OwnKey:
    try:
        return OwnKey(row["name"], row["public"], row["made_at"], tuple(Link(**one) for one in row["chain"]))
    except (KeyError, TypeError) as error:
        message = "Cannot read the key of this data folder. Restore it from a copy or make a new one."
        raise Conflict("key.unreadable", message) from error
