"""Versions of mixes over the interface: a file saved again, mixes grouped, and separated again."""

import os
import random
import shutil
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.blocks import Block
from ripe_press.store.mixes import Mixes
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.shelf.file_watch import ShelfWatch
from ripe_press.studio.studio import Studio
from support.av_files import encode
from support.server import OWN, arrive, bench, pressed, wait_for
from support.signals import piece, write

RATE = 48_000


class House:
    """An application, with the requests of these tests."""

    def __init__(self, client: TestClient, studio: Studio, folder: Path) -> None:
        self.client, self.studio, self.folder = client, studio, folder

    def get(self, path: str) -> Any:
        return self.client.get(f"/api/{path}").json()

    def row(self, mix_id: int) -> dict[str, Any]:
        return next(one for one in self.get("shelf")["mixes"] if one["id"] == mix_id)

    def change(self, mix_id: int, *states: str) -> dict[str, Any]:
        """The change of a mix once it is in one of some states."""

        def ask() -> Any:
            return next((c for c in self.get("shelf")["changes"] if c["mix_id"] == mix_id and c["state"] in states), 0)

        found: dict[str, Any] = wait_for(ask)
        return found

    def save(self, name: str, sound: Block, rate_hz: int = RATE, subtype: str = "PCM_24") -> Path:
        """Puts it in its place at once: what rests for a moment while it is written would be read then."""
        made = write(self.folder.parent / f"{name}.wav", sound, rate_hz, subtype)
        return made.replace(self.folder / made.name)

    def mix(self, name: str, sound: Block) -> int:
        return int(arrive(self.client, str(self.save(name, sound)))["mix_id"])

    def post(self, path: str, **body: Any) -> Any:
        answer = self.client.post(f"/api/{path}", json=body)
        assert answer.status_code < 300, answer.text
        return answer.json()


@pytest.fixture(scope="module")
def house(tmp_path_factory: pytest.TempPathFactory) -> Iterator[House]:
    studio = Studio(DataFolder(tmp_path_factory.mktemp("data")))
    studio.watch.every_s = 0.2
    with TestClient(make_app(studio), OWN) as client:
        yield House(client, studio, tmp_path_factory.mktemp("mixes"))


def later(sound: Block, seconds: float) -> Block:
    return np.concatenate((np.zeros((int(seconds * RATE), 2)), sound))


def test_mix_saved_again_becomes_a_version_with_its_bench(house: House) -> None:
    sound = piece(20)
    number = house.mix("Headrace", sound)
    set_out = bench(0, len(sound), RATE * 4, RATE * 9, markers=[{"frame": RATE * 4, "name": "Verse"}])
    assert house.client.put(f"/api/mixes/{number}/bench", json=set_out).status_code == 200
    order = house.post("orders", title="Nine Weirs", ranges=[{"mix_id": number}])
    louder = later(sound, 0.5)
    louder[int(12.5 * RATE) :] *= 10 ** (3 / 20)
    house.save("Headrace", louder)

    told = house.change(number, "changed")
    assert told["sentences"][:2] == ["starts 0.5 s later", "3 dB louder after 0:12"]
    used = house.post(f"mixes/{number}/change/take")
    mix = used["mix"]
    assert used["lost"] == []
    assert mix["id"] == number and mix["frames"] == len(louder)
    assert [(one["start_frame"], one["end_frame"]) for one in mix["bench"]["ranges"]] == [
        (0, len(louder)),
        (int(RATE * 4.5), int(RATE * 9.5)),
    ]
    assert mix["bench"]["markers"][0]["frame"] == int(RATE * 4.5)
    assert [line["brief"] for line in mix["bench"]["ticket"]] == ["audio-cd", "audio-cd"]
    assert house.get(f"orders/{order['id']}")["order"]["entries"][0]["end_frame"] == len(louder)
    new, old = house.get(f"mixes/{number}/versions")
    assert (new["version"], new["in_use"], new["there"]) == (2, True, True)
    assert (old["version"], old["in_use"], old["there"], old["sentences"]) == (1, False, False, [])
    assert new["sentences"] == told["sentences"]
    row = house.row(number)
    assert (row["version"], row["versions"], row["changed_since"]) == (2, 2, False)
    assert not house.get("shelf")["changes"]
    # Its old sound was written over: it can neither be used nor heard, and both say so.
    refused = house.client.post(f"/api/mixes/{number}/versions/1/use")
    assert refused.status_code == 409 and "is missing" in refused.json()["message"]
    unheard = house.client.post("/api/desks", json={"voices": [{"mix_id": number}, {"mix_id": number, "version": 1}]})
    assert unheard.status_code == 404


