"""A distributor's intake server: a sheet, then the file in pieces by tus 1.0.0, then acceptance or rejection with
reasons.

`docs/sending.md` says what it speaks. Faults, one word a line in ``faults.txt`` of its folder: ``away`` disconnects,
``slow`` delays, ``full`` has no room, ``refuse`` rejects any file, ``nonsense`` answers without meaning, ``dies`` does
its work and disconnects before the answer, ``damage`` changes a received piece.
"""

import argparse
import asyncio
import base64
import binascii
import hashlib
import html
import json
import signal
import threading
from collections.abc import Awaitable, Callable, Iterable
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fastapi import FastAPI, Request, Response
from fastapi.responses import HTMLResponse, JSONResponse

from ripe_press.core.naming import safe_stem
from ripe_press.rack.faults import SLOW_S, Faults
from ripe_press.rack.mail_desk import ADDRESS, free_port, wait_for_end

if TYPE_CHECKING:
    from ripe_press.rack.intake_look import Looker

DESK_NAME = "Headrace distribution, intake"
MOST_BYTES = 4_000_000_000
_SHEET_BYTES = 1_000_000
_PIECE_BYTES = 16 << 20
_TUS = {"Tus-Resumable": "1.0.0", "Cache-Control": "no-store"}


@dataclass(slots=True)
class Submission:
    """A submission: its sheet, its received bytes, and the result of its check."""

    id: str
    sha256: str
    bytes: int
    name: str
    file: Path
    state: str = "receiving"
    receipt: str = ""
    reasons: list[dict[str, Any]] = field(default_factory=list)
    came_times: int = 0
    """How often the whole file came in."""


class IntakeDesk:
    """The submissions of the server. A file that was handed in before, by its key, is that same submission."""

    def __init__(self, folder: Path, faults: Iterable[str] = (), looker: "Looker | None" = None) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.folder = folder
        self.faults = Faults(folder, faults)
        self._looker = looker
        self.by_key: dict[str, Submission] = {}
        self.by_id: dict[str, Submission] = {}
        self.lock = threading.Lock()
        for sheet in sorted(folder.glob("*/submission.json")):
            self._read(sheet)

    def submit(self, key: str, sheet: dict[str, Any]) -> Submission:
        """A submission for a sheet; the one that there is for its key. A rejected one restarts."""
        with self.lock:
            known = self.by_key.get(key)
            if known and known.state != "refused":
                return known
            number = len(self.by_id) + 1
            name = safe_stem(Path(str(sheet["name"])).stem) + Path(str(sheet["name"])).suffix[:8]
            file = self.folder / f"{number:04d}" / name
            file.parent.mkdir(parents=True, exist_ok=True)
            found = Submission(f"{number:04d}", str(sheet["sha256"]), int(sheet["bytes"]), name, file)
            file.write_bytes(b"")
            self.by_key[key] = self.by_id[found.id] = found
            self._keep(key, found)
            return found

    def came(self, one: Submission, offset: int, piece: bytes, spoilt: bool) -> int:
        """Puts a piece to a file; gives how much there is of it. The last one starts the check."""
        with self.lock, one.file.open("r+b") as file:
            file.seek(offset)
            file.write(bytes(len(piece)) if spoilt else piece)
            file.truncate()
        have = offset + len(piece)
        if have == one.bytes:
            self._whole(one)
        return have

    def have(self, one: Submission) -> int:
        """How much of a file there is."""
        return one.file.stat().st_size

    def _whole(self, one: Submission) -> None:
        digest = hashlib.sha256(one.file.read_bytes()).hexdigest()
        if digest != one.sha256:
            one.file.write_bytes(b"")
            return
        one.came_times += 1
        one.state = "checking"
        threading.Thread(target=self._look, args=(one,), daemon=True).start()

    def _look(self, one: Submission) -> None:
        taken = {other.id: other.file for other in self.by_id.values() if other.state == "accepted"}
        if self._looker is None:
            # The audio libraries are imported when the first file is complete: until then the server answers fast.
            from ripe_press.rack.intake_look import Looker

            self._looker = Looker()
        reasons = self._looker.reasons(one.file, taken)
        with self.lock:
            one.reasons = reasons
            one.receipt = f"HR-{one.id}-{one.sha256[:8]}"
            one.state = "refused" if reasons else "accepted"
            key = next(key for key, other in self.by_key.items() if other is one)
            self._keep(key, one)

    def _keep(self, key: str, one: Submission) -> None:
        row = {
            "key": key, "id": one.id, "sha256": one.sha256, "bytes": one.bytes, "name": one.name, "state": one.state,
            "receipt": one.receipt, "reasons": one.reasons,
        }  # fmt: skip
        path = one.file.parent / "submission.json"
        new = path.with_suffix(".new")
        new.write_text(json.dumps(row, indent=1), encoding="utf-8")
        new.replace(path)

    def _read(self, sheet: Path) -> None:
        row = json.loads(sheet.read_text(encoding="utf-8"))
        state = row["state"] if row["state"] in ("accepted", "refused") else "receiving"
        one = Submission(
            row["id"], row["sha256"], row["bytes"], row["name"], sheet.parent / row["name"], state, row["receipt"],
            row["reasons"],
        )  # fmt: skip
        self.by_key[row["key"]] = self.by_id[one.id] = one
        # A server that ended during a check starts it again.
        if state == "receiving" and one.file.is_file() and self.have(one) == one.bytes:
            self._whole(one)


