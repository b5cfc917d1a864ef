import sqlite3
import time
from pathlib import Path

import pytest

from ripe_press.core.errors import Conflict
from ripe_press.core.requests.document import bench_of
from ripe_press.core.sheet.file_report import FileReport
from ripe_press.store.db import Database, shipped_migrations
from ripe_press.store.mixes import Mixes, NewMix
from ripe_press.store.pressings import NewPressing, Pressings, StoredFile

NEW = NewMix(
    "Millrace", "/mixes/Millrace.wav", False, "ab" * 32, "wav", "pcm-float", 96_000, 2, 960_000, 32,
    "", 2, {"sample_peak_dbfs": -1.0}, {"tempo_bpm": 84.0}, {"ranges": []},
)  # fmt: skip


@pytest.fixture
def database(tmp_path: Path) -> Database:
    made = Database(tmp_path / "test.sqlite3")
    made.migrate()
    return made


def test_migrations_run_once_and_are_remembered(database: Database, tmp_path: Path) -> None:
    assert database.migrate() == []
    again = Database(tmp_path / "other.sqlite3")
    assert again.migrate() == [name for name, _ in shipped_migrations()]


def test_a_failing_step_leaves_nothing_of_itself_and_can_be_mended(tmp_path: Path) -> None:
    database = Database(tmp_path / "test.sqlite3")
    first = ("0001_a.sql", "CREATE TABLE a (x INTEGER) STRICT;")
    with pytest.raises(sqlite3.Error):
        database.migrate([first, ("0002_b.sql", "CREATE TABLE b (x INTEGER) STRICT; NONSENSE;")])
    assert database.migrate([first, ("0002_b.sql", "CREATE TABLE b (x INTEGER) STRICT;")]) == ["0002_b.sql"]


def test_wal_and_foreign_keys_are_on_and_readers_cannot_write(database: Database) -> None:
    with database.read() as connection:
        assert connection.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert connection.execute("PRAGMA foreign_keys").fetchone()[0] == 1
        with pytest.raises(sqlite3.OperationalError, match="readonly"):
            connection.execute("DELETE FROM mixes")


def test_a_failed_transaction_is_rolled_back(database: Database) -> None:
    mixes = Mixes(database)
    mixes.add(NEW)
    with pytest.raises(sqlite3.IntegrityError):
        mixes.add(NEW)
    assert len(mixes.all()) == 1


def test_file_without_a_database_is_rejected(tmp_path: Path) -> None:
    path = tmp_path / "test.sqlite3"
    path.write_text("not a database at all, but long enough to be looked at " * 40)
    with pytest.raises(Conflict) as caught:
        Database(path)
    assert caught.value.code == "store.unusable"


def test_mixes_come_back_as_they_went_in(database: Database) -> None:
    mixes = Mixes(database)
    number = mixes.add(NEW)
    stored = mixes.get(number)
    assert stored is not None
    assert {name: getattr(stored, name) for name in NewMix.__slots__} == {
        name: getattr(NEW, name) for name in NewMix.__slots__
    }
    assert mixes.by_hash(NEW.sha256) == stored
    mixes.set_bench(number, {"ranges": [1]})
    mixes.set_downmix(number, "3", 1, {"sample_peak_dbfs": -9.0})
    changed = mixes.get(number)
    assert changed is not None
    assert (changed.bench, changed.downmix, changed.channels) == ({"ranges": [1]}, "3", 1)
    assert changed.measures == {"sample_peak_dbfs": -9.0}


def test_a_range_from_before_there_were_several_is_kept(tmp_path: Path) -> None:
    database = Database(tmp_path / "test.sqlite3")
    steps = shipped_migrations()
    database.migrate(steps[:2])
    with database.write() as connection:
        connection.execute(
            "INSERT INTO mixes (title, path, owned, sha256, container, codec, rate_hz, channels, frames, measures,"
            " start_frame, end_frame, added_at, edges) VALUES ('Millrace', '/a.wav', 0, 'ab', 'wav', 'pcm', 48000, 2,"
            """ 900, '{}', 100, 800, '2026', '{"end": "ring"}')"""
        )
    database.migrate(steps)
    (mix,) = Mixes(database).all()
    (kept,) = bench_of(mix.bench).ranges
    assert (kept.start_frame, kept.end_frame, kept.edges.end) == (100, 800, "ring")
    assert mix.file_channels == 2


def test_the_record_outlives_the_mix(database: Database) -> None:
    mixes, record = Mixes(database), Pressings(database)
    mix = mixes.add(NEW)
    number = record.add(NewPressing(mix, "Millrace", NEW.path, {"briefs": ["audio-cd"]}))
    assert [pressing.id for pressing in record.unfinished()] == [number]
    assert (record.take_next(), record.take_next()) == (number, None)
    record.set_files(number, [StoredFile(0, "/a.wav"), StoredFile(1, "/b.wav", replaces=True)])
    record.set_file(number, StoredFile(0, "/a.wav", state="named", report=FileReport(path="/a.wav")))
    record.end(number, "done", seconds=1.5, times_realtime=100.0)
    mixes.remove(mix)
    pressing = record.get(number)
    assert pressing
    assert (pressing.mix_id, pressing.state, pressing.seconds) == (None, "done", 1.5)
    assert [(file.path, file.state, file.replaces) for file in pressing.files] == [
        ("/a.wav", "named", False), ("/b.wav", "failed", True),
    ]  # fmt: skip
    assert pressing.reports == (FileReport(path="/a.wav"),)
    assert record.unfinished() == []


def test_change_after_pressing_is_known_within_the_same_second(database: Database) -> None:
    mixes, pressings = Mixes(database), Pressings(database)
    mix = mixes.add(NEW)
    mixes.set_bench(mix, {"ranges": [1]})
    # The clock is read to the millisecond.
    time.sleep(0.005)
    number = pressings.add(NewPressing(mix, "Millrace", "/mixes/Millrace.wav", {}))
    pressings.end(number, "done")
    assert not mixes.rows()[0].changed_since
    time.sleep(0.005)
    mixes.set_bench(mix, {"ranges": [2]})
    assert mixes.rows()[0].changed_since


def test_closed_record_takes_no_more(tmp_path: Path) -> None:
    database = Database(tmp_path / "record.sqlite3")
    database.migrate()
    database.close()
    with pytest.raises(Conflict) as caught, database.write():
        pass
    assert caught.value.code == "store.closed"
    # The file is free: another program may write.
    with sqlite3.connect(tmp_path / "record.sqlite3", timeout=0) as other:
        other.execute("CREATE TABLE mine (id INTEGER)")
