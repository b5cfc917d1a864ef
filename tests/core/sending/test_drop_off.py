"""Drop-offs: what can be one, how each is typed, and that two ways to write a place are the same place."""

from dataclasses import asdict, replace

import pytest

from ripe_press.core.errors import BadInput
from ripe_press.core.sending.drop_off import (
    DropOff,
    MailPlace,
    checked,
    desk_url,
    drop_off_from,
    drop_off_from_word,
    mail_place,
)


@pytest.mark.parametrize(
    ("place", "found"),
    [
        ("in@weir.example", MailPlace("in@weir.example", "weir.example", 25)),
        ("in@weir.example:2525", MailPlace("in@weir.example", "weir.example", 2525)),
        ("ada@label.example@desk.example:587", MailPlace("ada@label.example", "desk.example", 587)),
        # RFC 5321, 4.1.3: an IPv4 address instead of a host is in brackets.
        ("in@127.0.0.1:8143", MailPlace("in@[127.0.0.1]", "127.0.0.1", 8143)),
    ],
)
def test_mailbox_is_an_address_and_its_server(place: str, found: MailPlace) -> None:
    assert mail_place(place) == found


@pytest.mark.parametrize(
    "place",
    [
        "", "weir.example", "@weir.example", "in@", "in@weir.example:", "in@weir.example:0", "in@weir.example:99999",
        "in@weir.example:²", "a b@weir.example", "in@weir.example\r\nRCPT TO:<x@y>", "<in@weir.example>",
        "ü@weir.example",
        "in@-weir.example", "in@weir.example\x00", "a@b@c@weir.example",
    ],
)  # fmt: skip
def test_invalid_mailbox_is_rejected(place: str) -> None:
    if place == "in@weir.example:":
        assert mail_place(place).port == 25
        return
    with pytest.raises(BadInput, match="not a mailbox"):
        mail_place(place)


@pytest.mark.parametrize("url", ["http://127.0.0.1:8144", "https://intake.weir.example/desk/", "http://[::1]:8144"])
def test_intake_server_has_a_plain_url(url: str) -> None:
    assert desk_url(url) == url.rstrip("/")


@pytest.mark.parametrize(
    "url",
    [
        "", "127.0.0.1:8144", "ftp://weir.example", "file:///etc/passwd", "http://", "http://ada:pw@weir.example",
        "http://weir.example?x=1", "http://weir.example#x", "http://weir.example\r\nHost: x", "http://weir.example:99999",
        "http://weir.example:0",
        "javascript:alert(1)",
    ],
)  # fmt: skip
def test_invalid_intake_url_is_rejected(url: str) -> None:
    with pytest.raises(BadInput, match="not an intake address"):
        desk_url(url)


def test_it_is_typed_as_one_word_and_the_word_is_its_place() -> None:
    found = drop_off_from_word("mail:in@weir.example:2525")
    assert found and (found.kind, found.place, found.word) == (
        "mail",
        "in@weir.example:2525",
        "mail:in@weir.example:2525",
    )
    folder = drop_off_from_word("folder:/srv/a/../a")
    assert folder and folder.place == "/srv/a/../a"
    assert drop_off_from_word("Mill Lane") is None and drop_off_from_word("plums:there") is None
    for word in ("folder:", "desk:", "mail:", "sync:"):
        with pytest.raises(BadInput):
            drop_off_from_word(word)


def test_invalid_drop_off_is_rejected() -> None:
    good = DropOff(" Mill Lane ", "folder", "/srv/mill", sub_folder="{artist}/{album}")
    assert checked(good) == replace(good, name="Mill Lane")
    wrong = [
        replace(good, name="  "), replace(good, name="a\nb"), replace(good, name="mail:x"), replace(good, place="mill"),
        replace(good, place="/srv/\x00"), replace(good, sub_folder="{plums}"), replace(good, sub_folder="a/{"),
        DropOff("Box", "mail", "in@weir.example", sender="no address"),
        DropOff("Box", "mail", "in@weir.example", subject="{plums}"),
        DropOff("Desk", "desk", "weir.example"),
    ]  # fmt: skip
    for one in wrong:
        with pytest.raises(BadInput):
            checked(one)


def test_drop_off_is_plain_values_and_unknown_fields_are_rejected() -> None:
    one = DropOff("Box", "mail", "in@weir.example", limit_bytes=5)
    assert drop_off_from(asdict(one)) == one
    with pytest.raises(BadInput):
        drop_off_from({**asdict(one), "password": "plums"})
