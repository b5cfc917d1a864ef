"""Burning an image with a disc writer, and reading it back; the writer is a process, reached by its socket."""

import base64
import json
import socket
import subprocess
import sys
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from types import TracebackType
from typing import Any, Self

from ripe_press.core.disc.check import check_disc
from ripe_press.core.disc.cue import CueSheet, read_cue
from ripe_press.core.disc.frames import FRAME_BYTES, PAUSE_FRAMES, print_frames
from ripe_press.core.disc.image import look_at_image
from ripe_press.core.disc.read_back import ReadBack, read_back
from ripe_press.core.disc.subchannel import OnDisc, control_of
from ripe_press.core.errors import BadInput, Cancelled, Interrupted, Unsupported
from ripe_press.core.words import quoted
from ripe_press.studio.discs.images import cue_in

_AT_ONCE = 150
_PATIENCE_S = 30.0
_ANSWERS = {
    "NO_MEDIUM": "No disc in the writer. Insert one.",
    "BUSY": "The writer is burning. Wait until it is done.",
    "WRONG_MEDIUM": "The disc is not blank. Insert a blank disc or erase this one.",
    "TOO_LONG": "The image is longer than the disc. Insert a longer disc or remove a track.",
    "UNDERRUN": "Buffer underrun: disc unusable. Burn a new one slower.",
    "READ_ERROR": "Cannot read the disc. Clean it or burn a new one.",
}


class Writer:
    """The connection to a disc writer."""

    def __init__(self, port: int, process: "subprocess.Popen[bytes] | None" = None) -> None:
        self._process = process
        try:
            self._socket = socket.create_connection(("127.0.0.1", port), timeout=_PATIENCE_S)
        except OSError as error:
            message = f"No disc writer on port {port} ({error.strerror or error}). Start it with `ripe-press rack`."
            raise Interrupted("writer.gone", message, port=port) from error
        self._file = self._socket.makefile("rwb")
        self._number = 0

    @classmethod
    def own(cls, hurry: float = 1.0) -> "Writer":
        """Begins a writer of one's own; it ends with this connection. Raises: Interrupted ``writer.gone``."""
        process = subprocess.Popen(  # noqa: S603 - this very program
            [sys.executable, "-m", "ripe_press.rack.disc_writer", "--hurry", str(hurry)],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE,
        )  # fmt: skip
        assert process.stdout  # noqa: S101 - it was asked for
        line = process.stdout.readline()
        if not line:
            raise Interrupted("writer.gone", "The disc writer did not start.")
        return cls(int(json.loads(line)["port"]), process)

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        """Ends the connection, and the writer where it is one's own."""
        self._file.close()
        self._socket.close()
        if self._process and self._process.stdin:
            self._process.stdin.close()
            self._process.wait(10)
            if self._process.stdout:
                self._process.stdout.close()

    def ask(self, command: str, data: bytes = b"", **fields: Any) -> tuple[dict[str, Any], bytes]:
        """One command; gives its answer and the bytes that came with it.

        Raises: Unsupported ``writer.…`` in one sentence for what it does not do; Interrupted ``writer.gone``.
        """
        self._number += 1
        row = {"id": self._number, "cmd": command, "len": len(data), **fields}
        try:
            self._file.write(json.dumps(row).encode() + b"\n" + data)
            self._file.flush()
            answer = json.loads(self._file.readline())
            more = self._file.read(answer.get("len", 0))
        except (OSError, ValueError) as error:
            message = "Connection to the disc writer lost. Check the disc."
            raise Interrupted("writer.gone", message) from error
        if not answer["ok"]:
            code = answer["code"]
            message = _ANSWERS.get(code, f"The disc writer rejected the command: {code} ({answer.get('sense', '')}).")
            named = "writer." + code.lower().replace("_", "-")
            raise Unsupported(named, message, sense=answer.get("sense"))
        return answer, more


@dataclass(frozen=True, slots=True)
class BurnRequest:
    """How a disc is to be burnt: into which folder the medium is, what it is where it is new, and how fast."""

    medium: Path
    kind: str = "cdr80"
    speed: int = 16
    simulate: bool = False
    finalize: bool = True
    erase: bool = False


Told = Callable[[str, int, int], None]
"""Progress: the step (*burning*, *verifying*), frames done, frames in all."""


