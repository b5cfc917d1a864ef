"""Delivery sheets on the command line."""

from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress
from ripe_press.core.errors import NotFound
from ripe_press.core.sheet.contents import sheet_row
from ripe_press.core.sheet.printed import Paper
from ripe_press.store.db import Database
from ripe_press.store.parcels import Parcels
from ripe_press.store.pressings import Pressings, StoredPressing
from ripe_press.studio.data_folder import data_folder
from ripe_press.studio.handoff import Accepted, Keys, common_folder, sheet_of_folder, sheet_of_pressing, write_sheet
from ripe_press.studio.planning import bring_up_to_date
from ripe_press.studio.sending import sign_offs_of


def sheet_now(what: str, out: Path | None, paper: Paper, data: Path | None, progress: Progress) -> dict[str, Any]:
    """Writes the sheet of a folder, or of a pressing by its number.

    Raises: as `sheets`; NotFound ``pressing.unknown``.
    """
    folder = Path(what)
    if what.isdigit() and not folder.is_dir():
        pressing, accepted = pressing_of(int(what), data)
        sheet = sheet_of_pressing(pressing, accepted)
        folder = common_folder([Path(file.path) for file in pressing.files if file.state == "named"])
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
        accepted = sign_offs_of(Parcels(database), number)
    finally:
        database.close()
    if found is None:
        message = f"Pressing {number} not found."
        raise NotFound("pressing.unknown", message, pressing=number)
    return found, accepted
