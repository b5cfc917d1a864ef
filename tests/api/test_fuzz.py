"""Random requests: made from the interface's own description, and whole documents with one part exchanged.

No answer is an internal error (500), no request hangs, no file is left.
"""

import copy
import json
import os
import random
from collections.abc import Iterator
from itertools import count
from typing import Any

import hypothesis
import numpy as np
import pytest
import schemathesis
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.core.errors import RipePressError
from ripe_press.core.requests.document import bench_of, document_from, document_row
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.planning.measured import measured
from ripe_press.studio.planning.planner import resolved_files
from ripe_press.studio.shelf.requests import document_for
from ripe_press.studio.studio import Studio
from support import ROOT
from support.server import OWN, arrive, bench, wait_for
from support.signals import noise, write

pytestmark = pytest.mark.slow
EXAMPLES = int(os.environ.get("RIPE_PRESS_EXAMPLES", "12"))
MUTATIONS = int(os.environ.get("RIPE_PRESS_MUTATIONS", "250"))
DESCRIPTION = ROOT / "web/src/api/generated/openapi.json"
STRANGE: tuple[Any, ...] = (
    None, True, 0, -1, 1, 2**31, 2**63, -(2**63), 1e308, 0.5, "", "a", "\0", "../../etc/passwd", "x" * 5_000, "💿",
    [], [[]], {}, {"a": 1}, "-0", "1e9", "wav", "blank", "loudness",
)  # fmt: skip
HEADERS = (
    ("", ""), ("Origin", "http://["), ("", ""), ("Cookie", 'a="; b=\\'), ("", ""), ("Range", "bytes=99-1,-5,x"),
    ("If-None-Match", '"' * 40), ("Accept", "*/*;q=x"), ("Content-Encoding", "gzip"), ("Origin", "null"),
    ("Accept-Language", "\x7f"), ("If-Modified-Since", "yesterday"), ("Range", "bytes=-0"),
)  # fmt: skip
"""In the place of anything: other types, numbers past every border, names that are paths."""


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    app = make_app(Studio(DataFolder(tmp_path_factory.mktemp("data"))))
    with TestClient(app, OWN, raise_server_exceptions=False) as client:
        # The queue is paused, so that accidental pressings cost nothing.
        client.patch("/api/press", json={"paused": True})
        yield client


