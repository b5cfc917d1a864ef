"""Kept label patterns, and the migration that brought tag sheets to benches."""

import json
import sqlite3
from pathlib import Path

from ripe_press.store.db import Database
from ripe_press.store.labels import KeptPattern, Labels
from support import ROOT

MIGRATION = (ROOT / "src" / "ripe_press" / "store" / "migrations" / "0005_tags_and_labels.sql").read_text()


def test_patterns_are_kept_by_name(tmp_path: Path) -> None:
    database = Database(tmp_path / "press.sqlite")
    database.migrate()
    labels = Labels(database)
    labels.keep(KeptPattern("beta", "{title}", {"digits": 2}))
    labels.keep(KeptPattern("Alpha", "{artist}", {"digits": 3}))
    labels.keep(KeptPattern("beta", "{album}", {"digits": 1}))
    assert [(one.name, one.pattern) for one in labels.all()] == [("Alpha", "{artist}"), ("beta", "{album}")]
    labels.remove("Alpha")
    assert labels.all() == [KeptPattern("beta", "{album}", {"digits": 1})]
    database.close()


def test_benches_that_had_no_sheet_get_that_of_their_file() -> None:
    database = sqlite3.connect(":memory:")
    database.execute("CREATE TABLE mixes (title TEXT, embedded TEXT, bench TEXT)")
    rows = [
        ("Millrace", {"tags": [["title", "The Race"], ["artist", "S"]]}, {"ranges": []}),
        ("Eel Ladder", {"tags": [["artist", "S"]]}, {"ranges": []}),
        ("Long Pound", {}, {"ranges": []}),
        ("Kept", {"tags": [["title", "Other"]]}, {"tags": [["title", "Mine"]]}),
    ]
    for title, embedded, bench in rows:
        database.execute("INSERT INTO mixes VALUES (?, ?, ?)", (title, json.dumps(embedded), json.dumps(bench)))
    database.executescript(MIGRATION)
    tags = [json.loads(bench)["tags"] for (bench,) in database.execute("SELECT bench FROM mixes")]
    database.close()
    assert tags == [
        [["title", "The Race"], ["artist", "S"]],
        [["artist", "S"], ["title", "Eel Ladder"]],
        [["title", "Long Pound"]],
        [["title", "Mine"]],
    ]
