"""Files that are whole or not there, whenever the process that makes them is killed."""

import errno
import os
import signal
import tempfile
from pathlib import Path

import pytest

from ripe_press.core import whole_files
from ripe_press.core.disk import UNFINISHED
from ripe_press.core.errors import Conflict, Interrupted
from ripe_press.core.whole_files import sweep, sweep_dead, temporary_prefix, whole, whole_set, write_whole

SET = ("Weir.bin", "Weir.cdt", "Weir.cue", "Weir.sha256")


def make_set(folder: Path, word: str = "plums") -> None:
    with whole_set(folder, "Weir", ".cue") as aside:
        for name in SET:
            (aside / name).write_text(f"{word} {name}")


def names(folder: Path) -> list[str]:
    return sorted(one.name for one in folder.iterdir())


def killed_in(folder: Path, at: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """A process of its own that makes the set, and is killed before it gives its n-th name."""
    child = os.fork()
    if child == 0:
        given = 0
        link = os.link

        def counted(*more: object) -> None:
            nonlocal given
            if given == at:
                os.kill(os.getpid(), signal.SIGKILL)
            given += 1
            link(*more)  # type: ignore[arg-type]

        os.link = counted  # type: ignore[assignment]
        if at == len(SET):
            whole_files.shutil.rmtree = lambda *_, **__: os.kill(os.getpid(), signal.SIGKILL)  # type: ignore[assignment]
        make_set(folder)
        os._exit(0)
    os.waitpid(child, 0)


@pytest.mark.parametrize("at", range(len(SET) + 1))
@pytest.mark.parametrize("sweeps", [sweep, sweep_dead])
def test_a_killed_set_is_whole_or_taken_back(
    tmp_path: Path, at: int, sweeps: object, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "Other.wav").write_text("stays")
    killed_in(tmp_path, at, monkeypatch)
    assert any(one.endswith(UNFINISHED) for one in names(tmp_path)), "it was killed in the middle"
    assert ("Weir.cue" in names(tmp_path)) == (at == len(SET)), "where the last one is, all are"
    sweeps(tmp_path)  # type: ignore[operator]
    assert names(tmp_path) == ["Other.wav", *(SET if at == len(SET) else ())]
    if at < len(SET):
        make_set(tmp_path)
        assert names(tmp_path) == ["Other.wav", *SET]


def test_files_of_another_program_are_kept(tmp_path: Path) -> None:
    with whole_set(tmp_path, "Weir", ".cue") as aside, whole(tmp_path / "a.wav") as new:
        new.write_text("under way")
        sweep_dead(tmp_path)
        assert new.is_file() and aside.is_dir()
        (aside / "Weir.cue").write_text("plums")
    assert names(tmp_path) == ["Weir.cue", "a.wav"]


def test_name_taken_in_between_withdraws_the_others(tmp_path: Path) -> None:
    (tmp_path / "Weir.sha256").write_text("of somebody else")
    with pytest.raises(Conflict):
        make_set(tmp_path)
    assert names(tmp_path) == ["Weir.sha256"]
    assert (tmp_path / "Weir.sha256").read_text() == "of somebody else"


def test_without_links_names_are_given_all_the_same(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def no_links(*_: object) -> None:
        raise OSError(errno.EPERM, "no links on this disk")

    monkeypatch.setattr(os, "link", no_links)
    make_set(tmp_path)
    assert names(tmp_path) == list(SET)


def test_error_names_no_temporary_file(tmp_path: Path) -> None:
    def refused() -> None:
        raise OSError(errno.ENOSPC, "full")

    with pytest.raises(Interrupted) as told, whole(tmp_path / "Weir.wav"):
        refused()
    assert str(told.value).startswith("“Weir.wav” could not be written: the disk is full")
    with pytest.raises(Interrupted) as told, whole_set(tmp_path, "Weir", ".cue") as aside:
        (aside / "gone").rmdir()
    assert UNFINISHED not in str(told.value) + str(told.value.facts)
    assert names(tmp_path) == []


def test_a_small_file_is_replaced_whole_and_for_whom_it_is_meant(tmp_path: Path) -> None:
    write_whole(tmp_path / "token", "plums", 0o600)
    write_whole(tmp_path / "token", "pears", 0o600)
    assert (tmp_path / "token").read_text() == "pears"
    assert (tmp_path / "token").stat().st_mode & 0o777 == 0o600
    assert names(tmp_path) == ["token"]


def test_temporary_folders_of_dead_processes_are_swept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    child = os.fork()
    if child == 0:
        (Path(tempfile.mkdtemp(prefix=temporary_prefix("trial"))) / "a.wav").write_text("plums")
        os.kill(os.getpid(), signal.SIGKILL)
    os.waitpid(child, 0)
    assert len(names(tmp_path)) == 1
    with tempfile.TemporaryDirectory(prefix=temporary_prefix("trial")) as own:
        assert names(tmp_path) == [Path(own).name]
        temporary_prefix("join")
        assert Path(own).is_dir(), "those of the living stay"
