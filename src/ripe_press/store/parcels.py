"""The outbox and its history: every transfer with its state and its receipt."""

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

from ripe_press.core.errors import Conflict
from ripe_press.core.sending.parcel import OVER, ParcelState
from ripe_press.store.db import Database
from ripe_press.store.pressings import Verdict

_COLUMNS = """
id, drop_off, place, mix_id, pressing_id, file_number, line, parcel, sha256, name, verdict, state, sentence, reasons,
receipt, kept, attempts, next_at, accepted_by, because, made_at, ended_at
"""
_NOW = "strftime('%Y-%m-%dT%H:%M:%SZ', 'now')"
_ADD = f"""
INSERT INTO parcels (
    drop_off, place, mix_id, pressing_id, file_number, line, parcel, sha256, name, verdict, state, sentence, reasons,
    next_at, accepted_by, because, made_at, ended_at
) VALUES (
    :drop_off, :place, :mix_id, :pressing_id, :file_number, :line, :parcel, :sha256, :name, :verdict, :state,
    :sentence, :reasons, :next_at, :accepted_by, :because, {_NOW},
    CASE WHEN :state IN ('refused', 'recalled', 'failed') THEN {_NOW} END
) ON CONFLICT DO NOTHING
"""  # noqa: S608 - a constant of this module
_SAME = """
SELECT id FROM parcels
WHERE place = :place AND sha256 = :sha256 AND name = :name AND state NOT IN ('refused', 'recalled', 'failed')
"""
_LOOK_AGAIN = """
UPDATE parcels SET state = 'taken', next_at = :now, attempts = 0, ended_at = NULL,
    kept = json_set(json_remove(kept, '$.asked'), '$.once_more', 1)
WHERE id = :id AND state IN ('taken', 'accepted')
"""
_ONE = f"SELECT {_COLUMNS} FROM parcels WHERE id = :id"  # noqa: S608
_IS_OPEN = "state IN ('asks', 'held', 'waiting', 'sending')"
_OPEN = f"SELECT {_COLUMNS} FROM parcels WHERE {_IS_OPEN} ORDER BY id DESC LIMIT :most"  # noqa: S608
_THERE = f"SELECT {_COLUMNS} FROM parcels WHERE NOT {_IS_OPEN} ORDER BY id DESC LIMIT :most"  # noqa: S608
_OF_PRESSING = f"SELECT {_COLUMNS} FROM parcels WHERE pressing_id = :pressing_id ORDER BY id"  # noqa: S608
_PLACES_DUE = """
SELECT place FROM parcels WHERE state IN ('waiting', 'taken') AND next_at <= :now GROUP BY place ORDER BY min(next_at)
"""
_DUE = f"""
SELECT {_COLUMNS} FROM parcels WHERE state IN ('waiting', 'taken') AND next_at <= :now AND place = :place
ORDER BY next_at, id LIMIT 20
"""  # noqa: S608
_NEXT = "SELECT min(next_at) FROM parcels WHERE state IN ('waiting', 'taken') AND next_at IS NOT NULL"
_TAKE_UP = "UPDATE parcels SET state = 'sending', attempts = attempts + 1 WHERE id = :id AND state = 'waiting'"
_KEEP = "UPDATE parcels SET kept = :kept WHERE id = :id"
_SET = f"""
UPDATE parcels SET state = :state, sentence = :sentence, reasons = :reasons, receipt = :receipt, kept = :kept,
    next_at = :next_at, attempts = CASE WHEN :anew THEN 0 ELSE attempts END,
    ended_at = CASE WHEN :over THEN {_NOW} END
WHERE id = :id AND state = :before
"""  # noqa: S608
_ACCEPT = """
UPDATE parcels SET state = 'waiting', next_at = :now, accepted_by = :accepted_by, because = :because, sentence = ''
WHERE id = :id AND state = 'asks'
"""
_CUT_OFF = "UPDATE parcels SET state = 'waiting', next_at = :now WHERE state = 'sending'"
_REFUSALS = """
SELECT drop_off, reasons FROM parcels
WHERE id IN (SELECT max(id) FROM parcels WHERE mix_id = :mix_id AND line = :line GROUP BY place)
AND state = 'refused' ORDER BY id
"""
_LINES_REFUSED = "SELECT DISTINCT line FROM parcels WHERE mix_id = :mix_id AND state = 'refused'"
_COUNTS = "SELECT place, state, count(*) AS how_many FROM parcels GROUP BY place, state"
_TO_HAND_OVER = "SELECT id FROM pressings WHERE state IN ('done', 'failed') AND handed_over = 0 ORDER BY id LIMIT 20"
_HANDED_OVER = "UPDATE pressings SET handed_over = 1 WHERE id = :id AND handed_over = 0"


