"""A pressing in this very process, for the command line: no shelf, but kept in the record all the same."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path
from typing import Any

from ripe_press.core.bench import Bench, bench_of, between_markers, finish_of
from ripe_press.core.briefs.library import Brief, brief_of, built_in_briefs
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.delivery import NO_CHANGES, Changes, Delivery
from ripe_press.core.engine.describe import MixKnowledge, describe
from ripe_press.core.engine.edges import NO_EDGES, Edges, Stretch, measure_ring
from ripe_press.core.engine.notes import MixNotes
from ripe_press.core.engine.resolve import NO_FINISH, check_range, resolve
from ripe_press.core.engine.tree import node_numbers
from ripe_press.core.engine.walker import Progress
from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.formats.capabilities import BITS, CAPABILITIES, is_float
from ripe_press.core.formats.content import content_sum
from ripe_press.core.formats.marker_lists import parse_markers
from ripe_press.core.formats.reader import SourceFacts, SourceReader
from ripe_press.core.naming import Clash
from ripe_press.core.press import press
from ripe_press.core.survey import measure_bits
from ripe_press.core.tags.cover import prepared_cover
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.core.tags.lists import read_sheet, split_tag
from ripe_press.core.tags.sheet import Values, in_order, merged
from ripe_press.core.timeline import Marker, TempoChange, TempoMap, parse_metre, parse_place
from ripe_press.core.trial import size_after, try_path
from ripe_press.store.briefs import OwnBriefs
from ripe_press.store.db import Database
from ripe_press.store.mixes import Mixes
from ripe_press.store.pressings import Pressings
from ripe_press.studio.briefs import BriefBook, brief_row
from ripe_press.studio.data_folder import data_folder
from ripe_press.studio.orders import Ticket, order_of, order_seconds, ticket_row, wanted_files
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


@dataclass(frozen=True, slots=True)
class SetOut:
    """A mix and everything that is to be pressed of it."""

    facts: SourceFacts
    title: str
    ticket: Ticket


@dataclass(frozen=True, slots=True)
class SheetWish:
    """A tag sheet as it is typed: ``KEY=VALUE``, a file of tags (JSON or CSV), a picture. Without a file of tags
    those that the mix carries, or that are kept with it on the shelf, are taken; a key without a value takes its
    field away.
    """

    tags: tuple[str, ...] = ()
    tags_file: Path | None = None
    cover: Path | None = None
    clash: Clash = "keep-both"


NO_SHEET = SheetWish()


def set_out(
    mix: Path,
    briefs: tuple[str, ...],
    wish: RangeWish,
    changes: Changes = NO_CHANGES,
    sheet: SheetWish = NO_SHEET,
) -> SetOut:
    """The ticket that a command line means: a range of a mix to every brief, with the same overrides.

    Without a brief a blank delivery is made. A finishing chain and briefs of one's own come from the data folder.

    Raises: BadInput for times and ranges; NotFound for the mix or a brief; Unsupported for what cannot be.
    """
    with SourceReader(mix, wish.downmix) as reader:
        facts = reader.facts
    book, finish, bench = _kept(mix, briefs)
    notes = _notes(mix, facts, wish, sheet, bench)
    start, end = frames_of(wish, facts)
    rings = wish.edges.end in ("ring", "fold") and 0 <= end <= facts.frames
    ring = measure_ring(facts, end, wish.edges) if rings else 0
    stretch = Stretch(start, end, wish.edges, ring, wish.name)
    tempo = f"{wish.tempo:g}bpm" if wish.tempo else ""
    bars = wish.bars.replace("..", "-")
    metre = wish.metre.replace("/", "-") if wish.tempo else ""
    day = date.today().isoformat()

    def delivery(brief: Brief, about: SourceFacts) -> Delivery:
        made = changes.applied_to(brief.delivery(stretch, about))
        return replace(made, tempo=tempo, bars=bars, metre=metre, day=day)

    made = [delivery(brief, facts) for brief in book.values()]
    if any(_may_be_exact(one, facts) for one in made):
        facts = replace(facts, effective_bits=measure_bits(facts))
        made = [delivery(brief, facts) for brief in book.values()]
    if any(_makes_integers(one) for one in made):
        facts = replace(facts, content_sum=content_sum(mix))
    numbered = tuple(replace(one, number=number) for number, one in enumerate(made, 1))
    return SetOut(facts, mix.stem, Ticket(numbered, book, finish, notes, sheet.clash))


def _notes(mix: Path, facts: SourceFacts, wish: RangeWish, sheet: SheetWish, bench: Bench | None) -> MixNotes:
    embedded = read_embedded(mix, facts.rate_hz, facts.frames)
    kept: Values = bench.tags if bench else embedded.tags
    if sheet.tags_file:
        kept = read_sheet(sheet.tags_file, mix.name)
    typed = dict(split_tag(one) for one in sheet.tags)
    values = merged(in_order({"title": mix.stem, **dict(kept)}), tuple(typed.items()))
    cover = str(sheet.cover.absolute()) if sheet.cover else ""
    if cover:
        prepared_cover(cover)
    elif bench and bench.cover:
        cover = bench.cover
    markers = tuple(_markers(wish, facts)) if wish.markers_file else bench.markers if bench else embedded.markers
    return MixNotes(values, cover, markers, embedded.time_reference)


def _makes_integers(delivery: Delivery) -> bool:
    """Whether there may be dither, which is seeded by what is in the mix: that has to be read for it."""
    encoding = delivery.encoding
    return not CAPABILITIES[delivery.container].lossy and not (encoding and is_float(encoding))


def _may_be_exact(delivery: Delivery, facts: SourceFacts) -> bool:
    """Whether it matters how many bits of the mix are in use: they decide whether a shorter depth is exact."""
    encoding = delivery.encoding
    shorter = encoding is not None and not is_float(encoding) and BITS[encoding] < (facts.bit_depth or 0)
    kept = delivery.rate_hz in (None, facts.rate_hz)
    return shorter and kept and (facts.holds_integers or facts.is_float)


def plan_now(set_out: SetOut) -> dict[str, Any]:
    """The tree that a pressing would walk: every file's stations in order, with the numbers of shared ones."""
    ticket, facts = set_out.ticket, set_out.facts
    rows = [
        (delivery, path)
        for delivery in ticket.deliveries
        for path in resolve(delivery, facts, set_out.title, ticket.finish, ticket.notes)
    ]
    numbers = node_numbers([path for _, path in rows])
    files = []
    for (delivery, path), nodes in zip(rows, numbers, strict=True):
        source = next(one for one in path if isinstance(one, st.Source))
        codec = next(one for one in path if isinstance(one, st.Codec))
        size = size_after(path, try_path(path))
        known = MixKnowledge(range_name=delivery.stretch.name, container=codec.container, forecast=size)
        words = [describe(station, source, known) for station in path]
        files.append(
            {
                "brief": delivery.brief,
                "name": next(one.file_name for one in path if isinstance(one, st.Name)),
                "frames": codec.frames,
                "sample_rate_hz": codec.rate_hz,
                "bytes": size.middle,
                "bytes_exact": size.exact,
                "bytes_between": [size.low, size.high],
                "container": codec.container,
                "bit_exact": codec.exact,
                "stations": [
                    {
                        "node": node, "kind": one.kind, "label": one.label, "detail": one.detail, "idle": one.idle,
                        "sentence": one.sentence,
                    }
                    for node, one in zip(nodes, words, strict=True)
                ],
            }
        )  # fmt: skip
    return {"files": files}


