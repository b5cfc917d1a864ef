"""Tag sheets, covers, label patterns and trials through the interface of the server."""

import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from ripe_press.api.app import make_app
from ripe_press.core.naming import LABEL_FIELDS
from ripe_press.core.tags.sheet import FIELDS
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.formats import full_tags, samples_for, write_file
from support.server import OWN, arrive, bench, wait_for
from support.signals import noise, write


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(tmp_path_factory.mktemp("tags")))), OWN) as client:
        yield client


@pytest.fixture(scope="module")
def mixes(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> list[int]:
    folder = tmp_path_factory.mktemp("mixes")
    cover = folder / "cover.png"
    Image.new("RGB", (64, 64), (9, 99, 9)).save(cover)
    tagged = write_file(folder / "Millrace.flac", "flac", samples_for("s24", 96_000, 2), tags=full_tags(str(cover)))
    plain = write(folder / "Eel Ladder.wav", noise(96_000, level=0.3), 48_000, "PCM_24")
    return [arrive(client, str(path))["mix_id"] for path in (tagged, plain)]


def picture(size: tuple[int, int]) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size).save(out, "PNG")
    return out.getvalue()


def ticket(client: TestClient, mix: int, **changes: Any) -> dict[str, Any]:
    wish = bench(0, 96_000)
    wish["ticket"] = [{"id": "d0", "brief": "blank", "range_id": "r0", "changes": changes}]
    answer: dict[str, Any] = client.post(f"/api/mixes/{mix}/ticket", json=wish).json()
    return answer


def test_a_mix_comes_in_with_the_sheet_and_the_cover_of_its_file(client: TestClient, mixes: list[int]) -> None:
    first, second = (client.get(f"/api/mixes/{mix}").json()["bench"] for mix in mixes)
    assert dict(first["tags"])["composer"] == "A. Lock"
    assert second["tags"] == [["title", "Eel Ladder"]]
    assert second["cover"] == ""
    shown = client.get(f"/api/mixes/{mixes[0]}/cover/{first['cover']}")
    assert (shown.status_code, shown.headers["content-type"]) == (200, "image/png")
    with Image.open(io.BytesIO(shown.content)) as image:
        assert image.size == (64, 64)


def test_covers_are_made_ready_and_kept(client: TestClient, mixes: list[int]) -> None:
    path = f"/api/mixes/{mixes[1]}/cover"
    kept = client.post(f"{path}?name=big.png", content=picture((2000, 1000))).json()
    assert (kept["width"], kept["height"], kept["square"]) == (1600, 800, False)
    assert "converted from 2000 × 1000" in kept["note"]
    assert client.get(f"{path}/{kept['name']}").status_code == 200
    refused = client.post(f"{path}?name=letter.png", content=b"Dear engineer")
    assert (refused.status_code, refused.json()["code"]) == (422, "cover.not-picture")
    assert client.get(f"{path}/../../passing/x").status_code == 404
    assert client.get(f"{path}/gone.png").status_code == 404


def test_sheets_of_many_mixes_are_kept_together_or_not_at_all(client: TestClient, mixes: list[int]) -> None:
    def titles() -> list[str]:
        return [dict(client.get(f"/api/mixes/{mix}").json()["bench"]["tags"]).get("genre", "") for mix in mixes]

    before = titles()
    wrong = [{"mix_id": mixes[0], "values": [["genre", "Reel"]]}, {"mix_id": mixes[1], "values": [["colour", "red"]]}]
    assert client.patch("/api/tag-sheets", json=wrong).status_code == 422
    assert titles() == before
    right = [{"mix_id": mix, "values": [["title", "T"], ["genre", "Reel"]]} for mix in mixes]
    assert len(client.patch("/api/tag-sheets", json=right).json()) == 2
    assert titles() == ["Reel", "Reel"]


def test_only_edited_fields_of_a_sheet_change(client: TestClient, mixes: list[int]) -> None:
    def sheet() -> dict[str, str]:
        return dict(client.get(f"/api/mixes/{mixes[0]}").json()["bench"]["tags"])

    client.patch("/api/tag-sheets", json=[{"mix_id": mixes[0], "values": [["title", "T"], ["composer", "A. Lock"]]}])
    # Another user, with the sheet from before the composer was added, changes another field.
    client.patch("/api/tag-sheets", json=[{"mix_id": mixes[0], "values": [["album", "Nine Weirs"], ["title", ""]]}])
    assert sheet().items() >= {"composer": "A. Lock", "album": "Nine Weirs"}.items()
    assert "title" not in sheet()


