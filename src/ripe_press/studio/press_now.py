"""A pressing in this very process, for the command line: no shelf, but kept in the record all the same."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ripe_press.core.bench import between_markers
from ripe_press.core.briefs.library import brief_of
from ripe_press.core.engine.edges import NO_EDGES, Edges, Stretch, measure_ring
from ripe_press.core.engine.walker import Progress
from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.formats.embedded import read_embedded
from ripe_press.core.formats.marker_lists import parse_markers
from ripe_press.core.formats.reader import SourceFacts, SourceReader
from ripe_press.core.press import press
from ripe_press.core.timeline import Marker, TempoChange, TempoMap, parse_metre, parse_place
from ripe_press.store.db import Database
from ripe_press.store.pressings import Pressings
from ripe_press.studio.data_folder import data_folder
from ripe_press.studio.orders import make_order, order_seconds, ticket_row
from ripe_press.studio.reports import file_report


@dataclass(frozen=True, slots=True)
class RangeWish:
    """A range as it is typed: times in any unit, bars or markers; tempo in beats a minute, metre as ``4/4``.

    Without a tempo, or markers from a file, those that the mix itself carries are taken.
    """

    start: str = ""
    end: str = ""
    bars: str = ""
    marker: str = ""
    markers_file: Path | None = None
    tempo: float | None = None
    metre: str = "4/4"
    bar_one: str = ""
    edges: Edges = NO_EDGES
    name: str = ""
    downmix: str = ""


def press_now(
    mix: Path,
    briefs: tuple[str, ...],
    out: Path,
    wish: RangeWish,
    progress: Progress,
    should_stop: Callable[[], bool],
) -> dict[str, Any]:
    """Presses a mix into ``out`` and gives the report of the command line's JSON.

    Raises: BadInput for times, ranges and folders; NotFound for the mix or a brief; whatever pressing raises.
    """
    for brief in briefs:
        brief_of(brief)
    with SourceReader(mix, wish.downmix) as reader:
        facts = reader.facts
    start, end = frames_of(wish, facts)
    rings = wish.edges.end in ("ring", "fold") and 0 <= end <= facts.frames
    ring = measure_ring(facts, end, wish.edges) if rings else 0
    stretch = Stretch(start, end, wish.edges, ring, wish.name)
    deliveries = [brief_of(brief).delivery(stretch) for brief in briefs]
    order = make_order(facts, mix.stem, deliveries, _folder(out))
    began = time.monotonic()
    files = press(order, progress, should_stop)
    seconds = time.monotonic() - began
    report = {
        "files": [file_report(file) for file in files],
        "seconds": seconds,
        "times_realtime": order_seconds(order) / seconds,
    }
    return {"pressing": _record(mix, ticket_row(deliveries), report), **report}


def frames_of(wish: RangeWish, facts: SourceFacts) -> tuple[int, int]:
    """The frames that a typed range means. Raises: BadInput for what cannot be read or does not go together."""
    rate = facts.rate_hz
    ways = [bool(wish.bars), bool(wish.marker), bool(wish.start or wish.end)]
    if sum(ways) > 1:
        message = "Give bars, or markers, or a start and an end: one of them."
        raise BadInput("range.two-ways", message)
    if wish.marker:
        return between_markers(wish.marker, _markers(wish, facts), facts.frames)
    tempo = _tempo(wish, facts)
    start, end = wish.start, wish.end
    if wish.bars:
        first_bar, dots, last_bar = wish.bars.partition("..")
        if not dots or not first_bar.isdigit() or not last_bar.isdigit():
            message = f"{wish.bars!r} is not a range of bars. Write the first bar and the one that follows: 9..17."
            raise BadInput("bars.unreadable", message, text=wish.bars)
        start, end = f"{first_bar}|", f"{last_bar}|"
    return (
        parse_place(start, rate, tempo) if start else 0,
        parse_place(end, rate, tempo) if end else facts.frames,
    )


def _tempo(wish: RangeWish, facts: SourceFacts) -> TempoMap | None:
    bpm = wish.tempo
    if bpm is None and (wish.bars or "|" in wish.start + wish.end):
        bpm = read_embedded(Path(facts.path), facts.rate_hz, facts.frames).tempo_bpm
    if bpm is None:
        return None
    beats, unit = parse_metre(wish.metre)
    first = parse_place(wish.bar_one, facts.rate_hz) if wish.bar_one else 0
    return TempoMap((TempoChange(1, bpm, beats, unit),), first)


def _markers(wish: RangeWish, facts: SourceFacts) -> Sequence[Marker]:
    if wish.markers_file is None:
        return read_embedded(Path(facts.path), facts.rate_hz, facts.frames).markers
    try:
        text = wish.markers_file.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        message = f"The markers in {str(wish.markers_file)!r} cannot be read as text."
        raise BadInput("marker.unreadable", message, path=str(wish.markers_file)) from error
    return parse_markers(text, facts.rate_hz)


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
