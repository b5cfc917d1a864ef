"""A disc writer as it behaves: media, states, buffer and speed, faults; a disc is a folder.

States and sense codes as MMC-3 names them (from memory of the text). The drive has a clock of its own, ``hurry`` times
as fast as real time, so that eighty minutes do not take an hour.
"""

import json
import os
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal

import numpy as np

from ripe_press.core.disc.frames import CAPACITY_FRAMES, FRAME_BYTES, PAUSE_FRAMES
from ripe_press.core.disc.subchannel import Q_BYTES, OnDisc, q_frames
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND

MediumKind = Literal["cdr74", "cdr80", "cdrw80", "pressed"]
State = Literal["blank", "writing", "appendable", "complete", "damaged"]
SPEEDS = (4, 8, 16, 24, 48)
BUFFER_BYTES = 2 << 20
CAPACITY = {"cdr74": CAPACITY_FRAMES[74], "cdr80": CAPACITY_FRAMES[80], "cdrw80": CAPACITY_FRAMES[80]}
_PROGRAM, _SUBCHANNEL, _MEDIUM, _TEXT = "program.bin", "subchannel.q", "medium.json", "cdtext.cdt"


class DriveError(Exception):
    """What a drive answers that does not do something: a code of ours, and the sense key, ASC and ASCQ."""

    def __init__(self, code: str, sense: str, **more: Any) -> None:
        super().__init__(code)
        self.answer = {"code": code, "sense": sense, **more}


@dataclass(slots=True)
class Medium:
    """A disc in the tray: its kind, its state, and its planned or written content."""

    folder: Path
    kind: MediumKind
    state: State = "blank"
    lead_out: int = 0
    written: int = -PAUSE_FRAMES
    """The frame after the last that was written; -150 where none was."""
    catalog: str = ""
    tracks: list[dict[str, Any]] = field(default_factory=list)
    speed: int = 0
    pauses: int = 0
    """How often the laser stopped and resumed in place, because no data came in time."""

    def keep(self) -> None:
        """Save the disc; a power cut leaves the state before or after."""
        row = {name: getattr(self, name) for name in self.__slots__ if name != "folder"}
        temporary = self.folder / f".{_MEDIUM}"
        temporary.write_text(json.dumps(row))
        temporary.replace(self.folder / _MEDIUM)

    @classmethod
    def of(cls, folder: Path) -> "Medium":
        """The disc in a folder. One that was being written when the power went is damaged."""
        medium = cls(folder, **json.loads((folder / _MEDIUM).read_text()))
        if medium.state == "writing":
            medium.state = "damaged"
            program = folder / _PROGRAM
            burnt = program.stat().st_size // FRAME_BYTES if program.exists() else 0
            medium.written = burnt - PAUSE_FRAMES
            medium.keep()
        return medium


@dataclass(slots=True)
class DriveFaults:
    """What a test lets go wrong."""

    underrun_at: int | None = None
    bad: dict[int, int] = field(default_factory=dict)
    """Frames that are read with so many wrong samples."""
    offset: int = 0
    """How many samples late it reads."""