def test_sheets_go_out_and_come_back(client: TestClient, mixes: list[int]) -> None:
    sheet = [{"mix_id": mixes[1], "values": [["title", "Eel Ladder"], ["comment", "two\nlines, and a comma"]]}]
    client.patch("/api/tag-sheets", json=[{**sheet[0], "values": [*sheet[0]["values"], ["genre", ""]]}])
    for form in ("csv", "json"):
        file = client.get(f"/api/tag-sheets?form={form}&mix_id={mixes[1]}")
        assert f"tag-sheets.{form}" in file.headers["content-disposition"]
        (read,) = client.post("/api/tag-sheets/read", json={"text": file.text}).json()
        assert read == {"mix": "Eel Ladder", "values": sheet[0]["values"]}
    assert client.get("/api/tag-sheets?form=csv").text.count("\r\n") >= 3
    assert client.post("/api/tag-sheets/read", json={"text": "{"}).status_code == 422
    problems = client.post("/api/tag-sheets/check", json={"values": [["isrc", "QZ"], ["title", "Fine"]]}).json()
    assert [one["field"] for one in problems] == ["isrc"]
    assert [one["name"] for one in client.get("/api/tag-fields").json()] == list(FIELDS)


def test_the_mapping_is_shown_before_anything_is_written(client: TestClient, mixes: list[int]) -> None:
    changes = {"container": "aac", "tags": [["tempo", "84.5"], ["key", "F#m"]], "gain_tags": True}
    (row,) = ticket(client, mixes[1], **changes)["rows"]
    lines = {one["field"]: one for one in row["tags"]["lines"]}
    assert lines["title"]["names"] == ["©nam"]
    assert (lines["tempo"]["text"], lines["tempo"]["written"], lines["tempo"]["departs"]) == ("84.5", "84.5", True)
    assert "only show 84" in lines["tempo"]["note"]
    assert row["tags"]["loudness"] == "replaygain"
    (row,) = ticket(client, mixes[1], container="caf")["rows"]
    assert row["tags"]["cover_names"] == []


def test_codecs_are_settled_refused_and_tried(client: TestClient, mixes: list[int]) -> None:
    (row,) = ticket(client, mixes[1], container="opus", kbps=96)["rows"]
    settled = row["settled"]
    assert (settled["rate_hz"], settled["mode"], settled["kbps"], row["lossy"]) == (48_000, "variable", 96, True)
    assert row["size"]["basis"] == "bit rate"
    refused = ticket(client, mixes[1], container="mp3", rate_hz=96_000)["refused"]
    assert "16, 22.05, 24, 32, 44.1 or 48 kHz" in refused[0]["sentence"]
    wish = bench(0, 96_000)
    wish["ticket"] = [{"id": "d0", "brief": "phone-and-car", "range_id": "r0"}]
    found = client.post(f"/api/mixes/{mixes[1]}/trial", json={"bench": wish, "id": "d0"}).json()
    assert found["difference_dbfs"] < found["mix_dbfs"]
    assert found["size"]["low"] < found["size"]["high"]
    assert 19_000 < found["cutoff"]["edge_hz"] < 21_000
    assert not found["cutoff"]["full"]
    assert found["above_cutoff_db"] < 0
    (row,) = client.post(f"/api/mixes/{mixes[1]}/ticket", json=wish).json()["rows"]
    assert row["size"] == found["size"]
    assert client.post(f"/api/mixes/{mixes[1]}/trial", json={"bench": wish, "id": "x"}).status_code == 404


def test_pressing_is_compared_with_its_forecast(client: TestClient, mixes: list[int]) -> None:
    wish = bench(0, 96_000)
    wish["ticket"] = [{"id": "d0", "brief": "blank", "range_id": "r0", "changes": {"container": "flac"}}]
    told = client.post(f"/api/mixes/{mixes[1]}/trial", json={"bench": wish, "id": "d0"}).json()["size"]
    number = client.post("/api/pressings", json={"mix_id": mixes[1], "bench": wish}).json()["id"]

    def done() -> Any:
        state = client.get(f"/api/pressings/{number}").json()
        return state if state["state"] == "done" else None

    (file,) = wait_for(done)["files"]
    assert file["forecast"]["basis"] == "trial"
    assert (file["forecast"]["low_bytes"], file["forecast"]["high_bytes"]) == (told["low"], told["high"])
    assert file["forecast"]["error_percent"] == 0


