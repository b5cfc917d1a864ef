"""Who is answered, and what strange requests are answered with; each promise of docs/safety.md has its test here."""

import asyncio
import json
import math
import os
import socket
import stat
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.api.guard import HEADERS, SHORTEST_TOKEN, Guard, own_names, token_of
from ripe_press.api.server import listen
from ripe_press.core.errors import BadInput
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, settled
from support.signals import noise, write


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    app = make_app(Studio(DataFolder(tmp_path_factory.mktemp("data"))))
    with TestClient(app, OWN, raise_server_exceptions=False) as client:
        yield client


@pytest.fixture(scope="module")
def mix(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> int:
    path = write(tmp_path_factory.mktemp("mix") / "Weir.wav", noise(48_000, level=0.1), 48_000)
    number: int = arrive(client, str(path))["mix_id"]
    return number


@pytest.mark.parametrize("host", ["weir.example", "127.0.0.1.weir.example", "", "[", "192.0.2.7:8137"])
def test_request_with_unknown_host_is_rejected(client: TestClient, host: str) -> None:
    answer = client.get("/api/shelf", headers={"Host": host})
    assert (answer.status_code, answer.json()["code"]) == (421, "request.host")


@pytest.mark.parametrize("host", ["127.0.0.1:8137", "localhost", "[::1]:8137"])
def test_under_its_own_names_it_answers(client: TestClient, host: str) -> None:
    assert client.get("/api/shelf", headers={"Host": host, "Origin": f"http://{host}"}).status_code == 200


@pytest.mark.parametrize("origin", ["http://weir.example", "null", "http://127.0.0.1:9", "https://localhost"])
@pytest.mark.parametrize("path", ["/api/arrivals/upload?name=a.wav", "/api/briefs/cd/copy", "/api/pressings/1/cancel"])
def test_a_page_elsewhere_may_ask_for_nothing(client: TestClient, origin: str, path: str) -> None:
    answer = client.post(path, content=b"x", headers={"Origin": origin, "Content-Type": "text/plain"})
    assert (answer.status_code, answer.json()["code"]) == (403, "request.origin")


def test_every_answer_has_security_headers(client: TestClient) -> None:
    for path in ("/", "/api/shelf", "/api/mixes/99"):
        assert HEADERS.items() <= dict(client.get(path).headers).items() or {name.lower() for name in HEADERS} <= set(
            client.get(path).headers
        )
    assert "json" not in client.get("/openapi.json").headers["content-type"]


def test_another_address_demands_the_token(tmp_path: Path) -> None:
    token = token_of(tmp_path)
    assert token == token_of(tmp_path)
    assert stat.S_IMODE((tmp_path / "token").stat().st_mode) == 0o600
    app = make_app(Studio(DataFolder(tmp_path / "data")), ("weir.example",), token)
    with TestClient(app, "http://weir.example:8137", follow_redirects=False) as client:
        assert client.get("/api/shelf").json()["code"] == "request.token"
        assert client.get("/?token=wrong").status_code == 401
        assert client.get("/api/shelf", headers={"Authorization": "Bearer " + token}).status_code == 200
        link = client.get(f"/?token={token}")
        assert (link.status_code, link.headers["location"]) == (303, "/")
        assert {"HttpOnly", "SameSite=strict"} <= set(link.headers["set-cookie"].split("; "))
        assert client.get("/api/shelf").status_code == 200


def test_empty_token_file_admits_no_one(tmp_path: Path) -> None:
    """A power cut between the making and the writing of a file leaves an empty one."""
    (tmp_path / "token").touch()
    token = token_of(tmp_path)
    assert len(token) >= SHORTEST_TOKEN
    assert (tmp_path / "token").read_text() == token
    (tmp_path / "token").write_text("swordfish")
    with pytest.raises(BadInput, match="9 characters"):
        token_of(tmp_path)
    with Studio(DataFolder(tmp_path / "data")) as studio, pytest.raises(BadInput, match="0 characters"):
        make_app(studio, ("weir.example",))


def test_it_is_found_at_every_address_of_its_own_and_under_its_names(tmp_path: Path) -> None:
    token = token_of(tmp_path)
    app = make_app(Studio(DataFolder(tmp_path / "data")), ("0.0.0.0", *own_names()), token)
    shown = {"Authorization": f"Bearer {token}"}
    with TestClient(app, "http://192.0.2.7:8137", headers=shown) as client:
        # The client says itself which address the request came in at.
        assert client.get("/api/shelf").status_code == 200
        assert client.get("/api/shelf", headers={"Host": f"{socket.gethostname()}:8137"}).status_code == 200
        assert client.get("/api/shelf", headers={"Host": "weir.example:8137"}).status_code == 421
        assert client.get("/api/shelf", headers={"Authorization": "", "Host": "192.0.2.7"}).status_code == 401


def answered(path: str, token: str, query: str = "", **headers: str) -> tuple[int, dict[str, str]]:
    """Status and headers of the guard's own answer to headers as a hostile client sends them."""
    sent: list[Any] = []
    named = {b"host": b"weir.test", **{name.encode(): value.encode("latin-1") for name, value in headers.items()}}
    scope = {
        "type": "http", "method": "GET", "path": path, "query_string": query.encode(), "headers": list(named.items()),
    }  # fmt: skip

    async def send(message: Any) -> None:
        sent.append(message)

    guard = Guard(None, ("weir.test",), token)  # type: ignore[arg-type]
    # In a thread of its own: this one may have a loop already, of a browser.
    with ThreadPoolExecutor(1) as other:
        other.submit(lambda: asyncio.run(guard(scope, None, send))).result()  # type: ignore[arg-type]
    return sent[0]["status"], {name.decode(): value.decode() for name, value in sent[0]["headers"]}


@pytest.mark.parametrize("path", ["//weir.example/", "//weir.example", "/\\weir.example/x", "///weir.example"])
def test_a_link_leads_to_this_server_alone(path: str) -> None:
    token = "x" * SHORTEST_TOKEN
    status, headers = answered(path, token, f"token={token}")
    assert (status, headers["location"][:13]) == (303, "/weir.example")


STRANGE_HEADERS = (
    "http://[", "null", "http://", "://", "\x80\xff", "a" * 5_000, 'ripe-press-token="', "=;=", ",;\x00", "{}",
    "a=\x01b",
)  # fmt: skip


@pytest.mark.parametrize("value", STRANGE_HEADERS)
@pytest.mark.parametrize("header", ["origin", "cookie", "authorization", "host"])
def test_a_malformed_header_is_refused_and_no_fault(header: str, value: str) -> None:
    assert answered("/", "x" * SHORTEST_TOKEN, **{header: value})[0] in (401, 403, 421)


def test_the_listening_socket_is_named_as_tcp() -> None:
    with listen("127.0.0.1", 0) as listener:
        # Only then do servers of the standard library switch the waiting for more data off.
        assert listener.proto == socket.IPPROTO_TCP
    with pytest.raises(BadInput, match="not an address of this machine"):
        listen("no such host", 0)


def sent(client: TestClient, path: str, body: object) -> int:
    text = json.dumps(body)
    return client.post(path, content=text, headers={"Content-Type": "application/json"}).status_code


NOT_NUMBERS = (math.nan, math.inf, -math.inf, 1e400)


@pytest.mark.parametrize("value", NOT_NUMBERS)
def test_invalid_number_is_rejected(client: TestClient, mix: int, value: float) -> None:
    strange = bench(0, 4_800)
    strange["finish"] = {"gain_db": value}
    assert sent(client, f"/api/mixes/{mix}/ticket", strange) == 422
    assert sent(client, "/api/pressings", {"mix_id": mix, "bench": strange}) == 422
    assert sent(client, "/api/converter", {"from_hz": value, "to_hz": 48_000, "quality": "high"}) == 422


@pytest.mark.parametrize(
    "path",
    [
        "\ud800.wav", "/\ud800.wav", "~nosuchuser/x.wav", "/" + "x" * 3_000, "/a\0b.wav", "/" + "a/" * 1_500, "",
        "/proc/self/status", "/proc/self/environ", "/dev/zero", "/dev/stdin", "/sys/kernel/notes", "/",
    ],
)  # fmt: skip
def test_a_strange_path_is_one_sentence(client: TestClient, path: str) -> None:
    assert sent(client, "/api/arrivals/path", {"path": path}) in (404, 422)


def test_a_link_into_the_system_and_a_pipe_are_refused(client: TestClient, tmp_path: Path) -> None:
    (tmp_path / "link.wav").symlink_to("/proc/self/status")
    os.mkfifo(tmp_path / "pipe.wav")
    for name in ("link.wav", "pipe.wav"):
        assert sent(client, "/api/arrivals/path", {"path": str(tmp_path / name)}) in (404, 422)


@pytest.mark.parametrize("number", [2**63, 2**64, -(2**63) - 1, 10**30])
def test_numbers_that_nothing_has_are_refused(client: TestClient, mix: int, number: int) -> None:
    for path in (f"/api/mixes/{number}", f"/api/pressings/{number}", f"/api/pressings/{number}/files/0/download"):
        assert client.get(path).status_code in (404, 422)
    for path in ("true-peak", "spectrum", "listen", "zero-crossing"):
        answer = client.get(f"/api/mixes/{mix}/{path}?start_frame={number}&end_frame={number}&frame={number}")
        assert answer.status_code in (200, 404, 422)


@pytest.mark.parametrize("rates", [(0, 48_000), (-1, 48_000), (48_000, 44_101), (383_999, 8_001), (10**9, 10**9 - 1)])
def test_conversion_with_unsupported_rates_has_no_picture(client: TestClient, rates: tuple[int, int]) -> None:
    assert sent(client, "/api/converter", {"from_hz": rates[0], "to_hz": rates[1], "quality": "high"}) == 422


def test_a_ticket_of_thousands_of_lines_is_refused(client: TestClient, mix: int) -> None:
    long = bench(0, 4_800)
    long["ticket"] = [{"id": f"d{at}", "brief": "audio-cd", "range_id": "r0"} for at in range(2_000)]
    answer = client.post(f"/api/mixes/{mix}/ticket", json=long)
    assert (answer.status_code, "ticket" in answer.json()["message"]) == (422, True)


@pytest.mark.parametrize(
    "name",
    ["pyramid.bin", "clipping.json", "a.<script>", "x.\nwav", "../../x.wav", "a\0.wav", "." + "e" * 400, "…" * 300],
)
def test_a_sender_names_no_file_of_ours(client: TestClient, name: str, tmp_path: Path) -> None:
    body = write(tmp_path / "a.wav", noise(4_800 + len(name) % 97 + ord(name[0]) % 89), 48_000).read_bytes()
    arrival = client.post("/api/arrivals/upload", params={"name": name}, content=body).json()
    found = settled(client, arrival["id"])
    assert found["state"] == "done", found["error"]
    mix = client.get(f"/api/mixes/{found['mix_id']}").json()
    kept = Path(mix["path"])
    assert kept.stem == "mix"
    assert kept.suffix in ("", ".bin", ".json", ".wav")
    assert {one.name for one in kept.parent.iterdir()} >= {"pyramid.bin", "clipping.json", kept.name}
    assert client.get(f"/api/mixes/{mix['id']}/overview?bins=10").status_code in (200, 404)
