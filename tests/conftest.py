import fcntl
import os
import tempfile
from collections.abc import Generator
from pathlib import Path
from typing import TextIO

import pytest
from hypothesis import settings

from ripe_press.studio.data_folder import VARIABLE
from support.signals import noise, write

# A machine that is busy with other things is slow, not wrong: no example is timed.
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")


# Files of these tests go below their own data folder, and not beside mixes that tests share.
os.environ["RIPE_PRESS_SAVE_TO"] = "pressed"

LONGEST = (
    "test_kills.py", "test_press.py", "test_wheel.py", "test_ticket.py", "test_shelf_to_file.py", "test_cli.py",
    "test_tags_and_formats.py", "test_desk.py", "test_recipes.py", "test_encoders.py",
)  # fmt: skip
"""Files that take minutes: started first, so that no core idles at the end."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The longest files first; everything else stays in its order."""
    items.sort(key=lambda item: LONGEST.index(item.path.name) if item.path.name in LONGEST else len(LONGEST))


def _turn(name: str) -> TextIO:
    # Of this very run: every worker of it knows its name.
    run = os.environ.get("PYTEST_XDIST_TESTRUNUID", str(os.getpid()))
    return (Path(tempfile.gettempdir()) / f"ripe-press-tests-{run}-{name}.lock").open("a")


def _quiet(item: pytest.Item | None) -> bool:
    return item is not None and item.get_closest_marker("quiet") is not None


_floor: list[TextIO] = []
"""Held by this worker while one of its tests runs."""


@pytest.hookimpl(wrapper=True)
def pytest_runtest_protocol(item: pytest.Item, nextitem: pytest.Item | None) -> Generator[None, object, object]:
    """What listens in real time (*quiet*) is run while nothing else is: a busy machine is slow, and drops sound."""
    if not _floor:
        with _turn("turn") as turn:
            # A test that needs quiet reserves the turn, so that no other test starts before it.
            fcntl.flock(turn, fcntl.LOCK_EX)
            _floor.append(_turn("floor"))
            fcntl.flock(_floor[0], fcntl.LOCK_EX if _quiet(item) else fcntl.LOCK_SH)
    try:
        return (yield)
    finally:
        # The machine stays quiet between two such tests: otherwise long tests would start, and be waited for each time.
        if not (_quiet(item) and _quiet(nextitem)):
            _floor.pop().close()


@pytest.fixture(autouse=True)
def own_data_folder(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> Path:
    """No test ever touches the user's data folder."""
    folder = tmp_path_factory.mktemp("data")
    monkeypatch.setenv(VARIABLE, str(folder))
    # Nor the keyring.
    monkeypatch.setenv("PYTHON_KEYRING_BACKEND", "keyring.backends.fail.Keyring")
    return folder


@pytest.fixture
def mix(tmp_path: Path) -> Path:
    """Half a second of quiet noise at 96 kHz in 32-bit float."""
    return write(tmp_path / "Millrace.wav", noise(48_000), 96_000)
