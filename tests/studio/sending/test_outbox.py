"""The outbox: nothing lost, nothing sent twice, whatever fails; held, recalled, accepted, and found after a restart."""

import json
import os
import random
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from dataclasses import asdict, replace
from email import message_from_bytes
from email.policy import SMTP
from pathlib import Path
from typing import Any, ClassVar

import pytest

from ripe_press.core.errors import BadInput, Conflict, NotFound
from ripe_press.core.sending.drop_off import DropOff
from ripe_press.store.db import Database
from ripe_press.store.drop_offs import DropOffs
from ripe_press.store.parcels import NewParcel, Parcels, TransferStep
from ripe_press.store.pressings import Pressings
from ripe_press.studio.jobs.events import Events
from ripe_press.studio.sending.carriers import carrier_of
from ripe_press.studio.sending.carriers.carrier import DropOffState, RunningTransfer, TransferResult
from ripe_press.studio.sending.drop_off_book import DropOffBook
from ripe_press.studio.sending.outbox import Outbox
from ripe_press.studio.sending.secrets import Secrets
from support import TESTS
from support.sending import intake_desk, mail_desk, parcel, synced_folder
from support.server import wait_for

PAUSES_S = (0.02, 0.05)
FAULTS = int(os.environ.get("RIPE_PRESS_FAULTS", "80"))


class Room:
    """An outbox over a data folder, and what can be put into it."""

    def __init__(self, root: Path, carrier: Callable[..., Any] = carrier_of) -> None:
        self.root = root
        self.database = Database(root / "ripe-press.sqlite3")
        self.database.migrate()
        self.table = Parcels(self.database)
        self.events = Events()
        self.book = DropOffBook(DropOffs(self.database), self.table, Secrets(root), self.events)
        self.outbox = Outbox(self.table, Pressings(self.database), self.book, self.events, PAUSES_S, carrier)

    def put(self, drop_off: DropOff, *parcels: Any, state: Any = "waiting", verdict: Any = "ready") -> list[int]:
        rows = [NewParcel(asdict(drop_off), drop_off.word, asdict(one), verdict, state) for one in parcels]
        numbers = [number for number, _ in self.table.add(rows, time.time())]
        self.events.publish("pressings")
        return numbers

    def until(self, number: int, *states: str, seconds: float = 60.0) -> Any:
        return wait_for(lambda: found if (found := self.outbox.get(number)).state in states else None, seconds)

    def close(self) -> None:
        self.outbox.close()
        self.database.close()


@pytest.fixture
def room(tmp_path: Path) -> Iterator[Room]:
    found = Room(tmp_path)
    found.outbox.start()
    yield found
    found.close()


class Scripted:
    """A carrier with given answers, try by try."""

    def __init__(self, *steps: Any) -> None:
        self.steps = list(steps)
        self.tries = 0

    def __call__(self, _drop_off: DropOff, _secret: str, _should_stop: Any) -> "Scripted":
        return self

    def carry(self, one: Any, _kept: dict[str, Any], hand: RunningTransfer, /) -> TransferResult:
        self.tries += 1
        step = self.steps.pop(0) if self.steps else None
        if isinstance(step, Exception):
            raise step
        if callable(step):
            step(hand)
        return TransferResult("taken", "There.", {"path": one.path})

    def look(self) -> DropOffState:
        return DropOffState("Good.")


PLACE = "desk:http://headrace.test"
FOLDER = DropOff("Mill Lane", "folder", "/nowhere")


def test_it_is_tried_again_with_growing_pauses_and_says_why(tmp_path: Path) -> None:
    from ripe_press.studio.sending.carriers.carrier import later

    carrier = Scripted(*(later(f"Not now {at}.") for at in range(20)))
    room = Room(tmp_path, carrier)
    room.outbox.start()
    (number,) = room.put(FOLDER, parcel(tmp_path / "a.wav", b"plums"))
    first = wait_for(lambda: found if "Not now" in (found := room.outbox.get(number)).sentence else None)
    assert first.state in ("waiting", "sending") and first.next_at
    carrier.steps.clear()
    found = room.until(number, "taken")
    assert found.attempts == carrier.tries > 1 and found.receipt["path"] == str(tmp_path / "a.wav")
    room.close()


