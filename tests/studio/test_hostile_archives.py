"""Exports that were made to do harm: each ends in one sentence, nothing of it stays, and the shelf answers."""

import json
import sqlite3
import zipfile
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.errors import BadInput
from ripe_press.studio import export_import as carrying_off
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.export_import import LABEL, RECORD, carry_in, carry_off
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed
from support.signals import piece, write


@pytest.fixture(scope="module")
def export(tmp_path_factory: pytest.TempPathFactory) -> Path:
    root = tmp_path_factory.mktemp("made")
    with TestClient(make_app(Studio(DataFolder(root / "data"))), OWN) as client:
        mix = arrive(client, str(write(root / "Headrace.wav", piece(2, seed=1), 48_000, "PCM_24")))["mix_id"]
        client.put(f"/api/mixes/{mix}/bench", json=bench(0, 48_000))
        client.post("/api/orders", json={"title": "Nine Weirs", "ranges": [{"mix_id": mix}]})
        client.post("/api/labels", json={})
        wish = {"mix_id": mix, "bench": client.get(f"/api/mixes/{mix}").json()["bench"]}
        assert pressed(client, client.post("/api/pressings", json=wish).json()["id"])["state"] == "done"
    carry_off(DataFolder(root / "data"), root / "all.zip")
    return root / "all.zip"


def rewritten(source: Path, target: Path, change: Callable[[sqlite3.Connection], object], **label: Any) -> Path:
    """The export with its record changed, and its label."""
    with zipfile.ZipFile(source) as old:
        record = target.with_suffix(".sqlite3")
        record.write_bytes(old.read(RECORD))
        with closing(sqlite3.connect(record)) as connection:
            change(connection)
            connection.commit()
        with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as new:
            for name in old.namelist():
                data = old.read(name)
                if name == LABEL:
                    data = json.dumps({**json.loads(data), **label}).encode()
                new.writestr(name, record.read_bytes() if name == RECORD else data)
    return target


def script(words: str) -> Callable[[sqlite3.Connection], object]:
    return lambda connection: connection.executescript(words)


@pytest.fixture
def folder(tmp_path: Path) -> DataFolder:
    return DataFolder(tmp_path / "new data")


@pytest.fixture
def opened(folder: DataFolder) -> Iterator[Callable[[], TestClient]]:
    """The application with the imported record."""
    clients: list[TestClient] = []

    def begin() -> TestClient:
        client = TestClient(make_app(Studio(folder)), OWN, raise_server_exceptions=False)
        client.__enter__()
        clients.append(client)
        return client

    yield begin
    for one in clients:
        one.__exit__(None, None, None)


