"""Sending on the command line: to each kind of drop-off, once, and with the exit status of a rejection."""

import json
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.sending.drop_off import DropOff
from ripe_press.rack.intake_look import Looker
from ripe_press.rack.mail_desk import free_port
from ripe_press.store.db import Database
from ripe_press.store.drop_offs import DropOffs
from ripe_press.store.parcels import Parcels
from ripe_press.store.pressings import Pressings
from ripe_press.studio.command_line import send as send_now
from ripe_press.studio.data_folder import VARIABLE, claim, data_folder
from ripe_press.studio.jobs.events import Events
from ripe_press.studio.sending.drop_off_book import DropOffBook
from ripe_press.studio.sending.outbox import Outbox
from ripe_press.studio.sending.secrets import Secrets
from support.sending import intake_desk, mail_desk, synced_folder
from support.server import wait_for
from support.signals import noise, write

RATE = 48_000


@pytest.fixture
def file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv(VARIABLE, str(tmp_path / "data"))
    monkeypatch.setattr(send_now, "PAUSES_S", (0.02, 0.02))
    return write(tmp_path / "Headrace.wav", noise(RATE), RATE, "PCM_24")


def sent(status: int, *words: str) -> list[dict[str, Any]]:
    done = CliRunner().invoke(app, ["send", *words, "--json"])
    assert done.exit_code == status, (done.output, done.exception)
    rows: list[dict[str, Any]] = json.loads(done.stdout)["sent"]
    assert all({"path", "to", "state", "receipt", "reasons"} <= row.keys() for row in rows)
    return rows


def test_a_file_goes_to_every_kind_of_place(file: Path, tmp_path: Path) -> None:
    for name in ("out", "library"):
        (tmp_path / name).mkdir()
    with (
        mail_desk(tmp_path / "mail") as (mails, place), intake_desk(tmp_path / "desk") as (_, url),
        synced_folder(tmp_path / "sync") as service,
    ):  # fmt: skip
        wait_for((service.folder / "sync-state.json").exists)
        places = (
            f"folder:{tmp_path / 'out'}", f"library:{tmp_path / 'library'}", f"sync:{service.folder}", f"mail:{place}",
            f"desk:{url}",
        )  # fmt: skip
        words = [str(file), *(word for one in places for word in ("--to", one))]
        rows = sent(0, *words)
        assert [row["to"] for row in rows] == list(places)
        assert [row["state"] for row in rows] == ["taken", "taken", "accepted", "taken", "accepted"]
        assert all(row["receipt"]["sha256"] and row["reasons"] == [] for row in rows)
        # Once more is the same, and nothing is sent.
        assert [row["receipt"] for row in sent(0, *words)] == [row["receipt"] for row in rows]
        assert len(mails.mails()) == 1
    assert (tmp_path / "out" / "Headrace.wav").read_bytes() == file.read_bytes()


def test_rejected_file_fails_with_its_reason(file: Path, tmp_path: Path) -> None:
    with intake_desk(tmp_path / "desk", looker=Looker()) as (_, url):
        (row,) = sent(1, str(file), "--to", f"desk:{url}")
        assert row["state"] == "refused" and any("ISRC" in why for why in row["reasons"])
        plain = CliRunner().invoke(app, ["send", str(file), "--to", f"desk:{url}"])
        assert plain.exit_code == 1 and "Headrace.wav to desk:" in plain.output and "rejected" in plain.output
    (row,) = sent(1, str(file), "--to", f"mail:in@127.0.0.1:{free_port()}")
    # It waits in the outbox, and the application sends it.
    assert row["state"] == "waiting" and "No mail server" in row["reasons"][0]


def test_a_drop_off_that_is_set_up_is_named(file: Path, tmp_path: Path) -> None:
    folder = data_folder()
    folder.prepare()
    database = Database(folder.database)
    database.migrate()
    book = DropOffBook(DropOffs(database), Parcels(database), Secrets(folder.root), Events())
    with mail_desk(tmp_path / "mail", login="ada:plums") as (desk, place):
        book.add(DropOff("Mill Lane", "mail", place, user="ada"), "plums")
        database.close()
        (row,) = sent(0, str(file), "--to", "mill lane")
        assert (row["to"], row["state"], len(desk.mails())) == ("Mill Lane", "taken", 1)
    done = CliRunner().invoke(app, ["send", str(file), "--to", "Mill Street"])
    assert isinstance(done.exception, NotFound) and "Available: Mill Lane." in done.exception.message