def test_internal_error_ends_as_a_sentence_and_others_continue(tmp_path: Path) -> None:
    room = Room(tmp_path, Scripted(ValueError("plums"), Conflict("x", "It does not take that.")))
    room.outbox.start()
    first, second, third = room.put(FOLDER, *(parcel(tmp_path / f"{at}.wav", bytes([at])) for at in range(3)))
    assert "Internal error (ValueError: plums)" in room.until(first, "failed").sentence
    refused = room.until(second, "refused")
    assert refused.reasons[0]["sentence"] == "It does not take that." and refused.ended_at
    room.until(third, "taken")
    # A failed or rejected file is sent again on request.
    room.outbox.go_on(first)
    room.outbox.go_on(second)
    assert room.until(first, "taken") and room.until(second, "taken")
    room.close()


def test_delivered_file_is_never_sent_again(room: Room, tmp_path: Path) -> None:
    (tmp_path / "there").mkdir()
    there = DropOff("There", "folder", str(tmp_path / "there"))
    one = parcel(tmp_path / "a.wav", b"plums")
    (number,) = room.put(there, one)
    room.until(number, "taken")
    assert room.put(there, one) == [number]
    # Under another name of the same place as well, but not at another place, nor other bytes.
    assert room.put(DropOff("Renamed", "folder", there.place), one) == [number]
    (tmp_path / "other").mkdir()
    other = room.put(DropOff("Other", "folder", str(tmp_path / "other")), one)
    assert room.until(*other, "taken")
    pears = room.put(there, parcel(tmp_path / "a.wav", b"pears"))
    assert number not in other + pears
    assert room.until(*pears, "taken")
    assert sorted(path.name for path in (tmp_path / "there").iterdir()) == ["a (2).wav", "a.wav"]
    with pytest.raises(Conflict, match="now: delivered"):
        room.outbox.recall(number)
    with pytest.raises(Conflict):
        room.outbox.go_on(number)


@pytest.mark.parametrize("kind", ["folder", "library", "sync"])
def test_file_missing_at_its_recipient_is_sent_again(room: Room, tmp_path: Path, kind: Any) -> None:
    (tmp_path / "there").mkdir()
    there = DropOff("There", kind, str(tmp_path / "there"))
    one = parcel(tmp_path / "a.wav", b"plums")
    (number,) = room.put(there, one)
    lies = Path(room.until(number, "taken").receipt["path"])
    lies.unlink()
    assert room.put(there, one) == [number]
    wait_for(lies.is_file)
    assert lies.read_bytes() == b"plums"
    assert wait_for(lambda: (found := room.outbox.get(number)).state == "taken" and found.next_at is None)
    # And where another file took its name, that one stays.
    lies.write_bytes(b"pears")
    room.put(there, one)
    wait_for(lambda: room.outbox.get(number).receipt["path"] != str(lies))
    assert lies.read_bytes() == b"pears"


def test_a_secret_leaves_for_its_own_place_alone(room: Room, tmp_path: Path) -> None:
    """After any renaming or move of a waiting transfer, and with any other drop-off of the same name."""
    ours, theirs = (DropOff("Headrace", "desk", f"http://{one}.test") for one in ("headrace", "elsewhere"))
    number = room.book.add(ours, "plums")
    assert room.book.secret_of(ours) == "plums"
    assert room.book.secret_of(theirs) == "", "another place under the same name"
    room.book.add(replace(ours, name="Taken", place="http://taken.test"))
    with pytest.raises(Conflict, match="exists"):
        room.book.change(number, replace(theirs, name="Taken"))
    assert room.book.secret_of(ours) == "plums", "a refused change forgets nothing"
    room.book.change(number, replace(ours, name="Renamed"))
    assert room.book.secret_of(ours) == "plums", "what waits goes to its own place"
    room.book.change(number, replace(theirs, name="Renamed"))
    assert room.book.secret_of(theirs) == room.book.secret_of(ours) == ""
    room.book.change(number, ours, "pears")
    room.book.change(number, DropOff("Headrace", "mail", "inbox@headrace.test"))
    room.book.change(number, ours)
    assert room.book.secret_of(ours) == "", "forgotten with its kind, and not found again"
    room.book.change(number, ours, "figs")
    room.book.remove(number)
    room.book.add(ours)
    assert room.book.secret_of(ours) == ""