@dataclass(frozen=True, slots=True)
class NewParcel:
    """A file to send; ``parcel`` and ``drop_off`` as plain values."""

    drop_off: dict[str, Any]
    place: str
    parcel: dict[str, Any]
    verdict: Verdict
    state: ParcelState
    mix_id: int | None = None
    pressing_id: int | None = None
    file_number: int | None = None
    line: str = ""
    sentence: str = ""
    reasons: Sequence[dict[str, Any]] = ()
    accepted_by: str = ""
    because: str = ""


@dataclass(frozen=True, slots=True)
class StoredParcel:
    """A transfer of the record. ``kept`` is what its carrier needs to go on where it was; ``next_at`` is in seconds of
    the clock, None where nothing more is done of itself.
    """

    id: int
    drop_off: dict[str, Any]
    place: str
    mix_id: int | None
    pressing_id: int | None
    file_number: int | None
    line: str
    parcel: dict[str, Any]
    sha256: str
    name: str
    verdict: Verdict
    state: ParcelState
    sentence: str
    reasons: list[dict[str, Any]]
    receipt: dict[str, Any]
    kept: dict[str, Any]
    attempts: int
    next_at: float | None
    accepted_by: str
    because: str
    made_at: str
    ended_at: str | None


@dataclass(frozen=True, slots=True)
class TransferStep:
    """The state of a transfer after a step."""

    state: ParcelState
    sentence: str = ""
    reasons: Sequence[dict[str, Any]] = ()
    receipt: dict[str, Any] = field(default_factory=dict)
    kept: dict[str, Any] = field(default_factory=dict)
    next_at: float | None = None


