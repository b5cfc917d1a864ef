"""An intake server: resumed pieces, checksums, acceptance, rejection with reasons, and nonsense."""

import http.server
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from mutagen.flac import FLAC, Picture
from PIL import Image

from ripe_press.core.errors import BadInput, Cancelled, Conflict, Interrupted
from ripe_press.core.sending.drop_off import DropOff
from ripe_press.rack.intake_look import Looker
from ripe_press.studio.sending.carriers import carrier_of
from ripe_press.studio.sending.carriers.carrier import AnsweringCarrier, RunningTransfer
from ripe_press.studio.sending.carriers.intake import PIECE
from support.sending import intake_desk, parcel
from support.server import wait_for

DATA = np.random.default_rng(1).bytes(3 * PIECE + 12_345)


def sent(url: str, one: Any, kept: dict[str, Any] | None = None, **hand: Any) -> Any:
    return carrier_of(DropOff("Headrace", "desk", url), "token").carry(one, kept or {}, RunningTransfer(**hand))


def settled(url: str, one: Any, answer: Any) -> Any:
    carrier = carrier_of(DropOff("Headrace", "desk", url))
    assert isinstance(carrier, AnsweringCarrier)

    def ask() -> Any:
        found = carrier.ask(one, answer.kept)
        return found if found.look_again_s is None else None

    return answer if answer.look_again_s is None else wait_for(ask)