def test_pressing_of_an_earlier_version_plays_in_step_with_the_new_one(house: House) -> None:
    sound = piece(6, seed=3)
    number = house.mix("Towpath", sound)
    house.client.put(f"/api/mixes/{number}/bench", json=bench(0, len(sound)))
    done = house.post("pressings", mix_id=number, bench=house.get(f"mixes/{number}")["bench"])
    assert pressed(house.client, done["id"])["state"] == "done"
    assert not house.row(number)["changed_since"]
    house.save("Towpath", later(sound, 0.25))
    house.change(number, "changed")
    house.post(f"mixes/{number}/change/take")
    assert house.row(number)["changed_since"]
    desk = house.post("desks", voices=[{"mix_id": number}, {"pressing": done["id"], "number": 0}])
    mix, file = desk["voices"]
    assert file["start_frame"] - mix["start_frame"] == RATE // 4


def test_ignored_change_is_offered_again_only_on_request_or_change(house: House) -> None:
    sound = piece(5, seed=4)
    number = house.mix("Bywash", sound)
    house.save("Bywash", sound * 0.5)
    assert "quieter throughout" in house.change(number, "changed")["sentences"][0]
    assert house.client.delete(f"/api/mixes/{number}/change").status_code == 204
    assert house.change(number, "left")["sentences"] == []
    house.studio.versions.changes.notice(number)
    assert house.change(number, "left")
    assert house.post(f"mixes/{number}/change") is True
    assert house.change(number, "changed")
    house.save("Bywash", sound * 0.25)
    taken = house.client.post(f"/api/mixes/{number}/change/take")
    assert taken.status_code == 409 and "changed again" in taken.json()["message"]
    house.change(number, "changed")
    assert house.post(f"mixes/{number}/change/take")["mix"]["measures"]["integrated_lufs"] < -25
    assert house.client.post(f"/api/mixes/{number}/change/take").status_code == 409


def test_unreadable_changed_file_is_reported_and_a_restored_one_is_not(house: House) -> None:
    number = house.mix("Eddy Pool", piece(4, seed=5))
    path = house.folder / "Eddy Pool.wav"
    kept = path.with_suffix(".kept")
    shutil.copy2(path, kept)
    path.write_bytes(b"no sound at all")
    assert house.change(number, "refused")["sentences"][0]
    shutil.copy2(kept, path)
    wait_for(lambda: not [one for one in house.get("shelf")["changes"] if one["mix_id"] == number])
    path.unlink()
    assert house.change(number, "gone")
    # The same bytes with another time: nothing to decide.
    shutil.copyfile(kept, path)
    os.utime(path, (1_700_000_000, 1_700_000_000))
    wait_for(lambda: not [one for one in house.get("shelf")["changes"] if one["mix_id"] == number])
    assert house.row(number)["versions"] == 1


