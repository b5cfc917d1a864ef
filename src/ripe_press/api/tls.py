"""Encryption on the local network, with a certificate that was given, or one of the studio's own."""

import ipaddress
import socket
import ssl
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from ripe_press.api.guard import outward_address
from ripe_press.core.errors import BadInput
from ripe_press.core.whole_files import write_whole
from ripe_press.core.words import quoted

if TYPE_CHECKING:
    from cryptography.x509 import GeneralName

_DAYS, _RENEW_DAYS = 397, 30
"""As long as browsers take one (common practice, no source), and so long before its end a new one is made."""


@dataclass(frozen=True, slots=True)
class Certificate:
    """A certificate with its key, as PEM files."""

    path: Path
    key: Path

    @property
    def fingerprint(self) -> str:
        """The SHA-256 of the certificate, as browsers show it. Raises: BadInput ``tls.unreadable``."""
        from cryptography import x509
        from cryptography.hazmat.primitives.hashes import SHA256

        try:
            found = x509.load_pem_x509_certificate(self.path.read_bytes())
        except (OSError, ValueError) as error:
            message = f"{quoted(self.path)} is not a readable certificate. Choose a PEM file with --cert."
            raise BadInput("tls.unreadable", message, path=str(self.path)) from error
        return found.fingerprint(SHA256()).hex(":").upper()


def given(path: Path, key: Path | None) -> Certificate:
    """A certificate from files; the key may be in the same file. Raises: BadInput ``tls.unreadable``."""
    found = Certificate(path, key or path)
    try:
        ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER).load_cert_chain(found.path, found.key)
    except (OSError, ssl.SSLError) as error:
        message = (
            f"{quoted(path)} and its key cannot be used: {getattr(error, 'reason', '') or error}. Choose a certificate "
            "with --cert and its key with --cert-key, both PEM, the key without a password."
        )
        raise BadInput("tls.unreadable", message, path=str(path)) from error
    return found


def own(root: Path, names: tuple[str, ...]) -> Certificate:
    """The certificate of a data folder for some names and addresses, made where there is none, or none that fits.

    Raises: Interrupted ``write.failed``.
    """
    folder = root / "tls"
    found = Certificate(folder / "certificate.pem", folder / "key.pem")
    wanted = {one for one in names if one.isascii() and one not in ("", "0.0.0.0", "::")} | _addresses()  # noqa: S104 - left out
    if not _fits(found, wanted):
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        certificate, key = _made(wanted)
        write_whole(found.key, key, 0o600)
        write_whole(found.path, certificate)
    return given(found.path, found.key)


def _addresses() -> set[str]:
    """The addresses of this machine, as far as it knows them itself."""
    found = {"127.0.0.1", "::1", outward_address()} - {""}
    with suppress(OSError):
        found |= {str(one[4][0]).partition("%")[0] for one in socket.getaddrinfo(socket.gethostname(), None)}
    return found


def _fits(certificate: Certificate, wanted: set[str]) -> bool:
    from cryptography import x509

    try:
        found = x509.load_pem_x509_certificate(certificate.path.read_bytes())
        names = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        given(certificate.path, certificate.key)
    except (OSError, ValueError, x509.ExtensionNotFound, BadInput):
        return False
    there = {str(one.value) for one in names}
    return wanted <= there and found.not_valid_after_utc > datetime.now(UTC) + timedelta(days=_RENEW_DAYS)


def _made(names: set[str]) -> tuple[bytes, bytes]:
    from cryptography import x509
    from cryptography.hazmat.primitives.asymmetric import ec
    from cryptography.hazmat.primitives.hashes import SHA256
    from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat
    from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

    key = ec.generate_private_key(ec.SECP256R1())
    called = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Ripe Press")])
    now = datetime.now(UTC)
    builder = (
        x509.CertificateBuilder()
        .subject_name(called)
        .issuer_name(called)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(hours=1))
        .not_valid_after(now + timedelta(days=_DAYS))
        .add_extension(x509.SubjectAlternativeName([_name(one) for one in sorted(names)]), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
    )
    certificate = builder.sign(key, SHA256()).public_bytes(Encoding.PEM)
    return certificate, key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption())


def _name(text: str) -> "GeneralName":
    from cryptography import x509

    try:
        return x509.IPAddress(ipaddress.ip_address(text))
    except ValueError:
        return x509.DNSName(text)