def burn(
    what: Path,
    wish: BurnRequest,
    writer: Writer,
    progress: Told = lambda _what, _done, _total: None,
    should_stop: Callable[[], bool] = lambda: False,
) -> dict[str, Any]:
    """Burns the image of a folder or cue sheet and reads it back; gives the report.

    Raises: NotFound; BadInput ``disc.not-one``; Unsupported ``writer.…``; Cancelled ``disc.cancelled``, which says
    what the disc is worth.
    """
    cue = cue_in(what)
    report = check_disc(cue)
    wrong = [one for one in report.checks if one.stops and not one.holds]
    if wrong:
        raise BadInput("disc.not-one", f"{wrong[0].sentence} Not burned.", rule=wrong[0].rule)
    sheet, _ = read_cue(cue.read_bytes())
    tracks = on_disc(sheet)
    image = look_at_image(report.image, sheet.kind)
    if not image.raw:
        message = f"{quoted(report.image.name)} has a file header. Use an image without one."
        raise BadInput("disc.with-header", message, path=str(report.image))
    text = cue.parent / sheet.text_file if sheet.text_file else None
    writer.ask("load", folder=str(wish.medium.absolute()), kind=wish.kind)
    if wish.erase:
        writer.ask("erase")
    writer.ask(
        "open", lead_out=image.frames, catalog=sheet.catalog, speed=wish.speed, simulate=wish.simulate,
        finalize=wish.finalize,
        tracks=[{"number": t.number, "indexes": t.indexes, "isrc": t.isrc, "control": t.control} for t in tracks],
        text=base64.b64encode(text.read_bytes()).decode() if text else "",
    )  # fmt: skip
    pauses = _write(report.image, image.frames, wish, writer, progress, should_stop)
    found: ReadBack | None = None
    if not wish.simulate:

        def read(frame: int, frames: int) -> tuple[list[int], bytes]:
            answer, data = writer.ask("read", lba=frame, frames=frames)
            return answer["c2"], data

        found = read_back(
            report.image, tracks, image.frames, read, lambda done, total: progress("verifying", done, total)
        )
    writer.ask("eject")
    return {
        "disc": None if wish.simulate else str(wish.medium), "image": str(report.image), "cue": str(cue),
        "medium": wish.kind, "speed": wish.speed, "simulated": wish.simulate, "pauses": pauses,
        "finalised": wish.finalize and not wish.simulate, "read_back": _read_back_row(found) if found else None,
        "worth": _worth(wish, found),
    }  # fmt: skip


def on_disc(sheet: CueSheet) -> list[OnDisc]:
    """The tracks of a sheet as the subchannel has them."""
    return [
        OnDisc(one.number, tuple(sorted(one.indexes.items())), one.isrc, control_of(one.flags)) for one in sheet.tracks
    ]


def _write(
    image: Path, frames: int, wish: BurnRequest, writer: Writer, progress: Told, should_stop: Callable[[], bool]
) -> int:
    """The pause before track 1 and the image. Gives how often the laser had to wait."""
    total = frames + PAUSE_FRAMES
    lba = -PAUSE_FRAMES
    with image.open("rb") as file:
        while lba < frames:
            if should_stop():
                writer.ask("abort")
                worth = _cancelled_worth(wish, lba)
                writer.ask("eject")
                raise Cancelled("disc.cancelled", f"Burn cancelled at {print_frames(max(0, lba))}. {worth}")
            data = bytes(PAUSE_FRAMES * FRAME_BYTES) if lba < 0 else file.read(_AT_ONCE * FRAME_BYTES)
            writer.ask("write", data, lba=lba)
            lba += len(data) // FRAME_BYTES
            progress("burning", lba + PAUSE_FRAMES, total)
    answer, _ = writer.ask("close")
    return int(answer["pauses"])


def _cancelled_worth(wish: BurnRequest, lba: int) -> str:
    if wish.simulate or lba == -PAUSE_FRAMES:
        return "Nothing was burned; the disc is still blank."
    if wish.kind == "cdrw80":
        return "The disc is unusable until erased."
    return "The disc is unusable: its table of contents is wrong. Discard it."


def _worth(wish: BurnRequest, found: ReadBack | None) -> str:
    if found is None:
        return "Test burn complete; the disc is still blank."
    if not found.holds:
        return f"{found.wrong_frames:,} of {found.frames:,} sectors differ. Do not send this disc."
    end = "" if wish.finalize else " Not finalised: CD players cannot read it yet."
    offset = f" (drive offset of {found.offset_samples:+d} samples removed)" if found.offset_samples else ""
    return f"Every sample is identical{offset}.{end}"


def _read_back_row(found: ReadBack) -> dict[str, Any]:
    return {
        "holds": found.holds, "offset_samples": found.offset_samples, "frames": found.frames,
        "wrong_frames": found.wrong_frames, "lost_samples": found.lost_samples, "places_wrong": found.places_wrong,
        "barcode": found.catalog, "isrcs": found.isrcs,
        "wrong": [{**asdict(one), "sentence": _sentence(one)} for one in found.wrong],
    }  # fmt: skip


def _sentence(one: Any) -> str:
    minutes, seconds = divmod(one.at_s, 60)
    knew = "" if one.known else " Not reported by the drive."
    return f"Track {one.track}, {int(minutes)}:{seconds:05.2f}: {one.samples} samples differ.{knew}"