def test_findings_of_a_file_are_signed_off(file: Path, tmp_path: Path) -> None:
    out, there = tmp_path / "pressed", tmp_path / "there"
    there.mkdir()
    press = ["press", str(file), "--brief", "audio-cd", "--depth", "24", "--out", str(out), "--json"]
    report = json.loads(CliRunner().invoke(app, press).stdout)
    path = report["files"][0]["path"]
    (row,) = sent(1, path, "--to", f"folder:{there}")
    assert row["state"] == "asks" and "requires 16 bits" in row["reasons"][0] and not list(there.iterdir())
    half = CliRunner().invoke(app, ["send", path, "--to", f"folder:{there}", "--sign-off", "Ada Weir"])
    assert isinstance(half.exception, BadInput) and "--reason" in half.exception.message
    (row,) = sent(0, path, "--to", f"folder:{there}", "--sign-off", "Ada Weir", "--reason", "A test tone.")
    assert row["state"] == "taken" and (there / Path(path).name).exists()
    CliRunner().invoke(app, ["sheet", str(report["pressing"])])
    assert "A test tone." in (out / "delivery-sheet.html").read_text()
    # A file sent from another folder is identified by the sheet next to it.
    sheet = json.loads((out / "delivery-sheet.json").read_text())
    other = tmp_path / "elsewhere"
    other.mkdir()
    (other / Path(path).name).write_bytes(Path(path).read_bytes())
    (other / "delivery-sheet.json").write_text(json.dumps(sheet))
    (row,) = sent(1, str(other / Path(path).name), "--to", f"folder:{tmp_path}")
    assert row["state"] == "asks" and "requires 16 bits" in row["reasons"][0]


def test_send_error_is_reported(file: Path, tmp_path: Path) -> None:
    for words, kind in (
        ([str(tmp_path / "none.wav"), "--to", f"folder:{tmp_path}"], NotFound),
        ([str(file), "--to", "mail:plums"], BadInput), ([str(file), "--to", "desk:plums"], BadInput),
        ([str(file), "--to", "folder:"], BadInput), ([str(Path(__file__)), "--to", f"folder:{tmp_path}"], BadInput),
    ):  # fmt: skip
        assert isinstance(CliRunner().invoke(app, ["send", *words]).exception, kind)


def test_interrupted_transfer_resumes_at_the_next_send(file: Path, tmp_path: Path) -> None:
    there = tmp_path / "there"
    (row,) = sent(1, str(file), "--to", f"folder:{there}")
    assert row["state"] == "waiting" and "Connect its disk" in row["reasons"][0]
    # As a process leaves it that was killed while it sent.
    database = Database(data_folder().database)
    assert Parcels(database).take_up(1)
    database.close()
    there.mkdir()
    (row,) = sent(0, str(file), "--to", f"folder:{there}")
    assert row["state"] == "taken" and (there / file.name).read_bytes() == file.read_bytes()


def test_where_the_application_works_it_is_the_one_that_sends(file: Path, tmp_path: Path) -> None:
    there = tmp_path / "there"
    there.mkdir()
    folder = data_folder()
    folder.prepare()
    database = Database(folder.database)
    database.migrate()
    table, events = Parcels(database), Events()
    book = DropOffBook(DropOffs(database), table, Secrets(folder.root), events)
    outbox = Outbox(table, Pressings(database), book, events)
    with claim(folder):
        outbox.start()
        (row,) = sent(0, str(file), "--to", f"folder:{there}")
        assert row["state"] == "taken" and row["receipt"]["path"] == str(there / file.name)
        (row,) = sent(1, str(file), "--to", f"folder:{tmp_path / 'nowhere'}")
        assert row["state"] in ("waiting", "sending") and "Connect its disk" in row["sentence"]
        outbox.close()
    database.close()