def press_now(
    mix: Path, made: SetOut, out: Path, progress: Progress, should_stop: Callable[[], bool]
) -> dict[str, Any]:
    """Presses what is set out into ``out`` and gives the report of the command line's JSON.

    Files that are there and are to be skipped are named in it; when all are, nothing is pressed, which is no error.
    Raises: BadInput for folders; whatever pressing raises.
    """
    wanted = wanted_files(made.facts, made.title, made.ticket, _folder(out))
    skipped = [str(one.placed.path) for one in wanted if one.placed.skipped]
    order = order_of(wanted, made.ticket.finish)
    if not order.paths:
        return {"pressing": None, "files": [], "skipped": skipped, "seconds": 0.0, "times_realtime": None}
    for target in order.targets:
        _folder(Path(target).parent)
    began = time.monotonic()
    files = press(order, progress, should_stop)
    seconds = time.monotonic() - began
    report = {
        "files": [file_report(file) for file in files],
        "skipped": skipped,
        "seconds": seconds,
        "times_realtime": order_seconds(order) / seconds,
    }
    return {"pressing": _record(mix, ticket_row(made.ticket), report), **report}


def all_briefs() -> list[dict[str, Any]]:
    """Every brief as its file has it, those that ship first."""
    try:
        database = Database(data_folder().database)
    except Conflict:
        return [brief_row(brief) for brief in built_in_briefs().values()]
    try:
        database.migrate()
        return [brief_row(brief) for brief in BriefBook(OwnBriefs(database)).all().values()]
    finally:
        database.close()


def _kept(mix: Path, wanted: tuple[str, ...]) -> tuple[dict[str, Brief], st.Finish, Bench | None]:
    """The briefs by their names; the finishing chain and the bench of the mix when it is on the shelf.

    Raises: NotFound ``brief.unknown``.
    """
    shipped = built_in_briefs()
    own: dict[str, Brief] = {}
    finish, bench = NO_FINISH, None
    folder = data_folder()
    try:
        database = Database(folder.database)
    except Conflict:
        return {name: brief_of(name) for name in wanted or ("blank",)}, finish, None
    try:
        database.migrate()
        if any(name not in shipped for name in wanted):
            own = dict(BriefBook(OwnBriefs(database)).all())
        stored = Mixes(database).by_path(str(mix.resolve()))
        if stored:
            bench = bench_of(stored.bench)
            cover = folder.mix(stored.sha256) / bench.cover if bench.cover else None
            bench = replace(bench, cover=str(cover) if cover and cover.is_file() else "")
            finish = finish_of(bench.finish, tuple(stored.measures["dc_offset"]))
    finally:
        database.close()
    return {name: own[name] if name in own else brief_of(name) for name in wanted or ("blank",)}, finish, bench


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
    first = parse_place(start, rate, tempo) if start else 0
    last = parse_place(end, rate, tempo) if end else facts.frames
    check_range(Stretch(first, last), facts)
    return first, last


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
