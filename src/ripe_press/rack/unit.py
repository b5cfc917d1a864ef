"""A unit of the rack as a process: an outboard unit or an instrument, heard and spoken to as `wire` says.

It says its port on standard output. Faults are asked for when it is begun, so that bad cases can be tried: ``drop:F:N``
omits N frames at frame F, and counts them; ``mute:F:N`` is silent there, without a count; ``lose:F:N`` leaves them out
without telling; ``nan:F:1`` sends an invalid number; ``vanish:F:0`` goes away; ``slow:F:S`` does not answer for S
seconds.
"""

import argparse
import base64
import binascii
import json
import queue
import socket
import socketserver
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np

from ripe_press.core.errors import Unreadable
from ripe_press.core.live.score import Score, read_score
from ripe_press.rack.instrument import Instrument
from ripe_press.rack.outboard import Character, Outboard
from ripe_press.rack.wire import INSTRUMENT_PORT, OUTBOARD_PORT, Frames, Message, receive, send, tell

RATES_HZ = (44_100, 48_000, 88_200, 96_000)
ADDRESS = "127.0.0.1"
_AHEAD_BLOCKS = 16
Kind = Literal["outboard", "instrument"]


class Gone(Exception):
    """The unit goes away."""


@dataclass(slots=True)
class Setup:
    """How a unit is made. ``hurry`` is the speed of its clock relative to real time; 0 is as fast as possible."""

    kind: Kind
    name: str
    character: Character = field(default_factory=Character)
    hurry: float = 1.0
    faults: list[tuple[str, int, float]] = field(default_factory=list)
    rates_hz: tuple[int, ...] = RATES_HZ
    most_channels: int = 2


class UnitProcessing:
    """The processing of a unit: one connection at a time."""

    def __init__(self, setup: Setup) -> None:
        self.setup = setup
        self.taken = threading.Lock()

    def serve(self, connection: socket.socket, file: Any) -> None:
        """Speaks with one host until it goes."""
        setup = self.setup
        tell(
            connection, "HELO", unit=setup.kind, name=setup.name, rates_hz=setup.rates_hz,
            most_channels=setup.most_channels, busy=self.taken.locked(),
        )  # fmt: skip
        asked = receive(file)
        if asked is None or asked.kind != "OPEN":
            return
        if not self.taken.acquire(blocking=False):
            _fail(connection, "busy", f"{setup.name} is in use by another pass.")
            return
        try:
            self._open(connection, file, asked.fields())
        except Gone:
            return
        finally:
            self.taken.release()

    def _open(self, connection: socket.socket, file: Any, asked: dict[str, Any]) -> None:
        setup = self.setup
        rate_hz, channels = asked.get("rate_hz"), asked.get("channels")
        if rate_hz not in setup.rates_hz:
            rates = ", ".join(f"{one / 1000:g}" for one in setup.rates_hz)
            _fail(connection, "rate", f"{setup.name} supports {rates} kHz, not {rate_hz} Hz.")
            return
        if not isinstance(channels, int) or not 1 <= channels <= setup.most_channels:
            has = "1 channel" if setup.most_channels == 1 else f"{setup.most_channels} channels"
            _fail(connection, "channels", f"{setup.name} has {has}, not {channels}.")
            return
        try:
            score = read_score(base64.b64decode(asked.get("score", ""))) if asked.get("score") else Score((), 0.0)
        except (Unreadable, binascii.Error, ValueError, TypeError) as error:
            _fail(connection, "score", str(error))
            return
        tell(connection, "REDY", rate_hz=rate_hz, channels=channels)
        Session(setup, connection, file, rate_hz, channels, score).run()


def _fail(connection: socket.socket, code: str, sentence: str) -> None:
    tell(connection, "FAIL", code=code, sentence=sentence)


