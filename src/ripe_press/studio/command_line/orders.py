"""Running orders on the command line: created, split from a mix, read and written as documents."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from pathlib import Path

from ripe_press.core.errors import BadInput
from ripe_press.core.measure.places.quiet import quiet_places
from ripe_press.core.requests.document import Document, MixRequest, document_of, read_document
from ripe_press.core.requests.running_order import OrderEntry, OrderLine, RunningOrder, checked_order, entries_between
from ripe_press.core.sources.source import facts_of_file
from ripe_press.core.survey import survey
from ripe_press.core.timeline import Marker
from ripe_press.core.words import quoted
from ripe_press.studio.briefs import briefs_here
from ripe_press.studio.command_line.press import PressJob
from ripe_press.studio.command_line.requests import NO_TICKET, RangeRequest, known_of, mix_wish


def order_of_mixes(mixes: Sequence[Path], title: str, gap_frames: int, runs_on: bool) -> Document:
    """A running order of whole mixes. Raises: as reading them does."""
    found = [mix_wish(one.absolute(), RangeRequest(), NO_TICKET) for one in dict.fromkeys(mixes)]
    places = {one: at for at, one in enumerate(dict.fromkeys(mixes))}
    entries = tuple(
        OrderEntry(
            f"e{number}", places[mix], 0, found[places[mix]].source.facts.frames, runs_on=runs_on and number > 1,
            gap_frames=gap_frames,
        )
        for number, mix in enumerate(mixes, 1)
    )  # fmt: skip
    return _document(found, RunningOrder(entries, title))


def order_by_cutting(mix: Path, title: str, markers: Path | None, quiet: bool) -> Document:
    """One long mix cut at its markers, at those of a file, or where it falls quiet.

    Raises: BadInput ``marker.none``; as reading it does.
    """
    wish = mix_wish(mix.absolute(), RangeRequest(markers_file=markers), NO_TICKET)
    facts = wish.source.facts
    places = wish.bench.markers
    if quiet:
        found = quiet_places(survey(mix).loudness)
        places = tuple(Marker(round(one.at_s * facts.rate_hz), f"Part {at}") for at, one in enumerate(found, 2))
        places = (Marker(0, "Part 1"), *places)
    return _document([wish], RunningOrder(entries_between(places, facts.frames, 0), title or wish.source.title))


def _document(mixes: Sequence[MixRequest], order: RunningOrder) -> Document:
    bare = tuple(replace(one, bench=replace(one.bench, ticket=())) for one in mixes)
    return document_of(bare, {}, date.today().isoformat(), checked_order(order))


def read_order(path: Path) -> Document:
    """A running order out of a file, its mixes as they are now: where they lay, or beside the file.

    Raises: BadInput ``order.unreadable``, ``order.none`` or ``document.…``; NotFound for a mix.
    """
    try:
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        message = f"{quoted(path)} is not a running order. Use text in UTF-8."
        raise BadInput("order.unreadable", message, path=str(path)) from error
    document = read_document(text)
    if document.order is None:
        message = f"{quoted(path.name)} is a ticket, not a running order. Create one with `ripe-press order create`."
        raise BadInput("order.none", message, path=str(path))
    mixes = tuple(_here(one, path.absolute().parent) for one in document.mixes)
    return replace(document, mixes=mixes, order=checked_order(document.order))


def _here(wish: MixRequest, beside: Path) -> MixRequest:
    old = wish.source.facts
    kept = Path(old.path)
    path = kept if kept.is_file() or not (beside / kept.name).is_file() else beside / kept.name
    cover = wish.cover
    return replace(wish, source=replace(wish.source, facts=facts_of_file(path, old.downmix)), cover=cover)


def order_set_out(document: Document, briefs: Sequence[str], disc: bool, alone: bool = False) -> PressJob:
    """The job of an order: with the named briefs, or its own; only the disc without any.

    Raises: NotFound for a brief; BadInput ``order.no-brief``.
    """
    order = document.order or RunningOrder(())
    lines = () if alone else tuple(OrderLine(one) for one in dict.fromkeys(briefs)) or order.lines
    order = replace(order, lines=lines, disc=disc)
    book = {**{brief.id: brief for brief in document.briefs}, **(briefs_here() if briefs else {})}
    unknown = [one.brief for one in lines if one.brief not in book]
    if unknown:
        from ripe_press.core.briefs.library import brief_of

        brief_of(unknown[0])
    if not lines and not disc:
        message = "No brief chosen. Add --brief."
        raise BadInput("order.no-brief", message)
    day = date.today().isoformat()
    return known_of(document_of(document.mixes, book, document.day or day, order))