ENDLESS = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i AS id FROM n"
REFUSED = {
    "a view": (f"DROP TABLE briefs; CREATE VIEW briefs AS {ENDLESS}", "a view, “briefs”"),
    "a trigger": (
        "CREATE TRIGGER t AFTER INSERT ON migrations BEGIN DELETE FROM mixes; END", "a trigger, “t”"
    ),
    "a virtual table": ("CREATE VIRTUAL TABLE evil USING fts5 (a)", "a virtual table, “evil”"),
    "another table": ("CREATE TABLE evil (a)", "“evil” has the wrong form"),
    "another column": ('ALTER TABLE mixes ADD COLUMN "id) VALUES (1); --" TEXT', "“mixes” has the wrong form"),
    "a generated column": ("ALTER TABLE mixes ADD COLUMN x BLOB AS (zeroblob(1000000))", "“mixes” has the wrong form"),
    "a newer record": ("INSERT INTO migrations VALUES ('9999_later.sql', '2030')", "newer Ripe Press"),
    "no history": ("DROP TABLE migrations", "no history"),
    "rows of another kind": (
        "DROP TABLE briefs; CREATE TABLE briefs (id BLOB, body INTEGER, added_at)", "“briefs” has the wrong form"
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", REFUSED)
def test_a_record_that_is_none_of_ours_is_refused(export: Path, folder: DataFolder, tmp_path: Path, name: str) -> None:
    words, sentence = REFUSED[name]
    with pytest.raises(BadInput, match=sentence) as told:
        carry_in(folder, rewritten(export, tmp_path / "evil.zip", script(words)))
    assert told.value.code in ("import.unreadable", "import.newer")
    assert not list(folder.mixes.rglob("*.bin"))


def test_newer_form_is_reported(export: Path, folder: DataFolder, tmp_path: Path) -> None:
    with pytest.raises(BadInput, match="newer Ripe Press"):
        carry_in(folder, rewritten(export, tmp_path / "evil.zip", script(""), version=2))


DEEP = "[" * 100_000 + "]" * 100_000
BROKEN = {
    "a bench that is no JSON": "UPDATE mixes SET bench = '{plums'",
    "a bench of another kind": """UPDATE mixes SET bench = '{"version": 1, "ranges": "all"}'""",
    "a bench past its end": "UPDATE mixes SET bench = json_set(bench, '$.ranges[0].end_frame', 99999999)",
    "a bench without end": f"UPDATE mixes SET bench = '{DEEP}'",
    "measures that are no numbers": "UPDATE mixes SET measures = json_set(measures, '$.integrated_lufs', 'loud')",
    "measures with what is no number": """UPDATE mixes SET measures = '{"integrated_lufs": NaN}'""",
    "no frames": "UPDATE mixes SET frames = 0",
    "a checksum that is a path": "UPDATE mixes SET sha256 = '../../../../../../../tmp/x'",
    "a path into the system": "UPDATE mixes SET path = '/proc/self/environ', owned = 0",
    "a path that is relative": "UPDATE mixes SET path = 'x.wav'",
    "tags of another kind": "UPDATE mixes SET embedded = '[]'",
    "an order of another kind": "UPDATE orders SET body = '{\"entries\": 7}'",
    "an empty order": "UPDATE orders SET body = json_set(body, '$.entries', json('[]'))",
    "a ticket that is none": "UPDATE pressings SET ticket = '7'",
    "a report that is none": "UPDATE pressed_files SET report = '{}'",
    "a report of another kind": "UPDATE pressed_files SET report = json_set(report, '$.bytes', 'many')",
    "a disc that is none": "UPDATE pressings SET disc = '{}'",
}


@pytest.mark.parametrize("name", BROKEN)
def test_invalid_row_is_omitted_and_reported(
    export: Path, folder: DataFolder, tmp_path: Path, name: str, opened: Callable[[], TestClient]
) -> None:
    found = carry_in(folder, rewritten(export, tmp_path / "evil.zip", script(BROKEN[name])))
    assert any("skipped" in one for one in found["left"]), found
    client = opened()
    answers = [client.get(path) for path in ("/api/shelf", "/api/pressings", "/api/orders", "/api/briefs")]
    assert [one.status_code for one in answers] == [200] * 4
    for mix in answers[0].json()["mixes"]:
        assert client.get(f"/api/mixes/{mix['id']}").status_code == 200
    for one in client.get("/api/pressings").json().get("pressings", []):
        assert client.get(f"/api/pressings/{one['id']}").status_code == 200


def test_archive_that_unpacks_too_large_is_rejected_unread(
    export: Path, folder: DataFolder, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    large = tmp_path / "label.zip"
    with zipfile.ZipFile(export) as old, zipfile.ZipFile(large, "w", zipfile.ZIP_DEFLATED) as new:
        for name in old.namelist():
            new.writestr(name, bytes(1 << 20) if name == LABEL else old.read(name))
    with pytest.raises(BadInput, match="is too large"):
        carry_in(folder, large)
    monkeypatch.setattr(carrying_off, "MOST_BYTES", 10_000)
    with pytest.raises(BadInput, match="too large in total"):
        carry_in(folder, export)
    monkeypatch.undo()
    twice = tmp_path / "twice.zip"
    with (
        zipfile.ZipFile(export) as old,
        zipfile.ZipFile(twice, "w") as new,
        pytest.warns(UserWarning, match="Duplicate"),
    ):
        for name in (*old.namelist(), LABEL):
            new.writestr(name, old.read(name))
    with pytest.raises(BadInput, match="duplicate files"):
        carry_in(folder, twice)
    # The size in the directory is smaller than the content.
    lying = bytearray(export.read_bytes())
    at = lying.rindex(RECORD.encode()) - 22
    lying[at : at + 4] = (1).to_bytes(4, "little")
    (tmp_path / "lying.zip").write_bytes(lying)
    with pytest.raises(BadInput):
        carry_in(folder, tmp_path / "lying.zip")
    assert not list(folder.mixes.rglob("*.bin"))


def test_failed_import_leaves_nothing(
    export: Path, folder: DataFolder, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(*_: object) -> None:
        raise sqlite3.OperationalError("plums")

    monkeypatch.setattr("ripe_press.store.imports.merging.Merging.take", fails)
    with pytest.raises(BadInput):
        carry_in(folder, export)
    assert not list(folder.mixes.iterdir())
