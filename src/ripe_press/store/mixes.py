"""The shelf's rows: mixes with their facts, measures and range."""

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field, fields, replace
from typing import Any

from ripe_press.core.errors import NotFound
from ripe_press.core.stations.source import depth_label
from ripe_press.core.words import quoted
from ripe_press.store.db import Database

_COLUMNS = (
    "id, title, path, owned, sha256, container, codec, rate_hz, channels, frames, bit_depth, downmix, file_channels, "
    "measures, embedded, bench, added_at, origin, version, version_at, bench_at, stamp, likely_of, came_from"
)
_NOW = "strftime('%Y-%m-%dT%H:%M:%fZ', 'now')"
_INSERT = f"""
INSERT INTO mixes (title, path, owned, sha256, container, codec, rate_hz, channels, frames, bit_depth, measures,
                   downmix, file_channels, embedded, bench, stamp, came_from, added_at, version_at)
VALUES (:title, :path, :owned, :sha256, :container, :codec, :rate_hz, :channels, :frames, :bit_depth, :measures,
        :downmix, :file_channels, :embedded, :bench, :stamp, :came_from, strftime('%Y-%m-%dT%H:%M:%SZ', 'now'),
        {_NOW})
"""  # noqa: S608 - a constant of this module
_ALL = f"SELECT {_COLUMNS} FROM mixes ORDER BY id"  # noqa: S608 - a constant of this module
_ONE = f"SELECT {_COLUMNS} FROM mixes WHERE id = :id"  # noqa: S608
_BY_HASH = f"SELECT {_COLUMNS} FROM mixes WHERE sha256 = :sha256"  # noqa: S608
_BY_PATH = f"SELECT {_COLUMNS} FROM mixes WHERE :path IN (path, came_from) ORDER BY id DESC LIMIT 1"  # noqa: S608
_SET_BENCH = f"UPDATE mixes SET bench = :bench, bench_at = {_NOW} WHERE id = :id AND bench <> :bench"  # noqa: S608
_SET_STAMP = "UPDATE mixes SET stamp = :stamp WHERE id = :id"
_SET_PATH = "UPDATE mixes SET path = :path, owned = :owned, came_from = :came_from, stamp = :stamp WHERE id = :id"
_SET_LIKELY = "UPDATE mixes SET likely_of = :likely_of WHERE id = :id"
_WATCHED = "SELECT id, came_from, path, stamp, added_at FROM mixes WHERE came_from <> '' ORDER BY id"
_TITLES = "SELECT id, title FROM mixes ORDER BY id"
_EARLIER = "SELECT mix_id, row FROM mix_versions WHERE mix_id = :id ORDER BY version"
_EARLIER_BY_HASH = "SELECT mix_id, row FROM mix_versions WHERE sha256 = :sha256"
_FORGET_EARLIER = "DELETE FROM mix_versions WHERE mix_id = :id"
_ADD_EARLIER = """
INSERT INTO mix_versions (mix_id, version, sha256, path, row) VALUES (:mix_id, :version, :sha256, :path, :row)
"""
_SET_CURRENT = """
UPDATE mixes SET title = :title, path = :path, owned = :owned, sha256 = :sha256, container = :container, codec = :codec,
    rate_hz = :rate_hz, channels = :channels, frames = :frames, bit_depth = :bit_depth, measures = :measures,
    downmix = :downmix, file_channels = :file_channels, embedded = :embedded, bench = :bench, stamp = :stamp,
    version = :version, version_at = :version_at, came_from = :came_from, likely_of = NULL
WHERE id = :id
"""
_FOLLOW = tuple(
    f"UPDATE {table} SET mix_id = :id WHERE mix_id = :gone"  # noqa: S608
    for table in ("pressings", "parcels", "blind_tests", "stems", "passes")
)
"""The products of a mix that becomes a version of another belong to that one."""
_SET_ORDER = "UPDATE orders SET body = :body WHERE id = :id"
_SET_DOWNMIX = """
UPDATE mixes SET downmix = :downmix, channels = :channels, measures = :measures WHERE id = :id
"""
_ROWS = """
SELECT
    id, substr(sha256, 1, 16) || '-' || downmix, title, path, owned, rate_hz, channels, frames,
    measures ->> 'sample_peak_dbfs',
    measures ->> 'integrated_lufs',
    coalesce(measures ->> 'samples_over_full_scale', 0),
    coalesce(measures ->> 'head_silence_frames', 0),
    coalesce(measures ->> 'tail_silence_frames', 0),
    coalesce(bench ->> '$.ranges[0].start_frame', 0),
    coalesce(bench ->> '$.ranges[0].end_frame', frames),
    (SELECT max(made_at) FROM pressings WHERE mix_id = mixes.id AND state = 'done') AS pressed_at,
    added_at, version, 1 + (SELECT count(*) FROM mix_versions WHERE mix_id = mixes.id), likely_of, came_from,
    max(version_at, bench_at), bit_depth, codec
FROM mixes ORDER BY id
"""
"""In the order of `ShelfRow`, and what its last word is made of."""
_JSON = ("measures", "embedded", "bench")
_SET_ORIGIN = "UPDATE mixes SET origin = :origin WHERE id = :id"
_DELETE = "DELETE FROM mixes WHERE id = :id"


