"""Mail read by the standard library's parser: the attachment is the file, and its size is known to the byte."""

import hashlib
import random
from email import message_from_bytes
from email.policy import SMTP

import pytest
from hypothesis import example, given, strategies as st

from ripe_press.core.sending.drop_off import DropOff
from ripe_press.core.sending.mail import (
    encoded_bytes,
    mail_bytes,
    message_of,
    overhead_bytes,
    room_for_file,
    what_fits,
)
from ripe_press.core.sending.parcel import Parcel, plain_line, reasons_from

BOX = DropOff("Mill Lane", "mail", "in@weir.example:2525", sender="press@sluice.example")


def parcel(data: bytes = b"plums", name: str = "Headrace.flac", **fields: str) -> Parcel:
    known = {"title": "Headrace", "artist": "The Sluicekeepers", "format": "FLAC", "rate": "48k", "length": "2m31s"}
    sum_ = hashlib.sha256(data).hexdigest()
    return Parcel("/srv/" + name, name, sum_, len(data), "2026-11-27T20:15:00+00:00", known | fields)


@pytest.mark.parametrize("size", [0, 1, 2, 3, 56, 57, 58, 113, 114, 115, 1000, 65_537])
def test_the_size_of_a_mail_is_known_to_the_byte_before_it_is_made(size: int) -> None:
    data = random.Random(size).randbytes(size)
    one = parcel(data)
    raw = message_of(BOX, one, data).as_bytes()
    assert len(raw) == mail_bytes(BOX, one) == overhead_bytes(BOX, one) + encoded_bytes(size)
    found = message_from_bytes(raw, policy=SMTP)
    (attached,) = found.iter_attachments()
    assert attached.get_content() == data and attached.get_filename() == "Headrace.flac"
    assert attached.get_content_type() == "audio/flac"
    assert (
        found["Subject"] == "Headrace by The Sluicekeepers" and one.sha256 in found.get_body(("plain",)).get_content()
    )
    # RFC 5322, 2.1.1: no line has more than 998 letters; it should have no more than 78.
    assert max(map(len, raw.split(b"\r\n"))) <= 78


def test_equal_transfers_are_equal_mails() -> None:
    assert message_of(BOX, parcel(), b"plums").as_bytes() == message_of(BOX, parcel(), b"plums").as_bytes()
    ids = {message_of(BOX, parcel(data), data)["Message-ID"] for data in (b"plums", b"pears")}
    assert len(ids) == 2


NASTY = st.text(max_size=300) | st.sampled_from(
    ["a\r\nBcc: x@y.example", "a\nSubject: b", "\x00", "\ud800", '"; filename="x', "💿" * 200, "a\x85b\u2028c", ""]
)


@given(title=NASTY, artist=NASTY, name=NASTY)
@example(title="Headrace\r\nBcc: all@weir.example", artist="x", name="a\r\nb.wav")
def test_headers_and_names_made_from_tags_cannot_break_a_message(title: str, artist: str, name: str) -> None:
    one = parcel(name=name or "x", title=title, artist=artist)
    data = b"plums"
    raw = message_of(BOX, one, data).as_bytes()
    assert len(raw) == mail_bytes(BOX, one)
    found = message_from_bytes(raw, policy=SMTP)
    assert found.keys() == ["From", "To", "Subject", "Date", "Message-ID", "MIME-Version", "Content-Type"]
    assert found["To"] == "in@weir.example" and found["Bcc"] is None
    assert len(found["Subject"].splitlines()) <= 1 and "\x00" not in found["Subject"]
    (attached,) = found.iter_attachments()
    assert attached.get_content() == data


@given(st.integers(0, 3_000_000), st.integers(300, 3_000))
def test_the_largest_file_that_fits_is_the_largest(limit: int, overhead: int) -> None:
    size = room_for_file(limit, overhead)
    if size:
        assert overhead + encoded_bytes(size) <= limit
    assert overhead + encoded_bytes(size + 1) > limit or size == 0


def test_format_that_fits_has_the_highest_bit_rate_below_a_size() -> None:
    # Common practice, no source: three minutes at 128 kbit/s are 2.88 MB.
    frames = 180 * 44_100
    assert what_fits(3_200_000, frames, 44_100, 2, "mp3") == ("mp3", 128)
    assert what_fits(20_000_000, frames, 44_100, 2, "mp3") == ("mp3", 320)
    container, kbps = what_fits(6_500_000, frames, 44_100, 2, "wav") or ("", 0)
    assert container == "aac" and 200 <= kbps <= 280
    assert what_fits(10_000, frames, 44_100, 2, "wav") is None


def test_recipients_answer_is_kept_without_nonsense() -> None:
    said = [
        {"kind": "rate", "sentence": "44.1 kHz is\nasked for.", "asked": ["44100", 48000]},
        {"kind": "plums", "sentence": "We do not like it."}, {"kind": "rate"}, {"sentence": " "}, None, 3,
    ]  # fmt: skip
    rate, other = reasons_from(said)
    assert (rate.kind, rate.sentence, rate.asked) == ("rate", "44.1 kHz is asked for.", ("44100", "48000"))
    assert (other.kind, other.asked) == ("other", ())
    assert reasons_from("plums") == reasons_from(None) == reasons_from({"a": 1}) == ()
    assert plain_line("a\x00\r\n\tb\ud800\x9f ") == "a b?"