def test_transfer_is_paused_cancelled_and_resumed(tmp_path: Path) -> None:
    def slowly(hand: RunningTransfer) -> None:
        while True:
            hand.progress(1, 5)
            hand.go_on()
            time.sleep(0.01)

    room = Room(tmp_path, Scripted(slowly, slowly))
    room.outbox.start()
    one, two = (parcel(tmp_path / f"{at}.wav", bytes([at])) for at in range(2))
    (first,) = room.put(FOLDER, one)
    room.until(first, "sending")
    assert wait_for(lambda: next(how for one, how in room.outbox.shown() if one.id == first).done == 1)
    (second,) = room.put(FOLDER, two)
    room.outbox.hold(second)
    assert room.outbox.get(second).state == "held"
    room.outbox.hold(first)
    assert room.until(first, "held").next_at is None
    room.outbox.go_on(first)
    room.until(first, "sending")
    room.outbox.recall(first)
    assert room.until(first, "recalled").ended_at
    room.outbox.recall(second)
    assert room.outbox.get(second).state == "recalled"
    with pytest.raises(Conflict, match="cannot be paused now: cancelled"):
        room.outbox.hold(second)
    # A cancelled file may be sent again.
    (again,) = room.put(FOLDER, one)
    assert again != first and room.until(again, "taken")
    with pytest.raises(Conflict, match="in another transfer"):
        room.outbox.go_on(first)
    room.close()


def test_file_with_findings_waits_for_a_sign_off(room: Room, tmp_path: Path) -> None:
    (tmp_path / "there").mkdir()
    there = DropOff("There", "folder", str(tmp_path / "there"))
    (number,) = room.put(there, parcel(tmp_path / "a.wav", b"plums"), state="asks", verdict="look")
    time.sleep(0.2)
    assert room.outbox.get(number).state == "asks" and list((tmp_path / "there").iterdir()) == []
    for by, because in (("", "loud"), ("Ada", " "), ("A" * 201, "loud"), ("Ada", "x" * 1001)):
        with pytest.raises(BadInput):
            room.outbox.accept(number, by, because)
    room.outbox.accept(number, " Ada Weir ", "It is meant to be loud.")
    found = room.until(number, "taken")
    assert (found.accepted_by, found.because) == ("Ada Weir", "It is meant to be loud.")
    with pytest.raises(Conflict):
        room.outbox.accept(number, "Ada", "again")
    with pytest.raises(NotFound):
        room.outbox.accept(99, "Ada", "again")


def test_transfer_interrupted_by_a_power_cut_resumes_and_delivers_once(tmp_path: Path) -> None:
    (tmp_path / "there").mkdir()
    there = DropOff("There", "folder", str(tmp_path / "there"))
    room = Room(tmp_path)
    # It was delivered already, without a record of it.
    one = parcel(tmp_path / "a.wav", b"plums")
    (number,) = room.put(there, one)
    assert room.table.take_up(number)
    (tmp_path / "there" / "a.wav").write_bytes(b"plums")
    room.database.close()
    room = Room(tmp_path)
    room.outbox.start()
    room.until(number, "taken")
    assert [path.name for path in (tmp_path / "there").iterdir()] == ["a.wav"]
    room.close()


_KILLED = """
import sys
from pathlib import Path
sys.path[:0] = {paths!r}
from studio.sending.test_outbox import Room
room = Room(Path(sys.argv[1]))
room.outbox.start()
print("on", flush=True)
sys.stdin.read()
"""