def test_similar_mixes_with_similar_names_are_offered_and_grouped(house: House) -> None:
    sound = piece(8, seed=6)
    first, second = house.mix("Culvert", sound), house.mix("Culvert mix 2", later(sound * 1.5, 0.25))
    other = house.mix("Culvert 03", piece(8, seed=7))
    assert house.row(second)["likely_of"] == first
    assert house.row(other)["likely_of"] is None
    told = house.get(f"mixes/{second}/beside/{first}")
    assert told["related"] and told["sentences"][0] == "starts 0.25 s later"
    house.client.put(f"/api/mixes/{first}/bench", json=bench(RATE, RATE * 3))
    piled = house.post("piles", mix_ids=[second, first])["mix"]
    assert piled["id"] == first and piled["title"] == "Culvert mix 2"
    assert piled["bench"]["ranges"][0]["start_frame"] == int(RATE * 1.25)
    assert house.client.get(f"/api/mixes/{second}").status_code == 404
    # Both files exist: they can be compared at the same beat.
    desk = house.post("desks", voices=[{"mix_id": first}, {"mix_id": first, "version": 1}])
    used, earlier = desk["voices"]
    assert earlier["start_frame"] - used["start_frame"] == RATE // 4 and earlier["version"] == 1
    # Added once more, it is recognised.
    again = house.folder / "Again.wav"
    shutil.copy(house.folder / "Culvert.wav", again)
    refused = arrive(house.client, str(again))
    assert refused["state"] == "failed" and "version 1 of" in refused["sentence"]


def test_earlier_version_restores_untransferred_parts(house: House) -> None:
    sound = piece(10, seed=8)
    first = house.mix("Spillway", sound)
    house.client.put(f"/api/mixes/{first}/bench", json=bench(0, len(sound), RATE * 8, RATE * 9))
    second = house.mix("Spillway v2", sound[: RATE * 6])
    piled = house.post("piles", mix_ids=[first, second])
    assert len(piled["mix"]["bench"]["ranges"]) == 1
    assert [one.endswith("removed.") for one in piled["lost"]] == [True]
    used = house.post(f"mixes/{first}/versions/1/use")
    back = used["mix"]
    assert used["lost"] == []
    assert len(back["bench"]["ranges"]) == 2 and back["frames"] == len(sound)
    assert [one["in_use"] for one in house.get(f"mixes/{first}/versions")] == [False, True]
    off = house.post(f"mixes/{first}/versions/2/apart")["mix"]
    assert off["id"] != first and off["title"] == "Spillway v2"
    assert house.row(first)["versions"] == 1
    assert house.client.post(f"/api/mixes/{first}/versions/1/apart").status_code == 409
    house.post("piles", mix_ids=[first, off["id"]])
    apart = house.post(f"mixes/{first}/versions/2/apart")["mix"]
    assert apart["frames"] == RATE * 6 and house.get(f"mixes/{first}")["frames"] == len(sound)


def test_suggestion_is_rejectable_and_impossible_group_has_a_reason(house: House) -> None:
    sound = piece(4, seed=9)
    first, second = house.mix("Flume", sound), house.mix("Flume (1)", sound * 0.5)
    assert house.row(second)["likely_of"] == first
    assert house.client.delete(f"/api/mixes/{second}/likely").status_code == 204
    assert house.row(second)["likely_of"] is None
    assert house.client.post("/api/piles", json={"mix_ids": [first]}).status_code == 422
    assert house.client.post("/api/piles", json={"mix_ids": [first, 99_999]}).status_code == 404
    stem = str(house.save("Flume bass", sound[:RATE]))
    for one, refused in ((first, False), (second, True)):
        house.client.post(f"/api/mixes/{one}/stems/path", json={"path": stem})
        wait_for(lambda number=one: house.get(f"mixes/{number}/stems")["stems"])
        if refused:
            answer = house.client.post("/api/piles", json={"mix_ids": [first, second]})
            assert (answer.status_code, answer.json()["code"]) == (409, "version.stems")
    assert house.client.post(f"/api/mixes/{first}/versions/7/use").status_code == 404


