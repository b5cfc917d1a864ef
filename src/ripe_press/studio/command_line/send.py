"""Sending on the command line, in this process: through the same record, so that nothing is sent twice."""

import fcntl
import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.errors import Cancelled, NotFound, RipePressError
from ripe_press.core.proof.read_back import hash_file
from ripe_press.core.rules.findings import Finding
from ripe_press.core.sending.drop_off import DropOff, drop_off_from, drop_off_from_word
from ripe_press.core.words import VERDICTS, quoted
from ripe_press.store.db import Database
from ripe_press.store.drop_offs import DropOffs
from ripe_press.store.parcels import NewParcel, Parcels, StoredParcel, TransferStep
from ripe_press.store.pressings import Pressings
from ripe_press.studio.data_folder import data_folder, is_served
from ripe_press.studio.handoff import report_of_file
from ripe_press.studio.jobs import Events
from ripe_press.studio.planning import bring_up_to_date
from ripe_press.studio.proof import read_sheet
from ripe_press.studio.sending import (
    Carrier,
    DropOffBook,
    RunningTransfer,
    Secrets,
    asked_state,
    carrier_of,
    failed_step,
    handed_over,
    transfer_file,
)

PAUSES_S = (0.5, 1.0, 2.0)
"""Seconds between tries on the command line; after the last, the application's outbox continues."""
ANSWER_S = 60.0
"""So long it is waited for an acceptance."""
_ASK_S = 0.25


@dataclass(frozen=True, slots=True)
class Sending:
    """Settings of a transfer: sign-off and reason; callbacks for progress and for a request to stop."""

    accepted_by: str = ""
    because: str = ""
    progress: Progress = no_progress
    should_stop: Callable[[], bool] = lambda: False
    answer_s: float = ANSWER_S


def send_now(files: Sequence[Path], places: Sequence[str], data: Path | None, how: Sending) -> list[dict[str, Any]]:
    """Sends files to drop-offs, each typed as a word or named as it is set up; gives a row for each of both.

    Raises: BadInput, NotFound ``drop-off.…``; NotFound ``send.no-file``; as `sheets.report_of`.
    """
    folder = data_folder(data)
    folder.prepare()
    database = Database(folder.database)
    table = Parcels(database)
    book = DropOffBook(DropOffs(database), table, Secrets(folder.root), Events())
    try:
        bring_up_to_date(database)
        typed = [drop_off_from_word(one) for one in places]
        names = [one for one, found in zip(places, typed, strict=True) if found is None]
        drop_offs = [*(one for one in typed if one is not None), *book.named(names)]
        parcels = [one for path in files for one in _parcels(path, drop_offs, Pressings(database), how)]
        made = table.add(parcels, time.time())
        for (number, new), parcel in zip(made, parcels, strict=True):
            if not new and parcel.accepted_by:
                table.accept(number, parcel.accepted_by, parcel.because, time.time())
        numbers = [number for number, _ in made]
        if is_served(folder):
            # One sender at a time: the application sends queued files, and this waits for it.
            return [_row(_by_the_application(table, number, how)) for number in numbers]
        with (folder.root / "sending").open("w") as turn:
            fcntl.flock(turn, fcntl.LOCK_EX)
            # No other program is sending: a running state is left from an interruption.
            table.put_back_cut_off(time.time())
            return [_row(_sent(table, book, number, how)) for number in numbers]
    finally:
        book.close()
        database.close()


def _parcels(path: Path, drop_offs: Iterable[DropOff], record: Pressings, how: Sending) -> list[NewParcel]:
    path = path.absolute()
    if not path.is_file():
        message = f"File not found: {quoted(path)}."
        raise NotFound("send.no-file", message, path=str(path))
    pressing, file = record.file_at(str(path)) or (None, None)
    report = file.report if file and file.report and file.report.sha256 == hash_file(path) else None
    if report is None:
        report = replace(report_of_file(path), **_as_on_its_sheet(path))
        return handed_over(report, drop_offs, accepted_by=how.accepted_by, because=how.because)
    return handed_over(
        report, drop_offs, pressing=pressing, number=file.number if file else None, accepted_by=how.accepted_by,
        because=how.because,
    )  # fmt: skip


