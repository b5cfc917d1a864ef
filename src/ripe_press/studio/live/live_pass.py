"""A live pass: audio is sent to a unit in real time, and its return is recorded."""

import base64
import socket
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from io import BufferedIOBase
from pathlib import Path
from typing import BinaryIO, Literal, cast

import numpy as np

from ripe_press.core.disk import write_failed
from ripe_press.core.errors import BadInput, Cancelled, Conflict, Interrupted, NotFound, RipePressError, Unsupported
from ripe_press.core.live.capture import CaptureResult, PassLayout, probe_at
from ripe_press.core.live.dropouts import Dropout
from ripe_press.core.live.probe import probe
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.units import linear_from_db, print_clock, print_count
from ripe_press.core.words import quoted
from ripe_press.rack.wire import BLOCK_FRAMES, Frames, Message, receive, send, tell

PATIENCE_S = 5.0
"""So long nothing may come before a unit is taken to have stopped."""
_HELLO_S = 1.0
_TOLD_S = 0.1
OnDropout = Literal["go-on", "end"]


@dataclass(frozen=True, slots=True)
class UnitAt:
    """A unit as it says hello: where, what, and whether another pass has it."""

    address: str
    unit: str
    name: str
    rates_hz: tuple[int, ...]
    most_channels: int
    busy: bool


@dataclass(frozen=True, slots=True)
class PassSettings:
    """How a pass is run."""

    on_dropout: OnDropout = "go-on"
    stop_on_over: bool = False
    send_gain_db: float = 0.0


@dataclass(frozen=True, slots=True)
class PassLevels:
    """Progress of a pass, in frames, and the highest send and return peaks since the last report."""

    done: int
    total: int
    sent_peak: float
    heard_peak: float
    overs: int
    dropouts: int


@dataclass(slots=True)
class _Run:
    """What has come of a pass so far."""

    written: int = 0
    gaps: list[Dropout] = field(default_factory=list)
    overs: int = 0
    heard_peak: float = 0.0
    sent_peaks: deque[tuple[int, float]] = field(default_factory=deque)
    """Of what went out and has not been heard yet: where it begins, and its loudest."""
    ended: RipePressError | None = None

    def sent_peak(self) -> float:
        """The loudest of what went out, as far as its time has come."""
        loudest = 0.0
        while self.sent_peaks and self.sent_peaks[0][0] < self.written:
            loudest = max(loudest, self.sent_peaks.popleft()[1])
        return loudest


def unit_at(address: str, seconds: float = _HELLO_S) -> UnitAt:
    """Who answers at an address like ``127.0.0.1:8141``. Raises: BadInput ``rack.address``; NotFound ``rack.away``."""
    with _connected(address, seconds) as connection, connection.makefile("rb") as file:
        return _hello(address, cast("BufferedIOBase", file))


def run_pass(
    address: str,
    layout: PassLayout,
    sound: AudioSource | None,
    score: bytes,
    settings: PassSettings,
    spool: Path,
    progress: Callable[[PassLevels], None],
    should_stop: Callable[[], bool],
    patience_s: float = PATIENCE_S,
) -> tuple[CaptureResult, RipePressError | None]:
    """Run a pass to its end, or as far as possible; the recording is kept, with the reason if it ended early.

    ``sound`` goes out to an outboard unit; an instrument plays ``score``. Raises: BadInput, NotFound, Conflict or
    Unsupported ``rack.…`` where it cannot begin: then nothing was heard.
    """
    with _connected(address, patience_s) as connection, connection.makefile("rb") as raw:
        file = cast("BufferedIOBase", raw)
        hello = _hello(address, file)
        told_score = base64.b64encode(score).decode() if score else ""
        tell(connection, "OPEN", rate_hz=layout.rate_hz, channels=layout.channels, score=told_score)
        _ready(hello, receive(file))
        run = _Run()
        stop = threading.Event()
        sender = threading.Thread(
            target=_send_all, args=(connection, layout, sound, settings, run, stop), name="pass", daemon=True
        )
        sender.start()
        try:
            # Unbuffered: nothing is left to be written when it is closed.
            with spool.open("wb", buffering=0) as raw_out:
                out = cast("BinaryIO", raw_out)
                _listen(hello.name, file, layout, settings, out, run, progress, should_stop)
        except RipePressError as error:
            # The recording up to then is kept.
            run.ended = error
        except TimeoutError:
            message = f"{hello.name} has not answered for {patience_s:g} s. The recording so far is kept."
            run.ended = Interrupted("rack.silent", message)
        except OSError as error:
            message = f"Connection to {hello.name} lost: {error.strerror or error}. The recording so far is kept."
            run.ended = Interrupted("rack.gone", message)
        finally:
            stop.set()
            with suppress(OSError):
                connection.shutdown(socket.SHUT_RDWR)
            sender.join()
        return CaptureResult(spool, layout, tuple(run.gaps)), run.ended


