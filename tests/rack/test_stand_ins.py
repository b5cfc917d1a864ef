"""Simulated receivers as processes: started, inspected, set to fail, and ended."""

import smtplib
import time
from collections.abc import Iterator
from email.message import EmailMessage
from email.policy import SMTP
from pathlib import Path

import httpx2
import pytest

from ripe_press.core.errors import BadInput, Interrupted
from ripe_press.rack import faults
from ripe_press.studio.demo.stand_ins import StandIns, checked_names


@pytest.fixture
def begun(tmp_path: Path) -> Iterator[StandIns]:
    found = StandIns()
    yield found
    found.close()


def test_intake_server_has_a_page_and_its_own_port(begun: StandIns, tmp_path: Path) -> None:
    row = begun.begin("intake", tmp_path, port=0)
    page = httpx2.get(row["url"], headers={"Accept": "text/html"})
    assert page.headers["content-type"].startswith("text/html") and "No files received yet." in page.text
    sheet = {"sha256": "0" * 64, "bytes": 3, "name": "<b>Weir</b>.wav"}
    made = httpx2.post(f"{row['url']}/submissions", json=sheet, headers={"Idempotency-Key": "x"})
    assert made.status_code == 201
    page = httpx2.get(row["url"], headers={"Accept": "text/html"})
    assert "0 of 3 bytes" in page.text and "<b>" not in page.text
    with pytest.raises(Interrupted, match="may be in use"):
        begun.begin("intake", tmp_path / "other", port=int(row["url"].rpartition(":")[2]))
    begun.close()
    with pytest.raises(httpx2.HTTPError):
        httpx2.get(row["url"])


def test_mail_server_fails_as_set_by_a_file_in_its_folder(
    begun: StandIns, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    row = begun.begin("mail", tmp_path, port=0)
    host, _, port = row["address"].partition(":")
    (Path(row["folder"]) / faults.NAME).write_text("refuse\nslow\n")
    mail = EmailMessage(policy=SMTP)
    mail["From"], mail["To"], mail["Subject"] = "a@b.example", "in@b.example", "plums/../pears"
    with smtplib.SMTP(host, int(port), timeout=20) as desk, pytest.raises(smtplib.SMTPDataError, match="554"):
        desk.send_message(mail)
    began = time.monotonic()
    with smtplib.SMTP(host, int(port), timeout=20) as desk:
        desk.send_message(mail)
    assert time.monotonic() - began >= faults.SLOW_S
    (kept,) = Path(row["folder"]).glob("*.eml")
    assert kept.name == "0001 plums-..-pears.eml" and not (Path(row["folder"]) / faults.NAME).exists()
    with pytest.raises(Interrupted, match="may be in use"):
        begun.begin("mail", tmp_path / "other", port=int(port))


def test_unknown_device_is_rejected(begun: StandIns, tmp_path: Path) -> None:
    assert checked_names(()) == ("outboard", "instrument", "mail", "intake", "sync")
    assert checked_names(["sync", "mail"]) == ("mail", "sync")
    for wrong in ("plums", "close"):
        with pytest.raises(BadInput, match="Available: outboard"):
            begun.begin(wrong, tmp_path)
