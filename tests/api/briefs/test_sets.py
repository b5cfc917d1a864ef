"""Sets over HTTP: saved, chosen for new mixes, put on benches; and on the command line."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.cli.app import app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, pressed
from support.signals import noise, write

MP3 = {"id": "d1", "brief": "phone-and-car", "range_id": "r1", "changes": {"container": "mp3", "kbps": 192}}


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        yield client


@pytest.fixture
def add(client: TestClient, tmp_path: Path) -> Any:
    """Adds a mix; gives its number."""
    seeds = iter(range(1, 20))

    def added(title: str) -> int:
        path = write(tmp_path / f"{title}.wav", noise(24_000, 2, next(seeds), 0.1), 48_000)
        number: int = arrive(client, str(path))["mix_id"]
        return number

    return added


def names(client: TestClient) -> list[tuple[str, str, bool]]:
    return [(one["name"], one["kind"], one["default"]) for one in client.get("/api/sets").json()]


def bench(client: TestClient, mix: int) -> dict[str, Any]:
    found: dict[str, Any] = client.get(f"/api/mixes/{mix}").json()["bench"]
    return found


def briefs_of(client: TestClient, mix: int) -> list[str]:
    return [line["brief"] for line in bench(client, mix)["ticket"]]


def test_a_set_is_saved_put_on_a_bench_made_default_and_deleted(client: TestClient, add: Any) -> None:
    first = add("Millrace")
    assert names(client) == [("CD and archive", "built-in", False)]
    body = bench(client, first) | {"ticket": [MP3]}
    saved = client.put("/api/sets", json={"name": " Student ", "bench": body}).json()
    assert [one["name"] for one in saved] == ["CD and archive", "Student"]
    assert saved[1]["briefs"] == ["Phone and car"]
    second = add("Eel Ladder")
    assert briefs_of(client, second) == ["audio-cd", "archive"]
    answer = client.post(f"/api/mixes/{second}/set", json={"name": "student", "bench": bench(client, second)}).json()
    assert [(line["brief"], line["changes"]["container"]) for line in answer["ticket"]] == [("phone-and-car", "mp3")]
    assert briefs_of(client, second) == ["audio-cd", "archive"], "nothing is stored"
    client.put("/api/sets/default", json={"name": "STUDENT"})
    # Saved again in other letters it is the same set, and still the one for new mixes.
    client.put("/api/sets", json={"name": "student", "bench": body})
    assert names(client)[1] == ("Student", "saved", True)
    assert briefs_of(client, add("Long Pound")) == ["phone-and-car"]
    assert [one["name"] for one in client.delete("/api/sets", params={"name": "Student"}).json()] == ["CD and archive"]
    assert briefs_of(client, add("Sluice")) == ["audio-cd", "archive"]


@pytest.mark.parametrize(
    ("name", "status", "sentence"),
    [
        ("", 422, "Enter a name"),
        ("a\nb", 422, "Enter a name"),
        ("last pressed", 409, "“last pressed” is built in"),
    ],
)
def test_names_that_a_set_cannot_have(client: TestClient, add: Any, name: str, status: int, sentence: str) -> None:
    answer = client.put("/api/sets", json={"name": name, "bench": bench(client, add("Millrace"))})
    assert answer.status_code == status
    assert sentence in answer.json()["message"]


def test_a_set_needs_deliveries_and_a_known_name(client: TestClient, add: Any) -> None:
    empty = bench(client, add("Millrace")) | {"ticket": []}
    assert "No deliveries to save" in client.put("/api/sets", json={"name": "None", "bench": empty}).json()["message"]
    assert client.delete("/api/sets", params={"name": "Nobody"}).status_code == 404
    assert client.delete("/api/sets", params={"name": "CD and archive"}).status_code == 409
    assert "Available: “CD and archive”" in client.put("/api/sets/default", json={"name": "X"}).json()["message"]


def test_a_new_mix_opens_with_what_was_pressed_last(client: TestClient, add: Any) -> None:
    first = add("Millrace")
    body = bench(client, first)
    body["ranges"][0]["edges"]["fade_out_s"] = 0.1
    body["ticket"] = [MP3 | {"changes": {**MP3["changes"], "tags": [["isrc", "QZWLT2600001"], ["comment", "demo"]]}}]
    pressed(client, client.post("/api/pressings", json={"mix_id": first, "bench": body}).json()["id"])
    assert names(client)[0] == ("Last pressed", "last", True)
    made = bench(client, add("Eel Ladder"))
    assert [line["changes"]["container"] for line in made["ticket"]] == ["mp3"]
    assert made["ticket"][0]["changes"]["tags"] == [["comment", "demo"]]
    assert [one["edges"]["fade_out_s"] for one in made["ranges"]] == [0.0], "a fade is of one mix"
    client.put("/api/sets/default", json={"name": "CD and archive"})
    assert briefs_of(client, add("Long Pound")) == ["audio-cd", "archive"]


def test_a_set_goes_on_many_benches_and_to_press(client: TestClient, add: Any) -> None:
    mixes = [add("Millrace"), add("Eel Ladder")]
    client.put("/api/sets", json={"name": "Student", "bench": bench(client, mixes[0]) | {"ticket": [MP3]}})
    wish = {"mix_ids": mixes, "set": "Student"}
    lines = client.post("/api/pressings/batch/tickets", json=wish).json()
    assert [len(line["files"]) for line in lines] == [1, 1]
    assert [briefs_of(client, one) for one in mixes] == [["phone-and-car"]] * 2
    assert client.get("/api/pressings").json()["count"] == 0
    begun = client.post("/api/pressings/batch", json=wish).json()
    files = [pressed(client, line["pressing"])["files"][0]["name"] for line in begun]
    assert [name.endswith(".mp3") for name in files] == [True, True]


def test_a_set_on_the_command_line(
    client: TestClient, add: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    ticket = [MP3, {"id": "d2", "brief": "archive", "range_id": "r1"}]
    client.put("/api/sets", json={"name": "Student", "bench": bench(client, add("Millrace")) | {"ticket": ticket}})
    monkeypatch.setenv("RIPE_PRESS_DATA", str(tmp_path / "data"))
    mix = write(tmp_path / "Weir.wav", noise(24_000, 2, 9, 0.1), 48_000)

    def run(*words: object) -> Any:
        return CliRunner().invoke(app, [str(word) for word in words])

    assert "Student          phone-and-car, archive" in run("sets").output
    listed = json.loads(run("sets", "--json").output)["sets"]
    assert listed[-1] == {"name": "Student", "briefs": ["phone-and-car", "archive"]}
    out = tmp_path / "out"
    report = json.loads(run("press", mix, "--set", "student", "--from", "0.1", "--out", out, "--json").output)
    assert [Path(one["path"]).suffix for one in report["files"]] == [".mp3", ".wav"]
    assert report["files"][1]["frames"] == 24_000 - 4_800
    for words, sentence in (
        (("--set", "Student", "--brief", "archive"), "Use --brief or --set, not both."),
        (("--set", "Nobody"), "Unknown set “Nobody”. Available: “CD and archive”, “Student”."),
        (("--set", "Student", "--kbps", "96"), "--kbps overrides 2 briefs at once."),
    ):
        assert sentence in str(run("press", mix, *words, "--out", out).exception)
