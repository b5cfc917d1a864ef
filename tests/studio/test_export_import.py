"""Everything that one has made, as one file: taken over by empty data folders and others, twice, and damaged."""

import errno
import json
import zipfile
from pathlib import Path

import pytest
from click.testing import CliRunner
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.cli.app import app
from ripe_press.core.errors import Interrupted
from ripe_press.store.db import Database
from ripe_press.store.mixes import Mixes, ShelfRow
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.export_import import LABEL, RECORD, carry_in, carry_off
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed, wait_for
from support.signals import piece, write

RATE = 48_000


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder with two mixes, one of them sent, a bench, an order, a brief and a pressing; and its export."""
    root = tmp_path_factory.mktemp("made")
    with TestClient(make_app(Studio(DataFolder(root / "data"))), OWN) as client:
        sound = piece(2, seed=1)
        path = write(root / "Headrace.wav", sound, RATE, "PCM_24")
        first = arrive(client, str(path))["mix_id"]
        sent = write(root / "Towpath.wav", piece(2, seed=2), RATE, "PCM_24").read_bytes()
        client.post("/api/arrivals/upload", params={"name": "Towpath.wav"}, content=sent)
        client.put(f"/api/mixes/{first}/bench", json=bench(RATE // 2, RATE))
        client.post("/api/orders", json={"title": "Nine Weirs", "ranges": [{"mix_id": first}]})
        brief = next(one for one in client.get("/api/briefs").json() if one["id"] == "archive")
        own = {key: value for key, value in brief.items() if key != "own"}
        assert client.put("/api/briefs", json={**own, "id": "the-shed", "title": "The shed"}).status_code == 200
        saved = client.put("/api/sets", json={"name": "Album", "bench": bench(RATE // 2, RATE)})
        assert saved.status_code == 200
        wish = {"mix_id": first, "bench": client.get(f"/api/mixes/{first}").json()["bench"]}
        assert pressed(client, client.post("/api/pressings", json=wish).json()["id"])["state"] == "done"
        wait_for(lambda: len(client.get("/api/shelf").json()["mixes"]) == 2)
        # While the application works, too.
        carry_off(DataFolder(root / "data"), root / "all.zip")
    return root


@pytest.fixture
def folder(tmp_path: Path) -> DataFolder:
    return DataFolder(tmp_path / "new data")


def shelf(folder: DataFolder) -> dict[str, ShelfRow]:
    """The mixes of a data folder by their titles."""
    if not folder.database.exists():
        return {}
    database = Database(folder.database)
    found = {row.title: row for row in Mixes(database).rows()}
    database.close()
    return found


def test_an_empty_data_folder_has_everything_afterwards_and_no_sound_travels(made: Path, folder: DataFolder) -> None:
    with zipfile.ZipFile(made / "all.zip") as file:
        assert not [name for name in file.namelist() if name.endswith(".wav")]
    found = carry_in(folder, made / "all.zip")
    assert found["taken"] == {"brief": 1, "set": 1, "mix": 2, "running order": 1, "pressing": 1} and not found["left"]
    with TestClient(make_app(Studio(folder)), OWN) as client:
        there = {one["title"]: one for one in client.get("/api/shelf").json()["mixes"]}
        mix = there["Headrace"]
        assert (mix["start_frame"], mix["end_frame"]) == (RATE // 2, RATE) and mix["pressed_at"]
        # The measurements were imported: the waveform is there, and the ticket is computed from it.
        assert client.get(f"/api/mixes/{mix['id']}/tiles/256/0").status_code == 200
        bench_of_it = client.get(f"/api/mixes/{mix['id']}").json()["bench"]
        assert client.post(f"/api/mixes/{mix['id']}/ticket", json=bench_of_it).json()["rows"]
        (order,) = client.get("/api/orders").json()
        assert client.get(f"/api/orders/{order['id']}").json()["order"]["entries"][0]["mix"] == mix["id"]
        assert "Album" in [one["name"] for one in client.get("/api/sets").json()]
        assert "the-shed" in [one["id"] for one in client.get("/api/briefs").json()]
        assert client.get("/api/pressings", params={"find": "Headrace"}).json()["rows"]
        # The uploaded mix is reported as missing, and complete once its file is added again.
        again = arrive(client, str(made / "Towpath.wav"))
        assert again["mix_id"] == there["Towpath"]["id"]
        heard = {"start_frame": 0, "end_frame": RATE}
        assert client.get(f"/api/mixes/{again['mix_id']}/listen", params=heard).status_code == 200


def test_twice_is_once(made: Path, folder: DataFolder) -> None:
    carry_in(folder, made / "all.zip")
    found = carry_in(folder, made / "all.zip")
    assert found["taken"] == {} and found["there"] == {
        "brief": 1,
        "set": 1,
        "mix": 2,
        "running order": 1,
        "pressing": 1,
    }


def test_differing_item_is_kept_and_reported(made: Path, folder: DataFolder) -> None:
    with TestClient(make_app(Studio(folder)), OWN) as client:
        number = arrive(client, str(made / "Headrace.wav"))["mix_id"]
        client.put(f"/api/mixes/{number}/bench", json=bench(0, RATE // 4))
        brief = next(one for one in client.get("/api/briefs").json() if one["id"] == "archive")
        own = {key: value for key, value in brief.items() if key != "own"}
        client.put("/api/briefs", json={**own, "id": "the-shed", "title": "Another shed"})
    found = carry_in(folder, made / "all.zip")
    assert sorted(one.split(" ")[1] for one in found["left"]) == ["bench", "brief"]
    assert found["taken"] == {"set": 1, "mix": 1, "running order": 1, "pressing": 1}
    mix = shelf(folder)["Headrace"]
    assert mix.end_frame == RATE // 4 and mix.pressed_at


def test_untouched_bench_adopts_the_imported_one(made: Path, folder: DataFolder) -> None:
    with TestClient(make_app(Studio(folder)), OWN) as client:
        arrive(client, str(made / "Headrace.wav"))
    assert carry_in(folder, made / "all.zip")["taken"]["bench"] == 1
    assert shelf(folder)["Headrace"].start_frame == RATE // 2


def repacked(source: Path, target: Path, **changed: bytes | None) -> Path:
    """The export with some of its members exchanged, left out or added."""
    with zipfile.ZipFile(source) as old, zipfile.ZipFile(target, "w") as new:
        for name in old.namelist():
            if name not in changed:
                new.writestr(name, old.read(name))
        for name, data in changed.items():
            if data is not None:
                new.writestr(name, data)
    return target


def test_invalid_export_is_one_sentence_and_changes_nothing(made: Path, folder: DataFolder, tmp_path: Path) -> None:
    whole = (made / "all.zip").read_bytes()
    cut, noise, other = tmp_path / "cut.zip", tmp_path / "noise.zip", tmp_path / "other.zip"
    cut.write_bytes(whole[: len(whole) // 2])
    noise.write_bytes(b"no zip at all")
    with zipfile.ZipFile(other, "w") as file:
        file.writestr("holiday.txt", "dear all")
    wrong = [cut, noise, other, repacked(made / "all.zip", tmp_path / "label.zip", **{LABEL: b"[]"})]
    wrong.append(repacked(made / "all.zip", tmp_path / "record.zip", **{RECORD: b"not a database" * 100}))
    damaged = bytearray(whole)
    damaged[len(whole) // 2] ^= 0xFF
    (tmp_path / "bit.zip").write_bytes(damaged)
    wrong.append(tmp_path / "bit.zip")
    for one in wrong:
        result = CliRunner().invoke(app, ["import", str(one), "--data", str(folder.root)])
        assert getattr(result.exception, "code", "") == "import.unreadable", (one.name, result.exception)
    assert not shelf(folder)
    assert not list(folder.root.rglob("*.bin"))


def test_names_in_an_export_lead_nowhere_outside(made: Path, folder: DataFolder, tmp_path: Path) -> None:
    evil = {
        "mixes/../../evil.txt": b"x",
        "/mixes/a/b": b"x",
        "mixes/a/../b": b"x",
        "pressed/a.wav": b"x",
        "covers/..": b"x",
    }
    carry_in(folder, repacked(made / "all.zip", tmp_path / "evil.zip", **evil))
    there = {one.relative_to(tmp_path).as_posix() for one in tmp_path.rglob("*") if one.is_file()}
    assert not [one for one in there if "evil.txt" in one or "pressed" in one or one.endswith("/b")]


def test_both_commands_report_their_result(made: Path, tmp_path: Path) -> None:
    out = tmp_path / "again.zip"
    done = CliRunner().invoke(app, ["export", str(out), "--data", str(made / "data"), "--json"])
    assert json.loads(done.output)["bytes"] == out.stat().st_size
    said = CliRunner().invoke(app, ["import", str(out), "--data", str(tmp_path / "new")])
    assert said.output == "imported: 1 brief, 1 set, 2 mixes, 1 running order, 1 pressing\n"
    nothing = CliRunner().invoke(app, ["export", str(out), "--data", str(tmp_path / "empty")])
    assert getattr(nothing.exception, "code", "") == "export.nothing"
    missing = CliRunner().invoke(app, ["import", str(tmp_path / "no.zip"), "--data", str(tmp_path / "new")])
    assert getattr(missing.exception, "code", "") == "import.missing"


def test_a_full_disk_is_said_to_be_full_and_not_the_export_to_be_damaged(
    made: Path, folder: DataFolder, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("shutil.copyfileobj", full)
    with pytest.raises(Interrupted) as caught:
        carry_in(folder, made / "all.zip")
    assert "space" in caught.value.message.lower() or "full" in caught.value.message.lower()
    monkeypatch.undo()
    assert not shelf(folder)
    assert carry_in(folder, made / "all.zip")["taken"]["mix"] == 2
