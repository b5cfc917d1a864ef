"""Drop-offs and the outbox over the interface: set up, pressed, sent automatically, rejected, fixed, accepted."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.rack.intake_look import Looker
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.sending import intake_desk, mail_desk
from support.server import OWN, arrive, bench, pressed, wait_for
from support.signals import noise, write

RATE = 32_000


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    folder = tmp_path_factory.mktemp("data")
    with TestClient(make_app(Studio(DataFolder(folder))), OWN) as client:
        client.headers["x-root"] = str(folder)
        yield client


@pytest.fixture(scope="module")
def mix(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> int:
    # It comes and goes softly, so that nothing is to be noticed of it.
    sound = noise(RATE * 2) * np.hanning(RATE * 2)[:, None]
    path = write(tmp_path_factory.mktemp("mix") / "Headrace.wav", sound, RATE, "FLOAT")
    number: int = arrive(client, str(path))["mix_id"]
    return number


def drop_off(client: TestClient, name: str, kind: str, place: str, secret: str | None = None, **more: Any) -> Any:
    wish = {"drop_off": {"name": name, "kind": kind, "place": place, **more}, "secret": secret}
    answer = client.post("/api/drop-offs", json=wish)
    assert answer.status_code == 201, answer.text
    return answer.json()


def sent(client: TestClient, pressing: int, *states: str) -> list[Any]:
    def ask() -> Any:
        found = client.get(f"/api/pressings/{pressing}/parcels").json()
        return found if found and all(one["state"] in states for one in found) else None

    rows: list[Any] = wait_for(ask)
    return rows


def put_to_press(client: TestClient, mix: int, brief: str = "blank", **changes: Any) -> int:
    line = {"id": "d0", "brief": brief, "range_id": "r0", "changes": {"encoding": "s16", **changes}}
    wish = bench(0, RATE * 2, ticket=[line])
    number: int = client.post("/api/pressings", json={"mix_id": mix, "bench": wish}).json()["id"]
    assert pressed(client, number)["state"] == "done"
    return number


def ticket(client: TestClient, mix: int, **changes: Any) -> Any:
    line = {"id": "d0", "brief": "blank", "range_id": "r0", "changes": {"encoding": "s16", **changes}}
    (row,) = client.post(f"/api/mixes/{mix}/ticket", json=bench(0, RATE * 2, ticket=[line])).json()["rows"]
    return row


def test_drop_offs_are_added_tested_changed_and_deleted(client: TestClient, tmp_path: Path) -> None:
    (tmp_path / "there").mkdir()
    made = drop_off(client, "Mill Lane", "folder", str(tmp_path / "there"))
    assert made["said"] is None and made["counts"] == {} and not made["has_secret"]
    good = client.post(f"/api/drop-offs/{made['id']}/look").json()["said"]
    assert good["good"] and "free" in good["sentence"]
    (tmp_path / "there").rmdir()
    bad = client.post(f"/api/drop-offs/{made['id']}/look").json()["said"]
    assert not bad["good"] and "Connect its disk" in bad["sentence"]
    twice = client.post("/api/drop-offs", json={"drop_off": made["drop_off"] | {"name": "MILL lane"}})
    assert twice.status_code == 409 and "exists" in twice.json()["message"]
    wrong = client.post("/api/drop-offs", json={"drop_off": made["drop_off"] | {"name": "x", "place": "here"}})
    assert wrong.status_code == 422 and "full path" in wrong.json()["message"]
    moved = made["drop_off"] | {"place": str(tmp_path), "name": "Mill Street"}
    changed = client.put(f"/api/drop-offs/{made['id']}", json={"drop_off": moved}).json()
    assert changed["said"] is None and changed["drop_off"]["name"] == "Mill Street"
    assert client.delete(f"/api/drop-offs/{made['id']}").status_code == 204
    assert client.delete(f"/api/drop-offs/{made['id']}").status_code == 404


def test_a_secret_comes_in_and_never_goes_out(client: TestClient, tmp_path: Path) -> None:
    with mail_desk(tmp_path, login="ada:plums-and-pears") as (_, place):
        made = drop_off(client, "Box", "mail", place, "plums-and-pears", user="ada")
        assert made["has_secret"]
        said = client.post(f"/api/drop-offs/{made['id']}/look").json()
        # The server's announced limit is used from now on.
        assert said["said"]["good"] and said["drop_off"]["limit_bytes"] == 25_000_000
        kept = client.put(f"/api/drop-offs/{made['id']}", json={"drop_off": made["drop_off"]}).json()
        assert kept["has_secret"]
        wrong = client.put(f"/api/drop-offs/{made['id']}", json={"drop_off": made["drop_off"], "secret": "pears-only"})
        assert not client.post(f"/api/drop-offs/{made['id']}/look").json()["said"]["good"]
        long = client.put(f"/api/drop-offs/{made['id']}", json={"drop_off": made["drop_off"], "secret": "plums" * 900})
        assert long.status_code == 422
        told = wrong.text + long.text + client.get("/api/drop-offs").text
    assert "plums" not in told and "pears" not in told
    root = Path(client.headers["x-root"])
    holding = [one for one in root.rglob("*") if one.is_file() and b"pears-only" in one.read_bytes()]
    assert [one.name for one in holding] == ["secrets.json"] and holding[0].stat().st_mode & 0o777 == 0o600
    client.delete(f"/api/drop-offs/{made['id']}")
    assert b"pears" not in holding[0].read_bytes()


def test_pressed_file_is_sent_and_a_rejection_returns_with_its_remedy(
    client: TestClient, mix: int, tmp_path: Path
) -> None:
    (tmp_path / "there").mkdir()
    with intake_desk(tmp_path / "desk", looker=Looker()) as (_, url):
        made = [drop_off(client, "Desk", "desk", url), drop_off(client, "There", "folder", str(tmp_path / "there"))]
        number = put_to_press(client, mix, sends_to=["Desk", "There", "Nowhere"])
        # The file is delivered first; the server's decision follows.
        desk, there = wait_for(lambda: (
            rows if (rows := sent(client, number, "taken", "refused"))[0]["state"] == "refused" else None
        ))  # fmt: skip
        assert there["state"] == "taken" and there["receipt"]["path"].startswith(str(tmp_path / "there"))
        assert desk["state"] == "refused" and {"rate", "tag", "cover"} <= {one["kind"] for one in desk["reasons"]}
        again = client.post("/api/outbox", json={"pressing": number, "drop_offs": ["There"]}).json()
        assert again == [{"parcel": there["id"], "new": False}]
        # The finding stays until the delivery meets the requirement, and one click makes it so.
        row = ticket(client, mix, sends_to=["Desk", "Nowhere"])
        found = {one["rule"]: one for one in row["findings"]}
        assert "“Nowhere”" in found["drop_off_unknown"]["sentence"]
        said = [one for one in row["findings"] if one["rule"] == "refused_by_recipient"]
        (rate,) = [one for one in said if one["remedy"]]
        assert rate["remedy"]["label"] == "44.1 kHz" and rate["remedy"]["changes"]["rate_hz"] == 44_100
        assert {"isrc", "cover"} <= {one["field"] for one in said}
        mended = ticket(client, mix, sends_to=["Desk"], rate_hz=44_100)["findings"]
        assert not [one for one in mended if one["rule"] == "refused_by_recipient" and one["remedy"]]
        for one in made:
            client.delete(f"/api/drop-offs/{one['id']}")
    parcels = {one["id"]: one for one in client.get("/api/outbox").json()}
    assert parcels[desk["id"]]["line"] == "d0" and parcels[there["id"]]["ended_at"]


def test_mail_over_the_limit_is_a_finding_before_and_after_pressing(
    client: TestClient, mix: int, tmp_path: Path
) -> None:
    with mail_desk(tmp_path, limit_bytes=60_000) as (desk, place):
        box = drop_off(client, "Small box", "mail", place)
        assert not [one for one in ticket(client, mix, sends_to=["Small box"])["findings"] if "mail" in one["rule"]]
        client.post(f"/api/drop-offs/{box['id']}/look")
        row = ticket(client, mix, container="wav", sends_to=["Small box"])
        (large,) = [one for one in row["findings"] if one["rule"] == "mail_too_large"]
        fits = large["remedy"]["changes"]
        refused = sent(client, put_to_press(client, mix, container="wav", sends_to=["Small box"]), "refused")
        assert refused[0]["reasons"][0]["kind"] == "size" and not desk.mails()
        small = {name: value for name, value in fits.items() if value is not None} | {"encoding": None}
        sent(client, put_to_press(client, mix, sends_to=["Small box"], **small), "taken")
        assert len(desk.mails()) == 1
        client.delete(f"/api/drop-offs/{box['id']}")


def test_file_with_findings_needs_a_sign_off_shown_on_the_sheet(client: TestClient, mix: int, tmp_path: Path) -> None:
    (tmp_path / "there").mkdir()
    drop_off(client, "Shelf", "folder", str(tmp_path / "there"))
    # A remark alone does not stop a file.
    (taken,) = sent(client, put_to_press(client, mix, dither="none", sends_to=["Shelf"]), "taken")
    for one in (tmp_path / "there").iterdir():
        one.unlink()
    number = put_to_press(client, mix, "audio-cd", encoding="s24", sends_to=["Shelf"])
    (parcel,) = sent(client, number, "asks")
    assert parcel["sentence"] == "Audio CD requires 16 bits; this file: 24 bits." and not list(
        (tmp_path / "there").iterdir()
    )
    assert client.post(f"/api/outbox/{parcel['id']}/accept", json={"accepted_by": "", "because": ""}).status_code == 422
    sheet = f"/api/pressings/{number}/sheet/delivery-sheet"
    assert "Ada Weir" not in client.get(f"{sheet}.json").text
    accepted = {"accepted_by": "Ada Weir", "because": "It is a test tone."}
    assert client.post(f"/api/outbox/{parcel['id']}/accept", json=accepted).status_code == 200
    (taken,) = sent(client, number, "taken")
    assert taken["accepted_by"] == "Ada Weir"
    (file,) = client.get(f"{sheet}.json").json()["files"]
    said = [one for one in file["findings"] if one["rule"] == "brief_depth"]
    assert said[0]["accepted_by"] == "Ada Weir" and said[0]["reason"] == "It is a test tone."
    assert "It is a test tone." in client.get(f"{sheet}.html").text
    assert client.post(f"/api/outbox/{parcel['id']}/recall").status_code == 409


def test_send_error_is_reported(client: TestClient, mix: int, tmp_path: Path) -> None:
    number = put_to_press(client, mix)
    for wish, status, words in (
        ({"pressing": 9999, "drop_offs": ["x"]}, 404, "not found"),
        ({"pressing": number, "drop_offs": []}, 422, "No drop-off chosen"),
        ({"pressing": number, "drop_offs": ["plums"]}, 404, "Unknown drop-off “plums”"),
    ):
        answer = client.post("/api/outbox", json=wish)
        assert answer.status_code == status and words in answer.json()["message"], answer.text
    drop_off(client, "Cellar", "folder", str(tmp_path / "not there"))
    (made,) = client.post("/api/outbox", json={"pressing": number, "drop_offs": ["cellar"]}).json()
    waits = wait_for(lambda: next(
        (one for one in client.get("/api/outbox").json() if one["id"] == made["parcel"] and one["sentence"]), None
    ))  # fmt: skip
    assert "Connect its disk" in waits["sentence"] and waits["next_try_in_s"] > 0
    assert client.post(f"/api/outbox/{made['parcel']}/hold").json()["state"] == "held"
    (tmp_path / "not there").mkdir()
    assert client.post(f"/api/outbox/{made['parcel']}/go-on").status_code == 200
    sent(client, number, "taken")
    for path in pressed(client, number)["files"]:
        Path(path["path"]).unlink()
    gone = client.post("/api/outbox", json={"pressing": number, "drop_offs": ["Cellar"]})
    assert gone.status_code == 404 and "Press again" in gone.json()["message"]
    for deed in ("hold", "recall", "go-on"):
        assert client.post(f"/api/outbox/99999/{deed}").status_code == 404


def test_unreadable_file_is_reported_and_others_are_sent(
    client: TestClient, mix: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = drop_off(client, "Attic", "folder", str(tmp_path))

    def gone(*_: object) -> None:
        raise OSError(5, "Input/output error")

    monkeypatch.setattr("ripe_press.studio.sending.handing_over.parcel_of", gone)
    (parcel,) = sent(client, put_to_press(client, mix, sends_to=["Attic"]), "failed")
    assert "cannot be read" in parcel["sentence"] and "Press again" in parcel["sentence"]
    monkeypatch.undo()
    sent(client, put_to_press(client, mix, sends_to=["Attic"]), "taken")
    client.delete(f"/api/drop-offs/{made['id']}")


def test_a_music_library_gets_the_one_copy_that_fits(client: TestClient, mix: int, tmp_path: Path) -> None:
    (tmp_path / "music").mkdir()
    (tmp_path / "all").mkdir()
    drop_off(client, "Music", "library", str(tmp_path / "music"))
    drop_off(client, "All", "folder", str(tmp_path / "all"))
    lines = [
        {"id": f"d{at}", "brief": "blank", "range_id": "r0", "changes": {"encoding": "keep", **changes}}
        for at, changes in enumerate(({"container": "wav"}, {"container": "mp3"}, {"container": "flac"}))
    ]
    wish = bench(0, RATE * 2, ticket=lines)
    number = client.post("/api/pressings", json={"mix_id": mix, "bench": wish}).json()["id"]
    assert len(pressed(client, number)["files"]) == 3
    body = {"pressing": number, "files": [], "drop_offs": ["Music", "All"], "accepted_by": "Ada", "because": "a test"}
    assert client.post("/api/outbox", json=body).status_code == 201
    rows = sent(client, number, "taken", "accepted")
    assert sorted((one["drop_off"], Path(one["name"]).suffix) for one in rows) == [
        ("All", ".flac"), ("All", ".mp3"), ("All", ".wav"), ("Music", ".flac"),
    ]  # fmt: skip
    assert [one.suffix for one in (tmp_path / "music").rglob("*") if one.suffix != ".m3u8" and one.is_file()] == [
        ".flac"
    ]


def test_a_finding_signed_off_on_the_ticket_is_no_question_when_sending(
    client: TestClient, mix: int, tmp_path: Path
) -> None:
    (tmp_path / "there").mkdir()
    drop_off(client, "Signed", "folder", str(tmp_path / "there"))
    lines = [
        {"id": f"d{at}", "brief": "audio-cd", "range_id": "r0",
         "changes": {"encoding": "s24", "sends_to": ["Signed"], "label_pattern": f"Take {at}"}}
        for at in range(2)
    ]  # fmt: skip
    signed = [
        {"rule": "brief_depth", "lines": ["d0"], "briefs": ["audio-cd"], "by": "Ada Weir", "because": "They asked."}
    ]
    # One that was given for another brief counts for nothing.
    signed.append({"rule": "brief_depth", "lines": ["d1"], "briefs": ["archive"], "by": "Bo", "because": "Earlier."})
    wish = bench(0, RATE * 2, ticket=lines, signed=signed)
    number = client.post("/api/pressings", json={"mix_id": mix, "bench": wish}).json()["id"]
    assert pressed(client, number)["state"] == "done"
    rows = {one["name"]: one for one in sent(client, number, "taken", "asks")}
    assert {name: (one["state"], one["accepted_by"]) for name, one in rows.items()} == {
        "Take 0.wav": ("taken", "Ada Weir"), "Take 1.wav": ("asks", ""),
    }  # fmt: skip
    files = client.get(f"/api/pressings/{number}/sheet/delivery-sheet.json").json()["files"]
    said = {file["name"]: one for file in files for one in file["findings"] if one["rule"] == "brief_depth"}
    assert said["Take 0.wav"]["reason"] == "They asked." and said["Take 1.wav"]["accepted_by"] == ""