def _connected(address: str, seconds: float) -> socket.socket:
    host, _, port = address.rpartition(":")
    if not host or not port.isdigit() or int(port) > 65_535:
        message = f"{quoted(address)} is not a unit address. Use, for example, 127.0.0.1:8141."
        raise BadInput("rack.address", message, address=address)
    try:
        connection = socket.create_connection((host, int(port)), timeout=seconds)
    except OSError as error:
        message = f"No unit at {address}. Start it with `ripe-press rack`."
        raise NotFound("rack.away", message, address=address) from error
    connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    return connection


def _hello(address: str, file: BufferedIOBase) -> UnitAt:
    try:
        message = receive(file)
    except OSError:
        message = None
    said = message.fields() if message and message.kind == "HELO" else {}
    try:
        return UnitAt(
            address, str(said["unit"]), str(said["name"]), tuple(int(one) for one in said["rates_hz"]),
            int(said["most_channels"]), bool(said.get("busy")),
        )  # fmt: skip
    except (KeyError, TypeError, ValueError) as error:
        sentence = f"{address} is not a rack unit."
        raise NotFound("rack.stranger", sentence, address=address) from error


def _ready(hello: UnitAt, message: Message | None) -> None:
    if message and message.kind == "REDY":
        return
    said = message.fields() if message and message.kind == "FAIL" else {}
    sentence = str(said.get("sentence") or f"{hello.name} disconnected before the pass started.")
    if said.get("code") == "busy":
        raise Conflict("rack.busy", sentence)
    code = str(said.get("code"))
    raise Unsupported("rack.refused", sentence, refused=code)


def _send_all(
    connection: socket.socket,
    layout: PassLayout,
    sound: AudioSource | None,
    settings: PassSettings,
    run: _Run,
    stop: threading.Event,
) -> None:
    """Sends everything of a pass; the unit takes it at its own speed."""
    sent = 0
    try:
        if sound is None:
            for what, at in (("click", layout.first_probe), ("score", layout.sound), ("click", layout.second_probe)):
                tell(connection, "CUE", at, what=what)
        for block in _sent_blocks(layout, sound, linear_from_db(settings.send_gain_db)):
            for at in range(0, len(block), BLOCK_FRAMES):
                if stop.is_set():
                    return
                part = block[at : at + BLOCK_FRAMES]
                send(connection, "PLAY", part.astype("<f4", copy=False).tobytes(), sent)
                run.sent_peaks.append((sent, float(np.abs(part).max(initial=0.0))))
                sent += len(part)
        send(connection, "STOP")
    except RipePressError as error:
        run.ended = run.ended or error
        with suppress(OSError):
            connection.shutdown(socket.SHUT_RDWR)
    except OSError:
        # Listeners are notified, too.
        return


def _sent_blocks(layout: PassLayout, sound: AudioSource | None, gain: float) -> Iterator[Frames]:
    """The sent signal, from the first frame to the last."""

    def silence(frames: int) -> Iterator[Frames]:
        for at in range(0, frames, BLOCK_FRAMES):
            yield np.zeros((min(BLOCK_FRAMES, frames - at), layout.channels), dtype=np.float32)

    def probing() -> Iterator[Frames]:
        line = probe(layout.rate_hz)[:, None]
        yield np.repeat(line if sound is not None else np.zeros_like(line), layout.channels, axis=1)
        yield from silence(layout.probe_room - len(line))

    yield from silence(layout.first_probe)
    yield from probing()
    if sound is None:
        yield from silence(layout.frames)
    else:
        with sound.open() as reader:
            for block in reader.blocks(0, layout.frames, BLOCK_FRAMES * 8):
                yield (block if gain == 1.0 else block * gain).astype(np.float32)
    yield from silence(layout.second_probe - layout.sound - layout.frames)
    yield from probing()