@pytest.mark.slow
def test_a_process_that_is_killed_while_it_sends_loses_nothing_and_sends_nothing_twice(tmp_path: Path) -> None:
    tests = str(TESTS)
    chance = random.Random(7)
    with intake_desk(tmp_path / "desk") as (desk, url), mail_desk(tmp_path / "mail") as (mails, place):
        room = Room(tmp_path)
        files = [parcel(tmp_path / f"{at}.wav", chance.randbytes(3 << 20)) for at in range(4)]
        numbers = room.put(DropOff("Desk", "desk", url), *files) + room.put(DropOff("Box", "mail", place), *files)
        program = _KILLED.format(paths=[tests])
        for _ in range(FAULTS // 20):
            process = subprocess.Popen(
                [sys.executable, "-c", program, str(tmp_path)], stdin=subprocess.PIPE, stdout=subprocess.PIPE
            )
            with process:
                assert process.stdout and process.stdout.readline() == b"on\n"
                time.sleep(chance.uniform(0, 0.25))
                process.kill()
        room.outbox.start()
        for number in numbers:
            assert room.until(number, "taken", "accepted").sha256 == room.outbox.get(number).parcel["sha256"]
        assert [one.came_times for one in desk.by_id.values()] == [1] * 4
        assert len(mails.mails()) == 4
        room.close()


@pytest.mark.slow
def test_random_faults_lose_nothing_and_send_nothing_twice(tmp_path: Path) -> None:
    chance = random.Random(16)
    words = ["away", "full", "nonsense", "dies", "damage"]
    with ExitStack() as stack:
        faults = [chance.choice(words) for _ in range(FAULTS // 2)]
        desk, url = stack.enter_context(intake_desk(tmp_path / "desk", faults))
        faults = [chance.choice(words[:4]) for _ in range(FAULTS // 4)]
        mails, place = stack.enter_context(mail_desk(tmp_path / "mail", faults))
        # The service takes one file for each status: it reports often enough that it works again.
        faults = [one for _ in range(FAULTS // 8) for one in (chance.choice(["nonsense", "dies", "full"]), "online")]
        sync = stack.enter_context(synced_folder(tmp_path / "sync", faults))
        room = Room(tmp_path)
        stack.callback(room.close)
        room.outbox.start()
        places = (DropOff("Desk", "desk", url), DropOff("Box", "mail", place), DropOff("S", "sync", str(sync.folder)))
        files: list[Any] = []
        numbers: list[int] = []
        until = time.monotonic() + 150
        while time.monotonic() < until:
            standing = [room.outbox.get(number) for number in numbers]
            if all(one.state in ("taken", "accepted") and one.next_at is None for one in standing):
                if not any(one.faults.left for one in (desk, mails, sync)):
                    break
                new = [
                    parcel(tmp_path / f"{len(files) + at}.wav", chance.randbytes(chance.randrange(1, 300_000)))
                    for at in range(8)
                ]
                files += new
                numbers += [number for at in range(8) for one in places for number in room.put(one, new[at])]
            time.sleep(0.05)
        for number, one in zip(numbers, (one for one in files for _ in places), strict=True):
            found = room.outbox.get(number)
            assert found.state in ("taken", "accepted"), found.sentence
            assert found.receipt["sha256"] == one.sha256
        assert not any(one.faults.left for one in (desk, mails, sync))
        by_sum = {one.sha256: Path(one.path).read_bytes() for one in files}
        assert sorted(one.sha256 for one in desk.by_id.values()) == sorted(by_sum)
        assert all(one.file.read_bytes() == by_sum[one.sha256] for one in desk.by_id.values())
        attached = [next(message_from_bytes(one.read_bytes(), policy=SMTP).iter_attachments()) for one in mails.mails()]
        assert sorted(one.get_content() for one in attached) == sorted(by_sum.values())
        for folder in (sync.folder, sync.own):
            assert sorted(one.read_bytes() for one in folder.glob("*.wav")) == sorted(by_sum.values())
        assert not sync.grew


def test_secrets_without_a_keyring_are_in_a_private_file(tmp_path: Path) -> None:
    secrets = Secrets(tmp_path)
    assert secrets.where == "file" and secrets.get(3, PLACE) == ""
    secrets.set(3, PLACE, "plums")
    secrets.set(4, PLACE, "pears")
    path = tmp_path / "secrets" / "secrets.json"
    assert path.stat().st_mode & 0o777 == 0o600 and path.parent.stat().st_mode & 0o777 == 0o700
    assert Secrets(tmp_path).get(3, PLACE) == "plums"
    secrets.set(3, PLACE, "")
    assert json.loads(path.read_text()) == {f"4 {PLACE}": "pears"}
    path.chmod(0o640)
    with pytest.raises(Conflict, match="chmod 600"):
        secrets.get(4, PLACE)
    path.unlink()
    path.symlink_to(tmp_path / "elsewhere")
    with pytest.raises(Conflict, match="symbolic"):
        secrets.get(4, PLACE)


def test_the_keyring_is_taken_where_there_is_one(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import keyring
    from keyring.backend import KeyringBackend
    from keyring.errors import KeyringLocked, PasswordDeleteError

    class Kept(KeyringBackend):
        priority = 5  # type: ignore[assignment]
        kept: ClassVar[dict[tuple[str, str], str]] = {}

        def get_password(self, service: str, username: str) -> str | None:
            if service == "locked":
                raise KeyringLocked("It is locked")
            return self.kept.get((service, username))

        def set_password(self, service: str, username: str, password: str) -> None:
            self.kept[service, username] = password

        def delete_password(self, service: str, username: str) -> None:
            if self.kept.pop((service, username), None) is None:
                raise PasswordDeleteError("There is none")

    monkeypatch.setattr(keyring, "get_keyring", Kept)
    monkeypatch.setattr(keyring, "get_password", lambda *more: Kept().get_password(*more))
    monkeypatch.setattr(keyring, "set_password", lambda *more: Kept().set_password(*more))
    monkeypatch.setattr(keyring, "delete_password", lambda *more: Kept().delete_password(*more))
    secrets = Secrets(tmp_path)
    assert secrets.where == "keyring" and secrets.get(3, PLACE) == ""
    secrets.set(3, PLACE, "plums")
    assert secrets.get(3, PLACE) == "plums" and not (tmp_path / "secrets").exists()
    secrets.set(3, PLACE, "")
    secrets.set(3, PLACE, "")
    assert secrets.get(3, PLACE) == ""
    monkeypatch.setattr("ripe_press.studio.sending.secrets._SERVICE", "locked")
    with pytest.raises(Conflict, match="No answer from the system keyring: It is locked"):
        secrets.get(3, PLACE)


def test_a_standing_is_only_put_where_it_was_expected(room: Room, tmp_path: Path) -> None:
    (number,) = room.put(FOLDER, parcel(tmp_path / "a.wav", b"plums"), state="held")
    assert not room.table.put(number, "waiting", TransferStep("taken"))
    assert room.outbox.get(number).state == "held" and room.table.next_due() is None


def test_slow_drop_off_with_300_transfers_delays_no_other(tmp_path: Path) -> None:
    going = threading.Event()

    def slowly(_hand: RunningTransfer) -> None:
        going.wait(60)

    slow, quick = Scripted(*[slowly] * 400), Scripted()
    room = Room(tmp_path, lambda drop_off, _secret, _stop: slow if drop_off.name == "Slow" else quick)
    one = parcel(tmp_path / "a.wav", b"plums")
    room.put(DropOff("Slow", "folder", "/slow"), *(replace(one, name=f"{at}.wav") for at in range(300)))
    (number,) = room.put(DropOff("Quick", "folder", "/quick"), one)
    room.outbox.start()
    room.until(number, "taken", seconds=20)
    assert slow.tries <= 1
    going.set()
    slow.steps.clear()
    room.close()
