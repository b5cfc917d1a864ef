"""The record: a newer, empty, missing or damaged one is reported at the start with a remedy, and the last good copy
restored.
"""

import sqlite3
import time
from contextlib import closing
from pathlib import Path

import pytest
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.errors import Conflict, NotFound
from ripe_press.store.db import Database
from ripe_press.store.settings import Settings
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.planning.old_tickets import bring_up_to_date
from ripe_press.studio.pressing.record_file import COPIES, copies_of, keep_copy, look_at_record, restore
from ripe_press.studio.studio import Studio
from support.serving import served, started


def written(folder: DataFolder, value: str) -> None:
    """A record with something in it, and a copy of it."""
    database = Database(folder.database)
    bring_up_to_date(database)
    Settings(database).set("weir", value)
    assert keep_copy(folder, database)
    database.close()


def value_in(folder: DataFolder) -> str:
    database = Database(folder.database)
    found = Settings(database).get("weir", "")
    database.close()
    return found


@pytest.fixture
def folder(tmp_path: Path) -> DataFolder:
    found = DataFolder(tmp_path / "data")
    found.root.mkdir()
    written(found, "plums")
    return found


def damage(path: Path) -> None:
    """A page in its middle, as a failing disk leaves it."""
    data = bytearray(path.read_bytes())
    for at in range(4096 * 3, len(data), 4096 * 2):
        data[at : at + 600] = b"\xa5" * 600
    path.write_bytes(data)


def test_a_whole_record_passes_and_an_empty_folder_too(folder: DataFolder, tmp_path: Path) -> None:
    look_at_record(folder)
    look_at_record(DataFolder(tmp_path / "new"))


@pytest.mark.parametrize(
    ("harm", "code", "says"),
    [
        (damage, "store.damaged", "is damaged"),
        (lambda path: path.write_bytes(b""), "store.gone", "is empty"),
        (lambda path: path.unlink(), "store.gone", "is missing"),
        (lambda path: path.write_bytes(b"a letter " * 1000), "store.damaged", "is damaged"),
    ],
    ids=["damaged", "empty", "gone", "no database"],
)
def test_damaged_record_is_reported_at_the_start_and_restored(
    folder: DataFolder, harm: object, code: str, says: str
) -> None:
    harm(folder.database)  # type: ignore[operator]
    with pytest.raises(Conflict) as told:
        Studio(folder)
    assert told.value.code == code and "doctor --restore" in told.value.message
    process = started(folder.root)
    _, said = process.communicate(timeout=60)
    assert process.returncode == 1 and "Traceback" not in said
    assert says in said
    done = CliRunner().invoke(app, ["doctor", "--restore", "--data", str(folder.root)])
    assert done.exit_code == 0 and "restored" in done.output
    assert value_in(folder) == "plums"
    look_at_record(folder)


def test_newer_record_is_reported(folder: DataFolder) -> None:
    with closing(sqlite3.connect(folder.database)) as connection:
        connection.execute("INSERT INTO migrations (name) VALUES ('9999_later.sql')")
        connection.commit()
    with pytest.raises(Conflict, match=r"newer Ripe Press .*9999_later"):
        Studio(folder)


def test_three_good_copies_are_kept(folder: DataFolder) -> None:
    for fruit in ("pears", "figs", "quinces", "medlars"):
        written(folder, fruit)
    assert len(copies_of(folder)) == COPIES
    database = Database(folder.database)
    assert not keep_copy(folder, database), "it is the same as the newest"
    database.close()
    # A damaged copy is passed over, and a damaged record makes none.
    damage(copies_of(folder)[0])
    restore(folder)
    assert value_in(folder) == "quinces"


def test_no_copy_is_one_sentence(tmp_path: Path) -> None:
    with pytest.raises(NotFound, match="No good copy"):
        restore(DataFolder(tmp_path / "data"))


def test_a_start_leaves_a_copy(tmp_path: Path) -> None:
    with served(tmp_path / "data") as server:
        end = time.monotonic() + 20
        while not copies_of(DataFolder(server.data)) and time.monotonic() < end:
            time.sleep(0.1)
        (copy,) = copies_of(DataFolder(server.data))
        assert not Database.problems_of(copy)


def test_damage_that_comes_while_it_works_is_one_sentence(folder: DataFolder) -> None:
    database = Database(folder.database)
    with pytest.raises(Conflict, match="doctor --restore"), database.read() as connection:
        error = sqlite3.DatabaseError("database disk image is malformed")
        raise error
    assert connection
    database.close()


@pytest.mark.parametrize("what", ["a file", "only to be read"])
def test_a_data_folder_that_is_none_is_one_sentence(tmp_path: Path, what: str, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "data"
    if what == "a file":
        path.write_text("plums")
    else:
        path.mkdir()

        def refused(*_: object, **__: object) -> None:
            raise OSError(30, "Read-only file system")

        monkeypatch.setattr(Path, "open", refused)
    with pytest.raises(Conflict, match="Choose another with --data"):
        Studio(DataFolder(path))
