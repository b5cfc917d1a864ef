"""Where files go: the folder of a ticket, those that are offered and browsed, names where they land, one ZIP."""

import io
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.pressing import destinations
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed, settled, wait_for
from support.signals import noise, write

RATE = 32_000


@pytest.fixture(scope="module")
def home(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Path]:
    home = tmp_path_factory.mktemp("home")
    (home / "Music" / "Nine Weirs").mkdir(parents=True)
    (home / ".keys").mkdir()
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("HOME", str(home))
        patch.delenv("XDG_MUSIC_DIR", raising=False)
        patch.delenv(destinations.SAVE_TO, raising=False)
        yield home


@pytest.fixture(scope="module")
def client(home: Path) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(home / ".local" / "ripe-press"))), OWN) as client:
        yield client


@pytest.fixture(scope="module")
def mix(client: TestClient, home: Path) -> dict[str, Any]:
    path = write(home / "Music" / "Nine Weirs" / "Headrace.wav", noise(RATE, 2, 1, 0.1), RATE, "PCM_24")
    found: dict[str, Any] = client.get(f"/api/mixes/{arrive(client, str(path))['mix_id']}").json()
    return found


def ticket(client: TestClient, mix: dict[str, Any], **more: Any) -> dict[str, Any]:
    found: dict[str, Any] = client.post(f"/api/mixes/{mix['id']}/ticket", json=bench(0, RATE, **more)).json()
    return found


def test_files_go_beside_the_mix_to_a_folder_of_ones_own_and_to_the_remembered_one(
    client: TestClient, mix: dict[str, Any], home: Path
) -> None:
    album = home / "Music" / "Nine Weirs"
    assert ticket(client, mix)["folder"] == str(album / "Headrace")
    number = client.post("/api/pressings", json={"mix_id": mix["id"], "bench": bench(0, RATE)}).json()["id"]
    (file,) = pressed(client, number)["files"]
    assert Path(file["path"]) == album / "Headrace" / "Millrace 44k1 16b.wav" and Path(file["path"]).is_file()
    # An older try elsewhere gives no name a number.
    asked = str(home / "Deliveries" / "Headrace")
    there = ticket(client, mix, folder=asked)
    assert (there["folder"], there["rows"][0]["file_name"]) == (asked, "Millrace 44k1 16b.wav")
    assert ticket(client, mix)["rows"][0]["file_name"] == "Millrace 44k1 16b (2).wav"
    wish = {"mix_id": mix["id"], "bench": bench(0, RATE, folder=asked)}
    (file,) = pressed(client, client.post("/api/pressings", json=wish).json()["id"])["files"]
    assert Path(file["path"]).parent == Path(asked)
    offered = client.get("/api/folders/offered", params={"mix_id": mix["id"]}).json()
    assert [(one["label"], one["path"]) for one in offered] == [
        ("Usual", str(album / "Headrace")), ("Used last", asked), ("Music", str(home / "Music")),
    ]  # fmt: skip
    assert all(one["free_bytes"] > 0 for one in offered)
    # Remembered with one folder a mix, for the folder had the name of its mix.
    client.put("/api/folders/usual", json={"path": asked, "mix_id": mix["id"]})
    assert ticket(client, mix)["folder"] == asked
    other = write(album / "Tailrace.wav", noise(RATE, 2, 2, 0.1), RATE, "PCM_24")
    second = client.get(f"/api/mixes/{arrive(client, str(other))['mix_id']}").json()
    assert ticket(client, second)["folder"] == str(home / "Deliveries" / "Tailrace")
    client.put("/api/folders/usual", json={"path": str(home / "Music"), "mix_id": mix["id"]})
    assert ticket(client, second)["folder"] == str(home / "Music")
    client.put("/api/folders/usual", json={"path": "", "mix_id": mix["id"]})
    assert ticket(client, second)["folder"] == str(album / "Tailrace")


def test_an_uploaded_mix_goes_to_the_music_folder_and_never_into_the_data(
    client: TestClient, mix: dict[str, Any], home: Path
) -> None:
    data = Path(mix["path"]).read_bytes() + b"LIST\0\0\0\0"
    arrival = client.post("/api/arrivals/upload?name=Sent.wav", content=data).json()
    number = settled(client, arrival["id"])["mix_id"]
    folder = Path(ticket(client, {"id": number})["folder"])
    assert folder == home / "Music" / "Ripe Press" / "Sent"


@pytest.mark.parametrize(
    ("folder", "words"),
    [
        ("/etc/weir", "outside the home folder"),
        ("/proc/weir", "not an audio file"),
        ("~/.keys", "is hidden"),
        ("weir", "not a full path"),
        ("~/Music/Nine Weirs/Headrace.wav/below", "is a file"),
        ("~/Music/../.keys", "is hidden"),
    ],
)
def test_hidden_and_system_folders_are_refused(
    client: TestClient, mix: dict[str, Any], folder: str, words: str
) -> None:
    found = ticket(client, mix, folder=folder)
    assert words in found["folder_problem"] and found["rows"]
    wish = {"mix_id": mix["id"], "bench": bench(0, RATE, folder=folder)}
    answer = client.post("/api/pressings", json=wish)
    assert answer.status_code == 422 and words in answer.json()["message"]
    assert client.get("/api/folders", params={"path": folder}).status_code == 422


