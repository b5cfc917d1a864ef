"""A pressing in this very process, for the command line: no shelf, but kept in the record all the same."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ripe_press.core.briefs.library import brief_of
from ripe_press.core.engine.walker import Progress
from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.formats.reader import SourceReader
from ripe_press.core.press import press
from ripe_press.core.units import parse_time
from ripe_press.store.db import Database
from ripe_press.store.pressings import Pressings
from ripe_press.studio.data_folder import data_folder
from ripe_press.studio.pressings import make_order, order_seconds
from ripe_press.studio.reports import file_report


def press_now(
    mix: Path,
    briefs: tuple[str, ...],
    out: Path,
    from_text: str,
    to_text: str,
    progress: Progress,
    should_stop: Callable[[], bool],
) -> dict[str, Any]:
    """Presses a mix into ``out`` and gives the report of the command line's JSON.

    Raises: BadInput for times, ranges and folders; NotFound for the mix or a brief; whatever pressing raises.
    """
    for brief in briefs:
        brief_of(brief)
    with SourceReader(mix) as reader:
        facts = reader.facts
    start = parse_time(from_text, facts.rate_hz) if from_text else 0
    end = parse_time(to_text, facts.rate_hz) if to_text else facts.frames
    order = make_order(facts, mix.stem, briefs, start, end, _folder(out))
    began = time.monotonic()
    files = press(order, progress, should_stop)
    seconds = time.monotonic() - began
    report = {
        "files": [file_report(file) for file in files],
        "seconds": seconds,
        "times_realtime": order_seconds(order) / seconds,
    }
    ticket = {"briefs": list(briefs), "start_frame": start, "end_frame": end}
    return {"pressing": _record(mix, ticket, report), **report}


def _folder(out: Path) -> Path:
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        message = f"The folder {str(out)!r} cannot be made: {error.strerror}. Choose another."
        raise BadInput("press.no-folder", message, folder=str(out)) from error
    return out.absolute()


def _record(mix: Path, ticket: dict[str, Any], report: dict[str, Any]) -> int | None:
    """The number of the pressing in the record; None when there is no data folder that can be written."""
    try:
        database = Database(data_folder().database)
    except Conflict:
        return None
    try:
        database.migrate()
        record = Pressings(database)
        number = record.add(None, mix.stem, str(mix.absolute()), ticket)
        record.end(
            number, "done", seconds=report["seconds"], times_realtime=report["times_realtime"],
            files=tuple(report["files"]),
        )  # fmt: skip
    finally:
        database.close()
    return number