def test_a_file_goes_in_pieces_and_is_accepted_and_never_taken_twice(tmp_path: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    with intake_desk(tmp_path / "desk") as (desk, url):
        told: list[tuple[int, int]] = []
        answer = settled(url, one, sent(url, one, progress=lambda done, total: told.append((done, total))))
        assert answer.state == "accepted" and answer.receipt["receipt"].startswith("HR-0001-")
        assert [done for done, _ in told] == [0, PIECE, 2 * PIECE, 3 * PIECE, len(DATA)]
        assert settled(url, one, sent(url, one)).receipt == answer.receipt
        (submission,) = desk.by_id.values()
        assert submission.came_times == 1 and submission.file.read_bytes() == DATA


def test_interrupted_upload_resumes_at_the_exact_byte(tmp_path: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    with intake_desk(tmp_path / "desk") as (desk, url):
        kept: dict[str, Any] = {}
        done: list[int] = []
        with pytest.raises(Cancelled):
            sent(url, one, keep=kept.update, progress=lambda at, _: done.append(at), should_stop=lambda: len(done) > 2)
        (submission,) = desk.by_id.values()
        assert desk.have(submission) == 3 * PIECE
        again: list[int] = []
        answer = settled(url, one, sent(url, one, kept, progress=lambda at, _: again.append(at)))
        assert answer.state == "accepted" and again == [3 * PIECE, len(DATA)]


@pytest.mark.parametrize("fault", ["away", "full", "nonsense", "dies"])
@pytest.mark.parametrize("at", range(7))
def test_whatever_goes_wrong_at_any_step_it_is_tried_again_and_taken_once(tmp_path: Path, fault: str, at: int) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA[: 2 * PIECE])
    with intake_desk(tmp_path / "desk", [*["-"] * at, fault]) as (desk, url):
        kept: dict[str, Any] = {}

        def tried() -> Any:
            try:
                return settled(url, one, sent(url, one, dict(kept), keep=kept.update))
            except Interrupted:
                return None

        assert wait_for(tried).state == "accepted"
        (submission,) = desk.by_id.values()
        assert submission.came_times == 1 and submission.file.read_bytes() == DATA[: 2 * PIECE]


def test_a_piece_that_was_spoilt_is_found_by_the_sum_of_the_whole(tmp_path: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    # Sheet, status, offset, then the second piece.
    with intake_desk(tmp_path / "desk", ["-", "-", "-", "-", "damage"]) as (desk, url):
        assert settled(url, one, sent(url, one)).state == "accepted"
        (submission,) = desk.by_id.values()
        assert submission.file.read_bytes() == DATA


def test_restarted_server_knows_its_bytes(tmp_path: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    with intake_desk(tmp_path / "desk") as (_, url):
        receipt = settled(url, one, sent(url, one)).receipt
    with intake_desk(tmp_path / "desk") as (desk, url):
        assert settled(url, one, sent(url, one)).receipt == receipt and len(desk.by_id) == 1


def test_rejecting_server_is_not_asked_again(tmp_path: Path) -> None:
    with (
        intake_desk(tmp_path / "desk", ["refuse"]) as (_, url),
        pytest.raises(Conflict, match="are not accepted"),
    ):
        sent(url, parcel(tmp_path / "Headrace.wav", DATA))


def test_file_is_rejected_with_reasons_from_its_own_facts(tmp_path: Path) -> None:
    path = tmp_path / "Headrace.flac"
    loud = np.clip(np.random.default_rng(1).standard_normal((4_000, 1)), -1, 1)
    soundfile.write(path, loud, 32_000, subtype="PCM_16")
    with intake_desk(tmp_path / "desk", looker=Looker()) as (_, url):
        answer = settled(url, parcel(path), sent(url, parcel(path)))
        assert answer.state == "refused" and "reasons" in answer.sentence
        kinds = {(one.kind, one.asked) for one in answer.reasons}
        assert ("rate", ("44100", "48000", "96000")) in kinds and ("channels", ("2",)) in kinds
        assert ("clipped", ()) in kinds and ("tag", ("isrc",)) in kinds and ("cover", ("1000",)) in kinds
        good = tagged(tmp_path / "Good.flac", "Headrace", 1_000)
        assert settled(url, parcel(good), sent(url, parcel(good))).state == "accepted"
        small = tagged(tmp_path / "Small.flac", "Headrace", 999)
        (why,) = settled(url, parcel(small), sent(url, parcel(small))).reasons
        assert why.kind == "cover" and "999 pixels" in why.sentence
        other = tagged(tmp_path / "Other.flac", "Sluice", 1_000)
        (why,) = settled(url, parcel(other), sent(url, parcel(other))).reasons
        assert (why.kind, why.asked) == ("code-used", ("QZWLT2600001",))
        torn = tmp_path / "Torn.flac"
        torn.write_bytes(b"plums" * 100)
        (why,) = settled(url, parcel(torn), sent(url, parcel(torn))).reasons
        assert why.kind == "damaged"
        # An unchanged resubmission after a rejection is checked again, because the recipient may decide otherwise.
        assert settled(url, parcel(torn), sent(url, parcel(torn))).state == "refused"


def tagged(path: Path, title: str, side: int) -> Path:
    soundfile.write(path, np.zeros((4_800, 2)), 48_000, subtype="PCM_24")
    Image.new("RGB", (side, side), "teal").save(path.with_suffix(".png"))
    tags, cover = FLAC(path), Picture()
    cover.data, cover.type, cover.mime = path.with_suffix(".png").read_bytes(), 3, "image/png"
    tags.add_picture(cover)
    given = {"title": title, "artist": "The Sluicekeepers", "album": "Tail Water", "isrc": "QZWLT2600001"}
    for name, value in given.items():
        tags[name] = value
    tags.save()
    return path


Heard = tuple[str, str, dict[str, str]]


@contextmanager
def says(
    answers: list[tuple[int, dict[str, str], bytes]],
) -> Iterator[tuple[str, list[tuple[str, str, dict[str, str]]]]]:
    """A server with given answers, and the requests it got."""
    heard: list[Heard] = []

    class Handler(http.server.BaseHTTPRequestHandler):
        def answer(self) -> None:
            self.rfile.read(int(self.headers.get("content-length") or 0))
            heard.append((self.command, self.path, dict(self.headers)))
            status, headers, body = answers[min(len(heard), len(answers)) - 1]
            self.send_response(status)
            for name, value in headers.items():
                self.send_header(name, value)
            self.send_header("content-length", str(len(body)))
            self.end_headers()
            if self.command != "HEAD":
                self.wfile.write(body)

        do_GET = do_POST = do_HEAD = do_PATCH = answer  # noqa: N815 - as the library calls them

        def log_message(self, *_: Any) -> None:
            pass

    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler) as server:
        threading.Thread(target=server.serve_forever, args=(0.02,), daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}", heard
        server.shutdown()


@pytest.mark.parametrize(
    ("status", "headers", "body", "kind", "words"),
    [
        (200, {}, b"plums", Interrupted, "not JSON"), (200, {}, b"[1]", Interrupted, "not a JSON object"),
        (201, {}, b'{"upload": "http://elsewhere.example/u", "status": "/s"}', Interrupted, "another host"),
        (201, {}, b'{"upload": "/u"}', Interrupted, "another host"), (201, {}, b"[" * 100_000, Interrupted, "not JSON"),
        (302, {"Location": "http://elsewhere.example/"}, b"", Interrupted, r"unavailable \(302\)"),
        (401, {}, b"", BadInput, "Token rejected"), (500, {}, b"x" * 2_000_000, Interrupted, "too long"),
        (422, {}, b'{"sentence": "Not\\nyours."}', Conflict, "Not yours."), (503, {}, b"", Interrupted, "503"),
    ],
)  # fmt: skip
def test_nonsense_is_reported_and_no_other_host_is_used(
    tmp_path: Path, status: int, headers: dict[str, str], body: bytes, kind: type[Exception], words: str
) -> None:
    with says([(status, headers, body)]) as (url, heard):
        with pytest.raises(kind, match=words):
            sent(url, parcel(tmp_path / "Headrace.wav", DATA[:1000]))
        assert [one[:2] for one in heard] == [("POST", "/submissions")]
        assert heard[0][2]["Authorization"] == "Bearer token"


GOOD = (201, {}, b'{"upload": "/u", "status": "/s"}')


@pytest.mark.parametrize(
    "head",
    [
        {}, {"Upload-Offset": "plums", "Upload-Length": "1000"}, {"Upload-Offset": "2000", "Upload-Length": "1000"},
        {"Upload-Offset": "0", "Upload-Length": "999"}, {"Upload-Offset": "-1", "Upload-Length": "1000"},
    ],
)  # fmt: skip
def test_server_with_wrong_offsets_is_not_trusted(tmp_path: Path, head: dict[str, str]) -> None:
    with (
        says([GOOD, (200, {}, b'{"state": "receiving"}'), (200, head, b"")]) as (url, _),
        pytest.raises(Interrupted, match="Unexpected reply"),
    ):
        sent(url, parcel(tmp_path / "Headrace.wav", DATA[:1000]))


@pytest.mark.parametrize(
    "status",
    [
        b'{"state": "accepted"}',
        b'{"state": "accepted", "sha256": "0"}',
        b'{"state": "refused"}',
        b'{"state": "plums"}',
        b"{}",
    ],
)
def test_an_acceptance_of_something_else_is_none(tmp_path: Path, status: bytes) -> None:
    with says([GOOD, (200, {}, status)]) as (url, _), pytest.raises(Interrupted, match="Unexpected reply"):
        sent(url, parcel(tmp_path / "Headrace.wav", DATA[:1000]))