class Drive:
    """One drive with at most one disc in it; every method answers, or raises `Refused`."""

    def __init__(self, hurry: float = 1.0, clock: Callable[[], float] = time.monotonic) -> None:
        self._hurry, self._clock = hurry, clock
        self.medium: Medium | None = None
        self.faults = DriveFaults()
        self._open = False
        self._simulate = self._protected = self._finalize = False
        self._speed = SPEEDS[-1]
        self._received = -PAUSE_FRAMES
        self._burnt = float(-PAUSE_FRAMES)
        self._burnt_at = 0.0
        self._text = b""

    def status(self) -> dict[str, Any]:
        """The disc and the progress of the drive."""
        self._burn_on()
        medium = self.medium
        if medium is None:
            return {"tray": "open" if self._open else "closed", "medium": None, "state": "empty"}
        held = (self._received - self._burnt) * FRAME_BYTES if medium.state == "writing" else 0.0
        return {
            "tray": "closed", "medium": medium.kind, "state": "writing" if medium.state == "writing" else medium.state,
            "capacity": CAPACITY.get(medium.kind, 0), "erasable": medium.kind == "cdrw80",
            "lead_out": medium.lead_out, "written": medium.written, "speed": self._speed, "speeds": list(SPEEDS),
            "buffer": min(1.0, held / BUFFER_BYTES), "burnt": int(self._burnt) if medium.state == "writing" else None,
            "pauses": medium.pauses, "folder": str(medium.folder),
        }  # fmt: skip

    def load(self, folder: Path, kind: MediumKind = "cdr80") -> dict[str, Any]:
        """Puts in the disc of a folder, or a blank one of a kind where there is none, and closes the tray."""
        if self.medium and self.medium.state == "writing":
            raise DriveError("BUSY", "2/04/08")
        folder.mkdir(parents=True, exist_ok=True)
        if (folder / _MEDIUM).is_file():
            self.medium = Medium.of(folder)
        else:
            self.medium = Medium(folder, kind)
            self.medium.keep()
        self._open = False
        return self.status()

    def eject(self) -> dict[str, Any]:
        """Opens the tray."""
        if self.medium and self.medium.state == "writing":
            raise DriveError("BUSY", "2/04/08")
        self.medium, self._open = None, True
        return self.status()

    def open(
        self,
        lead_out: int,
        tracks: list[dict[str, Any]],
        catalog: str = "",
        text: bytes = b"",
        speed: int = SPEEDS[-1],
        *,
        simulate: bool = False,
        finalize: bool = True,
        protected: bool = True,
    ) -> dict[str, Any]:
        """Begins to write a disc at once; ``tracks`` have number, indexes, isrc and control.

        With ``simulate`` the laser stays off and the medium blank. Without ``protected`` an empty buffer ends it.
        """
        medium = self._loaded()
        if medium.state == "writing":
            raise DriveError("BAD_STATE", "5/2C/00")
        if medium.state != "blank":
            raise DriveError("WRONG_MEDIUM", "5/30/05", state=medium.state)
        if lead_out > CAPACITY[medium.kind]:
            raise DriveError("TOO_LONG", "5/63/00", lead_out=lead_out, capacity=CAPACITY[medium.kind])
        medium.lead_out, medium.tracks, medium.catalog = lead_out, tracks, catalog
        medium.written, medium.speed, medium.pauses = -PAUSE_FRAMES, speed, 0
        medium.state = "writing"
        self._simulate, self._finalize, self._protected = simulate, finalize, protected
        self._speed, self._text = speed if speed in SPEEDS else SPEEDS[-1], text
        self._received, self._burnt, self._burnt_at = -PAUSE_FRAMES, float(-PAUSE_FRAMES), self._now()
        if not simulate:
            (medium.folder / _PROGRAM).write_bytes(b"")
            medium.keep()
        return self.status()

    def write(self, lba: int, data: bytes) -> dict[str, Any]:
        """Takes whole frames that follow on; waits while the buffer is full."""
        medium = self._loaded()
        if medium.state != "writing":
            raise DriveError("BAD_STATE", "5/2C/00")
        if len(data) % FRAME_BYTES:
            raise DriveError("PARTIAL_FRAME", "5/24/00")
        if lba != self._received:
            raise DriveError("BAD_ADDRESS", "5/21/02", next=self._received)
        frames = len(data) // FRAME_BYTES
        if lba + frames > medium.lead_out:
            raise DriveError("PAST_LEADOUT", "5/21/00", lead_out=medium.lead_out)
        self._burn_on()
        fault = self.faults.underrun_at
        starved = self._burnt >= self._received > -PAUSE_FRAMES
        if (starved and not self._protected) or (fault is not None and lba <= fault < lba + frames):
            self._end("damaged")
            raise DriveError("UNDERRUN", "3/0C/09", lba=self._received)
        if starved:
            medium.pauses += 1
            self._burnt_at = self._now()
        if not self._simulate:
            with (medium.folder / _PROGRAM).open("ab") as program:
                program.write(data)
        self._received += frames
        while (self._received - self._burnt) * FRAME_BYTES > BUFFER_BYTES:
            time.sleep(max(0.0005, BUFFER_BYTES / 4 / FRAME_BYTES / self._frames_a_second / self._hurry))
            self._burn_on()
        return {"next": self._received, "buffer": min(1.0, (self._received - self._burnt) * FRAME_BYTES / BUFFER_BYTES)}

    def close(self) -> dict[str, Any]:
        """Burn the rest, and the lead-out, unless the disc is to stay open."""
        medium = self._loaded()
        if medium.state != "writing":
            raise DriveError("BAD_STATE", "5/2C/00")
        if self._received < medium.lead_out:
            raise DriveError("SHORT", "5/2C/00", next=self._received)
        while self._burnt < self._received:
            time.sleep(0.001)
            self._burn_on()
        if not self._simulate:
            with (medium.folder / _PROGRAM).open("ab") as program:
                os.fsync(program.fileno())
            q = b"".join(q_frames(_on_disc(medium), medium.lead_out, medium.catalog))
            (medium.folder / _SUBCHANNEL).write_bytes(q)
            if self._text:
                (medium.folder / _TEXT).write_bytes(self._text)
        self._end("complete" if self._finalize else "appendable")
        return self.status()

    def abort(self) -> dict[str, Any]:
        """Stops writing: a disc on which anything was burnt is worth no more than that."""
        medium = self._loaded()
        if medium.state != "writing":
            raise DriveError("BAD_STATE", "5/2C/00")
        self._end("blank" if self._received == -PAUSE_FRAMES else "damaged")
        return self.status()

    def erase(self) -> dict[str, Any]:
        """Makes a rewritable disc blank again."""
        medium = self._loaded()
        if medium.state == "writing":
            raise DriveError("BUSY", "2/04/08")
        if medium.kind != "cdrw80":
            raise DriveError("WRONG_MEDIUM", "5/30/05", state=medium.state)
        for name in (_PROGRAM, _SUBCHANNEL, _TEXT):
            (medium.folder / name).unlink(missing_ok=True)
        medium.state, medium.lead_out, medium.tracks, medium.catalog = "blank", 0, [], ""
        medium.written = -PAUSE_FRAMES
        medium.keep()
        return self.status()

    def toc(self) -> dict[str, Any]:
        """The content of its lead-in; that of a damaged disc is the planned one, not the actual one."""
        medium = self._loaded()
        if medium.state in ("blank", "writing"):
            raise DriveError("BAD_STATE", "5/2C/00")
        return {"lead_out": medium.lead_out, "tracks": medium.tracks, "catalog": medium.catalog, "state": medium.state}

    def read(self, lba: int, frames: int) -> tuple[dict[str, Any], bytes]:
        """Frames as the drive hears them, then of each its Q: late by its offset, wrong where the disc is scratched.

        ``c2`` are the frames of which it knows that they are wrong.
        """
        medium = self._loaded()
        if medium.state in ("blank", "writing"):
            raise DriveError("BAD_STATE", "5/2C/00")
        if not -PAUSE_FRAMES <= lba <= lba + frames <= medium.lead_out or frames > 600:
            raise DriveError("OUT_OF_RANGE", "5/21/00", lead_out=medium.lead_out)
        if lba + frames > medium.written:
            raise DriveError("READ_ERROR", "3/11/06", lba=max(lba, medium.written))
        data = self._samples(medium, lba, frames)
        c2 = [one for one in sorted(self.faults.bad) if lba <= one < lba + frames]
        for frame in c2:
            at = (frame - lba) * FRAME_BYTES // 2
            wrong = min(self.faults.bad[frame], FRAME_BYTES // 2)
            data[at : at + wrong] ^= 0x2A5A
        return {"c2": c2, "len": data.nbytes + frames * Q_BYTES}, data.tobytes() + self._q(medium, lba, frames)

    def _samples(self, medium: Medium, lba: int, frames: int) -> "np.ndarray[tuple[int], np.dtype[np.int16]]":
        first = (lba + PAUSE_FRAMES) * FRAME_BYTES - self.faults.offset * 4
        size = frames * FRAME_BYTES
        with (medium.folder / _PROGRAM).open("rb") as program:
            program.seek(max(0, first))
            data = program.read(max(0, size + min(0, first)))
        return np.frombuffer((bytes(max(0, -first)) + data).ljust(size, b"\0"), "<i2").copy()

    def _q(self, medium: Medium, lba: int, frames: int) -> bytes:
        path = medium.folder / _SUBCHANNEL
        if not path.is_file():
            return bytes(frames * Q_BYTES)
        with path.open("rb") as file:
            file.seek((lba + PAUSE_FRAMES) * Q_BYTES)
            return file.read(frames * Q_BYTES).ljust(frames * Q_BYTES, b"\0")

    @property
    def _frames_a_second(self) -> float:
        return self._speed * CD_FRAMES_PER_SECOND

    def _now(self) -> float:
        return self._clock() * self._hurry

    def _burn_on(self) -> None:
        if self.medium is None or self.medium.state != "writing":
            return
        now = self._now()
        self._burnt = min(self._received, self._burnt + (now - self._burnt_at) * self._frames_a_second)
        self._burnt_at = now

    def _end(self, state: State) -> None:
        medium = self._loaded()
        self._burn_on()
        if self._simulate:
            medium.state, medium.lead_out, medium.tracks, medium.catalog = "blank", 0, [], ""
            return
        medium.state, medium.written = state, self._received
        medium.keep()

    def _loaded(self) -> Medium:
        if self.medium is None:
            raise DriveError("NO_MEDIUM", "2/3A/00")
        return self.medium


def _on_disc(medium: Medium) -> list[OnDisc]:
    def indexes(row: dict[str, Any]) -> tuple[tuple[int, int], ...]:
        return tuple((int(index), int(frame)) for index, frame in row["indexes"])

    return [OnDisc(one["number"], indexes(one), one["isrc"], one["control"]) for one in medium.tracks]