class Parcels:
    """Every statement on the table of transfers."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, parcels: Iterable[NewParcel], now: float) -> list[tuple[int, bool]]:
        """Add transfers in one step; return the number of each, and whether it is new: an equal one that is delivered
        or in progress is reused, after a check that its file is still there.
        """
        with self._database.write() as connection:
            return [_added(connection, one, now) for one in parcels]

    def hand_over(self, pressing_id: int, parcels: Iterable[NewParcel], now: float) -> int:
        """Add the transfers of a pressing, once, whatever happens in between; return how many."""
        with self._database.write() as connection:
            if not connection.execute(_HANDED_OVER, {"id": pressing_id}).rowcount:
                return 0
            return sum(new for _, new in (_added(connection, one, now) for one in parcels))

    def to_hand_over(self) -> list[int]:
        """Return ended pressings whose drop-offs have not been looked up."""
        with self._database.read() as connection:
            return [int(row["id"]) for row in connection.execute(_TO_HAND_OVER)]

    def get(self, number: int) -> StoredParcel | None:
        """One of them."""
        with self._database.read() as connection:
            row = connection.execute(_ONE, {"id": number}).fetchone()
        return _parcel(row) if row else None

    def recent(self, most: int) -> list[StoredParcel]:
        """Return unfinished transfers, newest first; then the others."""
        with self._database.read() as connection:
            rows = connection.execute(_OPEN, {"most": most}).fetchall()
            # From the newest on, and no further: the record of years is not gone through.
            rows += connection.execute(_THERE, {"most": most - len(rows)}).fetchall()
        return [_parcel(row) for row in rows]

    def of_pressing(self, pressing_id: int) -> list[StoredParcel]:
        """What of a pressing was sent."""
        with self._database.read() as connection:
            return [_parcel(row) for row in connection.execute(_OF_PRESSING, {"pressing_id": pressing_id})]

    def places_due(self, now: float) -> list[str]:
        """The places at which there is something to do by now; the one that waited longest first."""
        with self._database.read() as connection:
            return [row["place"] for row in connection.execute(_PLACES_DUE, {"now": now})]

    def due(self, place: str, now: float) -> list[StoredParcel]:
        """What there is to do at a place by now, in its order: as much of it as is taken up at once."""
        with self._database.read() as connection:
            return [_parcel(row) for row in connection.execute(_DUE, {"now": now, "place": place})]

    def next_due(self) -> float | None:
        """When there is something to do again."""
        with self._database.read() as connection:
            return connection.execute(_NEXT).fetchone()[0]  # type: ignore[no-any-return]

    def counts(self) -> dict[str, dict[str, int]]:
        """Return the number of transfers by drop-off and state."""
        found: dict[str, dict[str, int]] = {}
        with self._database.read() as connection:
            for row in connection.execute(_COUNTS):
                found.setdefault(row["place"], {})[row["state"]] = row["how_many"]
        return found

    def take_up(self, number: int) -> bool:
        """Begins to send one; whether it still waited."""
        with self._database.write() as connection:
            return connection.execute(_TAKE_UP, {"id": number}).rowcount > 0

    def keep(self, number: int, kept: dict[str, Any]) -> None:
        """Keeps what its carrier needs to go on from here."""
        with self._database.write() as connection:
            connection.execute(_KEEP, {"id": number, "kept": json.dumps(kept)})

    def put(self, number: int, before: ParcelState, standing: TransferStep, *, anew: bool = False) -> bool:
        """Puts one from a state into another; whether it was still in that.

        Raises: Conflict ``parcel.twice`` where another one with the same file is on its way there already.
        """
        over = standing.state in OVER or (standing.state == "taken" and standing.next_at is None)
        values = {
            **asdict(standing), "reasons": json.dumps(list(standing.reasons)), "receipt": json.dumps(standing.receipt),
            "kept": json.dumps(standing.kept), "id": number, "before": before, "over": over, "anew": anew,
        }  # fmt: skip
        try:
            with self._database.write() as connection:
                return connection.execute(_SET, values).rowcount > 0
        except sqlite3.IntegrityError as error:
            message = "The same file is already in another transfer to this place."
            raise Conflict("parcel.twice", message, parcel=number) from error

    def accept(self, number: int, accepted_by: str, because: str, now: float) -> bool:
        """Release a transfer with a sign-off; return whether it needed one."""
        values = {"id": number, "accepted_by": accepted_by, "because": because, "now": now}
        with self._database.write() as connection:
            return connection.execute(_ACCEPT, values).rowcount > 0

    def put_back_cut_off(self, now: float) -> int:
        """Queue transfers interrupted by the end of the application again; return how many."""
        with self._database.write() as connection:
            return connection.execute(_CUT_OFF, {"now": now}).rowcount

    def lines_refused(self, mix_id: int) -> set[str]:
        """The deliveries of a mix of which any file was ever refused."""
        with self._database.read() as connection:
            return {row["line"] for row in connection.execute(_LINES_REFUSED, {"mix_id": mix_id})}

    def refusals(self, mix_id: int, line: str) -> list[tuple[dict[str, Any], list[dict[str, Any]]]]:
        """Rejections of a delivery at its last transfer: drop-off and reasons, place by place."""
        with self._database.read() as connection:
            rows = connection.execute(_REFUSALS, {"mix_id": mix_id, "line": line})
            return [(json.loads(row["drop_off"]), json.loads(row["reasons"])) for row in rows]


def _added(connection: sqlite3.Connection, new: NewParcel, now: float) -> tuple[int, bool]:
    values = {
        **asdict(new), "drop_off": json.dumps(new.drop_off), "parcel": json.dumps(new.parcel),
        "reasons": json.dumps(list(new.reasons)), "sha256": new.parcel["sha256"], "name": new.parcel["name"],
        "next_at": now if new.state == "waiting" else None,
    }  # fmt: skip
    added = connection.execute(_ADD, values)
    if added.rowcount:
        return int(added.lastrowid or 0), True
    there = int(connection.execute(_SAME, values).fetchone()["id"])
    # Its recipient may have lost it since, or deleted it: the file is looked for, not only its row.
    connection.execute(_LOOK_AGAIN, {"id": there, "now": now})
    return there, False


def _parcel(row: sqlite3.Row) -> StoredParcel:
    values = dict(row)
    plain = {name: json.loads(values[name]) for name in ("drop_off", "parcel", "reasons", "receipt", "kept")}
    return StoredParcel(**{**values, **plain})
