"""A whole record taken over into another one, row by row, in one transaction: all of it or nothing."""

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ripe_press.core.words import quoted
from ripe_press.store.db import Database
from ripe_press.store.imports.foreign import fault_in

CUT_SHORT = "Unfinished when exported."
_ENDED = ("done", "failed", "cancelled")
_Row = dict[str, Any]


@dataclass(slots=True)
class Merged:
    """The imported items, by kind; ``left`` has the reasons for the others."""

    taken: dict[str, int] = field(default_factory=dict)
    there: dict[str, int] = field(default_factory=dict)
    left: list[str] = field(default_factory=list)

    def count(self, kind: str, *, taken: bool) -> None:
        """One more that was taken, or that was there already."""
        counts = self.taken if taken else self.there
        counts[kind] = counts.get(kind, 0) + 1


class Merging:
    """Takes the rows of another database over; both have the same tables.

    Identical items are skipped; a different one of the same name is reported and skipped, so that nothing here is
    overwritten. Numbers are newly assigned, and references follow.
    """

    def __init__(self, database: Database, mixes_folder: Path) -> None:
        self._database, self._mixes_folder = database, mixes_folder

    def take(self, other: Database) -> Merged:
        """All that can be taken over."""
        found = Merged()
        with other.read() as source, self._database.write() as target:
            _Taking(source, target, self._mixes_folder, found).all()
        return found