def test_untransferable_parts_are_listed_first_and_a_second_use_is_rejected(house: House) -> None:
    sound = piece(6, seed=13)
    number = house.mix("Tailrace", sound)
    house.client.put(f"/api/mixes/{number}/bench", json=bench(0, len(sound), RATE * 5, RATE * 6))
    path = house.save("Tailrace", sound[: RATE * 3])
    (lost,) = house.change(number, "changed")["lost"]
    assert lost.startswith("The range ")
    with ThreadPoolExecutor(4) as pool:
        ask = [pool.submit(house.client.post, f"/api/mixes/{number}/change/take") for _ in range(4)]
        answers = [one.result() for one in ask]
    assert sorted(one.status_code for one in answers) == [200, 409, 409, 409]
    assert next(one.json()["lost"] for one in answers if one.status_code == 200) == [lost]
    assert house.client.get(f"/api/mixes/{number}/tiles/256/0").status_code == 200
    # The previous version was overwritten: the selected one cannot be separated alone.
    refused = house.client.post(f"/api/mixes/{number}/versions/2/apart")
    assert refused.status_code == 409 and "is missing" in refused.json()["message"]
    assert path.exists() and house.row(number)["versions"] == 2


def test_mix_with_the_same_bytes_added_in_between_keeps_its_data(house: House) -> None:
    number = house.mix("Forebay", piece(2, seed=14))
    path = house.save("Forebay", piece(2, seed=15))
    house.change(number, "changed")
    twin = house.folder / "Afterbay.wav"
    shutil.copy(path, twin)
    other = arrive(house.client, str(twin))["mix_id"]
    refused = house.client.post(f"/api/mixes/{number}/change/take")
    assert refused.status_code == 409 and "identical" in refused.json()["message"]
    assert house.client.get(f"/api/mixes/{other}/tiles/256/0").status_code == 200
    assert "identical" in house.change(number, "refused")["sentences"][0]


def test_mix_is_removed_with_all_its_versions(house: House) -> None:
    sound = piece(4, seed=10)
    ids = [house.mix("Sluice", sound), house.mix("Sluice 2", sound * 0.5)]
    kept = [house.studio.shelf.folder_of(house.studio.shelf.mix(one)) for one in ids]
    house.post("piles", mix_ids=ids)
    assert house.client.delete(f"/api/mixes/{ids[0]}").status_code == 204
    assert not any(one.exists() for one in kept)


def test_moved_file_keeps_its_bench(house: House) -> None:
    number = house.mix("Leat", piece(4, seed=11))
    house.client.put(f"/api/mixes/{number}/bench", json=bench(RATE, RATE * 2))
    moved = house.folder / "moved" / "Leat.wav"
    moved.parent.mkdir()
    shutil.move(house.folder / "Leat.wav", moved)
    assert arrive(house.client, str(moved))["mix_id"] == number
    mix = house.get(f"mixes/{number}")
    assert mix["path"] == str(moved) and mix["bench"]["ranges"][0]["start_frame"] == RATE


def test_folder_added_again_adds_only_new_files(house: House) -> None:
    folder = house.folder / "week" / "Monday"
    folder.mkdir(parents=True)
    for at in range(3):
        write(folder / f"Part {at} of it.wav", piece(2, seed=20 + at), RATE, "PCM_24")
    (folder / "notes.txt").write_text("no sound")
    (folder / ".hidden.wav").write_bytes(b"")
    path = str(folder.parent)
    answer = house.client.post("/api/arrivals/path", json={"path": path})
    assert [one["name"] for one in answer.json()] == [f"Part {at} of it.wav" for at in range(3)]
    wait_for(lambda: not [one for one in house.get("shelf")["arrivals"] if one["state"] == "running"])
    again = house.client.post("/api/arrivals/path", json={"path": path})
    assert again.status_code == 404 and "already" in again.json()["message"]


