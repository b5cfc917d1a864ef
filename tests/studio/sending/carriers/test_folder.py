"""Folders, music libraries and synced folders: complete or nothing, never overwriting, with clear errors."""

import errno
import os
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from PIL import Image

from ripe_press.core.errors import Cancelled, Conflict, Interrupted, NotFound
from ripe_press.core.sending.drop_off import DropOff
from ripe_press.studio.sending.carriers import carrier_of
from ripe_press.studio.sending.carriers.carrier import AnsweringCarrier, RunningTransfer
from ripe_press.studio.sending.carriers.folder import put_into
from support.sending import parcel, synced_folder
from support.server import wait_for

DATA = bytes(range(256)) * 9000


def sent(kind: Any, place: Path, one: Any, **more: Any) -> Any:
    return carrier_of(DropOff("there", kind, str(place), **more)).carry(one, {}, RunningTransfer())


@pytest.fixture
def there(tmp_path: Path) -> Path:
    folder = tmp_path / "there"
    folder.mkdir()
    return folder


def test_file_is_delivered_complete_and_once(tmp_path: Path, there: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    answer = sent("folder", there, one, sub_folder="{artist}/{album}")
    path = there / "The Sluicekeepers" / "Tail Water" / "Headrace.wav"
    assert path.read_bytes() == DATA and answer.receipt["path"] == str(path) and answer.look_again_s is None
    assert sent("folder", there, one, sub_folder="{artist}/{album}").receipt == answer.receipt
    # Another file of that name stays, and so does ours.
    path.write_bytes(b"pears")
    second = sent("folder", there, one, sub_folder="{artist}/{album}").receipt["path"]
    assert second == str(path.with_name("Headrace (2).wav")) and path.read_bytes() == b"pears"
    assert sorted(one.name for one in path.parent.iterdir()) == ["Headrace (2).wav", "Headrace.wav"]


def test_tags_lead_nowhere_outside(tmp_path: Path, there: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA, artist="../../etc", album="..", title="/root")
    sent("folder", there, one, sub_folder="{artist}/{album}/{title}")
    sent("library", there, one)
    outside = [path for path in tmp_path.rglob("*") if path.is_file() and not path.is_relative_to(there)]
    assert outside == [tmp_path / "Headrace.wav"]


def test_a_disk_that_is_not_there_is_waited_for_and_its_folder_never_made(tmp_path: Path, there: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    there.rmdir()
    with pytest.raises(Interrupted, match="Connect its disk"):
        sent("folder", there, one)
    assert not there.exists()


def test_changed_or_missing_file_is_not_sent(tmp_path: Path, there: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    Path(one.path).write_bytes(b"x" * len(DATA))
    with pytest.raises(NotFound, match="changed after pressing"):
        sent("folder", there, one)
    Path(one.path).write_bytes(DATA + b"x")
    with pytest.raises(NotFound, match="changed after pressing"):
        sent("folder", there, one)
    Path(one.path).unlink()
    with pytest.raises(NotFound, match="moved or deleted"):
        sent("folder", there, one)
    assert list(there.iterdir()) == []


def test_it_is_stopped_in_the_middle_and_nothing_is_left(tmp_path: Path, there: Path) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    told: list[int] = []
    hand = RunningTransfer(lambda done, _total: told.append(done), should_stop=lambda: bool(told))
    with pytest.raises(Cancelled):
        carrier_of(DropOff("there", "folder", str(there))).carry(one, {}, hand)
    assert told and list(there.iterdir()) == []


def refuses(number: int, when: Any) -> Any:
    real = Path.open

    def opened(self: Path, mode: str = "r", *more: Any, **others: Any) -> Any:
        if "w" in mode and when(self):
            raise OSError(number, os.strerror(number), str(self))
        return real(self, mode, *more, **others)

    return opened


def test_names_that_a_file_system_does_not_take_are_made_plainer(
    tmp_path: Path, there: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    one = parcel(tmp_path / "Weiß — “Mühle” 💿.wav", DATA)
    monkeypatch.setattr(Path, "open", refuses(errno.EINVAL, lambda path: not path.name.isascii()))
    assert sent("folder", there, one).receipt["path"] == str(there / "Wei Mhle.wav")
    long = parcel(tmp_path / f"{'Headrace ' * 20}.wav", DATA)
    monkeypatch.setattr(Path, "open", refuses(errno.ENAMETOOLONG, lambda path: len(path.name) > 90))
    name = Path(sent("folder", there, long).receipt["path"]).name
    assert len(name) <= 64 and name.startswith("Headrace Headrace") and name.endswith(".wav")


@pytest.mark.parametrize(
    ("number", "kind", "words"),
    [
        (errno.EFBIG, Conflict, "cannot store a file of 2.3 MB"), (errno.ENOSPC, Interrupted, "disk is full"),
        (errno.EROFS, Interrupted, "is read-only"), (errno.EIO, Interrupted, "could not be written"),
    ],
)  # fmt: skip
def test_disk_error_is_reported_and_retried_where_useful(
    tmp_path: Path, there: Path, monkeypatch: pytest.MonkeyPatch, number: int, kind: type[Exception], words: str
) -> None:
    one = parcel(tmp_path / "Headrace.wav", DATA)
    monkeypatch.setattr(Path, "open", refuses(number, lambda path: path.is_relative_to(there)))
    with pytest.raises(kind, match=words):
        sent("folder", there, one)
    assert list(there.iterdir()) == []


def test_a_disk_without_links_is_served_too(tmp_path: Path, there: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def no_links(*_: object) -> None:
        raise OSError(errno.EPERM, "Operation not permitted")

    monkeypatch.setattr(os, "link", no_links)
    path = put_into(parcel(tmp_path / "Headrace.wav", DATA), there, "Headrace.wav", RunningTransfer())
    assert path.read_bytes() == DATA and [one.name for one in there.iterdir()] == ["Headrace.wav"]


def test_a_music_library_has_the_cover_and_a_playlist_beside(tmp_path: Path, there: Path) -> None:
    from mutagen.flac import FLAC, Picture

    files = []
    for number, title in ((2, "Sluice"), (1, "Headrace")):
        path = tmp_path / f"{title}.flac"
        soundfile.write(path, np.zeros((100, 2)), 44_100)
        Image.new("RGB", (30, 30), "red").save(tmp_path / "cover.png")
        tags, cover = FLAC(path), Picture()
        cover.data, cover.type, cover.mime = (tmp_path / "cover.png").read_bytes(), 3, "image/png"
        tags.add_picture(cover)
        tags.save()
        files.append(sent("library", there, parcel(path, track=str(number), title=title)).receipt["path"])
    album = there / "The Sluicekeepers" / "Tail Water"
    assert files == [str(album / "02 Sluice.flac"), str(album / "01 Headrace.flac")]
    assert (album / "cover.png").read_bytes() == (tmp_path / "cover.png").read_bytes()
    assert (album / "Tail Water.m3u8").read_text() == "#EXTM3U\n01 Headrace.flac\n02 Sluice.flac\n"


def asked(folder: Path, one: Any, kept: dict[str, Any]) -> Any:
    carrier = carrier_of(DropOff("there", "sync", str(folder)))
    assert isinstance(carrier, AnsweringCarrier)
    return carrier.ask(one, kept)


def test_a_service_never_sees_half_a_file_and_says_when_it_has_it(tmp_path: Path) -> None:
    with synced_folder(tmp_path) as service:
        wait_for((service.folder / "sync-state.json").exists)
        for number in range(5):
            one = parcel(tmp_path / f"Headrace {number}.wav", DATA + bytes([number]))
            answer = sent("sync", service.folder, one)
            assert answer.state == "taken" and answer.look_again_s
            got = wait_for(lambda one=one, answer=answer: (
                found if (found := asked(service.folder, one, answer.kept)).state == "accepted" else None
            ))  # fmt: skip
            assert got.receipt["service"]["sha256"] == one.sha256
            assert (service.own / one.name).read_bytes() == Path(one.path).read_bytes()
    assert not service.grew and not [one for one in tmp_path.iterdir() if one.name.startswith(".ripe-press")]


@pytest.mark.parametrize(
    ("fault", "words"),
    [("offline", "is offline"), ("full", "no space left"), ("nonsense", "Waiting for the service"),
     ("conflict", "kept two files")],
)  # fmt: skip
def test_error_of_a_service_is_reported(tmp_path: Path, fault: str, words: str) -> None:
    with synced_folder(tmp_path, [fault]) as service:
        wait_for((service.folder / "sync-state.json").exists)
        one = parcel(tmp_path / "Headrace.wav", DATA)
        answer = sent("sync", service.folder, one)
        told = wait_for(lambda: (
            found if words in (found := asked(service.folder, one, answer.kept)).sentence else None
        ))  # fmt: skip
        assert told.state == "taken" and (told.look_again_s is None) == (fault == "conflict")
        if fault in ("offline", "full"):
            assert words.rsplit(maxsplit=1)[-1] in carrier_of(DropOff("x", "sync", str(service.folder))).look().sentence
            service.faults.add("online")
            wait_for(lambda: asked(service.folder, one, answer.kept).state == "accepted")


def test_a_service_that_forgets_a_file_takes_it_again(tmp_path: Path) -> None:
    with synced_folder(tmp_path, ["dies"]) as service:
        wait_for((service.folder / "sync-state.json").exists)
        one = parcel(tmp_path / "Headrace.wav", DATA)
        answer = sent("sync", service.folder, one)
        wait_for(lambda: asked(service.folder, one, answer.kept).state == "accepted")
    assert [path.name for path in service.own.iterdir()] == ["Headrace.wav"]


def test_a_folder_that_no_service_speaks_of_is_a_folder(tmp_path: Path, there: Path) -> None:
    answer = sent("sync", there, parcel(tmp_path / "Headrace.wav", DATA))
    assert answer.look_again_s is None and (there / "Headrace.wav").read_bytes() == DATA