def _listen(
    name: str,
    file: BufferedIOBase,
    layout: PassLayout,
    settings: PassSettings,
    out: BinaryIO,
    run: _Run,
    progress: Callable[[PassLevels], None],
    should_stop: Callable[[], bool],
) -> None:
    """Record the return until it is complete, or something ends it."""
    last_told, probed = 0.0, False
    while run.ended is None:
        message = receive(file)
        if message is None:
            gone = Interrupted("rack.gone", f"Connection to {name} lost. The recording so far is kept.")
            run.ended = run.ended or gone
            return
        if message.kind == "DONE":
            return
        if message.kind != "HEAR":
            continue
        _take(name, message, layout, settings, out, run)
        room_ends = layout.first_probe + layout.probe_room
        if not probed and run.written >= room_ends and run.ended is None:
            probed = True
            _check_probe(name, Path(out.name), layout, run)
        if should_stop():
            run.ended = Cancelled("pass.stopped", "Stopped. The recording so far is kept.")
        if time.monotonic() - last_told >= _TOLD_S or run.ended:
            last_told = time.monotonic()
            done = max(0, min(layout.frames, run.written - layout.sound))
            progress(PassLevels(done, layout.frames, run.sent_peak(), run.heard_peak, run.overs, len(run.gaps)))
            run.heard_peak = 0.0


def _take(name: str, message: Message, layout: PassLayout, settings: PassSettings, out: BinaryIO, run: _Run) -> None:
    frames = message.frames(layout.channels)
    where = print_clock(max(0, run.written - layout.sound), layout.rate_hz)
    # A unit that counts past the end of the pass would have us fill the disk with silence.
    last = layout.end + layout.probe_room
    if frames is None or not run.written <= message.counter <= last:
        sentence = f"{name} sent at {where} invalid data. The recording so far is kept."
        run.ended = Interrupted("rack.garbled", sentence)
        return
    missing = message.counter - run.written
    if missing:
        run.gaps.append(Dropout("counter", run.written, missing))
        for at in range(0, missing, BLOCK_FRAMES):
            _keep(out, bytes(4 * layout.channels * min(BLOCK_FRAMES, missing - at)))
        run.written += missing
        if settings.on_dropout == "end":
            sentence = f"Stopped at a dropout of {print_count(missing, 'sample')} at {where}, as set."
            run.ended = Interrupted("pass.dropout", sentence)
            return
    if not np.isfinite(frames).all():
        good = int(np.argmin(np.isfinite(frames).all(axis=1)))
        _keep(out, frames[:good].tobytes())
        run.written += good
        sentence = f"{name} sent at {where} invalid samples. The recording so far is kept."
        run.ended = Interrupted("rack.not-a-number", sentence)
        return
    _keep(out, frames.tobytes())
    peak = float(np.abs(frames).max(initial=0.0))
    sounding = run.written + len(frames) > layout.sound
    run.written += len(frames)
    run.heard_peak = max(run.heard_peak, peak)
    if peak >= 1.0 and sounding:
        run.overs += int(np.count_nonzero(np.abs(frames) >= 1.0))
        if settings.stop_on_over:
            sentence = f"Stopped at {where}: return clipped. Lower the send gain."
            run.ended = Interrupted("pass.over", sentence)


def _keep(out: BinaryIO, data: bytes) -> None:
    """Takes sound down. Raises: Interrupted ``write.failed`` where the disk does not take it."""
    left = memoryview(data)
    try:
        while left:
            # What the disk takes may be less than what it was given.
            left = left[out.write(left) :]
    except OSError as error:
        raise write_failed(Path(out.name), error) from error


def _check_probe(name: str, spool: Path, layout: PassLayout, run: _Run) -> None:
    """Ends a pass early through which nothing comes back."""
    if probe_at(CaptureResult(spool, layout).open(), layout, layout.first_probe) is None:
        message = f"{name} returned no signal. Check its connections."
        run.ended = Unsupported("pass.no-probe", message)
