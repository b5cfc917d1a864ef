"""The shelf's rows: mixes with their facts, measures and range."""

import json
import sqlite3
from dataclasses import dataclass
from typing import Any

from ripe_press.core.stations.source import depth_label
from ripe_press.store.db import Database

_COLUMNS = (
    "id, title, path, owned, sha256, container, codec, rate_hz, channels, frames, bit_depth, downmix, file_channels, "
    "measures, embedded, bench, added_at, origin"
)
_INSERT = """
INSERT INTO mixes (title, path, owned, sha256, container, codec, rate_hz, channels, frames, bit_depth, measures,
                   downmix, file_channels, embedded, bench, added_at)
VALUES (:title, :path, :owned, :sha256, :container, :codec, :rate_hz, :channels, :frames, :bit_depth, :measures,
        :downmix, :file_channels, :embedded, :bench, strftime('%Y-%m-%dT%H:%M:%SZ', 'now'))
"""
_ALL = f"SELECT {_COLUMNS} FROM mixes ORDER BY id"  # noqa: S608 - a constant of this module
_ONE = f"SELECT {_COLUMNS} FROM mixes WHERE id = :id"  # noqa: S608
_BY_HASH = f"SELECT {_COLUMNS} FROM mixes WHERE sha256 = :sha256"  # noqa: S608
_BY_PATH = f"SELECT {_COLUMNS} FROM mixes WHERE path = :path ORDER BY id DESC LIMIT 1"  # noqa: S608
_SET_BENCH = "UPDATE mixes SET bench = :bench WHERE id = :id"
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
    (SELECT max(made_at) FROM pressings WHERE mix_id = mixes.id AND state = 'done'),
    bit_depth, codec
FROM mixes ORDER BY id
"""
"""In the order of `ShelfRow`, and what its last word is made of."""
_JSON = ("measures", "embedded", "bench")
_SET_ORIGIN = "UPDATE mixes SET origin = :origin WHERE id = :id"
_DELETE = "DELETE FROM mixes WHERE id = :id"


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


@dataclass(frozen=True, slots=True)
class StoredMix(NewMix):
    """A mix on the shelf; ``owned`` when its file lies in the data folder."""

    id: int
    added_at: str
    origin: str = ""
    """What it was made of, in a sentence, where it was pressed here."""


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
    depth_label: str


class Mixes:
    """Every statement on the table of mixes."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, mix: NewMix) -> int:
        """Puts a mix on the shelf and gives its id."""
        values = {name: getattr(mix, name) for name in NewMix.__slots__}
        values.update({name: json.dumps(values[name]) for name in _JSON})
        with self._database.write() as connection:
            return int(connection.execute(_INSERT, values).lastrowid or 0)

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
        """The mix whose file lies there, if it is on the shelf."""
        return self._one(_BY_PATH, {"path": path})

    def set_bench(self, mix_id: int, bench: dict[str, Any]) -> None:
        """Keeps what is set out on the bench for a mix."""
        with self._database.write() as connection:
            connection.execute(_SET_BENCH, {"id": mix_id, "bench": json.dumps(bench)})

    def set_origin(self, mix_id: int, origin: str) -> None:
        """Keeps where a mix came from."""
        with self._database.write() as connection:
            connection.execute(_SET_ORIGIN, {"id": mix_id, "origin": origin})

    def set_downmix(self, mix_id: int, downmix: str, channels: int, measures: dict[str, Any]) -> None:
        """Keeps how the mix is made of the file's channels, and what was measured of it then."""
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
    *known, bit_depth, codec = row
    known[4] = bool(known[4])
    known.append(depth_label(bit_depth, codec))
    return ShelfRow(*known)