def intake_app(desk: IntakeDesk) -> FastAPI:
    """The server as a web application."""
    app = FastAPI(title=DESK_NAME, docs_url=None, redoc_url=None, openapi_url=None)
    app.middleware("http")(_faulty(desk))

    @app.get("/")
    def read_desk(request: Request) -> Response:
        if "text/html" in request.headers.get("accept", ""):
            return HTMLResponse(_page(desk))
        return JSONResponse({"intake": 1, "name": DESK_NAME, "submissions": len(desk.by_id)})

    @app.post("/submissions")
    async def submit(request: Request) -> Response:
        try:
            body = await _body(request, _SHEET_BYTES)
            sheet = json.loads(body)
            size, sum_, name = int(sheet["bytes"]), str(sheet["sha256"]), str(sheet["name"])
            key = request.headers["idempotency-key"]
        except (ValueError, KeyError, TypeError, RecursionError):
            return _no(422, "Incomplete sheet. It needs bytes, sha256, name and a key header.")
        if not 0 < size <= MOST_BYTES or len(sum_) != 64 or not name or len(key) > 200:
            return _no(422, "Invalid number on the sheet.")
        one = desk.submit(key, sheet)
        return JSONResponse({"id": one.id, "upload": f"/uploads/{one.id}", "status": f"/submissions/{one.id}"}, 201)

    @app.get("/submissions/{number}")
    def read_submission(number: str) -> Response:
        one = desk.by_id.get(number)
        if one is None:
            return _no(404, "Submission not found.")
        row = {"state": one.state, "sha256": one.sha256, "receipt": one.receipt, "reasons": one.reasons}
        return JSONResponse({**row, "received_bytes": desk.have(one)})

    @app.head("/uploads/{number}")
    def read_offset(number: str) -> Response:
        one = desk.by_id.get(number)
        if one is None:
            return Response(status_code=404, headers=_TUS)
        return Response(headers={**_TUS, "Upload-Offset": str(desk.have(one)), "Upload-Length": str(one.bytes)})

    @app.patch("/uploads/{number}")
    async def take_piece(number: str, request: Request) -> Response:
        one = desk.by_id.get(number)
        if one is None:
            return Response(status_code=404, headers=_TUS)
        if request.headers.get("content-type") != "application/offset+octet-stream":
            return Response(status_code=415, headers=_TUS)
        offset = request.headers.get("upload-offset", "")
        if one.state != "receiving" or not offset.isdigit() or int(offset) != desk.have(one):
            return Response(status_code=409, headers=_TUS)
        piece = await _body(request, _PIECE_BYTES)
        if not _sound(request.headers.get("upload-checksum", ""), piece):
            return Response(status_code=460, headers=_TUS)
        if int(offset) + len(piece) > one.bytes:
            return Response(status_code=413, headers=_TUS)
        spoilt = request.state.fault == "damage"
        have = await asyncio.to_thread(desk.came, one, int(offset), piece, spoilt)
        return Response(status_code=204, headers={**_TUS, "Upload-Offset": str(have)})

    return app