def test_folders_are_browsed_and_created(client: TestClient, mix: dict[str, Any], home: Path) -> None:
    top = client.get("/api/folders").json()
    assert (top["path"], top["parent"], top["writable"]) == (str(home), None, True)
    assert "Music" in top["folders"] and ".keys" not in top["folders"]
    music = client.get("/api/folders", params={"path": str(home / "Music")}).json()
    assert (music["parent"], music["folders"]) == (str(home), ["Nine Weirs"])
    assert client.get("/api/folders", params={"path": str(home / "Nowhere")}).status_code == 404
    made = client.post("/api/folders", json={"path": str(home / "Music"), "name": "Sends"})
    assert made.status_code == 201 and made.json()["path"] == str(home / "Music" / "Sends")
    assert (home / "Music" / "Sends").is_dir()
    again = client.post("/api/folders", json={"path": str(home / "Music"), "name": "Sends"})
    assert again.status_code == 409 and "File exists" in again.json()["message"]
    for name in ("../x", ".x", "a/b", " "):
        assert client.post("/api/folders", json={"path": str(home), "name": name}).status_code == 422
    assert mix["id"] and (home / "Music" / "Nine Weirs").is_dir()


def test_all_files_are_one_zip_and_no_two_bear_one_name(client: TestClient, mix: dict[str, Any]) -> None:
    lines = [("d1", "phone-and-car", {}), ("d2", "podcast", {}), ("d3", "phone-and-car", {"channels": "mono"})]
    wish = bench(0, RATE)
    wish["ticket"] = [
        {"id": name, "brief": brief, "range_id": "r0", "changes": {"label_pattern": "{title}", **changes}}
        for name, brief, changes in lines
    ]
    number = client.post("/api/pressings", json={"mix_id": mix["id"], "bench": wish}).json()["id"]
    files = pressed(client, number)["files"]
    names = sorted(one["name"] for one in files)
    # All are MP3 of one range: channels and briefs distinguish them.
    assert len(set(names)) == 3 and "Millrace.mp3" in names
    answer = client.get(f"/api/pressings/{number}/files.zip")
    assert answer.headers["content-disposition"] == 'attachment; filename="Headrace.zip"'
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        assert archive.testzip() is None
        assert sorted(Path(one).name for one in archive.namelist()) == names
        assert {one.compress_type for one in archive.infolist()} == {zipfile.ZIP_STORED}
        for one in files:
            (inside,) = (name for name in archive.namelist() if Path(name).name == one["name"])
            assert archive.read(inside) == Path(one["path"]).read_bytes()
    Path(files[0]["path"]).unlink()
    gone = client.get(f"/api/pressings/{number}/files.zip")
    assert gone.status_code == 404 and "moved or deleted" in gone.json()["message"]
    assert client.get("/api/pressings/99/files.zip").status_code == 404


def test_the_folder_is_opened_only_on_this_machine(
    client: TestClient, mix: dict[str, Any], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    number = client.post("/api/pressings", json={"mix_id": mix["id"], "bench": bench(0, RATE)}).json()["id"]
    (file,) = pressed(client, number)["files"]
    # The requests of this client come from no address of this machine.
    assert client.get("/api/here").json() == {"opens_folders": False}
    assert client.post(f"/api/pressings/{number}/open").json()["code"] == "folder.elsewhere"
    note, opener = tmp_path / "opened", tmp_path / "bin" / "xdg-open"
    opener.parent.mkdir()
    opener.write_text(f'#!/bin/sh\nprintf "%s" "$1" > "{note}"\n')
    opener.chmod(0o755)
    monkeypatch.setenv("PATH", str(opener.parent), prepend=":")
    own = TestClient(client.app, OWN, client=("127.0.0.1", 5000))
    assert own.get("/api/here").json() == {"opens_folders": True}
    assert own.post(f"/api/pressings/{number}/open").status_code == 204
    wait_for(lambda: note.exists() and note.read_text())
    assert note.read_text() == str(Path(file["path"]).parent)


def test_a_running_order_goes_to_a_folder_of_its_own(client: TestClient, mix: dict[str, Any], home: Path) -> None:
    made = client.post("/api/orders", json={"title": "Nine Weirs", "ranges": [{"mix_id": mix["id"]}]}).json()
    assert (made["folder"], made["folder_problem"]) == (str(home / "Music" / "Nine Weirs" / "Nine Weirs"), "")
    offered = client.get("/api/folders/offered", params={"order_id": made["id"]}).json()
    assert offered[0] == {"path": made["folder"], "label": "Usual", "free_bytes": offered[0]["free_bytes"]}
    chosen = str(home / "Music" / "Album")
    order = made["order"] | {"folder": chosen, "lines": [{"brief": "audio-cd"}]}

    def paths(lines: list[str]) -> list[Path]:
        wanted = order | {"lines": [{"brief": one} for one in lines]}
        shown = client.put(f"/api/orders/{made['id']}", json=wanted).json()
        assert (shown["folder"], shown["folder_problem"]) == (chosen, "")
        number = client.post(f"/api/orders/{made['id']}/press", json={"files": True, "disc": False}).json()["id"]
        return [Path(file["path"]).parent for file in pressed(client, number)["files"]]

    assert paths(["audio-cd"]) == [Path(chosen)]
    assert paths(["audio-cd", "mastering"]) == [Path(chosen), Path(chosen) / "mastering"]
    refused = client.put(f"/api/orders/{made['id']}", json=order | {"folder": "/etc"}).json()
    assert "outside the home folder" in refused["folder_problem"]
    answer = client.post(f"/api/orders/{made['id']}/press", json={"files": True, "disc": False})
    assert answer.status_code == 422 and "outside the home folder" in answer.json()["message"]
    client.delete(f"/api/orders/{made['id']}")