@dataclass(frozen=True, slots=True)
class Measures:
    """Measures of a whole mix; None is digital silence."""

    sample_peak_dbfs: float | None
    true_peak_dbtp: float | None
    true_peak_at_s: float
    integrated_lufs: float | None
    lra_lu: float | None
    max_momentary_lufs: float | None
    max_short_term_lufs: float | None
    noise_floor_dbfs: float | None
    balance_db: float | None
    correlation: float | None
    dc_offset: list[float]
    effective_bits: int | None
    effective_bandwidth_hz: float
    spectrum: list[tuple[float, float]]
    sample_peak_at_s: float
    clipped_samples: int
    samples_over_full_scale: int
    head_silence_frames: int
    tail_silence_frames: int


@dataclass(frozen=True, slots=True)
class NewMix:
    """A mix that has been read and measured, not yet on the shelf."""

    title: str
    path: str
    owned: bool
    sha256: str
    container: str
    codec: str
    rate_hz: int
    channels: int
    frames: int
    bit_depth: int | None
    downmix: str
    file_channels: int
    measures: dict[str, Any]
    embedded: dict[str, Any]
    bench: dict[str, Any]
    stamp: str = ""
    """Size and time of its original at the time of reading; empty if not recorded."""
    came_from: str = ""
    """Its original file on this machine, which may change; empty if it was uploaded."""


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredMix(NewMix):
    """A mix on the shelf; ``owned`` if its file is in the data folder."""

    id: int
    added_at: str
    origin: str = ""
    """What it was made of, in a sentence, where it was pressed here."""
    version: int = 1
    version_at: str = ""
    """When this version of it came."""
    bench_at: str = ""
    """When something on its bench was changed last."""
    likely_of: int | None = None
    """The mix that it may be a version of: it is called the same and sounds like it."""


@dataclass(frozen=True, slots=True)
class Watched:
    """Facts needed to detect a change of the original of a mix; its audio is at ``path``."""

    id: int
    came_from: str
    path: str
    stamp: str
    added_at: str


