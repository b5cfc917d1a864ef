"""Blind tests over the interface: X is not identifiable before the answer, and answers are kept."""

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from click.testing import CliRunner
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.cli.app import app
from ripe_press.core.listening.blind import hidden_in
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed
from support.signals import noise, write

RATE, SECONDS = 48_000, 4
PASSAGE = (RATE, 3 * RATE)
BRIEFS = ("archive", "streaming-loud", "phone-and-car")


@pytest.fixture(scope="module")
def room(tmp_path_factory: pytest.TempPathFactory) -> Any:
    folder = tmp_path_factory.mktemp("blind")
    with TestClient(make_app(Studio(DataFolder(folder / "data"))), OWN) as client:
        path = write(folder / "Weir.wav", noise(RATE * SECONDS, 2, 7, 0.1), RATE, "PCM_24")
        mix = arrive(client, str(path))["mix_id"]
        ticket = [{"id": f"d{at}", "brief": brief, "range_id": "r0"} for at, brief in enumerate(BRIEFS)]
        wish = bench(0, RATE * SECONDS, ticket=ticket)
        made = pressed(client, client.post("/api/pressings", json={"mix_id": mix, "bench": wish}).json()["id"])
        asked = [{"pressing": made["id"]}, *({"pressing": made["id"], "number": at} for at in range(len(BRIEFS)))]
        desk = client.post("/api/desks", json={"voices": asked}).json()
        yield client, made["id"], desk


def begun(room: Any, *slots: int, trials: int = 10) -> dict[str, Any]:
    client, _, desk = room
    wish = {"slots": slots, "trials": trials, "start_frame": PASSAGE[0], "end_frame": PASSAGE[1]}
    answer = client.post(f"/api/desks/{desk['id']}/blind-tests", json=wish)
    assert answer.status_code == 201, answer.text
    found: dict[str, Any] = answer.json()
    return found


def blocks(room: Any, test: dict[str, Any], trial: int, start: int = 0, frames: int = 6_000) -> Any:
    where = f"/api/blind-tests/{test['id']}/trials/{trial}/blocks"
    return room[0].get(where, params={"start": start, "frames": frames})


def sounds(answer: Any, alternatives: int = 2) -> np.ndarray:
    return np.frombuffer(answer.content, "<f4").reshape(alternatives + 1, -1, 2)


def answered(room: Any, test: dict[str, Any], trial: int, choice: int) -> Any:
    return room[0].post(f"/api/blind-tests/{test['id']}/trials/{trial}", json={"answer": choice})


def test_perfect_listener_gets_all_right_in_the_record(room: Any) -> None:
    """An ear of sixteen thousand frames: X is whichever it is nearer to."""
    client, pressing, _ = room
    test = begun(room, 0, 3)
    assert (test["state"], test["answered"], test["seed"], test["hidden"]) == ("open", 0, "", [])
    assert test["titles"][0] == "Weir"
    for trial in range(10):
        a, b, x = sounds(blocks(room, test, trial, frames=16_000)).astype(np.float64)
        choice = int(np.abs(x - b).sum() < np.abs(x - a).sum())
        test = answered(room, test, trial, choice).json()
        assert test["answered"] == trial + 1
        if trial < 9:
            assert (test["seed"], test["answers"], test["right"], test["p"]) == ("", [], None, None)
    assert (test["state"], test["right"]) == ("done", 10)
    assert test["p"] == pytest.approx(2**-10)
    assert test["sentence"].startswith("Difference heard")
    assert test["hidden"] == test["answers"] == [hidden_in(test["seed"], trial, 2) for trial in range(10)]
    assert client.get(f"/api/pressings/{pressing}/blind-tests").json()[0] == test


def test_only_the_audio_identifies_x(room: Any) -> None:
    """Over forty trials: one length, one set of headers, never the same bytes twice, and the levels are matched."""
    seen, lengths, headers, words = set(), set(), set(), set()
    for _ in range(2):
        test = begun(room, 1, 2, trials=20)
        for trial in range(20):
            answer = blocks(room, test, trial)
            a, b, x = sounds(answer)
            seen |= {a.tobytes(), b.tobytes(), x.tobytes()}
            lengths.add(len(answer.content))
            headers.add(tuple(sorted((key, value) for key, value in answer.headers.items() if key != "date")))
            # Two files that differ in level alone: X lies as near to one as to the other, but for the noise.
            assert np.sqrt(np.square(a).mean()) == pytest.approx(np.sqrt(np.square(b).mean()), rel=1e-3)
            assert np.abs(a - x).max() < 2**-10
            found = answered(room, test, trial, 0).json()
            words.add(tuple(sorted(found)))
    assert len(seen) == 3 * 40
    assert (len(lengths), len(headers), len(words)) == (1, 1, 1)


