"""The disc writer as a process: one JSON object a line on a socket of this machine, samples as bytes behind it.

``{"id": 7, "cmd": "write", "lba": -150, "len": 150528}`` and so many bytes are answered by ``{"id": 7, "ok": true,
"next": -86, "len": 0}``, or by ``"ok": false`` with a code and a sense. It says its port on standard output.
"""

import argparse
import base64
import json
import socketserver
import sys
import threading
from io import BufferedIOBase
from pathlib import Path
from typing import Any

from ripe_press.rack.disc_drive import Drive, DriveError, DriveFaults

MOST_LINE = 64 << 10
MOST_BYTES = 4 << 20
GOOD_ADDRESS = "127.0.0.1"


class Writer:
    """Executes commands of the drive, one at a time."""

    def __init__(self, drive: Drive) -> None:
        self._drive = drive
        self._lock = threading.Lock()

    def answer(self, asked: dict[str, Any], data: bytes) -> tuple[dict[str, Any], bytes]:
        """The answer to one command, and its bytes."""
        try:
            do = getattr(self, f"_{asked.get('cmd')}", None)
            if do is None or not isinstance(asked.get("cmd"), str):
                raise DriveError("BAD_COMMAND", "5/20/00")
            with self._lock:
                answer, more = do(asked, data)
        except DriveError as refused:
            return {"id": asked.get("id"), "ok": False, **refused.answer, "len": 0}, b""
        except (KeyError, TypeError, ValueError) as error:
            answer = {"code": "BAD_FIELD", "sense": "5/24/00", "why": str(error)}
            return {"id": asked.get("id"), "ok": False, **answer, "len": 0}, b""
        return {"id": asked.get("id"), "ok": True, "len": len(more), **answer}, more

    def _status(self, _asked: dict[str, Any], _data: bytes) -> tuple[dict[str, Any], bytes]:
        return self._drive.status(), b""

    def _load(self, asked: dict[str, Any], _data: bytes) -> tuple[dict[str, Any], bytes]:
        return self._drive.load(Path(asked["folder"]), asked.get("kind", "cdr80")), b""

    def _eject(self, _asked: dict[str, Any], _data: bytes) -> tuple[dict[str, Any], bytes]:
        return self._drive.eject(), b""

    def _open(self, asked: dict[str, Any], _data: bytes) -> tuple[dict[str, Any], bytes]:
        answer = self._drive.open(
            int(asked["lead_out"]), list(asked["tracks"]), asked.get("catalog", ""),
            base64.b64decode(asked.get("text", "")), int(asked.get("speed", 48)),
            simulate=bool(asked.get("simulate")), finalize=asked.get("finalize", True) is True,
            protected=asked.get("protected", True) is True,
        )  # fmt: skip
        return answer, b""

    def _write(self, asked: dict[str, Any], data: bytes) -> tuple[dict[str, Any], bytes]:
        return self._drive.write(int(asked["lba"]), data), b""

    def _close(self, _asked: dict[str, Any], _data: bytes) -> tuple[dict[str, Any], bytes]:
        return self._drive.close(), b""

    def _abort(self, _asked: dict[str, Any], _data: bytes) -> tuple[dict[str, Any], bytes]:
        return self._drive.abort(), b""

    def _erase(self, _asked: dict[str, Any], _data: bytes) -> tuple[dict[str, Any], bytes]:
        return self._drive.erase(), b""

    def _toc(self, _asked: dict[str, Any], _data: bytes) -> tuple[dict[str, Any], bytes]:
        return self._drive.toc(), b""

    def _read(self, asked: dict[str, Any], _data: bytes) -> tuple[dict[str, Any], bytes]:
        return self._drive.read(int(asked["lba"]), int(asked["frames"]))

    def _fault(self, asked: dict[str, Any], _data: bytes) -> tuple[dict[str, Any], bytes]:
        bad = {int(frame): int(wrong) for frame, wrong in dict(asked.get("bad", {})).items()}
        underrun = asked.get("underrun_at")
        self._drive.faults = DriveFaults(None if underrun is None else int(underrun), bad, int(asked.get("offset", 0)))
        return {}, b""


class _Listener(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        """Answers line by line until the other side has gone."""
        server = self.server
        assert isinstance(server, _Server)  # noqa: S101 - it is made for it
        while line := self.rfile.readline(MOST_LINE + 1):
            asked = _read(line, self.rfile)
            if asked is None:
                answer, more = {"ok": False, "code": "BAD_JSON", "sense": "5/24/00", "len": 0}, b""
            else:
                answer, more = server.writer.answer(*asked)
            self.wfile.write(json.dumps(answer).encode() + b"\n" + more)
            if asked is None:
                return


def _read(line: bytes, file: BufferedIOBase) -> tuple[dict[str, Any], bytes] | None:
    try:
        asked = json.loads(line)
        size = int(asked.get("len", 0))
    except (ValueError, AttributeError, TypeError):
        return None
    if len(line) > MOST_LINE or not 0 <= size <= MOST_BYTES:
        return None
    data = file.read(size)
    return (asked, data) if len(data) == size else None


class _Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, port: int, writer: Writer) -> None:
        self.writer = writer
        super().__init__((GOOD_ADDRESS, port), _Listener)


def main() -> None:
    """Run until ended, or until the parent process is gone."""
    parser = argparse.ArgumentParser(description="A simulated disc writer on a local socket.")
    parser.add_argument("--port", type=int, default=0, help="Port; 0 = any free port.")
    parser.add_argument("--hurry", type=float, default=1.0, help="Speed factor.")
    chosen = parser.parse_args()
    with _Server(chosen.port, Writer(Drive(chosen.hurry))) as server:
        sys.stdout.write(json.dumps({"port": server.server_address[1]}) + "\n")
        sys.stdout.flush()
        threading.Thread(target=_end_with, args=(server,), daemon=True).start()
        server.serve_forever(0.1)


def _end_with(server: _Server) -> None:
    """Standard input ends when the process that began this one does."""
    sys.stdin.read()
    server.shutdown()


if __name__ == "__main__":
    main()
