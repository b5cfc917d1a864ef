"""Fixity: all files of the record checked at night; changed and missing ones shown on the page."""

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from click.testing import CliRunner
from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.cli.app import app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.pressing.fixity import FixityWatch
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench, pressed
from support.signals import noise, write

RATE = 48_000


def test_changed_and_missing_files_are_found_and_reported(tmp_path: Path) -> None:
    folder = DataFolder(tmp_path / "data")
    with TestClient(make_app(Studio(folder)), OWN) as client:
        mix = arrive(client, str(write(tmp_path / "Weir.wav", noise(RATE), RATE)))["mix_id"]
        lines = [{"id": f"d{at}", "brief": "blank", "range_id": "r0", "changes": {"container": kind}} for at, kind in
                 enumerate(("wav", "flac", "aiff"))]  # fmt: skip
        wish = {"mix_id": mix, "bench": bench(0, RATE, ticket=lines)}
        done = [pressed(client, client.post("/api/pressings", json=wish).json()["id"]) for _ in range(2)]
        studio = client.app.state.studio  # type: ignore[attr-defined]
        first, second = done
        assert client.get("/api/press").json()["fixity"]["gone"] == 0
        Path(first["files"][0]["path"]).unlink()
        changed = Path(second["files"][1]["path"])
        changed.write_bytes(changed.read_bytes()[:-1] + b"\0")
        studio.fixity.check_all()
        told = client.get("/api/press").json()["fixity"]
        # The bytes of the missing one are found again in the other pressing: it counts as moved, and none is lost.
        assert (told["changed"], told["gone"], told["pressings"]) == (1, 0, [second["id"]])
        Path(second["files"][0]["path"]).unlink()
        studio.fixity.check_all()
        told = client.get("/api/press").json()["fixity"]
        assert (told["changed"], told["gone"]) == (1, 2)
        assert told["pressings"] == [second["id"], first["id"]] and told["checked_at"]
        assert client.patch("/api/press", json={"nightly": True}).json()["fixity"]["nightly"]
    said = CliRunner().invoke(app, ["check", "--record", "--data", str(folder.root)])
    assert said.exit_code == 1
    assert said.stdout.count("Missing: ") == 2 and said.stdout.count("Changed: ") == 1


@pytest.mark.parametrize(
    ("hours_ago", "hour", "due"),
    [(None, 14, True), (20, 3, True), (20, 14, False), (2, 3, False), (31, 14, True), (13, 5, True), (13, 6, False)],
)
def test_it_is_due_by_night_or_late(hours_ago: int | None, hour: int, due: bool) -> None:
    now = datetime(2026, 11, 30, hour, 15, tzinfo=UTC)
    last = "" if hours_ago is None else (now - timedelta(hours=hours_ago)).isoformat()

    class Kept:
        def get(self, _name: str, _otherwise: str) -> str:
            return last

    watch = FixityWatch(None, Kept(), None, None)  # type: ignore[arg-type]
    assert watch.is_due(now) is due
