"""Transfers to an intake server: a metadata sheet, then the file in pieces, resumed after an interruption.

The pieces are those of tus 1.0.0 (creation by our own sheet; HEAD, PATCH, the checksum extension with SHA-256). Sheet
and answers are described in ``docs/sending.md``. Nothing is ever sent to another host than the drop-off names.
"""

import asyncio
import base64
import hashlib
import json
import threading
import time
from collections.abc import Callable, Coroutine
from typing import Any
from urllib.parse import urljoin, urlsplit

from ripe_press.core.errors import BadInput, Conflict, Interrupted
from ripe_press.core.sending.drop_off import DropOff, desk_url
from ripe_press.core.sending.parcel import Parcel, plain_line, reasons_from
from ripe_press.studio.sending.carriers.carrier import (
    LOOK_AGAIN_S,
    DropOffState,
    RunningTransfer,
    TransferResult,
    changed,
    file_of,
    later,
    stopped_before,
)

PIECE = 1 << 20
TUS = "1.0.0"
_SECONDS = 20.0
MOST_SECONDS = 60.0
"""So long a whole answer may take, from the first byte of the question to the last of the answer."""
_LOOK_S = 0.1
_MOST_ANSWER = 1_000_000
_ROUNDS = 3
"""So often a file that arrived damaged is sent from its beginning in one try."""


class IntakeCarrier:
    """Transfers files to an intake server over HTTP. Its key for a file is the checksum: the server recognises a
    repeated submission.
    """

    def __init__(self, drop_off: DropOff, password: str, should_stop: Callable[[], bool] = lambda: False) -> None:
        self.drop_off = drop_off
        self._should_stop = should_stop
        self._url = desk_url(drop_off.place)
        self._token = password

    def carry(self, parcel: Parcel, kept: dict[str, Any], hand: RunningTransfer) -> TransferResult:
        """Submit the sheet, then the part of the file that the server does not have."""
        file_of(parcel)
        with self._client() as client:
            kept = {**kept, **self._submitted(client, parcel)}
            hand.keep(kept)
            for _ in range(_ROUNDS):
                answer = self._asked(client, parcel, kept)
                if answer is not None:
                    return answer
                self._upload(client, parcel, kept["upload"], hand)
            answer = self._asked(client, parcel, kept)
        if answer is None:
            raise later("The file arrived damaged three times. Retrying.")
        return answer

    def ask(self, parcel: Parcel, kept: dict[str, Any]) -> TransferResult:
        """Return whether the server has accepted the file."""
        with self._client() as client:
            answer = self._asked(client, parcel, kept)
        if answer is None:
            message = "The recipient lost the file. Sending again."
            raise Interrupted("send.lost", message)
        return answer

    def look(self) -> DropOffState:
        """Return whether the server answers, and its name."""
        with self._client() as client:
            row = self._json(client.get(self._url))
        name = plain_line(str(row.get("name") or ""))[:80]
        if row.get("intake") != 1 or not name:
            raise _nonsense("not an intake server")
        return DropOffState(f"Connected to {name}.")

    def _client(self) -> "_Client":
        return _Client(self._token, self._should_stop)

    def _submitted(self, client: "_Client", parcel: Parcel) -> dict[str, str]:
        sheet = {"sha256": parcel.sha256, "bytes": parcel.bytes, "name": parcel.name, "file": dict(parcel.about)}
        body = json.dumps(sheet).encode()
        headers = {"Content-Type": "application/json", "Idempotency-Key": f"{parcel.sha256}-{parcel.name}"[:200]}
        headers["Idempotency-Key"] = hashlib.sha256(headers["Idempotency-Key"].encode()).hexdigest()
        row = self._json(client.send("POST", f"{self._url}/submissions", body, headers))
        upload, status = (self._here(row.get(one)) for one in ("upload", "status"))
        return {"upload": upload, "status": status}

    def _here(self, said: object) -> str:
        """A URL from the server, which must be on the same server."""
        url = urljoin(f"{self._url}/", str(said or ""))
        ours, theirs = urlsplit(self._url), urlsplit(url)
        if not said or (ours.scheme, ours.netloc) != (theirs.scheme, theirs.netloc):
            raise _nonsense("it redirects to another host")
        return url

    def _upload(self, client: "_Client", parcel: Parcel, url: str, hand: RunningTransfer) -> None:
        head = client.send("HEAD", url, b"", {"Tus-Resumable": TUS})
        self._good(head)
        offset = _number(head.headers.get("Upload-Offset"))
        if _number(head.headers.get("Upload-Length")) != parcel.bytes or offset > parcel.bytes:
            raise _nonsense("wrong byte count")
        with file_of(parcel).open("rb") as file:
            file.seek(offset)
            while offset < parcel.bytes:
                hand.go_on()
                hand.progress(offset, parcel.bytes)
                piece = file.read(PIECE)
                if not piece:
                    raise changed(parcel)
                mark = base64.b64encode(hashlib.sha256(piece).digest()).decode()
                headers = {
                    "Tus-Resumable": TUS, "Upload-Offset": str(offset), "Upload-Checksum": f"sha256 {mark}",
                    "Content-Type": "application/offset+octet-stream",
                }  # fmt: skip
                answer = client.send("PATCH", url, piece, headers)
                self._good(answer)
                came = _number(answer.headers.get("Upload-Offset"))
                if came != offset + len(piece):
                    raise _nonsense("wrong byte count")
                offset = came
        hand.progress(parcel.bytes, parcel.bytes)

    def _asked(self, client: "_Client", parcel: Parcel, kept: dict[str, Any]) -> TransferResult | None:
        """The server's answer about a file; None where it waits for it."""
        row = self._json(client.get(self._here(kept.get("status"))))
        reasons = reasons_from(row.get("reasons"))
        receipt = {"receipt": plain_line(str(row.get("receipt") or ""))[:200], "sha256": parcel.sha256}
        match row.get("state"):
            case "receiving":
                return None
            case "checking":
                return TransferResult(
                    "taken", "Received; being checked by the recipient.", receipt, kept=kept, look_again_s=LOOK_AGAIN_S
                )
            case "accepted" if row.get("sha256") == parcel.sha256:
                return TransferResult("accepted", "Accepted.", receipt, kept=kept)
            case "refused" if reasons:
                first = reasons[0].sentence
                rest = f" {len(reasons)} reasons." if len(reasons) > 1 else ""
                return TransferResult("refused", f"{first}{rest}", receipt, reasons, kept)
        raise _nonsense("no verdict on the file")

    def _json(self, answer: "_Answered") -> dict[str, Any]:
        self._good(answer)
        try:
            row = json.loads(answer.body)
        except (ValueError, RecursionError) as error:
            raise _nonsense("not JSON") from error
        if not isinstance(row, dict):
            raise _nonsense("not a JSON object")
        return row

    def _good(self, answer: "_Answered") -> None:
        status = answer.status
        if 200 <= status < 300:
            return
        said = _sentence(answer.body)
        if status in (401, 403):
            message = f"Token rejected ({status}). Update it in Outbox."
            raise BadInput("send.login", message)
        if status == 507:
            message = f"The recipient has no space left. {said}"
            raise later(message)
        if status in (400, 413, 415, 422):
            message = f"Rejected ({status}). {said}"
            raise Conflict("send.refused", message)
        message = f"Temporarily unavailable ({status}). {said}"
        raise later(message)


