"""Signatures: verified by our code and by OpenSSL, changed by a letter, followed from key to key.

Source: RFC 8032, section 7.1, has the worked values of Ed25519 that are checked here.
"""

import base64
import json
import subprocess
from dataclasses import replace
from pathlib import Path

import pytest
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey
from cryptography.hazmat.primitives.serialization import Encoding, PublicFormat

from ripe_press.core.errors import BadInput
from ripe_press.core.sheet.signature import (
    Signature,
    fingerprint,
    holds,
    keys_before,
    linked,
    public_of,
    read_signature,
    signed,
)

FIRST = bytes.fromhex("9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60")
PUBLIC = "d75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a"
NOTHING = base64.b64encode(bytes(64)).decode()
FILES = {"Weir.wav": "ab" * 32, "delivery-sheet.json": "cd" * 32}


def made(private: bytes = FIRST, **more: object) -> Signature:
    wanted = Signature("Weir House", "2026-11-30T09:00:00+00:00", FILES, public_of(private), **more)  # type: ignore[arg-type]
    return signed(private, wanted)


def test_the_key_is_that_of_the_standard() -> None:
    assert base64.b64decode(public_of(FIRST)).hex() == PUBLIC
    assert len(fingerprint(public_of(FIRST)).split()) == 8


def test_a_signature_holds_and_nothing_of_it_can_be_changed() -> None:
    found = read_signature(json.loads(json.dumps(made().row)))
    assert holds(found)
    for changed in (
        {"signed_by": "Weir Hause"}, {"signed_at": "2026-12-01"}, {"files": {**FILES, "Weir.wav": "ac" * 32}},
        {"files": {"Weir.wav": "ab" * 32}}, {"key": public_of(bytes(32))}, {"signature": NOTHING},
        {"signature": "plums"},
    ):  # fmt: skip
        assert not holds(replace(found, **changed))  # type: ignore[arg-type]


def test_another_program_verifies_it(tmp_path: Path) -> None:
    found = made()
    (tmp_path / "text").write_bytes(found.text)
    (tmp_path / "sig").write_bytes(base64.b64decode(found.signature))
    key = Ed25519PublicKey.from_public_bytes(base64.b64decode(found.key))
    (tmp_path / "key.pem").write_bytes(key.public_bytes(Encoding.PEM, PublicFormat.SubjectPublicKeyInfo))
    words = ["openssl", "pkeyutl", "-verify", "-pubin", "-inkey", "key.pem", "-rawin", "-in", "text", "-sigfile", "sig"]
    done = subprocess.run(words, cwd=tmp_path, capture_output=True, text=True, check=False)
    assert "Signature Verified Successfully" in done.stdout, done.stderr
    (tmp_path / "text").write_bytes(found.text.replace(b"Weir", b"Fen "))
    assert subprocess.run(words, cwd=tmp_path, capture_output=True, check=False).returncode != 0


def test_keys_follow_each_other_as_far_as_each_says_so() -> None:
    second, third = bytes([2]) * 32, bytes([3]) * 32
    keys = [public_of(one) for one in (FIRST, second, third)]
    chain = (linked(second, keys[1], keys[2]), linked(FIRST, keys[0], keys[1]))
    assert keys_before(made(third, chain=chain)) == (keys[1], keys[0])
    # A stranger cannot put himself behind a known key.
    assert keys_before(made(third, chain=(linked(third, keys[0], keys[2]),))) == ()
    assert keys_before(made(third, chain=(chain[1], chain[0]))) == ()


@pytest.mark.parametrize(
    "row", [None, [], {}, "x", {"form": "ripe-press-signature", "version": 2}, {**made().row, "key": "x"}]
)
def test_invalid_signature_is_rejected(row: object) -> None:
    with pytest.raises(BadInput, match="Cannot read"):
        read_signature(row)