def test_files_of_an_older_record_are_taken_as_they_are_unless_they_are_newer(house: House) -> None:
    number = house.mix("Weir Head", piece(3, seed=12))
    table = Mixes(house.studio.shelf._mixes._database)
    watch = ShelfWatch(table, house.studio.versions.changes)
    table.set_stamp(number, "")
    os.utime(house.folder / "Weir Head.wav", (1_700_000_000, 1_700_000_000))
    watch.look()
    stamp = next(one.stamp for one in table.watched() if one.id == number)
    assert stamp.endswith("1700000000000000000")


def save_coded(house: House, name: str, sound: Block) -> Path:
    codes = np.round(sound * 32767).astype(np.int16)
    made = encode(house.folder.parent / f"{name}.m4a", codes, RATE, "alac", "ipod", "s16p")
    return made.replace(house.folder / made.name)


def test_a_coded_mix_is_looked_after_too_and_its_copies_stay(house: House) -> None:
    """A mix decoded at import has a copy of each version, so that any of them can be restored."""
    path = save_coded(house, "Ferry Stairs", piece(4, seed=13))
    number = int(arrive(house.client, str(path))["mix_id"])
    assert house.row(number)["came_from"] == str(path)
    assert arrive(house.client, str(path))["mix_id"] == number
    # Where the copy is gone, as after taking over an export, it is made again.
    copy = Path(house.row(number)["path"])
    copy.unlink()
    assert arrive(house.client, str(path))["mix_id"] == number and copy.is_file()
    save_coded(house, "Ferry Stairs", piece(4, seed=13) * 0.5)
    assert house.change(number, "changed")["sentences"][0] == "6 dB quieter throughout"
    house.post(f"mixes/{number}/change/take")
    assert [one["there"] for one in house.get(f"mixes/{number}/versions")] == [True, True]
    # The first is restored, and no known version is offered again.
    house.post(f"mixes/{number}/versions/1/use")
    house.studio.watch.look()
    house.studio.watch.look()
    assert number not in [one["mix_id"] for one in house.get("shelf")["changes"]]
    # The separated one is a mix of its own; the file stays with the other versions.
    alone = house.post(f"mixes/{number}/versions/1/apart")["mix"]["id"]
    assert (house.row(alone)["came_from"], house.row(number)["came_from"]) == ("", str(path))
    path.unlink()
    house.studio.watch.look()
    assert number not in [one["mix_id"] for one in house.get("shelf")["changes"]]
    # Found again elsewhere, it is the same mix.
    moved = save_coded(house, "Ferry Stairs again", piece(4, seed=13) * 0.5)
    assert arrive(house.client, str(moved))["mix_id"] == number
    assert house.row(number)["came_from"] == str(moved)


def test_simultaneous_changes_of_versions_cause_no_internal_error(house: House) -> None:
    """The second of two changes finds the result of the first."""
    sound = piece(6, seed=11)
    numbers = [house.mix(f"Sluice {at}", sound * (1 - at / 10)) for at in range(4)]
    statuses: list[int] = []

    def ask(at: int) -> None:
        chance = random.Random(at)
        for _ in range(12):
            number, version = chance.choice(numbers), chance.randint(1, 4)
            path, body = chance.choice(
                [
                    ("piles", {"mix_ids": chance.sample(numbers, 2)}),
                    (f"mixes/{number}/versions/{version}/use", None),
                    (f"mixes/{number}/versions/{version}/apart", None),
                    (f"mixes/{number}/change/take", None),
                ]
            )
            statuses.append(house.client.post(f"/api/{path}", json=body).status_code)

    house.client._transport.raise_server_exceptions = False  # type: ignore[attr-defined]
    threads = [threading.Thread(target=ask, args=(at,)) for at in range(6)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    assert max(statuses) < 500 and 200 in statuses, sorted(set(statuses))
    whole = {one["id"]: one for one in house.get("shelf")["mixes"]}
    assert sum(one["versions"] for one in whole.values() if one["title"].startswith("Sluice")) == 4