class Session:
    """One pass through the unit: a thread receives, and frames are returned at the speed of its clock."""

    def __init__(
        self, setup: Setup, connection: socket.socket, file: Any, rate_hz: int, channels: int, score: Score
    ) -> None:
        self._setup, self._connection, self._file = setup, connection, file
        self._rate_hz, self._channels = rate_hz, channels
        self._coming: queue.Queue[Message | None] = queue.Queue(_AHEAD_BLOCKS)
        self._faults = sorted(setup.faults, key=lambda one: one[1])
        self._counter = 0
        self._skip = 0
        self._began = time.monotonic()
        self._work: Callable[[Frames, bool], Frames]
        self._instrument: Instrument | None = None
        if setup.kind == "instrument":
            instrument = Instrument(rate_hz, channels, score, setup.character.latency_frames)
            self._instrument = instrument
            noise = Outboard(rate_hz, channels, Character(0, setup.character.drift_ppm, setup.character.noise_dbfs))
            self._work = lambda sent, last: noise.process(instrument.process(len(sent)), last=last)
        else:
            unit = Outboard(rate_hz, channels, setup.character)
            self._work = lambda sent, last: unit.process(sent, last=last)

    def run(self) -> None:
        """Until the host says that no more will come. Raises: Gone."""
        threading.Thread(target=self._take, daemon=True).start()
        while (message := self._coming.get()) is not None:
            if message.kind == "CUE" and self._instrument:
                self._instrument.cue(str(message.fields().get("what")), message.counter)
            elif message.kind == "PLAY":
                frames = message.frames(self._channels)
                if frames is None:
                    return
                self._leave(self._work(frames, False))
            elif message.kind == "STOP":
                self._leave(self._work(np.zeros((0, self._channels), dtype=np.float32), True))
                send(self._connection, "DONE", counter=self._counter)
                return

    def _take(self) -> None:
        with suppress(OSError, ValueError):
            while (message := receive(self._file)) is not None:
                self._coming.put(message)
                if message.kind == "STOP":
                    return
        self._coming.put(None)

    def _leave(self, frames: Frames) -> None:
        """Sends what has come out, when its time has come."""
        if not len(frames):
            return
        frames = self._spoilt(frames)
        if self._setup.hurry:
            due = self._began + (self._counter + len(frames)) / (self._rate_hz * self._setup.hurry)
            time.sleep(max(0.0, due - time.monotonic()))
        if len(frames):
            body = np.ascontiguousarray(frames, dtype="<f4").tobytes()
            send(self._connection, "HEAR", body, self._counter)
            self._counter += len(frames)
        self._counter += self._skip
        self._skip = 0

    def _spoilt(self, frames: Frames) -> Frames:
        """The frames with the set faults."""
        while self._faults and self._faults[0][1] < self._counter + len(frames):
            what, at, much = self._faults[0]
            place = max(0, at - self._counter)
            if what == "vanish":
                raise Gone
            if what == "slow":
                self._faults.pop(0)
                time.sleep(much)
                continue
            count = min(round(much), len(frames) - place)
            frames = frames.copy()
            if what == "nan":
                frames[place : place + count] = np.nan
            elif what == "mute":
                frames[place : place + count] = 0.0
            else:
                frames = self._left_out(frames, place, count, counted=what == "drop")
            self._faults.pop(0)
            if round(much) > count:
                # Silent omissions do not count.
                self._faults.insert(0, (what, at if what == "lose" else at + count, much - count))
                break
        return frames

    def _left_out(self, frames: Frames, place: int, count: int, *, counted: bool) -> Frames:
        if not counted:
            return np.concatenate((frames[:place], frames[place + count :]))
        if place:
            # Earlier frames leave first, so that the counter shows the exact place.
            send(self._connection, "HEAR", np.ascontiguousarray(frames[:place], dtype="<f4").tobytes(), self._counter)
        self._counter += place + count
        return frames[place + count :]


class _Listener(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        """Serve one connection."""
        server = self.server
        assert isinstance(server, UnitServer)  # noqa: S101 - it is made for it
        with suppress(OSError):
            self.connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
            server.works.serve(self.connection, self.rfile)


class UnitServer(socketserver.ThreadingTCPServer):
    """Listens for hosts, on this machine only."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, port: int, works: UnitProcessing) -> None:
        self.works = works
        super().__init__((ADDRESS, port), _Listener)


NAMES: dict[str, str] = {"outboard": "Weir Compressor", "instrument": "Sluice Kit"}
PORTS: dict[str, int] = {"outboard": OUTBOARD_PORT, "instrument": INSTRUMENT_PORT}
SHIPPED: dict[str, Character] = {
    "outboard": Character(1_187, 7.5, -96.0, warm=True), "instrument": Character(371, -4.0, -100.0),
}  # fmt: skip
"""Properties of the demo's units; the user measures them by a pass."""


def main() -> None:
    """Run until ended, or until the parent process is gone."""
    parser = argparse.ArgumentParser(description="A simulated real-time unit on a local socket.")
    parser.add_argument("kind", choices=["outboard", "instrument"])
    parser.add_argument("--port", type=int, default=0, help="Port; 0 = any free port.")
    parser.add_argument("--hurry", type=float, default=1.0, help="Speed factor of its clock.")
    parser.add_argument("--latency", type=int, help="Frames.")
    parser.add_argument("--drift-ppm", type=float)
    parser.add_argument("--noise-dbfs", type=float)
    parser.add_argument("--clean", action="store_true", help="Pass audio through unchanged.")
    parser.add_argument("--fault", action="append", default=[], help="WHAT:FRAME:HOW_MUCH; see above.")
    parser.add_argument("--rate", type=int, action="append", default=[], help="Supported rate in Hz. Repeatable.")
    parser.add_argument("--channels", type=int, default=2)
    chosen = parser.parse_args()
    shipped = Character(noise_dbfs=-float("inf")) if chosen.clean else SHIPPED[chosen.kind]
    character = Character(
        shipped.latency_frames if chosen.latency is None else chosen.latency,
        shipped.drift_ppm if chosen.drift_ppm is None else chosen.drift_ppm,
        shipped.noise_dbfs if chosen.noise_dbfs is None else chosen.noise_dbfs, shipped.warm,
    )  # fmt: skip
    faults = [(what, int(at), float(much)) for what, at, much in (one.split(":") for one in chosen.fault)]
    setup = Setup(
        chosen.kind, NAMES[chosen.kind], character, chosen.hurry, faults, tuple(chosen.rate) or RATES_HZ,
        chosen.channels,
    )  # fmt: skip
    with UnitServer(chosen.port, UnitProcessing(setup)) as server:
        sys.stdout.write(json.dumps({"unit": chosen.kind, "port": server.server_address[1]}) + "\n")
        sys.stdout.flush()
        threading.Thread(target=_end_with, args=(server,), daemon=True).start()
        server.serve_forever(0.1)


def _end_with(server: UnitServer) -> None:
    """Standard input ends when the process that began this one does."""
    sys.stdin.read()
    server.shutdown()


if __name__ == "__main__":
    main()
