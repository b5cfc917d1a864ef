"""Drop-offs: where finished files go. Set up once, chosen by a brief or a delivery, or typed as one word."""

import ipaddress
import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Annotated, Any, ClassVar, Literal, get_args
from urllib.parse import urlsplit

from annotated_types import Ge, Len, MaxLen

from ripe_press.core.errors import BadInput
from ripe_press.core.naming import check_pattern, fill_known
from ripe_press.core.requests.document import validated
from ripe_press.core.requests.making import STRICT
from ripe_press.core.words import quoted

Kind = Literal["folder", "library", "sync", "mail", "desk"]
KINDS: tuple[Kind, ...] = get_args(Kind)
LIBRARY_PATTERN = "{album_artist}/{album}/{track} {title}"
"""The usual folders of a music library (common practice, no source)."""
SUBJECT = "{title} by {artist}"
TEXT = "{title} by {artist} is attached: {format}, {rate}, {length}.\n\nSHA-256 {sha256}\n"
MAIL_PORT = 25
_MAIL = re.compile(r"[A-Za-z0-9.!#$%&'*+/=?^_`{|}~-]{1,64}(@[A-Za-z0-9.-]{1,253})?")
_HOST = re.compile(r"[A-Za-z0-9]([A-Za-z0-9.-]{0,251}[A-Za-z0-9])?")


@dataclass(frozen=True, slots=True)
class DropOff:
    """A place for finished files. Its secret is stored elsewhere, by name.

    ``place`` is a folder, ADDRESS@HOST[:PORT] of a mailbox, or the URL of an intake. ``sub_folder`` is a label pattern
    below a folder; ``subject`` and ``text`` of a mail have label fields and ``{sha256}``; ``limit_bytes`` is the
    maximum message size, 0 for the limit of the server.
    """

    name: Annotated[str, Len(1, 80)]
    kind: Kind
    place: Annotated[str, Len(1, 1000)]
    sub_folder: Annotated[str, MaxLen(300)] = ""
    sender: Annotated[str, MaxLen(320)] = ""
    subject: Annotated[str, MaxLen(300)] = SUBJECT
    text: Annotated[str, MaxLen(5000)] = TEXT
    limit_bytes: Annotated[int, Ge(0)] = 0
    user: Annotated[str, MaxLen(320)] = ""
    __pydantic_config__: ClassVar[Any] = STRICT

    @property
    def word(self) -> str:
        """The kind and the place in one word, as the command line takes it; the same place is the same word."""
        return f"{self.kind}:{self.place}"

    @property
    def folder(self) -> Path:
        """The folder of one that has one."""
        return Path(self.place)


@dataclass(frozen=True, slots=True)
class MailPlace:
    """Recipient address and mail server."""

    address: str
    host: str
    port: int


def mail_place(place: str) -> MailPlace:
    """Parse ADDRESS@HOST[:PORT]; the last @ is before the host: ``in@weir.example:2525``,
    ``ada@label.example@127.0.0.1:2525``. An address without a host of its own uses the server.

    Raises: BadInput ``drop-off.mail``.
    """
    address, at, where = place.rpartition("@")
    host, _, port = where.partition(":")
    number = int(port) if port.isascii() and port.isdigit() and len(port) < 6 else (MAIL_PORT if not port else 0)
    if not at or not _MAIL.fullmatch(address) or not _HOST.fullmatch(host) or not 1 <= number <= 65_535:
        message = f"{quoted(place)} is not a mailbox. Use ADDRESS@HOST or ADDRESS@HOST:PORT."
        raise BadInput("drop-off.mail", message, place=place)
    if "@" not in address:
        address = f"{address}@{_literal(host)}"
    return MailPlace(address, host, number)


def _literal(host: str) -> str:
    # RFC 5321, 4.1.3: an address that stands for a host by its number is written in brackets.
    try:
        ipaddress.IPv4Address(host)
    except ValueError:
        return host
    return f"[{host}]"


def desk_url(place: str) -> str:
    """The URL of an intake without a final slash. Raises: BadInput ``drop-off.url``."""
    try:
        parts = urlsplit(place)
        port = parts.port
    except ValueError:
        parts, port = urlsplit(""), None
    plain = parts.scheme in ("http", "https") and parts.hostname and not parts.username and not parts.password
    if not plain or port == 0 or parts.query or parts.fragment or re.search(r"[\s\x00-\x1f\x7f]", place):
        message = f"{quoted(place)} is not an intake address. Use http://host:port, without name or password."
        raise BadInput("drop-off.url", message, place=place)
    return place.rstrip("/")


def checked(drop_off: DropOff) -> DropOff:
    """The drop-off itself, once files can go there; its place as it is written everywhere.

    Raises: BadInput ``drop-off.…``, ``label.…``.
    """
    name = drop_off.name.strip()
    if not name or re.search(r"[\x00-\x1f\x7f]", name) or (name.partition(":")[0] in KINDS and ":" in name):
        message = f"{quoted(drop_off.name)} cannot be a drop-off name. Use letters, digits and spaces."
        raise BadInput("drop-off.name", message)
    place = drop_off.place.strip()
    if drop_off.kind == "mail":
        mail_place(place)
        for pattern in (drop_off.subject, drop_off.text):
            _fields_known(pattern)
        if drop_off.sender and not (_MAIL.fullmatch(drop_off.sender) and "@" in drop_off.sender):
            message = f"{quoted(drop_off.sender)} is not a mail address. Use name@host."
            raise BadInput("drop-off.sender", message)
    elif drop_off.kind == "desk":
        place = desk_url(place)
    else:
        if "\x00" in place or not Path(place).expanduser().is_absolute():
            message = f"{quoted(drop_off.place)} is not a full path. Use a path that starts at the root."
            raise BadInput("drop-off.folder", message, place=drop_off.place)
        place = str(Path(place).expanduser())
    if drop_off.sub_folder.strip():
        check_pattern(drop_off.sub_folder)
    return replace(drop_off, name=name, place=place)


def _fields_known(pattern: str) -> None:
    check_pattern(fill_known(pattern, {"sha256": "x"}).replace("/", " ").replace("\n", " ") or "x")


def drop_off_from(row: Mapping[str, Any]) -> DropOff:
    """A drop-off out of plain values. Raises: BadInput ``document.unreadable``."""
    return validated(DropOff, row, "drop-off")


def drop_off_from_word(word: str) -> DropOff | None:
    """``KIND:PLACE`` as a drop-off that is called by its word; None for a word that must be a name.

    Raises: BadInput as `checked`.
    """
    kind, colon, place = word.partition(":")
    known = next((one for one in KINDS if one == kind), None)
    if not colon or known is None:
        return None
    if known in ("folder", "library", "sync"):
        place = str(Path(place).expanduser().absolute()) if place else place
    if not place:
        message = f"{quoted(word)} has no place. Write it after the colon."
        raise BadInput("drop-off.place", message)
    # Its name is its word, which no drop-off that is set up can have.
    found = checked(DropOff("typed", known, place))
    return replace(found, name=found.word[:80])
