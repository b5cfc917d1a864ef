"""The disc writer keeps to what a writer does: every state, what it lets happen, and what it refuses."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from ripe_press.core.disc.frames import FRAME_BYTES, PAUSE_FRAMES
from ripe_press.core.disc.subchannel import QPosition, read_q
from ripe_press.rack.disc_drive import BUFFER_BYTES, CAPACITY, Drive, DriveError, DriveFaults, Medium
from ripe_press.rack.disc_writer import Writer

TRACKS: list[dict[str, Any]] = [
    {"number": 1, "indexes": [[1, 0]], "isrc": "GBAYE0000351", "control": 0},
    {"number": 2, "indexes": [[0, 375], [1, 525]], "isrc": "", "control": 2},
]
LEAD_OUT = 900
FRAMES = LEAD_OUT + PAUSE_FRAMES


@pytest.fixture
def drive() -> Drive:
    return Drive(hurry=1e6)


def data(frames: int, first: int = 0) -> bytes:
    return b"".join((first + at).to_bytes(4, "little") * (FRAME_BYTES // 4) for at in range(frames))


def burnt(drive: Drive, folder: Path, kind: Any = "cdr80", **more: Any) -> Drive:
    drive.load(folder, kind)
    drive.open(LEAD_OUT, TRACKS, "4006381333931", **more)
    for lba in range(-PAUSE_FRAMES, LEAD_OUT, 75):
        drive.write(lba, data(75, lba + PAUSE_FRAMES))
    drive.close()
    return drive


def refusal(do: Callable[[], object]) -> str:
    with pytest.raises(DriveError) as caught:
        do()
    return str(caught.value.answer["code"])


def test_without_a_disc_it_does_nothing(drive: Drive) -> None:
    assert drive.status()["state"] == "empty"
    for do in (drive.toc, lambda: drive.read(0, 1), lambda: drive.open(1, []), drive.erase):
        assert refusal(do) == "NO_MEDIUM"


def test_burnt_disc_has_its_toc(drive: Drive, tmp_path: Path) -> None:
    burnt(drive, tmp_path)
    assert drive.status()["state"] == "complete" and drive.toc()["lead_out"] == LEAD_OUT
    _, read = drive.read(500, 75)
    assert read[: 75 * FRAME_BYTES] == data(75, 650)
    places = [read_q(read[75 * FRAME_BYTES + at * 12 :][:12]) for at in range(75)]
    assert (places[0], places[1]) == ("4006381333931", QPosition(2, 0, 24, 501, 2))
    assert places[25] == QPosition(2, 1, 0, 525, 2)
    assert refusal(lambda: drive.open(LEAD_OUT, TRACKS)) == "WRONG_MEDIUM"
    assert refusal(lambda: drive.read(LEAD_OUT, 1)) == "OUT_OF_RANGE"
    assert refusal(drive.erase) == "WRONG_MEDIUM"
    # It is the same disc in another drive, another day.
    again = Drive()
    assert again.load(tmp_path)["state"] == "complete"


def test_while_it_writes_everything_has_its_order(drive: Drive, tmp_path: Path) -> None:
    drive.load(tmp_path)
    assert refusal(lambda: drive.write(-150, data(1))) == "BAD_STATE"
    assert refusal(lambda: drive.open(CAPACITY["cdr80"] + 1, TRACKS)) == "TOO_LONG"
    drive.open(LEAD_OUT, TRACKS)
    drive.write(-150, data(75))
    assert refusal(lambda: drive.write(0, data(1))) == "BAD_ADDRESS"
    assert refusal(lambda: drive.write(-75, data(1)[:-1])) == "PARTIAL_FRAME"
    assert refusal(lambda: drive.write(-75, data(LEAD_OUT + 76))) == "PAST_LEADOUT"
    assert refusal(drive.close) == "SHORT"
    assert refusal(drive.eject) == refusal(lambda: drive.load(tmp_path)) == "BUSY"
    assert refusal(drive.toc) == refusal(lambda: drive.read(0, 1)) == "BAD_STATE"


def test_cancelled_disc_is_unusable(drive: Drive, tmp_path: Path) -> None:
    drive.load(tmp_path)
    drive.open(LEAD_OUT, TRACKS)
    assert drive.abort()["state"] == "blank"
    drive.open(LEAD_OUT, TRACKS)
    drive.write(-150, data(300))
    assert drive.abort()["state"] == "damaged"
    # Its lead-in promises all of it.
    assert drive.toc()["lead_out"] == LEAD_OUT
    assert drive.read(100, 50)[1]
    assert refusal(lambda: drive.read(100, 51)) == "READ_ERROR"


def test_a_rehearsal_leaves_the_disc_blank(drive: Drive, tmp_path: Path) -> None:
    burnt(drive, tmp_path, simulate=True)
    assert drive.status()["state"] == "blank" and not (tmp_path / "program.bin").exists()
    assert burnt(drive, tmp_path, finalize=False).status()["state"] == "appendable"


def test_a_rewritable_disc_is_erased(drive: Drive, tmp_path: Path) -> None:
    burnt(drive, tmp_path, "cdrw80")
    assert drive.erase()["state"] == "blank" and not (tmp_path / "program.bin").exists()
    assert burnt(drive, tmp_path, "cdrw80").status()["state"] == "complete"


def test_an_empty_buffer_ends_a_drive_without_protection(tmp_path: Path) -> None:
    now = [0.0]
    drive = Drive(clock=lambda: now[0])
    drive.load(tmp_path)
    drive.open(LEAD_OUT, TRACKS, speed=16, protected=False)
    drive.write(-150, data(75))
    now[0] += 10
    assert refusal(lambda: drive.write(-75, data(75))) == "UNDERRUN"
    assert drive.status()["state"] == "damaged"


def test_with_protection_the_laser_waits(tmp_path: Path) -> None:
    now = [0.0]
    drive = Drive(clock=lambda: now[0])
    drive.load(tmp_path)
    drive.open(LEAD_OUT, TRACKS, speed=16)
    drive.write(-150, data(75))
    now[0] += 10
    drive.write(-75, data(75))
    assert drive.status()["pauses"] == 1
    assert drive.status()["buffer"] == pytest.approx(75 * FRAME_BYTES / BUFFER_BYTES)


def test_faults_are_let_happen(drive: Drive, tmp_path: Path) -> None:
    burnt(drive, tmp_path)
    drive.faults = DriveFaults(bad={10: 3}, offset=30)
    told, read = drive.read(9, 3)
    assert told["c2"] == [10]
    clean = data(4, 158)[FRAME_BYTES - 120 :]
    differs = [at // FRAME_BYTES for at in range(3 * FRAME_BYTES) if read[at] != clean[at]]
    assert set(differs) == {1} and len(differs) == 6
    drive.load(tmp_path / "other")
    drive.faults = DriveFaults(underrun_at=0)
    drive.open(LEAD_OUT, TRACKS)
    drive.write(-150, data(150))
    assert refusal(lambda: drive.write(0, data(1))) == "UNDERRUN"


def test_the_power_goes_while_it_writes(drive: Drive, tmp_path: Path) -> None:
    drive.load(tmp_path)
    drive.open(LEAD_OUT, TRACKS)
    drive.write(-150, data(200))
    assert Medium.of(tmp_path).state == "damaged" and Medium.of(tmp_path).written == 50


def test_it_answers_whatever_it_is_asked(drive: Drive, tmp_path: Path) -> None:
    writer = Writer(drive)
    for asked, code in (
        ({"cmd": "sing"}, "BAD_COMMAND"), ({}, "BAD_COMMAND"), ({"cmd": ["load"]}, "BAD_COMMAND"),
        ({"cmd": "load"}, "BAD_FIELD"), ({"cmd": "toc"}, "NO_MEDIUM"), ({"cmd": "write", "lba": "x"}, "BAD_FIELD"),
    ):  # fmt: skip
        told, _ = writer.answer({**asked, "id": 7}, b"")
        assert (told["ok"], told["code"], told["id"]) == (False, code, 7)
    assert writer.answer({"cmd": "load", "folder": str(tmp_path)}, b"")[0]["state"] == "blank"