def _as_on_its_sheet(path: Path) -> dict[str, Any]:
    """Return the findings of the delivery sheet next to a file, if the sheet describes this very file."""
    said = (read_sheet(path.parent) or {}).get(path, {})
    if said.get("sha256") != hash_file(path) or said.get("verdict") not in ("ready", "look", "stop"):
        return {}
    findings = tuple(
        Finding(str(one["rule"]), one["verdict"], str(one["sentence"]))
        for one in said.get("findings") or ()
        if isinstance(one, dict) and {"rule", "sentence"} <= one.keys() and one.get("verdict") in VERDICTS
    )
    return {"verdict": said["verdict"], "findings": findings, "brief": str(said.get("brief") or "")}


def _by_the_application(table: Parcels, number: int, how: Sending) -> StoredParcel:
    """Wait until the application has sent a file, or has tried and is waiting; a paused one resumes."""
    stored = _there(table, number)
    if stored.state in ("held", "waiting"):
        table.put(number, stored.state, TransferStep("waiting", kept=stored.kept, next_at=time.time()), anew=True)
    until = time.monotonic() + how.answer_s
    while time.monotonic() < until and not how.should_stop():
        stored = _there(table, number)
        tried = stored.state == "waiting" and stored.attempts > 0 and stored.sentence
        asks = stored.state == "taken" and stored.next_at is not None
        if (stored.state not in ("waiting", "sending") and not asks) or tried:
            break
        time.sleep(_ASK_S)
    return stored


def _sent(table: Parcels, book: DropOffBook, number: int, how: Sending) -> StoredParcel:
    # An earlier delivery is checked first: if the file is missing there, it is sent again.
    stored = _asked(table, book, _there(table, number), how)
    for pause_s in (*PAUSES_S, None):
        if stored.state in ("held", "waiting"):
            table.put(number, stored.state, TransferStep("waiting", kept=stored.kept, next_at=time.time()))
        if not table.take_up(number):
            break
        table.put(number, "sending", _tried(table, book, stored, how))
        stored = _there(table, number)
        if stored.state != "waiting" or pause_s is None or how.should_stop():
            break
        time.sleep(pause_s)
    return _asked(table, book, _there(table, number), how)


def _row(stored: StoredParcel) -> dict[str, Any]:
    why = [str(one["sentence"]) for one in stored.reasons] or (
        [stored.sentence] if stored.state in ("asks", "refused", "failed", "waiting") else []
    )
    return {
        "path": stored.parcel["path"], "to": _called(stored), "state": stored.state,
        "receipt": stored.receipt, "reasons": why, "sentence": stored.sentence,
    }  # fmt: skip


def _tried(table: Parcels, book: DropOffBook, stored: StoredParcel, how: Sending) -> TransferStep:
    kept = dict(stored.kept)

    def keep(more: dict[str, Any]) -> None:
        kept.update(more)
        table.keep(stored.id, kept)

    try:
        return transfer_file(
            stored, _carrier(stored, book, how), kept, RunningTransfer(how.progress, keep, how.should_stop), 0.0
        )
    except Cancelled as error:
        return TransferStep("waiting", error.message, kept=kept, next_at=time.time())
    except RipePressError as error:
        return failed_step(error, kept, 0.0)


def _asked(table: Parcels, book: DropOffBook, stored: StoredParcel, how: Sending) -> StoredParcel:
    """Waits for a while for what its recipient says; after that the outbox of the application asks."""
    until = time.monotonic() + how.answer_s
    while stored.state == "taken" and stored.next_at is not None and time.monotonic() < until and not how.should_stop():
        time.sleep(_ASK_S)
        table.put(stored.id, "taken", asked_state(stored, _carrier(stored, book, how), _ASK_S))
        stored = _there(table, stored.id)
    return stored


def _carrier(stored: StoredParcel, book: DropOffBook, how: Sending) -> Carrier:
    drop_off = drop_off_from(stored.drop_off)
    return carrier_of(drop_off, book.secret_of(drop_off), how.should_stop)


def _called(stored: StoredParcel) -> str:
    """The name of a drop-off that is set up; the word of one that was typed."""
    name = str(stored.drop_off["name"])
    return stored.place if stored.place.startswith(name) else name


def _there(table: Parcels, number: int) -> StoredParcel:
    found = table.get(number)
    assert found is not None  # noqa: S101 - transfers are never deleted
    return found