def test_names_are_shown_with_conflicts(client: TestClient, mixes: list[int]) -> None:
    wish = bench(0, 96_000)
    changes = {
        "label_pattern": "{artist}/{number} {title}",
        "style": {"digits": 3, "case": "upper", "spaces": "hyphen"},
    }
    wish["ticket"] = [{"id": name, "brief": "blank", "range_id": "r0", "changes": changes} for name in ("d0", "d1")]
    rows = client.post(f"/api/mixes/{mixes[1]}/ticket", json=wish).json()["rows"]
    assert [row["file_name"] for row in rows] == [
        "THE-SLUICEKEEPERS/001-MILLRACE.wav", "THE-SLUICEKEEPERS/002-MILLRACE.wav",
    ]  # fmt: skip
    changes["label_pattern"] = "{title}"
    rows = client.post(f"/api/mixes/{mixes[1]}/ticket", json=wish).json()["rows"]
    assert [(row["file_name"], row["clash"]) for row in rows] == [
        ("MILLRACE.wav", ""), ("MILLRACE (2).wav", "ticket"),
    ]  # fmt: skip
    wish["clash"] = "skip"
    changes["label_pattern"] = "{colour}"
    refused = client.post(f"/api/mixes/{mixes[1]}/ticket", json=wish).json()["refused"]
    assert "Unknown label pattern field" in refused[0]["sentence"]
    assert client.put(f"/api/mixes/{mixes[1]}/bench", json=wish).status_code == 422
    assert [one["name"] for one in client.get("/api/label-fields").json()] == list(LABEL_FIELDS)


def test_label_patterns_are_kept_replaced_and_forgotten(client: TestClient) -> None:
    body = {"name": "Album", "pattern": "{artist}/{album}/{track} {title}", "style": {"digits": 2}}
    assert client.put("/api/label-patterns", json=body).json()[0]["pattern"] == body["pattern"]
    (kept,) = client.put("/api/label-patterns", json={**body, "pattern": "{title}"}).json()
    assert kept == {"name": "Album", "pattern": "{title}", "style": {"digits": 2, "case": "as-is", "spaces": "keep"}}
    assert client.put("/api/label-patterns", json={**body, "pattern": "{colour}"}).status_code == 422
    assert client.get("/api/label-patterns").json() == [kept]
    nameless = client.put("/api/label-patterns", json={**body, "name": "  "})
    assert (nameless.status_code, nameless.json()["code"]) == (422, "label.no-name")
    assert client.delete("/api/label-patterns?name=Album").json() == []
    assert client.delete("/api/label-patterns?name=Album").status_code == 404


def test_table_of_formats_is_complete(client: TestClient) -> None:
    table = {one["container"]: one for one in client.get("/api/capabilities").json()}
    assert len(table) == 13
    assert (table["mp3"]["id3"], table["mp3"]["lossy"], table["mp3"]["kbps"][-1]) == (True, True, 320)
    assert table["opus"]["rates_hz"] == [48_000]
    assert table["caf"]["tags"]["cover"] == []
    assert table["flac"]["tags"]["title"] == ["TITLE"]


def test_the_bench_refuses_fields_there_are_not(client: TestClient, mixes: list[int], tmp_path: Path) -> None:
    wish = bench(0, 96_000)
    wish["tags"] = [["colour", "red"]]
    answer = client.put(f"/api/mixes/{mixes[1]}/bench", json=wish)
    assert (answer.status_code, answer.json()["code"]) == (422, "tags.unknown-field")


def test_fault_of_a_lossy_file_is_found_before_pressing(client: TestClient, mixes: list[int]) -> None:
    def rules(**changes: Any) -> set[str]:
        (row,) = ticket(client, mixes[1], **changes)["rows"]
        return {one["rule"] for one in row["findings"]}

    quiet = {"kind": "true-peak", "target": -1.0}
    assert "will_clip_when_decoded" in rules(container="mp3")
    assert "will_clip_when_decoded" not in rules(container="mp3", level=quiet)
    assert "will_clip_when_decoded" not in rules(container="flac")
    assert "played_by_few" in rules(container="aac", rate_hz=96_000, level=quiet)
    assert "played_by_few" not in rules(container="aac", level=quiet)
