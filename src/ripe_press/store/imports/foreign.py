"""A record from elsewhere: its tables are ours and nothing else, and its rows keep the rules of their own documents."""

import json
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ripe_press.core.errors import BadInput, RipePressError
from ripe_press.core.naming import check_pattern
from ripe_press.core.requests.bench import checked as checked_bench
from ripe_press.core.requests.document import bench_of, brief_from_row, order_from, stem_from, validated
from ripe_press.core.requests.running_order import checked_order
from ripe_press.core.sending.drop_off import checked as checked_drop_off, drop_off_from
from ripe_press.core.tags.embedded import Embedded
from ripe_press.core.words import quoted
from ripe_press.store.db import Database, shipped_migrations
from ripe_press.store.mixes import Measures

_WORDS = "words_of_pressings"
_MOST_TEXT = 64 << 20
_MOST_FRAMES = 1 << 48
_SYSTEM = ("/proc", "/sys", "/dev")
_HEX = set("0123456789abcdef")


@dataclass
class _Measured:
    sample_peak_dbfs: float | None
    clipped_samples: int
    true_peak_dbtp: float | None
    integrated_lufs: float | None


@dataclass
class _Check:
    found: str
    title: str = ""
    check: str = ""
    """As older versions called the title."""


@dataclass
class _Found:
    rule: str
    verdict: str
    sentence: str


@dataclass
class _Report:
    """What the record reads of the report of a pressed file."""

    path: str
    brief: str
    container: str
    codec: str
    sample_rate_hz: int
    bit_depth: int | None
    channels: int
    frames: int
    bytes: int
    sha256: str
    verdict: str
    findings: list[_Found]
    checks: list[_Check]
    measured: _Measured


@dataclass
class _Disc:
    verdict: str
    cue: str
    image: str
    log_sheet: str
    lead_out: str
    sha256: str
    tracks: list[dict[str, Any]]
    checks: list[dict[str, Any]]


@contextmanager
def foreign_record(path: Path) -> Iterator[Database]:
    """A record from elsewhere, brought up to date. Raises: BadInput ``import.unreadable`` or ``import.newer``."""
    _look_at(path)
    try:
        found = Database(path)
        found.migrate()
        _same_tables(found, path.with_name(f"{path.name}.own"))
    except (sqlite3.Error, RipePressError) as error:
        raise error if isinstance(error, BadInput) else _unreadable(str(error)) from error
    try:
        yield found
    except sqlite3.DatabaseError as error:
        raise _unreadable(str(error)) from error
    finally:
        found.close()


def _look_at(path: Path) -> None:
    """Before anything of it is run: no views, no triggers, no tables of other kinds, and no newer form."""
    try:
        with closing(sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True)) as connection:
            connection.execute("PRAGMA trusted_schema = OFF")
            rows = connection.execute("SELECT type, name, sql FROM sqlite_master").fetchall()
            tables = {name for kind, name, _ in rows if kind == "table"}
            if "migrations" not in tables:
                raise _unreadable("no history in it")
            done = {str(row[0]) for row in connection.execute("SELECT name FROM migrations")}
            whole = connection.execute("PRAGMA integrity_check(1)").fetchone()[0]
    except sqlite3.Error as error:
        raise _unreadable(str(error)) from error
    for kind, name, words in rows:
        virtual = str(words or "").lstrip().upper().startswith("CREATE VIRTUAL")
        if kind not in ("table", "index") or (virtual and name != _WORDS):
            why = f"it contains a {'virtual table' if virtual else kind}, {quoted(name)}"
            raise _unreadable(why)
    if newer := sorted(done - {name for name, _ in shipped_migrations()}):
        message = f"The export is from a newer Ripe Press ({newer[-1]}). Update this one, then import it."
        raise BadInput("import.newer", message, migration=newer[-1])
    if whole != "ok":
        raise _unreadable(str(whole))


def _same_tables(found: Database, beside: Path) -> None:
    own = Database(beside)
    try:
        own.migrate()
        with own.write() as mine, found.read() as other:
            if (there := _columns(other)) != (here := _columns(mine)):
                odd = sorted(set(there) ^ set(here)) or [name for name in here if here[name] != there[name]]
                why = f"its table {quoted(odd[0])} has the wrong form"
                raise _unreadable(why)
    finally:
        own.close()