def test_the_order_follows_the_seed_and_no_other_thing(room: Any) -> None:
    seeds = set()
    for slots in ((0, 1), (1, 0), (0, 1, 2)):
        test = begun(room, *slots)
        for trial in range(10):
            test = answered(room, test, trial, 0).json()
        assert test["hidden"] == [hidden_in(test["seed"], trial, len(slots)) for trial in range(10)]
        assert test["right"] == test["hidden"].count(0)
        seeds.add(test["seed"])
    assert len(seeds) == 3


def test_an_answer_stays_and_only_the_trial_whose_turn_it_is_is_heard(room: Any) -> None:
    test = begun(room, 0, 1)
    assert blocks(room, test, 1).json()["code"] == "blind.trial"
    assert answered(room, test, 0, 1).status_code == 200
    again = answered(room, test, 0, 0)
    assert (again.status_code, again.json()["code"]) == (409, "blind.trial")
    assert blocks(room, test, 0).status_code == 409
    assert blocks(room, test, 1).status_code == 200
    assert answered(room, test, 1, 2).json()["code"] == "blind.answer"
    assert blocks(room, test, 1, start=2 * RATE - 10, frames=20).json()["code"] == "desk.stretch"


def test_one_that_is_left_off_says_nothing_but_stays_in_the_record(room: Any) -> None:
    client, pressing, _ = room
    test = begun(room, 0, 1)
    answered(room, test, 0, 1)
    found = client.delete(f"/api/blind-tests/{test['id']}").json()
    assert (found["state"], found["p"], found["sentence"]) == (
        "left-off", None, "Ended after 1 of 10 trials: no result.",
    )  # fmt: skip
    assert answered(room, test, 1, 1).status_code == 409
    assert found["id"] in [one["id"] for one in client.get(f"/api/pressings/{pressing}/blind-tests").json()]


def test_tests_of_a_mix_stay_with_the_mix(room: Any) -> None:
    client, *_ = room
    mix = client.get("/api/shelf").json()["mixes"][0]["id"]
    desk = client.post("/api/desks", json={"voices": [{"mix_id": mix}, {"mix_id": mix}]}).json()
    wish = {"slots": [0, 1], "trials": 10, "start_frame": PASSAGE[0], "end_frame": PASSAGE[1]}
    test = client.post(f"/api/desks/{desk['id']}/blind-tests", json=wish).json()
    for trial in range(10):
        test = answered(room, test, trial, 0).json()
    assert (test["state"], test["pressing_id"]) == ("done", None)
    assert client.get(f"/api/mixes/{mix}/blind-tests").json() == [test]


def test_invalid_test_is_rejected(room: Any) -> None:
    client, _, desk = room
    good = {"slots": [0, 1], "trials": 10, "start_frame": PASSAGE[0], "end_frame": PASSAGE[1]}
    for more, code in (
        ({"slots": [0, 0]}, "blind.voices"), ({"slots": [0, 9]}, "blind.voices"), ({"trials": 9}, "blind.trials"),
        ({"trials": 101}, "blind.trials"), ({"end_frame": PASSAGE[0] + 100}, "blind.passage"),
        ({"end_frame": 99 * RATE}, "blind.passage"),
    ):  # fmt: skip
        answer = client.post(f"/api/desks/{desk['id']}/blind-tests", json=good | more)
        assert (answer.status_code, answer.json()["code"]) == (422, code)
    assert client.post("/api/desks/none/blind-tests", json=good).json()["code"] == "desk.gone"
    assert client.get("/api/blind-tests/999").json()["code"] == "blind.unknown"


def test_open_test_ends_with_a_power_cut(tmp_path: Path) -> None:
    path = write(tmp_path / "Weir.wav", noise(RATE * 3, 2, 8), RATE, "PCM_24")
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        mix = arrive(client, str(path))["mix_id"]
        wish = bench(0, RATE * 3, ticket=[{"id": "d0", "brief": "archive", "range_id": "r0"}])
        made = pressed(client, client.post("/api/pressings", json={"mix_id": mix, "bench": wish}).json()["id"])
        asked = [{"pressing": made["id"]}, {"pressing": made["id"], "number": 0}]
        desk = client.post("/api/desks", json={"voices": asked}).json()
        wish = {"slots": [0, 1], "trials": 10, "start_frame": 0, "end_frame": 2 * RATE}
        test = client.post(f"/api/desks/{desk['id']}/blind-tests", json=wish).json()
        client.post(f"/api/blind-tests/{test['id']}/trials/0", json={"answer": 1})
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        (found,) = client.get(f"/api/pressings/{made['id']}/blind-tests").json()
        assert (found["state"], found["answers"]) == ("left-off", [1])
    said = CliRunner().invoke(app, ["history", "--data", str(tmp_path / "data")])
    assert "X, Weir or Millrace archive" in said.output
    assert "Ended after 1 of 10 trials: no result." in said.output
    found = json.loads(CliRunner().invoke(app, ["history", "--json", "--data", str(tmp_path / "data")]).output)
    assert found["pressings"][0]["blind_tests"][0]["answers"] == [1]
