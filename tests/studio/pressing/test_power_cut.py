"""Power cuts: the order of the system calls that give files their names, in all code that makes files.

A file's bytes are synced before it gets its name, and its folder after; a row about a file follows both.
"""

import os
import threading
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.sending.drop_off import DropOff
from ripe_press.store.mixes import Mixes
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.export_import import carry_in, carry_off
from ripe_press.studio.handoff.sheets import sheet_of_folder, write_sheet
from ripe_press.studio.pressing.journal import Journal
from ripe_press.studio.sending.carriers import carrier_of
from ripe_press.studio.sending.carriers.carrier import RunningTransfer
from ripe_press.studio.studio import Studio
from support.press import delivery_of, facts_of, files_for, press_files
from support.sending import parcel
from support.server import wait_for
from support.signals import noise, write


@dataclass
class Trace:
    """What happened, in order: ``sync`` of an inode, ``name`` given to one, ``row`` committed."""

    root: Path
    events: list[tuple[str, Any, Path]] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def note(self, kind: str, key: Any, path: Path) -> None:
        with self.lock:
            self.events.append((kind, key, path))

    def check(self, *wanted: str) -> None:
        """Everything that was named below the root was synced before and its folder after; these were named."""
        named = [(at, key, path) for at, (kind, key, path) in enumerate(self.events) if kind == "name"]
        for at, key, path in named:
            before = {one for kind, one, _ in self.events[:at] if kind == "sync"}
            after = [where for kind, _, where in self.events[at:] if kind == "sync"]
            assert key in before, f"{path} got its name before its bytes were on the disk"
            assert path.parent in after, f"the name of {path} was not synced"
        assert set(wanted) <= {path.name for _, _, path in named}, [path.name for _, _, path in named]


def _key(state: os.stat_result) -> tuple[int, int, int]:
    return state.st_ino, state.st_size, state.st_mtime_ns


@pytest.fixture
def trace(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Trace]:
    found = Trace(tmp_path)
    fsync = os.fsync

    def synced(number: int) -> None:
        state = os.fstat(number)
        fsync(number)
        # Later writes would be another state of the file, and not on the disk.
        found.note("sync", _key(state), Path(f"/proc/self/fd/{number}").readlink())

    def naming(call: Any) -> Any:
        def named(source: Any, target: Any, *more: Any, **words: Any) -> Any:
            key = _key(Path(source).stat())
            answer = call(source, target, *more, **words)
            path = Path(target)
            own = path.is_relative_to(tmp_path) and "passing" not in path.parts and path.is_file()
            if own and not path.name.startswith("."):
                found.note("name", key, path)
            return answer

        return named

    monkeypatch.setattr(os, "fsync", synced)
    for name in ("link", "replace", "rename"):
        monkeypatch.setattr(os, name, naming(getattr(os, name)))
    yield found


def test_pressed_files(trace: Trace, tmp_path: Path) -> None:
    mix = write(tmp_path / "Weir.wav", noise(48_000), 48_000)
    facts = facts_of(mix)
    wishes = (
        {"container": "wav"},
        {"container": "flac"},
        {"container": "mp3", "kbps": 192},
        {"container": "aac", "kbps": 192},
    )
    files = [one for wish in wishes for one in files_for(delivery_of(facts, **wish), facts)]
    (tmp_path / "out").mkdir()
    press_files(tmp_path / "out", files)
    trace.check("0.wav", "1.flac", "2.mp3", "3.m4a")


def test_a_disc(trace: Trace, tmp_path: Path) -> None:
    mixes = [str(write(tmp_path / f"{at}.wav", noise(5 * 48_000, seed=at), 48_000)) for at in range(2)]
    order = str(tmp_path / "order.json")
    for words in (
        ["order", "create", *mixes, "--out", order],
        ["disc", "press", order, "--out", str(tmp_path / "disc")],
    ):
        done = CliRunner().invoke(app, words, catch_exceptions=False)
        assert done.exit_code == 0, done.output
    trace.check(*(one.name for one in (tmp_path / "disc").iterdir()))
    named = [path.suffix for kind, _, path in trace.events if kind == "name" and path.parent.name == "disc"]
    assert len(named) == 5 and named[-1] == ".cue"


def test_an_import_has_all_of_its_files_before_its_row(
    trace: Trace, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    add = Mixes.add

    def added(self: Mixes, mix: Any) -> int:
        trace.note("row", None, tmp_path)
        return add(self, mix)

    monkeypatch.setattr(Mixes, "add", added)
    with Studio(DataFolder(tmp_path / "data")) as studio:
        arrival = studio.shelf.fetch(str(write(tmp_path / "Weir.wav", noise(48_000), 48_000)))
        wait_for(lambda: arrival.state.state != "running")
        assert arrival.state.state == "done", arrival.state.sentence
        studio.shelf.keep_cover(arrival.mix_id or 0, _picture(), "front.png")
    trace.check("pyramid.bin", "clipping.json", "loudness.npz", "bands.npz")
    row = next(at for at, (kind, _, _) in enumerate(trace.events) if kind == "row")
    named = [at for at, (kind, _, path) in enumerate(trace.events) if kind == "name" and "cover" not in path.name]
    assert max(named) < row
    assert (tmp_path / "data" / "mixes") in [path for kind, _, path in trace.events[:row] if kind == "sync"]


def _picture() -> bytes:
    import io

    from PIL import Image

    out = io.BytesIO()
    Image.new("RGB", (600, 600), (120, 30, 60)).save(out, "PNG")
    return out.getvalue()


def test_sent_files_are_synced_before_their_names(trace: Trace, tmp_path: Path) -> None:
    for kind in ("folder", "library", "sync"):
        place = tmp_path / kind
        place.mkdir()
        one = parcel(tmp_path / f"{kind}.wav", kind.encode())
        carrier_of(DropOff("There", kind, str(place))).carry(one, {}, RunningTransfer())  # type: ignore[arg-type]
    trace.check("folder.wav", "sync.wav")


def test_export_and_import_are_synced_before_their_names(trace: Trace, tmp_path: Path) -> None:
    folder = DataFolder(tmp_path / "data")
    with Studio(folder) as studio:
        arrival = studio.shelf.fetch(str(write(tmp_path / "Weir.wav", noise(48_000), 48_000)))
        wait_for(lambda: arrival.state.state != "running")
        trace.events.clear()
        carry_off(folder, tmp_path / "all.zip")
    trace.check("all.zip")
    carry_in(DataFolder(tmp_path / "new"), tmp_path / "all.zip")
    trace.check("all.zip", "pyramid.bin", "clipping.json")


def test_the_papers_beside_files(trace: Trace, tmp_path: Path) -> None:
    write(tmp_path / "Weir.wav", noise(48_000), 48_000)
    write_sheet(sheet_of_folder(tmp_path), tmp_path / "sheet")
    trace.check(*(one.name for one in (tmp_path / "sheet").iterdir()))


def test_a_journal_is_there_before_it_is_needed(trace: Trace, tmp_path: Path) -> None:
    from ripe_press.core.press import Event

    Journal(tmp_path / "1.jsonl").write(0, Event((0,), "naming"))
    paths = [path for kind, _, path in trace.events if kind == "sync"]
    assert paths == [tmp_path / "1.jsonl", tmp_path]