class _Taking:
    def __init__(
        self, source: sqlite3.Connection, target: sqlite3.Connection, mixes_folder: Path, found: Merged
    ) -> None:
        self._source, self._target, self._folder, self._found = source, target, mixes_folder, found
        self._mixes: dict[int, int] = {}
        self._new_mixes: set[int] = set()
        self._pressings: dict[int, int] = {}

    def all(self) -> None:
        self._named("briefs", "id", "brief", ("body",))
        self._named("label_patterns", "name", "label pattern", ("pattern", "style"))
        self._named("delivery_sets", "name", "set", ("body",))
        self._named("drop_offs", "name", "drop-off", ("settings",))
        for row in self._rows("mixes"):
            self._mix(row)
        for row in self._rows("mix_versions"):
            new = row["mix_id"] in self._new_mixes and not self._known(row["sha256"])
            if new and self._is_sound("mix_versions", row, "a version of a mix"):
                self._add("mix_versions", {**row, "mix_id": self._mixes[row["mix_id"]]})
        for row in self._rows("stems"):
            # Sound of ours does not travel: what lies elsewhere can still be there.
            sound = self._is_sound("stems", row, "a stem")
            if sound and row["mix_id"] in self._new_mixes and not row["owned"]:
                self._add("stems", {**row, "id": None, "mix_id": self._mixes[row["mix_id"]]})
        for row in self._rows("orders"):
            self._order(row)
        for row in self._rows("pressings"):
            self._pressing(row)
        for row in self._rows("blind_tests"):
            wanted = row["pressing_id"] in self._pressings or (
                row["pressing_id"] is None and row["mix_id"] in self._new_mixes
            )
            if wanted and self._is_sound("blind_tests", row, "a blind test"):
                pressing, mix = self._pressings.get(row["pressing_id"]), self._mixes.get(row["mix_id"])
                self._add("blind_tests", {**row, "id": None, "pressing_id": pressing, "mix_id": mix})
                self._found.count("blind test", taken=True)

    def _named(self, table: str, key: str, kind: str, parts: tuple[str, ...]) -> None:
        for row in self._rows(table):
            if not self._is_sound(table, row, f"the {kind} {quoted(row[key])}"):
                continue
            here = self._one(f"SELECT * FROM {table} WHERE {key} = ?", row[key])  # noqa: S608 - constants of this module
            if here is None:
                self._add(table, {**row, "id": None} if "id" in row and key != "id" else row)
                self._found.count(kind, taken=True)
            elif all(here[part] == row[part] for part in parts):
                self._found.count(kind, taken=False)
            else:
                self._found.left.append(f"The {kind} {quoted(row[key])} differs; kept yours.")

    def _is_sound(self, table: str, row: _Row, called: str) -> bool:
        """Whether a row keeps its rules; a row that does not is skipped and reported."""
        why = fault_in(table, row)
        if why:
            self._found.left.append(f"{called[:1].upper()}{called[1:]} skipped: {why}.".replace("..", "."))
        return not why

    def _mix(self, row: _Row) -> None:
        if not self._is_sound("mixes", row, f"the mix {quoted(row['title'])}"):
            return
        here = self._one("SELECT id, bench, bench_at FROM mixes WHERE sha256 = ?", row["sha256"])
        if here is not None:
            self._mixes[row["id"]] = here["id"]
            if row["bench_at"] and not here["bench_at"]:
                # Its bench here is untouched.
                words = "UPDATE mixes SET bench = ?, bench_at = ? WHERE id = ?"
                self._target.execute(words, (row["bench"], row["bench_at"], here["id"]))
                self._found.count("bench", taken=True)
            elif row["bench"] != here["bench"]:
                self._found.left.append(f"The bench of {quoted(row['title'])} differs; kept yours.")
            self._found.count("mix", taken=False)
            return
        if self._known(row["sha256"]):
            self._found.left.append(f"{quoted(row['title'])} is already a version of another mix.")
            return
        path = row["path"]
        if row["owned"]:
            path = str(self._folder / row["sha256"][:20] / Path(path).name)
        self._mixes[row["id"]] = self._add("mixes", {**row, "id": None, "path": path, "likely_of": None})
        self._new_mixes.add(row["id"])
        self._found.count("mix", taken=True)

    def _order(self, row: _Row) -> None:
        if not self._is_sound("orders", row, f"the running order {quoted(row['title'])}"):
            return
        body = json.loads(row["body"])
        if any(entry["mix"] not in self._mixes for entry in body["entries"]):
            self._found.left.append(f"The running order {quoted(row['title'])} has a mix that was not imported.")
            return
        body["entries"] = [{**entry, "mix": self._mixes[entry["mix"]]} for entry in body["entries"]]
        text = json.dumps(body)
        if self._one("SELECT id FROM orders WHERE title = ? AND body = ?", row["title"], text):
            self._found.count("running order", taken=False)
            return
        self._add("orders", {**row, "id": None, "body": text})
        self._found.count("running order", taken=True)

    def _pressing(self, row: _Row) -> None:
        files = self._rows("pressed_files", "pressing_id = ?", row["id"])
        called = f"the pressing of {quoted(row['mix_title'])}"
        if not self._is_sound("pressings", row, called):
            return
        if not all(self._is_sound("pressed_files", one, called) for one in files):
            return
        same = "SELECT id FROM pressings WHERE made_at = ? AND mix_title = ? AND ticket = ?"
        if self._one(same, row["made_at"], row["mix_title"], row["ticket"]):
            self._found.count("pressing", taken=False)
            return
        # Unfinished work does not resume here, and nothing imported is sent from here.
        kept = row if row["state"] in _ENDED else {**row, "state": "cancelled", "error": CUT_SHORT}
        mix, again = self._mixes.get(row["mix_id"]), self._pressings.get(row["again_of"])
        number = self._add("pressings", {**kept, "id": None, "mix_id": mix, "again_of": again, "handed_over": 1})
        self._pressings[row["id"]] = number
        # Comparisons are made again here: they take seconds, and need no trust.
        for one in files:
            self._add("pressed_files", {**one, "pressing_id": number})
        words = self._source.execute("SELECT words FROM words_of_pressings WHERE rowid = ?", (row["id"],)).fetchone()
        if words:
            self._target.execute("INSERT INTO words_of_pressings (rowid, words) VALUES (?, ?)", (number, words[0]))
        self._found.count("pressing", taken=True)

    def _known(self, sha256: str) -> bool:
        words = "SELECT 1 FROM mixes WHERE sha256 = :one UNION SELECT 1 FROM mix_versions WHERE sha256 = :one"
        return self._target.execute(words, {"one": sha256}).fetchone() is not None

    def _rows(self, table: str, where: str = "1", *values: object) -> list[_Row]:
        words = f"SELECT * FROM {table} WHERE {where} ORDER BY rowid"  # noqa: S608 - constants of this module
        return [dict(row) for row in self._source.execute(words, values)]

    def _one(self, words: str, *values: object) -> sqlite3.Row | None:
        found: sqlite3.Row | None = self._target.execute(words, values).fetchone()
        return found

    def _add(self, table: str, row: Mapping[str, Any]) -> int:
        names, places = ", ".join(row), ", ".join(f":{name}" for name in row)
        words = f"INSERT INTO {table} ({names}) VALUES ({places})"  # noqa: S608 - names of its own columns
        return int(self._target.execute(words, row).lastrowid or 0)
