"""TLS: a client with the certificate from the link is answered, and the connection is encrypted."""

import hashlib
import http.client
import socket
import ssl
import subprocess
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

import pytest

from ripe_press.api import tls
from ripe_press.core.errors import BadInput
from support.serving import served, started

OTHER = "127.0.0.2"
"""An address of this machine that is none of those that need no token."""


def test_the_link_has_the_fingerprint_and_the_line_is_encrypted(tmp_path: Path) -> None:
    with served(tmp_path / "data", "--host", OTHER, "--tls") as server:
        link = urlsplit(server.link)
        token = parse_qs(link.query)["token"][0]
        assert link.scheme == "https" and len(token) >= 32
        # Pinned: the server's certificate is the one in the link.
        with socket.create_connection((OTHER, link.port or 0)) as line:
            context = ssl.create_default_context()
            context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
            with context.wrap_socket(line) as secret:
                shown = hashlib.sha256(secret.getpeercert(binary_form=True) or b"").hexdigest()
        assert link.fragment == "sha256=" + ":".join(shown[at : at + 2] for at in range(0, 64, 2)).upper()
        trusting = ssl.create_default_context(cafile=str(tmp_path / "data" / "tls" / "certificate.pem"))
        asking = http.client.HTTPSConnection(OTHER, link.port, context=trusting)
        asking.request("GET", "/api/shelf", headers={"Authorization": f"Bearer {token}"})
        assert asking.getresponse().read() and asking.sock
        asking.close()
        asking = http.client.HTTPSConnection(OTHER, link.port, context=trusting)
        asking.request("GET", f"/?token={token}")
        cookie = asking.getresponse().getheader("set-cookie") or ""
        assert "Secure" in cookie and "HttpOnly" in cookie
        asking.close()
        with pytest.raises((ConnectionError, http.client.HTTPException)):
            plain = http.client.HTTPConnection(OTHER, link.port, timeout=10)
            plain.request("GET", "/api/shelf")
            plain.getresponse()
        plain.close()
        assert (tmp_path / "data" / "tls" / "key.pem").stat().st_mode & 0o777 == 0o600


def test_a_certificate_stays_until_it_ends_or_another_name_is_wanted(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first = tls.own(tmp_path, ("weir.test",)).fingerprint
    assert tls.own(tmp_path, ("weir.test",)).fingerprint == first
    second = tls.own(tmp_path, ("weir.test", "192.0.2.7")).fingerprint
    assert second != first
    said = subprocess.run(
        ["openssl", "x509", "-in", tmp_path / "tls" / "certificate.pem", "-noout", "-text", "-fingerprint", "-sha256"],
        capture_output=True, text=True, check=True,
    ).stdout  # fmt: skip
    assert "DNS:weir.test" in said and "IP Address:192.0.2.7" in said and second in said and "CA:FALSE" in said
    monkeypatch.setattr(tls, "_RENEW_DAYS", 400)
    assert tls.own(tmp_path, ("weir.test", "192.0.2.7")).fingerprint != second


def test_a_given_certificate_is_used_and_nonsense_refused(tmp_path: Path) -> None:
    made = tls.own(tmp_path, ("weir.test",))
    assert tls.given(made.path, made.key).fingerprint == made.fingerprint
    (tmp_path / "both.pem").write_bytes(made.path.read_bytes() + made.key.read_bytes())
    assert tls.given(tmp_path / "both.pem", None).fingerprint == made.fingerprint
    (tmp_path / "nonsense.pem").write_text("plums")
    for path, key in ((tmp_path / "nonsense.pem", None), (made.path, None), (tmp_path / "gone.pem", made.key)):
        with pytest.raises(BadInput, match="--cert"):
            tls.given(path, key)
    process = started(tmp_path / "data", "--cert", str(tmp_path / "nonsense.pem"))
    _, said = process.communicate(timeout=60)
    assert process.returncode == 2 and "--cert-key" in said and "Traceback" not in said
