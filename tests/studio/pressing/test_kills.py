"""Power cuts: processes killed at any instant leave complete files and true states.

Three kills in every run; more on request: ``RIPE_PRESS_KILLS=1000 pytest …`` (`make soak`).
"""

import hashlib
import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.disk import UNFINISHED
from ripe_press.store.db import Database
from ripe_press.store.pressings import Pressings, StoredPressing
from ripe_press.studio.data_folder import DataFolder
from support import TESTS
from support.signals import noise, write

pytestmark = pytest.mark.slow
KILLS = int(os.environ.get("RIPE_PRESS_KILLS", "3"))
KILLS_A_PRESSING = 3


def begin(data: Path, mix: Path, **environment: str) -> "subprocess.Popen[str]":
    process = subprocess.Popen(
        [sys.executable, "-m", "support.programs.killed", str(data), str(mix)],
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, cwd=TESTS, start_new_session=True,
        env={**os.environ, **environment},
    )  # fmt: skip
    assert process.stdout
    assert process.stdout.readline() == "pressing\n"
    return process


def finish(process: "subprocess.Popen[str]") -> None:
    """Waits for its last word. Read as it was begun: what ``readline`` took ahead is not in the pipe any more."""
    assert process.stdout
    with process.stdout:
        assert process.stdout.read() == "done\n"
    assert process.wait(timeout=120) == 0


def record(data: Path) -> StoredPressing:
    database = Database(DataFolder(data).database)
    try:
        found = Pressings(database).get(1)
        assert found
        return found
    finally:
        database.close()


def files_in(data: Path) -> dict[str, str]:
    folder = DataFolder(data).pressed
    return {path.name: hashlib.sha256(path.read_bytes()).hexdigest() for path in folder.rglob("*") if path.is_file()}


@pytest.fixture(scope="module")
def mix(tmp_path_factory: pytest.TempPathFactory) -> Path:
    swell = np.linspace(0.02, 0.3, 48_000 * 5)[:, None]
    return write(tmp_path_factory.mktemp("mix") / "Weir.wav", noise(48_000 * 5) * swell, 48_000)


@pytest.fixture(scope="module")
def shelved(mix: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder with the mix on the shelf, to begin from."""
    data = tmp_path_factory.mktemp("shelved") / "data"
    words = [sys.executable, "-m", "support.programs.killed", str(data), str(mix), "--only-shelve"]
    subprocess.run(words, cwd=TESTS, check=True, stderr=subprocess.DEVNULL)
    return data


@pytest.fixture
def data(shelved: Path, tmp_path: Path) -> Path:
    return Path(shutil.copytree(shelved, tmp_path / "data"))


@pytest.fixture(scope="module")
def clean(mix: Path, shelved: Path, tmp_path_factory: pytest.TempPathFactory) -> tuple[dict[str, str], float]:
    """The files of an undisturbed pressing, and its duration."""
    data = Path(shutil.copytree(shelved, tmp_path_factory.mktemp("clean") / "data"))
    process = begin(data, mix)
    began = time.monotonic()
    finish(process)
    took = time.monotonic() - began
    found = files_in(data)
    assert len(found) == 5
    shutil.rmtree(data)
    return found, took


@pytest.mark.parametrize("turn", range(KILLS // KILLS_A_PRESSING))
def test_killed_studio_leaves_complete_files_and_resumes(
    turn: int, mix: Path, clean: tuple[dict[str, str], float], data: Path
) -> None:
    whole, took = clean
    random = np.random.default_rng(turn)
    kept: dict[str, int] = {}
    for _ in range(KILLS_A_PRESSING):
        process = begin(data, mix)
        time.sleep(random.uniform(0, took))
        os.kill(process.pid, signal.SIGKILL)
        process.communicate()
        # A worker without its studio ends, and names no more files.
        time.sleep(0.1)
        found = {name: sum_ for name, sum_ in files_in(data).items() if not name.endswith(UNFINISHED)}
        assert found.items() <= whole.items()
        inodes = {path.name: path.stat().st_ino for path in DataFolder(data).pressed.rglob("*") if path.is_file()}
        assert {name: inodes[name] for name in kept} == kept, "a finished file was made again"
        kept = {name: inodes[name] for name in found}
    process = begin(data, mix)
    finish(process)
    assert files_in(data) == whole
    done = record(data)
    assert done.state == "done"
    assert [(file.path, file.error) for file in done.files if file.state != "named"] == []
    assert {Path(file.path).name: file.report.sha256 for file in done.files if file.report} == whole
    assert list(DataFolder(data).journals.iterdir()) == []


@pytest.mark.parametrize("all_come_from", [False, True], ids=["its worker", "what workers come from"])
def test_pressing_resumes_when_its_worker_is_killed(
    mix: Path, clean: tuple[dict[str, str], float], data: Path, all_come_from: bool
) -> None:
    whole, took = clean
    process = begin(data, mix)
    time.sleep(took / 3)
    workers = workers_of(process.pid)
    if all_come_from:
        workers = {int(Path(f"/proc/{one}/stat").read_text().rpartition(")")[2].split()[1]) for one in workers}
        assert process.pid not in workers
    for worker in workers:
        os.kill(worker, signal.SIGKILL)
    finish(process)
    assert files_in(data) == whole
    assert {file.state for file in record(data).files} == {"named"}


CRASHING = """
import ctypes
from ripe_press.core.stations import codec

opened = codec.open_writer


def open_writer(path, container, *rest):
    if container == "mp3":
        ctypes.string_at(0)
    return opened(path, container, *rest)


codec.open_writer = open_writer
"""
"""What every process of a pressing begins with: one of the encoders reads where nothing is."""


def test_a_codec_that_crashes_ends_its_file_and_no_other(
    mix: Path, clean: tuple[dict[str, str], float], tmp_path: Path
) -> None:
    whole, _ = clean
    (tmp_path / "sitecustomize.py").write_text(CRASHING)
    finish(begin(tmp_path / "data", mix, PYTHONPATH=str(tmp_path)))
    assert files_in(tmp_path / "data") == {name: sum_ for name, sum_ in whole.items() if not name.endswith(".mp3")}
    (failed,) = [file for file in record(tmp_path / "data").files if file.state != "named"]
    assert (failed.state, Path(failed.path).suffix) == ("failed", ".mp3")
    assert "Worker lost" in (failed.error or "")


def workers_of(parent: int) -> list[int]:
    found = []
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                after_name = (entry / "stat").read_text().rsplit(")", 1)[1].split()
                if int(after_name[1]) == parent and "spawn_main" in (entry / "cmdline").read_text():
                    found.append(int(entry.name))
            except (OSError, IndexError):
                continue
    return found