class _Answered:
    """What came back: status, headers and a body that is not without end."""

    def __init__(self, status: int, headers: Any, body: bytes) -> None:
        self.status = status
        self.headers = headers
        self.body = body


class _Client:
    """HTTP to one server; redirects are not followed, and connection errors are retried.

    A whole answer has a time limit, even if its bytes trickle; a request to stop does not wait for one.
    """

    def __init__(self, token: str, should_stop: Callable[[], bool]) -> None:
        # Imported here because only transfers to a server need the library.
        import httpx2

        self._errors = (httpx2.HTTPError, httpx2.InvalidURL, OSError, TimeoutError)
        headers = {"Authorization": f"Bearer {token}"} if token else {}
        self._client = httpx2.AsyncClient(timeout=_SECONDS, follow_redirects=False, headers=headers, trust_env=False)
        self._should_stop = should_stop
        # A loop in a thread of its own: the caller may have one already.
        self._loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self._loop.run_forever, name="asking", daemon=True)
        self._thread.start()

    def __enter__(self) -> "_Client":
        return self

    def __exit__(self, *_: object) -> None:
        asyncio.run_coroutine_threadsafe(self._client.aclose(), self._loop).result()
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join()
        self._loop.close()

    def get(self, url: str) -> _Answered:
        """An answer to a question."""
        return self.send("GET", url, b"", {"Accept": "application/json"})

    def send(self, method: str, url: str, body: bytes, headers: dict[str, str]) -> _Answered:
        """An answer to anything. Raises: Interrupted ``send.later``; Cancelled ``send.stopped``."""
        try:
            asked = self._watched(self._sent(method, url, body, headers))
            return asyncio.run_coroutine_threadsafe(asked, self._loop).result()
        except self._errors as error:
            why = plain_line(str(error))[:200] or type(error).__name__
            if isinstance(error, TimeoutError):
                why = f"incomplete answer after {MOST_SECONDS:.0f} s"
            message = f"No answer from {urlsplit(url).netloc}: {why}."
            raise later(message) from error

    async def _watched(self, sending: Coroutine[Any, Any, _Answered]) -> _Answered:
        task, until = asyncio.ensure_future(sending), time.monotonic() + MOST_SECONDS
        while not (await asyncio.wait([task], timeout=_LOOK_S))[0]:
            if (stopped := self._should_stop()) or time.monotonic() > until:
                task.cancel()
                await asyncio.wait([task])
                if stopped:
                    raise stopped_before()
                raise TimeoutError
        return task.result()

    async def _sent(self, method: str, url: str, body: bytes, headers: dict[str, str]) -> _Answered:
        async with self._client.stream(method, url, content=body or None, headers=headers) as answer:
            found = b""
            async for block in answer.aiter_bytes():
                found += block
                if len(found) > _MOST_ANSWER:
                    raise _nonsense("answer too long")
            return _Answered(answer.status_code, answer.headers, found)


def _number(said: str | None) -> int:
    if said is None or not (said.isascii() and said.isdigit()) or len(said) > 15:
        raise _nonsense("no byte count")
    return int(said)


def _sentence(body: bytes) -> str:
    try:
        row = json.loads(body)
    except (ValueError, RecursionError):
        return ""
    return plain_line(str(row.get("sentence") or ""))[:300] if isinstance(row, dict) else ""


def _nonsense(why: str) -> Interrupted:
    return later(f"Unexpected reply from the recipient: {why}. Contact them.")
