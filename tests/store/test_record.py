"""The record: found by any word that belongs to a pressing, in the order of the line, however much there is of it."""

import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from ripe_press.core.rules.findings import Verdict
from ripe_press.core.sheet.file_report import FileReport
from ripe_press.store.db import Database
from ripe_press.store.pressings import NewPressing, Pressings, StoredFile
from ripe_press.store.record import Record
from ripe_press.store.settings import Settings

SHA256 = "9f86d081884c7d659a2feaa0c55ad015a3bf4f1b2b0b822cd15d6c15b0f00a08"


@pytest.fixture
def database(tmp_path: Path) -> Iterator[Database]:
    database = Database(tmp_path / "record.sqlite3")
    database.migrate()
    yield database
    database.close()


def report(verdict: Verdict) -> FileReport:
    return FileReport(path="/pressed/Weir.wav", verdict=verdict, sha256=SHA256)


def add(record: Pressings, title: str, **more: Any) -> int:
    return record.add(NewPressing(None, title, f"/mixes/{title}.wav", {}, **more))


def test_a_pressing_is_found_by_mix_file_brief_tag_and_checksum(database: Database) -> None:
    record, found = Pressings(database), Record(database)
    weir = add(record, "Weir", purposes="Audio CD, Archive", words="The Sluicekeepers 2026")
    other = add(record, "Eel Ladder", purposes="Car stereo")
    record.set_files(weir, [StoredFile(0, "/pressed/Weir 44k1 16b.wav", state="named", report=report("look"))])
    assert found.find() == ([], 0), "what waits is in the line, and in the record once it has ended"
    record.end(weir, "done")
    record.end(other, "cancelled")
    for words in ("weir", "44k1", "audio cd", "sluicekeepers", SHA256[:12], SHA256.upper(), "WE", 'weir "44k1"'[:4]):
        rows, count = found.find(words)
        assert ([row.id for row in rows], count) == ([weir], 1), words
    for words in ("weir ladder", "q", '"', "NEAR(", "%", "weir OR eel"):
        assert found.find(words) == ([], 0), words
    assert [row.id for row in found.find(" \0 ")[0]] == [other, weir]
    assert [row.id for row in found.find(verdict="look")[0]] == [weir]
    assert found.find(verdict="stop") == ([], 0)


def test_the_verdict_of_a_pressing_is_the_worst_of_its_files(database: Database) -> None:
    record, found = Pressings(database), Record(database)
    for worst, verdicts in (("ready", ["ready"]), ("look", ["ready", "look"]), ("stop", ["look", "stop", "ready"])):
        number = add(record, "Weir")
        files = [StoredFile(at, f"/{at}", state="named", report=report(one)) for at, one in enumerate(verdicts)]
        record.set_files(number, files)
        record.end(number, "done")
        assert found.find()[0][0].verdict == worst
    failed = add(record, "Weir")
    record.set_files(failed, [StoredFile(0, "/a")])
    record.end(failed, "failed", error="The disk is full.")
    assert found.find()[0][0].verdict == "stop"


def test_queue_is_taken_in_order_and_is_editable(database: Database) -> None:
    record = Pressings(database)
    a, b, c, d = (add(record, title) for title in "abcd")
    assert record.move(d, 0)
    assert record.move(a, 99)
    assert [one.id for one in record.open()] == [d, b, c, a]
    assert record.take_out(b, "Taken out.")
    assert not record.take_out(b, "Once more.")
    assert record.take_next() == d
    assert not record.move(d, 1), "it runs"
    assert [(one.id, one.state) for one in record.open()] == [(d, "running"), (c, "queued"), (a, "queued")]
    assert [record.take_next() for _ in range(3)] == [c, a, None]


def test_failed_pressing_resumes_with_unfinished_files(database: Database) -> None:
    record = Pressings(database)
    number, later = add(record, "a"), add(record, "b")
    record.take_next()
    record.set_files(number, [StoredFile(0, "/a", state="named", report=report("ready")), StoredFile(1, "/b")])
    record.end(number, "failed", error="No room.")
    assert record.reopen(number)
    found = record.get(number)
    assert found
    assert [(file.state, file.error) for file in found.files] == [("named", None), ("queued", None)]
    assert [one.id for one in record.open()] == [later, number], "behind what waits already"
    record.cut_off(later, "It was stopped.")
    assert [(one.id, one.state) for one in record.open()] == [(number, "queued"), (later, "interrupted")]
    record.reopen(later)
    assert record.take_next() == later, "what was cut off keeps its place"
    record.set_files(later, [])
    record.end(later, "done")
    assert not record.reopen(later), "nothing of it is undone"


def test_the_speed_of_the_last_pressings_is_the_middle_one(database: Database) -> None:
    record = Pressings(database)
    assert record.pace() == (None, None)
    for seconds, off_by in ((2.0, 0.1), (30.0, None), (3.0, 0.3)):
        number = add(record, "a", work_seconds=1.0)
        record.end(number, "done", seconds=seconds, off_by=off_by)
    assert record.pace() == (3.0, 0.2)


def test_ten_thousand_pressings_are_listed_page_by_page(database: Database) -> None:
    record, found = Pressings(database), Record(database)
    numbers = random.Random(1)
    with database.write() as connection:
        for at in range(10_000):
            connection.execute(
                "INSERT INTO pressings (mix_title, mix_path, ticket, state, made_at, verdict, place) "
                "VALUES (?, '/a', '{}', 'done', '2026', ?, ?)",
                (f"Mix {at}", ("ready", "look", "stop")[at % 3], at),
            )
            words = f"Mix {at} {numbers.randbytes(32).hex()}"
            connection.execute("INSERT INTO words_of_pressings (rowid, words) VALUES (?, ?)", (at + 1, words))
    last = add(record, "The last one")
    record.end(last, "done")
    rows, count = found.find()
    assert (len(rows), count, rows[0].id) == (50, 10_001, last)
    seen = [row.id for row in rows]
    while rows:
        rows, count = found.find(before=seen[-1], most=200)
        seen += [row.id for row in rows]
        assert count == 10_001
    assert seen == list(range(10_001, 0, -1)), "nothing ages out"
    assert "Mix 9876" in [row.mix_title for row in found.find("mix 9876")[0]]


def test_a_setting_holds_until_it_is_set_otherwise(database: Database) -> None:
    settings = Settings(database)
    assert settings.get("press.paused", "no") == "no"
    settings.set("press.paused", "yes")
    settings.set("press.paused", "maybe")
    assert Settings(database).get("press.paused", "no") == "maybe"
