"""The doctor: reports problems, and changes nothing."""

import sqlite3
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.rules.findings import Finding
from ripe_press.core.stations import codec
from ripe_press.store.db import Database
from ripe_press.store.mixes import Mixes, NewMix
from ripe_press.studio import doctor
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.doctor import examine

MIX = NewMix("Millrace", "/gone/Millrace.wav", False, "0" * 64, "wav", "pcm", 96_000, 2, 1_000, 24, "", 2, {}, {}, {})


@pytest.fixture
def folder(tmp_path: Path) -> DataFolder:
    made = DataFolder(tmp_path / "data")
    made.prepare()
    database = Database(made.database)
    database.migrate()
    database.close()
    return made


@pytest.fixture
def page(tmp_path: Path) -> Path:
    (tmp_path / "index.html").touch()
    return tmp_path


def found(folder: DataFolder, page: Path) -> dict[str, Finding]:
    return {one.rule: one for one in examine(folder, page)}


def test_a_machine_on_which_all_is_well(folder: DataFolder, page: Path) -> None:
    before = sorted(path for path in folder.root.rglob("*"))
    seen = found(folder, page)
    assert {about for about, one in seen.items() if one.verdict != "ready"} <= {"data folder", "machine"}
    assert f"All {len(CAPABILITIES)} formats written and verified." == seen["codecs"].sentence
    assert {"soxr", "libsndfile"} <= set(seen["libraries"].sentence.replace(",", "").split())
    assert sorted(path for path in folder.root.rglob("*")) == before


def test_missing_parts_are_reported(folder: DataFolder, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (folder.root / "token").write_text("secret")
    (folder.root / "token").chmod(0o644)
    (folder.pressed / ".Weir.wav.1.pressing").touch()
    monkeypatch.setattr(doctor, "LITTLE_ROOM_BYTES", 1 << 60)
    monkeypatch.setattr(doctor, "LITTLE_MEMORY_BYTES", 1 << 60)

    real = codec.open_writer

    def refused(path: Path, container: str, *more: Any) -> Any:
        if container in ("mp3", "opus"):
            message = "no such encoder"
            raise OSError(message)
        return real(path, container, *more)  # type: ignore[arg-type]

    monkeypatch.setattr(codec, "open_writer", refused)
    seen = found(folder, tmp_path / "nowhere")
    verdicts = {about: one.verdict for about, one in seen.items()}
    assert verdicts == {
        "libraries": "ready", "codecs": "stop", "machine": "look", "page": "stop", "data folder": "look",
        "token": "stop", "unfinished files": "look", "record": "ready",
    }  # fmt: skip
    assert "chmod 600" in seen["token"].sentence
    assert "Cannot write: MP3, Ogg Opus." in seen["codecs"].sentence
    monkeypatch.setattr(codec, "open_writer", lambda *_: real(tmp_path / "no" / "folder", "wav", "s16", 48_000, 2))
    assert found(folder, tmp_path)["codecs"].sentence.startswith("No format can be written: ")


def spoil(path: Path) -> None:
    """Overwrites pages behind the first with noise."""
    data = bytearray(path.read_bytes())
    data[8_192:40_000] = bytes((7 * at + 13) % 251 for at in range(40_000 - 8_192))
    path.write_bytes(data)


def run(path: Path, statement: str) -> None:
    with sqlite3.connect(path) as connection:
        connection.execute(statement)
    connection.close()


@pytest.mark.parametrize(("harm", "says"), [
    (lambda path: path.write_bytes(b"no database at all" * 400), "file is not a database"),
    (spoil, "The history is damaged"),
    (lambda path: run(path, "INSERT INTO migrations (name) VALUES ('9999_later.sql')"), "newer"),
    (lambda path: run(path, "DELETE FROM migrations WHERE name LIKE '0007%'"), "older"),
    (lambda path: run(path, "UPDATE migrations SET name = name"), "History intact"),
])  # fmt: skip
def test_the_record_is_looked_into(harm, says: str, folder: DataFolder, page: Path) -> None:  # type: ignore[no-untyped-def]
    for more in ("-wal", "-shm"):
        Path(f"{folder.database}{more}").unlink(missing_ok=True)
    harm(folder.database)
    assert says in found(folder, page)["record"].sentence


def test_mixes_whose_files_are_gone_are_named(folder: DataFolder, page: Path) -> None:
    database = Database(folder.database)
    Mixes(database).add(MIX)
    database.close()
    assert "Millrace" in found(folder, page)["mixes"].sentence


def test_the_command_says_it_and_ends_with_a_status(folder: DataFolder) -> None:
    done = CliRunner().invoke(app, ["doctor", "--data", str(folder.root)])
    assert (done.exit_code, "codecs: All" in done.output) == (0, True), done.output
    folder.database.write_bytes(b"no database at all" * 400)
    assert CliRunner().invoke(app, ["doctor", "--data", str(folder.root), "--json"]).exit_code == 1
