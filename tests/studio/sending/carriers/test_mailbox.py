"""Received mail: parsed by the standard library, the limit right to the byte, and every answer of a server reported."""

from email import message_from_bytes
from email.policy import SMTP
from pathlib import Path
from typing import Any

import pytest

from ripe_press.core.errors import BadInput, Conflict, Interrupted
from ripe_press.core.sending.drop_off import DropOff
from ripe_press.core.sending.mail import mail_bytes
from ripe_press.rack.mail_desk import free_port
from ripe_press.studio.sending.carriers import carrier_of
from ripe_press.studio.sending.carriers.carrier import RunningTransfer
from support.sending import mail_desk, parcel

DATA = bytes(range(256)) * 700


def sent(place: str, one: Any, password: str = "", **more: Any) -> Any:
    return carrier_of(DropOff("Mill Lane", "mail", place, **more), password).carry(one, {}, RunningTransfer())


def test_the_mail_that_arrives_has_the_file_in_it(tmp_path: Path) -> None:
    one = parcel(tmp_path / "Weiß — “Mühle”.flac", DATA)
    with mail_desk(tmp_path / "desk") as (desk, place):
        answer = sent(place, one, subject="{title} – {artist}", text="{title}\n.\n..dots\nFrom here\n{sha256}")
        assert answer.state == "taken" and answer.look_again_s is None
        (mail,) = desk.mails()
    raw = mail.read_bytes()
    found = message_from_bytes(raw, policy=SMTP)
    (attached,) = found.iter_attachments()
    assert attached.get_content() == DATA and attached.get_filename() == "Weiß — “Mühle”.flac"
    text = found.get_body(("plain",)).get_content()
    assert text.splitlines() == ["Headrace", ".", "..dots", "From here", one.sha256]
    assert found["Subject"] == "Headrace – The Sluicekeepers"
    assert answer.receipt["message_id"] == found["Message-ID"] and len(raw) == answer.receipt["mail_bytes"]


def test_the_limit_is_right_to_the_byte(tmp_path: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    size = mail_bytes(DropOff("x", "mail", "in@127.0.0.1:1234"), one)
    with mail_desk(tmp_path / "a", limit_bytes=size + 4) as (desk, place):
        assert sent(place, one, limit_bytes=size).state == "taken"
        refused = sent(place, one, limit_bytes=size - 1)
        assert refused.state == "refused" and f"{size:,} bytes" in refused.sentence
        assert refused.reasons[0].kind == "size" and len(desk.mails()) == 1
    # The server's announced limit holds as well.
    with mail_desk(tmp_path / "b", limit_bytes=size) as (_, place):
        assert sent(place, one).state == "taken"
    with mail_desk(tmp_path / "c", limit_bytes=size - 1) as (desk, place):
        refused = sent(place, one)
        assert refused.state == "refused" and "AAC in MP4 at" in refused.sentence and not desk.mails()


@pytest.mark.parametrize(
    ("fault", "kind", "words"),
    [
        ("away", Interrupted, "No mail server"), ("full", Interrupted, "Mailbox full"),
        ("nonsense", Interrupted, "unavailable"),
        ("refuse", Conflict, "rejected by the mailbox"),
    ],
)  # fmt: skip
def test_servers_answer_is_reported(tmp_path: Path, fault: str, kind: type[Exception], words: str) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    with mail_desk(tmp_path / "desk", [fault]) as (desk, place):
        with pytest.raises(kind, match=words):
            sent(place, one)
        assert not desk.mails()
        assert sent(place, one).state == "taken"


def test_server_lost_before_its_answer_has_the_mail_once(tmp_path: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    with mail_desk(tmp_path / "desk", ["dies"]) as (desk, place):
        with pytest.raises(Interrupted):
            sent(place, one)
        assert "Already delivered" in sent(place, one).sentence and len(desk.mails()) == 1
    # It knows it after a restart, too.
    with mail_desk(tmp_path / "desk") as (desk, other):
        assert sent(other, one).state == "taken" and len(desk.mails()) == (1 if other == place else 2)


def test_wrong_password_and_missing_server_are_reported(tmp_path: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    with mail_desk(tmp_path / "desk", login="ada:plums") as (desk, place):
        with pytest.raises(BadInput, match="rejected the password of “ada”"):
            sent(place, one, "pears", user="ada")
        with pytest.raises(Conflict, match="Rejected by"):
            sent(place, one)
        assert sent(place, one, "plums", user="ada").state == "taken" and len(desk.mails()) == 1
        looked = carrier_of(DropOff("x", "mail", place, user="ada"), "plums").look()
        assert looked.limit_bytes == 25_000_000 and "25.0 MB" in looked.sentence
    with pytest.raises(Interrupted, match="No mail server"):
        sent(f"in@127.0.0.1:{free_port()}", one)


def test_a_password_does_not_leave_in_the_clear(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import ripe_press.studio.sending.carriers.mailbox as mailbox

    monkeypatch.setattr(mailbox, "_NEAR", ())
    with mail_desk(tmp_path / "desk", login="ada:plums") as (_, place), pytest.raises(Conflict, match="no encryption"):
        sent(place, parcel(tmp_path / "Headrace.wav", DATA), "plums", user="ada")