def _columns(connection: sqlite3.Connection) -> dict[str, Any]:
    names = [row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
    return {
        name: [
            tuple(row)[1:4] + tuple(row)[6:]
            for row in connection.execute("SELECT * FROM pragma_table_xinfo(?)", (name,))
        ]
        for name in names
        if not name.startswith("sqlite_")
    }


def fault_in(table: str, row: dict[str, Any]) -> str:
    """Why a row must not be taken over, in a few words; empty where it keeps the rules."""
    try:
        for value in row.values():
            if isinstance(value, str | bytes) and len(value) > _MOST_TEXT:
                return "it is too large"
        if table in _RULES:
            _RULES[table](row)
    except RipePressError as error:
        return error.message
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        return f"it cannot be read ({type(error).__name__})"
    return ""


def plain(text: str) -> Any:
    """JSON without the values that are none. Raises: ValueError."""

    def refuse(word: str) -> None:
        raise ValueError(word)

    return json.loads(text, parse_constant=refuse)


def _unreadable(why: str) -> BadInput:
    return BadInput("import.unreadable", f"Not a Ripe Press export, or damaged: {why}. Export it again.")


def _mix(row: dict[str, Any]) -> None:
    _sum(row["sha256"])
    _path(row["path"])
    frames, rate_hz = row["frames"], row["rate_hz"]
    if not (0 < frames < _MOST_FRAMES and 0 < rate_hz < 1 << 24 and 0 < row["channels"] <= 64):
        raise ValueError(frames)
    measures = plain(row["measures"]) if isinstance(row["measures"], str) else row["measures"]
    embedded = plain(row["embedded"]) if isinstance(row["embedded"], str) else row["embedded"]
    bench = plain(row["bench"]) if isinstance(row["bench"], str) else row["bench"]
    validated(Measures, measures, "measures")
    validated(Embedded, embedded, "tags")
    checked_bench(bench_of(bench), frames, rate_hz)


def _version(row: dict[str, Any]) -> None:
    _mix(plain(row["row"]))
    _sum(row["sha256"])


def _pressing(row: dict[str, Any]) -> None:
    if not isinstance(plain(row["ticket"]), dict) or not isinstance(plain(row["libraries"]), dict):
        raise TypeError
    if row["disc"]:
        validated(_Disc, plain(row["disc"]), "disc")


def _file(row: dict[str, Any]) -> None:
    _path(row["path"])
    if row["report"]:
        validated(_Report, plain(row["report"]), "report")


def _stem(row: dict[str, Any]) -> None:
    _path(stem_from(plain(row["note"])).facts.path)
    if not isinstance(plain(row["origin"]), dict):
        raise TypeError


def _label(row: dict[str, Any]) -> None:
    check_pattern(row["pattern"])


def _blind_test(row: dict[str, Any]) -> None:
    if not isinstance(plain(row["setting"]), dict) or not isinstance(plain(row["answers"]), list):
        raise TypeError


def _sum(text: str) -> None:
    # Folders are called by it.
    if len(text) != 64 or not set(text) <= _HEX:
        raise ValueError(text)


def _path(text: str) -> None:
    if not text.startswith("/") or "\0" in text or any(f"{Path(text)}/".startswith(f"{one}/") for one in _SYSTEM):
        raise ValueError(text)


_RULES: dict[str, Callable[[dict[str, Any]], object]] = {
    "briefs": lambda row: brief_from_row(plain(row["body"])),
    "label_patterns": _label,
    "delivery_sets": lambda row: bench_of(plain(row["body"])),
    "drop_offs": lambda row: checked_drop_off(drop_off_from(plain(row["settings"]))),
    "mixes": _mix,
    "mix_versions": _version,
    "stems": _stem,
    "orders": lambda row: checked_order(order_from(plain(row["body"]))),
    "pressings": _pressing,
    "pressed_files": _file,
    "blind_tests": _blind_test,
}