def _faulty(desk: IntakeDesk) -> Callable[..., Awaitable[Response]]:
    """The fault in an answer, if one is set."""

    async def middle(request: Request, answer: Callable[[Request], Awaitable[Response]]) -> Response:
        fault = request.state.fault = "" if "text/html" in request.headers.get("accept", "") else desk.faults.next()
        match fault:
            case "away":
                raise ConnectionAbortedError
            case "slow":
                await asyncio.sleep(SLOW_S)
            case "full":
                return _no(507, "No space left.")
            case "refuse":
                return _no(422, "Submissions from you are not accepted.")
            case "nonsense":
                return Response("plums and pears", 200, {"Upload-Offset": "pears"}, "text/plain")
            case "dies":
                await answer(request)
                raise ConnectionAbortedError
            case _:
                pass
        return await answer(request)

    return middle


async def _body(request: Request, most: int) -> bytes:
    found = bytearray()
    async for block in request.stream():
        found += block
        if len(found) > most:
            raise ValueError
    return bytes(found)


def _sound(mark: str, piece: bytes) -> bool:
    how, _, sum_ = mark.partition(" ")
    try:
        return how == "sha256" and base64.b64decode(sum_, validate=True) == hashlib.sha256(piece).digest()
    except (binascii.Error, ValueError):
        return False


def _no(status: int, sentence: str) -> JSONResponse:
    return JSONResponse({"sentence": sentence}, status)


def _page(desk: IntakeDesk) -> str:
    rows = "".join(
        f"<tr><td>{one.id}<td>{html.escape(one.name)}<td>{desk.have(one):,} of {one.bytes:,} bytes<td>{one.state}"
        f"<td>{html.escape(' '.join(str(why['sentence']) for why in one.reasons) or one.receipt)}"
        for one in desk.by_id.values()
    )
    return (
        "<!doctype html><html lang=en><meta charset=utf-8>"
        f"<title>{DESK_NAME}</title><style>body{{font:16px/1.5 sans-serif;margin:2em;max-width:70em}}"
        "table{border-collapse:collapse}td,th{border-bottom:1px solid #ccc;padding:.3em .8em;text-align:left}</style>"
        f"<h1>{DESK_NAME}</h1><p>Simulated distributor: received files and results.</p>"
        "<table><tr><th>Number<th>File<th>Received<th>State<th>Reason or receipt</tr>"
        f"{rows or '<tr><td colspan=5>No files received yet.'}</table></html>"
    )


class Serving:
    """The server at a port, in a thread of its own."""

    def __init__(self, desk: IntakeDesk, port: int = 0) -> None:
        import uvicorn

        self.port = port or free_port()
        config = uvicorn.Config(intake_app(desk), ADDRESS, self.port, log_level="critical", lifespan="off")
        self._server = uvicorn.Server(config)
        self._thread = threading.Thread(target=self._server.run, daemon=True)

    def start(self) -> None:
        """Begins, and waits until it answers. Raises: OSError where its port is taken."""
        self._thread.start()
        pause = threading.Event()
        while not self._server.started and self._thread.is_alive():
            pause.wait(0.01)
        if not self._server.started:
            message = f"Cannot open port {self.port}. It may be in use."
            raise OSError(message)

    def stop(self) -> None:
        """Ends it."""
        self._server.should_exit = True
        self._thread.join(5)


def main() -> None:
    """Run the server until its standard input is closed."""
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("--port", type=int, default=0)
    words.add_argument("--folder", type=Path, required=True)
    given = words.parse_args()
    serving = Serving(IntakeDesk(given.folder), given.port)
    try:
        serving.start()
    except OSError as error:
        raise SystemExit(str(error)) from error
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    print(json.dumps({"port": serving.port, "folder": str(given.folder)}), flush=True)  # noqa: T201
    wait_for_end()
    serving.stop()


if __name__ == "__main__":
    main()
