"""A record from any earlier time opens: made as far as each step, with a mix and a pressing in it, and brought on."""

import json
import sqlite3
from pathlib import Path

import pytest

from ripe_press.core.requests.document import bench_of
from ripe_press.store.db import Database, shipped_migrations
from ripe_press.store.mixes import Mixes
from ripe_press.store.pressings import Pressings

STEPS = shipped_migrations()
MEASURES = {"sample_peak_dbfs": -1.0, "integrated_lufs": -14.0, "head_silence_frames": 0, "tail_silence_frames": 0}
BENCH = {"ranges": [{"id": "r1", "start_frame": 100, "end_frame": 900, "edges": {}}]}
MIX = {
    "id": 7, "title": "Millrace", "path": "/mixes/Millrace.wav", "owned": 0, "sha256": "ab" * 32, "container": "wav",
    "codec": "pcm", "rate_hz": 48_000, "channels": 2, "frames": 1000, "bit_depth": 24,
    "added_at": "2026-01-01T00:00:00Z",
    "measures": json.dumps(MEASURES), "start_frame": 100, "end_frame": 900, "bench": json.dumps(BENCH),
}  # fmt: skip
REPORT = {"path": "/out/Millrace.wav", "verdict": "look", "sha256": "cd" * 32}
PRESSING = {
    "id": 3, "mix_id": 7, "mix_title": "Millrace", "mix_path": "/mixes/Millrace.wav", "ticket": "{}", "state": "done",
    "made_at": "2026-01-02T00:00:00Z", "seconds": 1.5, "times_realtime": 80.0,
}  # fmt: skip
FILE = {"pressing_id": 3, "number": 0, "path": "/out/Millrace.wav", "state": "named", "report": json.dumps(REPORT)}


def put(path: Path, table: str, row: dict[str, object]) -> None:
    """Inserts as much of a row as the table of that time has columns for."""
    connection = sqlite3.connect(path)
    columns = {one[1] for one in connection.execute(f"PRAGMA table_info({table})")}
    kept = {name: value for name, value in row.items() if name in columns}
    places = ", ".join(f":{name}" for name in kept)
    connection.execute(f"INSERT INTO {table} ({', '.join(kept)}) VALUES ({places})", kept)
    connection.commit()
    connection.close()


@pytest.mark.parametrize("count", range(1, len(STEPS) + 1))
def test_a_record_of_any_step_is_brought_up_to_date_with_everything_in_it(count: int, tmp_path: Path) -> None:
    path = tmp_path / "ripe-press.sqlite3"
    old = Database(path)
    old.migrate(STEPS[:count])
    old.close()
    for table, row in (("mixes", MIX), ("pressings", PRESSING), ("pressed_files", FILE)):
        put(path, table, row)
    database = Database(path)
    assert len(database.migrate()) == len(STEPS) - count
    (mix,) = Mixes(database).all()
    (row,) = Mixes(database).rows()
    assert (mix.title, row.start_frame, row.end_frame, row.integrated_lufs) == ("Millrace", 100, 900, -14.0)
    assert row.pressed_at == "2026-01-02T00:00:00Z" and (row.version, row.versions) == (1, 1)
    assert bench_of(mix.bench).ranges[0].start_frame == 100
    pressing = Pressings(database).get(3)
    assert pressing and pressing.mix_id == 7 and pressing.reports[0].sha256 == "cd" * 32
    assert not Database.problems_of(path)
    database.close()
