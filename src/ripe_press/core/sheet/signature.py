"""Signed deliveries in a form that other tools can verify.

Ed25519 (RFC 8032) over a short text with signer, time, key and the SHA-256 of every signed file; the form is in
`docs/signing.md`.
"""

import base64
import binascii
import hashlib
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, Literal

from ripe_press.core.errors import BadInput

NAME = "delivery-sheet.sig.json"
FORM = "ripe-press-signature"
VERSION: Literal[1] = 1
_MOST_LINKS = 100


@dataclass(frozen=True, slots=True)
class Link:
    """That a key follows another: the earlier key, and its signature of the later one. Both in base64."""

    earlier: str
    later: str
    signature: str


@dataclass(frozen=True, slots=True)
class Signature:
    """A signature of files by their names and SHA-256; ``key`` and ``signature`` in base64, ``chain`` newest first."""

    signed_by: str
    signed_at: str
    files: Mapping[str, str]
    key: str
    signature: str = ""
    chain: tuple[Link, ...] = ()

    @property
    def text(self) -> bytes:
        """The signed text, line by line; names in code point order."""
        lines = [
            f"{FORM} {VERSION}", f"signed by: {_line(self.signed_by)}", f"signed at: {_line(self.signed_at)}",
            f"key: {self.key}", *(f"{digest}  {_line(name)}" for name, digest in sorted(self.files.items())),
        ]  # fmt: skip
        return "".join(f"{one}\n" for one in lines).encode()

    @property
    def row(self) -> dict[str, Any]:
        """As plain values, for the file."""
        return {"form": FORM, "version": VERSION, **asdict(self), "text": self.text.decode()}


def fingerprint(key: str) -> str:
    """The fingerprint of a public key in base64: its SHA-256 in eight groups of four, for reading out loud."""
    digest = hashlib.sha256(base64.b64decode(key)).hexdigest()[:32]
    return " ".join(digest[at : at + 4] for at in range(0, 32, 4))


def signed(private: bytes, wanted: Signature) -> Signature:
    """A signature with a private key of 32 bytes, which must be that of its ``key``."""
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

    made = Ed25519PrivateKey.from_private_bytes(private).sign(wanted.text)
    return Signature(**{**_fields(wanted), "signature": base64.b64encode(made).decode()})


def linked(private: bytes, earlier: str, later: str) -> Link:
    """That one key follows another, signed by the earlier."""
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

    made = Ed25519PrivateKey.from_private_bytes(private).sign(_link_text(earlier, later))
    return Link(earlier, later, base64.b64encode(made).decode())


def public_of(private: bytes) -> str:
    """The public key of a private one, in base64."""
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

    return base64.b64encode(Ed25519PrivateKey.from_private_bytes(private).public_key().public_bytes_raw()).decode()


def read_signature(row: Any) -> Signature:
    """A signature out of its file, whatever that holds. Raises: BadInput ``signature.unreadable``."""
    try:
        if row["form"] != FORM or row["version"] != VERSION:
            raise ValueError(row["version"])
        files = {str(name): str(digest).lower() for name, digest in row["files"].items()}
        chain = tuple(Link(str(one["earlier"]), str(one["later"]), str(one["signature"])) for one in row["chain"])
        if len(chain) > _MOST_LINKS:
            raise ValueError(len(chain))
        found = Signature(
            str(row["signed_by"]), str(row["signed_at"]), files, str(row["key"]), str(row["signature"]), chain
        )
        if len(base64.b64decode(found.key, validate=True)) != 32:
            raise ValueError(found.key)
    except (KeyError, TypeError, ValueError, AttributeError, binascii.Error) as error:
        message = "Cannot read the signature. Ask the sender for a new one."
        raise BadInput("signature.unreadable", message) from error
    return found


def holds(signature: Signature) -> bool:
    """Whether the signature is that of its text by its key."""
    return _verified(signature.key, signature.signature, signature.text)


def keys_before(signature: Signature) -> tuple[str, ...]:
    """The keys that the key of a signature follows, as far as each says so itself; the newest first."""
    at, found = signature.key, []
    for link in signature.chain:
        if link.later != at or not _verified(link.earlier, link.signature, _link_text(link.earlier, link.later)):
            break
        at = link.earlier
        found.append(at)
    return tuple(found)


def _link_text(earlier: str, later: str) -> bytes:
    return f"{FORM} key {VERSION}\nearlier: {earlier}\nlater: {later}\n".encode()


def _verified(key: str, signature: str, text: bytes) -> bool:
    from cryptography.exceptions import InvalidSignature
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

    try:
        public = Ed25519PublicKey.from_public_bytes(base64.b64decode(key, validate=True))
        public.verify(base64.b64decode(signature, validate=True), text)
    except (InvalidSignature, ValueError, binascii.Error):
        return False
    return True


def _fields(signature: Signature) -> dict[str, Any]:
    return {name: getattr(signature, name) for name in Signature.__slots__}


def _line(text: str) -> str:
    return " ".join(text.split())
