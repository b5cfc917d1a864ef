"""Delivery sheets and sidecars in this very process, for the command line."""

import json
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress
from ripe_press.core.errors import NotFound
from ripe_press.core.sheet.contents import sheet_row
from ripe_press.core.sheet.printed import Paper
from ripe_press.core.sidecar import sidecar_of
from ripe_press.core.timeline import TempoMap
from ripe_press.core.whole_files import write_whole
from ripe_press.core.wishes.document import bench_of
from ripe_press.store.db import Database
from ripe_press.store.parcels import Parcels
from ripe_press.store.pressings import Pressings, StoredPressing
from ripe_press.studio.data_folder import data_folder
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.keys import Keys
from ripe_press.studio.old_tickets import bring_up_to_date
from ripe_press.studio.outbox import accepted_of
from ripe_press.studio.sheets import Accepted, folder_of, sheet_of_folder, sheet_of_pressing, write_sheet
from ripe_press.studio.typed import on_shelf


def sheet_now(what: str, out: Path | None, paper: Paper, data: Path | None, progress: Progress) -> dict[str, Any]:
    """Writes the sheet of a folder, or of a pressing by its number.

    Raises: as `sheets`; NotFound ``pressing.unknown``.
    """
    folder = Path(what)
    if what.isdigit() and not folder.is_dir():
        pressing, accepted = pressing_of(int(what), data)
        sheet = sheet_of_pressing(pressing, accepted)
        folder = folder_of([Path(file.path) for file in pressing.files if file.state == "named"])
    else:
        sheet = sheet_of_folder(folder, progress)
    written = write_sheet(sheet, out or folder, paper, Keys(data_folder(data).root))
    return {"written": written, "sheet": sheet_row(sheet)}


def pressing_of(number: int, data: Path | None) -> tuple[StoredPressing, Accepted]:
    """A pressing of a data folder, and who accepted what of it. Raises: NotFound ``pressing.unknown``."""
    database = Database(data_folder(data).database)
    try:
        bring_up_to_date(database)
        found = Pressings(database).get(number)
        accepted = accepted_of(Parcels(database), number)
    finally:
        database.close()
    if found is None:
        message = f"Pressing {number} not found."
        raise NotFound("pressing.unknown", message, pressing=number)
    return found, accepted


def sidecar_now(file: Path, progress: Progress, should_stop: Callable[[], bool]) -> dict[str, Any]:
    """Writes the sidecar of a file beside it, with the tempo that its mix has on its bench where it is on the shelf.

    Raises: as `sidecar_of`; Interrupted ``write.failed``.
    """
    found = sidecar_of(file, _tempo_on_bench(file), progress, should_stop)
    target = file.with_name(f"{file.name}.json")
    row = asdict(found)
    write_whole(target, json.dumps(row, ensure_ascii=False) + "\n")
    return {"written": str(target), "sidecar": row}


def sidecar_job(path: str, folder: str) -> str:
    """Runs in a worker: writes the sidecar of a file, and gives where. Raises: as `sidecar_now`."""
    job = JobFolder(Path(folder))
    return str(sidecar_now(Path(path), job.report, job.cancelled)["written"])


def _tempo_on_bench(file: Path) -> TempoMap | None:
    mix = on_shelf(file)
    return bench_of(mix.bench).tempo if mix else None
