"""Archive packages (BagIt) of a pressing or of a folder, with their delivery sheet."""

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from importlib.metadata import version
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.disk import write_failed
from ripe_press.core.errors import NotFound
from ripe_press.core.requests.document import document_from
from ripe_press.core.sheet.bag import write_bag
from ripe_press.core.sheet.contents import DeliverySheet
from ripe_press.core.whole_files import sweep_dead
from ripe_press.core.words import quoted
from ripe_press.store.pressings import StoredPressing
from ripe_press.studio.command_line.sheets import pressing_of
from ripe_press.studio.data_folder import data_folder
from ripe_press.studio.handoff import Keys, common_folder, files_of_sheet, sheet_of_folder, sheet_of_pressing


def bag_now(
    what: str,
    out: Path,
    data: Path | None,
    *,
    mix: bool = False,
    progress: Progress = no_progress,
    should_stop: Callable[[], bool] = lambda: False,
) -> dict[str, Any]:
    """Writes a bag of a pressing by its number, or of a folder; with the mix that it was pressed of where asked for.

    Raises: as `sheets` and `write_bag`; NotFound ``bag.no-mix``; Interrupted ``write.failed``.
    """
    pressing: StoredPressing | None = None
    if what.isdigit() and not Path(what).is_dir():
        pressing, accepted = pressing_of(int(what), data)
        sheet = sheet_of_pressing(pressing, accepted)
        folder = common_folder([Path(file.path) for file in pressing.files if file.state == "named"])
    else:
        folder = Path(what)
        sheet = sheet_of_folder(folder)
    payload = {_plain(one.name): folder / one.name for one in sheet.files}
    sheet = replace(sheet, files=tuple(replace(one, name=_plain(one.name)) for one in sheet.files))
    if mix:
        payload |= {f"mix/{_plain(one.name)}": one for one in _mixes_of(pressing)}
    target = out.absolute()
    papers = files_of_sheet(sheet, keys=Keys(data_folder(data).root))
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        sweep_dead(target.parent)
        write_bag(target, payload, papers, _info(sheet), progress, should_stop)
    except OSError as error:
        raise write_failed(target, error) from error
    return {"path": str(target), "files": len(payload), "bytes": sum(one.stat().st_size for one in payload.values())}


def _plain(name: str) -> str:
    """A name without percent signs: the standard has them written in another way, and widespread readers do not."""
    return name.replace("%", "-")


def _mixes_of(pressing: StoredPressing | None) -> list[Path]:
    paths = [Path(one.source.facts.path) for one in document_from(pressing.ticket).mixes] if pressing else []
    missing = [one for one in paths if not one.is_file()]
    if missing or not paths:
        what = f"The mix {quoted(missing[0].name)} moved or was deleted" if missing else "Only pressings have a mix"
        message = f"{what}. Omit --mix or restore the mix."
        raise NotFound("bag.no-mix", message)
    return paths


def _info(sheet: DeliverySheet) -> list[tuple[str, str]]:
    return [
        ("Bag-Software-Agent", f"Ripe Press {version('ripe-press')}"), ("Bagging-Date", date.today().isoformat()),
        ("External-Description", sheet.title), ("Contact-Name", sheet.contact.get("Name", "")),
        ("Contact-Email", sheet.contact.get("Mail", "")), ("Contact-Phone", sheet.contact.get("Phone", "")),
        ("External-Identifier", f"pressing {sheet.pressing} of {sheet.day}" if sheet.pressing else ""),
    ]  # fmt: skip