@dataclass(frozen=True, slots=True)
class Pile:
    """The versions of one mix: the one in use, under whose number all of them stand, and the others.

    ``gone`` are mixes that became versions of it; ``apart`` is a version that becomes a mix of its own again;
    ``orders`` are bodies of running orders in which it stands, by their numbers.
    """

    current: StoredMix
    others: Sequence[StoredMix]
    gone: Sequence[int] = ()
    apart: StoredMix | None = None
    orders: Mapping[int, dict[str, Any]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class ShelfRow:
    """What the shelf shows of a mix; its range is the first of its bench, levels of None are digital silence."""

    id: int
    content: str
    title: str
    path: str
    owned: bool
    rate_hz: int
    channels: int
    frames: int
    sample_peak_dbfs: float | None
    integrated_lufs: float | None
    samples_over_full_scale: int
    head_silence_frames: int
    tail_silence_frames: int
    start_frame: int
    end_frame: int
    pressed_at: str | None
    """When it was last pressed to its end."""
    added_at: str
    version: int
    versions: int
    """How many of it there are."""
    likely_of: int | None
    """The mix that it may be a version of."""
    came_from: str
    changed_since: bool
    """Whether it, or its bench, was changed since it was last pressed."""
    depth_label: str


class Mixes:
    """Every statement on the table of mixes."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, mix: NewMix) -> int:
        """Puts a mix on the shelf and gives its id."""
        with self._database.write() as connection:
            return int(connection.execute(_INSERT, _values(mix)).lastrowid or 0)

    def all(self) -> list[StoredMix]:
        """All mixes, oldest first."""
        with self._database.read() as connection:
            return [_mix(row) for row in connection.execute(_ALL)]

    def rows(self) -> list[ShelfRow]:
        """What the shelf shows of all mixes, oldest first."""
        with self._database.read() as connection:
            return [_shelf_row(*row) for row in connection.execute(_ROWS)]

    def get(self, mix_id: int) -> StoredMix | None:
        """The mix with this id, if there is one."""
        return self._one(_ONE, {"id": mix_id})

    def by_hash(self, sha256: str) -> StoredMix | None:
        """The mix with this content, if it is on the shelf."""
        return self._one(_BY_HASH, {"sha256": sha256})

    def by_path(self, path: str) -> StoredMix | None:
        """Return the mix with this file, if it is on the shelf."""
        return self._one(_BY_PATH, {"path": path})

    def set_bench(self, mix_id: int, bench: dict[str, Any]) -> None:
        """Store the bench of a mix."""
        with self._database.write() as connection:
            connection.execute(_SET_BENCH, {"id": mix_id, "bench": json.dumps(bench)})

    def titles(self) -> list[tuple[int, str]]:
        """Numbers and titles, oldest first."""
        with self._database.read() as connection:
            return [(row["id"], row["title"]) for row in connection.execute(_TITLES)]

    def watched(self) -> list[Watched]:
        """Return the mixes with an original on this machine, which may change."""
        with self._database.read() as connection:
            return [Watched(**dict(row)) for row in connection.execute(_WATCHED)]

    def set_stamp(self, mix_id: int, stamp: str) -> None:
        """Keeps size and time of a file that is what it was."""
        with self._database.write() as connection:
            connection.execute(_SET_STAMP, {"id": mix_id, "stamp": stamp})

    def set_path(self, mix_id: int, path: str, owned: bool, came_from: str, stamp: str) -> None:
        """Keeps where the file of a mix lies now, and where it came from."""
        values = {"id": mix_id, "path": path, "owned": owned, "came_from": came_from, "stamp": stamp}
        with self._database.write() as connection:
            connection.execute(_SET_PATH, values)

    def set_likely(self, mix_id: int, likely_of: int | None) -> None:
        """Keeps which mix it may be a version of."""
        with self._database.write() as connection:
            connection.execute(_SET_LIKELY, {"id": mix_id, "likely_of": likely_of})

    def others(self, mix_id: int) -> list[StoredMix]:
        """The versions of a mix that are not in use, by their numbers."""
        with self._database.read() as connection:
            return [_version(row) for row in connection.execute(_EARLIER, {"id": mix_id})]

    def other_by_hash(self, sha256: str) -> StoredMix | None:
        """The version with this content, where it is one that is not in use."""
        with self._database.read() as connection:
            row = connection.execute(_EARLIER_BY_HASH, {"sha256": sha256}).fetchone()
        return _version(row) if row else None

    def set_pile(self, pile: Pile) -> int | None:
        """Store a mix with its versions, all of them or none; return the number of the mix that was removed."""
        mix_id = pile.current.id
        with self._database.write() as connection:
            for gone in (mix_id, *pile.gone):
                connection.execute(_FORGET_EARLIER, {"id": gone})
            for gone in pile.gone:
                for statement in _FOLLOW:
                    connection.execute(statement, {"id": mix_id, "gone": gone})
                connection.execute(_DELETE, {"id": gone})
            if not connection.execute(_SET_CURRENT, asdict(pile.current) | _values(pile.current)).rowcount:
                message = f"{quoted(pile.current.title)} was removed from the Shelf at the same time."
                raise NotFound("mix.unknown", message, mix=mix_id)
            for one in pile.others:
                row = json.dumps(asdict(replace(one, id=mix_id)))
                values = {"mix_id": mix_id, "version": one.version, "sha256": one.sha256, "path": one.path, "row": row}
                connection.execute(_ADD_EARLIER, values)
            for order, body in pile.orders.items():
                connection.execute(_SET_ORDER, {"id": order, "body": json.dumps(body)})
            if pile.apart is None:
                return None
            return int(connection.execute(_INSERT, _values(pile.apart)).lastrowid or 0)

    def set_origin(self, mix_id: int, origin: str) -> None:
        """Keeps where a mix came from."""
        with self._database.write() as connection:
            connection.execute(_SET_ORIGIN, {"id": mix_id, "origin": origin})

    def set_downmix(self, mix_id: int, downmix: str, channels: int, measures: dict[str, Any]) -> None:
        """Store the choice of channels of a mix, and its measurements with that choice."""
        values = {"id": mix_id, "downmix": downmix, "channels": channels, "measures": json.dumps(measures)}
        with self._database.write() as connection:
            connection.execute(_SET_DOWNMIX, values)

    def remove(self, mix_id: int) -> None:
        """Takes a mix off the shelf; its pressings stay in the record."""
        with self._database.write() as connection:
            connection.execute(_DELETE, {"id": mix_id})

    def _one(self, statement: str, values: dict[str, object]) -> StoredMix | None:
        with self._database.read() as connection:
            row = connection.execute(statement, values).fetchone()
        return _mix(row) if row else None


def _values(mix: NewMix) -> dict[str, Any]:
    values = {one.name: getattr(mix, one.name) for one in fields(NewMix)}
    return {**values, **{name: json.dumps(values[name]) for name in _JSON}}


def _version(row: sqlite3.Row) -> StoredMix:
    return StoredMix(**{**json.loads(row["row"]), "id": row["mix_id"]})


def _mix(row: sqlite3.Row) -> StoredMix:
    values = dict(row)
    return StoredMix(
        **{
            **values,
            "owned": bool(values["owned"]),
            **{name: json.loads(values[name]) for name in _JSON},
        }
    )


def _shelf_row(*row: Any) -> ShelfRow:
    # By place: a thousand of them are asked for at once.
    *known, changed_at, bit_depth, codec = row
    known[4] = bool(known[4])
    pressed_at = known[15]
    known += [bool(pressed_at and changed_at > pressed_at), depth_label(bit_depth, codec)]
    return ShelfRow(*known)