@pytest.fixture(scope="module")
def mix(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> int:
    path = write(tmp_path_factory.mktemp("mix") / "Weir.wav", noise(24_000).astype(np.float32), 48_000)
    number: int = arrive(client, str(path))["mix_id"]
    return number


INTERFACE = schemathesis.openapi.from_dict(json.loads(DESCRIPTION.read_text(encoding="utf-8")))
OPERATIONS = {
    f"{found.method.upper()} {found.path}": found
    for one in INTERFACE.get_all_operations()
    for found in (one.ok(),)
    if found.path != "/api/events"
}


@pytest.mark.parametrize("name", sorted(OPERATIONS))
def test_no_request_is_answered_with_a_fault(name: str, client: TestClient, mix: int) -> None:
    turn = count()

    @hypothesis.settings(
        max_examples=EXAMPLES, deadline=None, derandomize=True, database=None,
        suppress_health_check=list(hypothesis.HealthCheck),
    )  # fmt: skip
    @hypothesis.given(case=OPERATIONS[name].as_strategy(), real=hypothesis.strategies.booleans())
    def ask(case: Any, real: bool) -> None:
        if "mix_id" in (case.path_parameters or {}) and (real or case.method == "DELETE"):
            case.path_parameters["mix_id"] = mix + 98 * (case.method == "DELETE")
        if case.path == "/api/press" and case.method == "PATCH":
            case.body = {"goes_on": True}
        asked = case.as_transport_kwargs(base_url=OWN)
        words = {key: asked[key] for key in ("params", "json", "data") if asked.get(key) is not None}
        if isinstance(words.get("data"), bytes | str):
            words["content"] = words.pop("data")
        # With unusual headers, too.
        header, value = HEADERS[next(turn) % len(HEADERS)]
        answer = client.request(asked["method"], asked["url"], headers={header: value} if header else None, **words)
        assert answer.status_code < 500 or answer.status_code in (503, 507), (answer.status_code, answer.text)
        if answer.status_code >= 400:
            said = answer.json()
            assert said.get("message") or said.get("detail"), answer.text

    ask()


def places(value: Any, here: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    yield here
    if isinstance(value, dict):
        for key, part in value.items():
            yield from places(part, (*here, key))
    elif isinstance(value, list):
        for at, part in enumerate(value):
            yield from places(part, (*here, at))


def exchanged(value: Any, place: tuple[Any, ...], other: Any) -> Any:
    made = copy.deepcopy(value)
    if not place:
        return other
    part = made
    for step in place[:-1]:
        part = part[step]
    part[place[-1]] = other
    return made


def test_a_bench_with_a_part_exchanged_is_taken_or_refused_with_a_sentence(client: TestClient, mix: int) -> None:
    whole = client.get(f"/api/mixes/{mix}").json()["bench"]
    whole["tempo"] = {"changes": [{"bar": 1, "tempo_bpm": 84.0, "beats": 4, "unit": 4}], "first_bar_frame": 0}
    whole["markers"] = [{"frame": 100, "name": "Verse"}]
    whole["ticket"] += [
        {"id": "d3", "brief": "blank", "range_id": "r1", "on": True, "group": "", "changes": {
            "container": "mp3", "kbps": 192, "level": {"kind": "loudness", "target": -14.0}, "tags": [["title", "x"]],
        }},
    ]  # fmt: skip
    assert (
        client.post(f"/api/mixes/{mix}/ticket", json=client.get(f"/api/mixes/{mix}").json()["bench"]).status_code == 200
    )
    chance = random.Random(4)
    every = list(places(whole))
    for _ in range(MUTATIONS):
        body = exchanged(whole, chance.choice(every), chance.choice(STRANGE))
        sent = {"content": json.dumps(body), "headers": {"Content-Type": "application/json"}}
        for method, path in (("POST", f"/api/mixes/{mix}/ticket"), ("PUT", f"/api/mixes/{mix}/bench")):
            answer = client.request(method, path, **sent)
            assert answer.status_code < 500, (body, answer.text)
            if answer.status_code >= 400:
                assert answer.json()["message"].strip(), body


def test_an_order_document_with_a_part_exchanged_is_read_or_refused(client: TestClient, mix: int) -> None:
    """As a file for the command line, or out of a record that was tampered with: planned, or refused."""
    studio = client.app.state.studio  # type: ignore[attr-defined]
    bench_now = bench_of(client.get(f"/api/mixes/{mix}").json()["bench"])
    made = document_for(studio.mix_views, studio.shelf.mix(mix), bench_now, studio.briefs.all())
    whole = json.loads(json.dumps(document_row(made)))
    assert resolved_files(document_from(whole), lambda one: measured(one.source.facts))[0]
    chance = random.Random(5)
    every = list(places(whole))
    read = 0
    for _ in range(4 * MUTATIONS):
        body = exchanged(whole, chance.choice(every), chance.choice(STRANGE))
        try:
            resolved_files(document_from(body), lambda one: measured(one.source.facts))
            read += 1
        except RipePressError as error:
            assert error.message.strip(), body
    assert 0 < read < 4 * MUTATIONS


def test_nothing_is_left_of_all_that(client: TestClient, mix: int) -> None:
    """The mix opens and is pressed as ever; nothing unfinished lies about."""
    folder: DataFolder = client.app.state.studio.folder  # type: ignore[attr-defined]
    wait_for(lambda: all(one["state"] != "running" for one in client.get("/api/shelf").json()["arrivals"]))
    number = client.post("/api/pressings", json={"mix_id": mix, "bench": bench(0, 24_000)}).json()["id"]
    client.post(f"/api/pressings/{number}/move", json={"to": 0})
    client.patch("/api/press", json={"paused": False})
    state = wait_for(
        lambda: (now := client.get(f"/api/pressings/{number}").json())["state"] in ("done", "failed") and now
    )
    assert state["state"] == "done", state
    assert not list(folder.root.rglob("*.pressing"))
    assert not list(folder.passing.glob("upload-*"))
