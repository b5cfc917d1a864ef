"""From the words of a command to a document: a range of a mix to some briefs, with overrides; or a ticket."""

import base64
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from hashlib import sha256
from itertools import product
from pathlib import Path

from ripe_press.core.briefs.library import DISC_TRACK, brief_of, built_in_briefs
from ripe_press.core.engine.resolve import check_range
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.capabilities import BITS, is_float
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.formats.fingerprint import content_sum
from ripe_press.core.formats.marker_lists import parse_markers
from ripe_press.core.naming import Clash
from ripe_press.core.requests.bench import Bench, FinishChain, NamedRange, between_markers
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.delivery import NO_CHANGES, Changes, Delivery
from ripe_press.core.requests.document import (
    CoverNote,
    Document,
    MixRequest,
    SourceNote,
    bench_of,
    document_of,
    document_text,
)
from ripe_press.core.requests.edges import NO_EDGES, Edges, Stretch
from ripe_press.core.requests.part import StemNote
from ripe_press.core.requests.sets import BLANK_SET, opened, set_for
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import facts_of_file
from ripe_press.core.survey import level_history, measure_bits
from ripe_press.core.tags.cover import prepared_cover
from ripe_press.core.tags.embedded import Embedded, read_embedded
from ripe_press.core.tags.lists import read_sheet, split_tag
from ripe_press.core.tags.sheet import Values, in_order, merged
from ripe_press.core.tempo_hints import first_bar_frame, tempo_hint
from ripe_press.core.timeline import Marker, TempoChange, TempoMap, parse_metre, parse_place
from ripe_press.core.whole_files import write_whole
from ripe_press.core.words import quoted
from ripe_press.store.mixes import StoredMix
from ripe_press.studio.briefs import briefs_here
from ripe_press.studio.command_line.press import PressJob
from ripe_press.studio.command_line.stems import NO_STEMS, StemsRequest, beside
from ripe_press.studio.data_folder import data_folder
from ripe_press.studio.planning import measured
from ripe_press.studio.shelf import on_shelf, stems_beside


@dataclass(frozen=True, slots=True)
class RangeRequest:
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
    silence: float | None = None


@dataclass(frozen=True, slots=True)
class TagsRequest:
    """A tag sheet as it is typed: ``KEY=VALUE``, a file of tags (JSON or CSV), a picture. Without a file of tags
    those that the mix carries, or that are kept with it on the shelf, are taken; a key without a value takes its
    field away.
    """

    tags: tuple[str, ...] = ()
    tags_file: Path | None = None
    cover: Path | None = None


NO_SHEET = TagsRequest()


@dataclass(frozen=True, slots=True)
class TicketRequest:
    """What holds for every delivery of a command line: departures, names that are taken, a group, parts of the mix.

    ``deliveries`` is a set; of its parts of the mix those that are typed take the place.
    """

    deliveries: Bench = BLANK_SET
    changes: Changes = NO_CHANGES
    clash: Clash = "keep-both"
    group: str = ""
    stems: StemsRequest = NO_STEMS


PLAIN_TICKET = TicketRequest()
NO_TICKET = TicketRequest(set_for({}))


def set_out(
    mixes: Sequence[Path],
    wish: RangeRequest,
    ticket: TicketRequest = PLAIN_TICKET,
    sheet: TagsRequest = NO_SHEET,
) -> PressJob:
    """What a command line means: a range of every mix in every delivery, with the same departures.

    What a mix has on its bench stands where nothing else is typed: tempo,
    tags, markers, cover, finishing chain; so the same wishes make the same files here and on the page.

    Raises: BadInput for times and ranges; NotFound for a mix or a brief; Unsupported for what cannot be.
    """
    if not mixes:
        message = "No mix given. Give at least one."
        raise BadInput("press.no-mix", message)
    book = _book(dict.fromkeys(line.brief for line in ticket.deliveries.ticket))
    made = [mix_wish(mix, wish, ticket, sheet) for mix in mixes]
    return known_of(document_of(tuple(made), book, date.today().isoformat()))


def set_out_again(mixes: Sequence[Path], document: Document, downmix: str = "") -> PressJob:
    """The wishes of a document for mixes in the places of those that it was written for.

    Where the mix is another one, a range that was the whole mix is the whole of this one. Raises: BadInput
    ``document.mixes`` where there are more or fewer; NotFound for a mix.
    """
    if len(mixes) != len(document.mixes):
        message = f"The ticket is for {len(document.mixes)} mixes, not {len(mixes)}. Give as many mixes."
        raise BadInput("document.mixes", message, mixes=len(mixes))
    made = tuple(_moved(wish, mix, downmix) for wish, mix in zip(document.mixes, mixes, strict=True))
    return known_of(replace(document, mixes=made, day=document.day or date.today().isoformat()))


def write_document(document: Document, path: Path) -> None:
    """Writes a document to a file, with the pictures that it embeds. Raises: Interrupted ``write.failed``."""
    write_whole(path, document_text(document))


def _moved(wish: MixRequest, mix: Path, downmix: str) -> MixRequest:
    old = wish.source.facts
    facts = facts_of_file(mix, downmix or old.downmix)
    same = bool(old.content_sum) and content_sum(mix) == old.content_sum
    bench, source = wish.bench, replace(wish.source, facts=facts)
    if not same:
        ranges = tuple(
            replace(one, end_frame=facts.frames) if (one.start_frame, one.end_frame) == (0, old.frames) else one
            for one in bench.ranges
        )
        bench, source = replace(bench, ranges=ranges), replace(source, title=mix.stem, offsets=())
    return replace(wish, source=source, bench=bench, cover=_unpacked(wish.cover))


def _unpacked(cover: CoverNote | None) -> CoverNote | None:
    """The picture of a document on this machine's disk."""
    if cover is None or not cover.data:
        return cover
    folder = data_folder().covers
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{cover.sha256[:20]}{Path(cover.name).suffix}"
    write_whole(path, base64.b64decode(cover.data))
    return replace(cover, path=str(path), data="")


def mix_wish(
    mix: Path,
    wish: RangeRequest,
    ticket: TicketRequest = PLAIN_TICKET,
    sheet: TagsRequest = NO_SHEET,
) -> MixRequest:
    """The deliveries of a mix, with its bench. Raises: as `set_out`."""
    facts = facts_of_file(mix, wish.downmix)
    stored = on_shelf(mix)
    kept = bench_of(stored.bench) if stored else None
    embedded = read_embedded(mix, facts.rate_hz, facts.frames)
    start, end = frames_of(wish, facts, kept, embedded)
    typed = dict(split_tag(one) for one in sheet.tags)
    values: Values = kept.tags if kept else embedded.tags
    if sheet.tags_file:
        values = read_sheet(sheet.tags_file, mix.name)
    values = merged(in_order({"title": mix.stem, **dict(values)}), tuple(typed.items()))
    markers = (
        tuple(_markers(wish, facts, embedded)) if wish.markers_file else kept.markers if kept else embedded.markers
    )
    cover = _cover(sheet, stored, kept)
    like, stems = _with_parts(mix, facts, ticket, stems_beside(stored))
    if wish.edges != NO_EDGES:
        like = replace(like, ranges=tuple(replace(one, edges=wish.edges) for one in like.ranges))
    bench = Bench(
        (NamedRange("r1", start, end, wish.name, edges=wish.edges),), markers, _tempo(wish, facts, kept, embedded),
        kept.finish if kept else FinishChain(), (), values, cover.name if cover else "",
        silence_dbfs=wish.silence if wish.silence is not None or not kept else kept.silence_dbfs,
    )  # fmt: skip
    bench = replace(opened(bench, like, (start, end)), clash=ticket.clash)
    offsets = tuple(stored.measures["dc_offset"]) if stored else ()
    return MixRequest(SourceNote(facts, mix.stem, offsets, embedded.time_reference), bench, cover, stems)


def _with_parts(
    mix: Path, facts: SourceFacts, ticket: TicketRequest, kept: tuple[StemNote, ...]
) -> tuple[Bench, tuple[StemNote, ...]]:
    """The deliveries, once for each part that is typed, with departures and group; and the stems beside the mix."""
    like = ticket.deliveries
    own = tuple(line.part for line in like.ticket if not line.part.is_mix)
    if own and not ticket.stems.parts:
        stems, _ = beside(mix, facts, replace(ticket.stems, parts=("all",)), kept)
        pairs = [(line, line.part) for line in like.ticket]
    else:
        stems, parts = beside(mix, facts, ticket.stems, kept)
        pairs = list(product(like.ticket, parts))
    lines = (
        replace(
            line, id=f"d{number}", part=part, group=ticket.group or line.group,
            changes=ticket.changes.over(line.changes),
        )
        for number, (line, part) in enumerate(pairs, 1)
    )  # fmt: skip
    return replace(like, ticket=tuple(lines)), stems


def known_of(document: Document) -> PressJob:
    """The document with as much known of each mix as its deliveries need."""
    mixes, briefs = [], document.briefs_by_id
    order = document.order
    for wish in document.mixes:
        facts, part = wish.source.facts, Stretch(0, wish.source.facts.frames)
        lines = [(one.brief, one.changes) for one in (order.lines if order else wish.bench.ticket)]
        made = [changes.applied_to(briefs[name].delivery(part, facts)) for name, changes in lines if name in briefs]
        if order and order.disc:
            made.append(DISC_TRACK.delivery(part, facts))
        if any(_may_be_exact(one, facts) for one in made):
            facts = replace(facts, effective_bits=measure_bits(FileSource(facts)))
        facts = replace(facts, content_sum=content_sum(Path(facts.path)))
        mixes.append(replace(wish, source=replace(wish.source, facts=facts)))
    known = tuple(measured(wish.source.facts) for wish in mixes)
    return PressJob(replace(document, mixes=tuple(mixes)), known)


def _may_be_exact(delivery: Delivery, facts: SourceFacts) -> bool:
    """Whether it matters how many bits of the mix are in use: they decide whether a shorter depth is exact."""
    encoding = delivery.encoding
    shorter = encoding != "keep" and not is_float(encoding) and BITS[encoding] < (facts.bit_depth or 0)
    kept = delivery.rate_hz in ("keep", facts.rate_hz)
    return shorter and kept and (facts.holds_integers or facts.is_float)


def _book(wanted: Iterable[str]) -> dict[str, Brief]:
    """The briefs by their names. Raises: NotFound ``brief.unknown``."""
    shipped = built_in_briefs()
    book = shipped if all(name in shipped for name in wanted) else briefs_here()
    return {name: book[name] if name in book else brief_of(name) for name in wanted}


def _cover(sheet: TagsRequest, stored: StoredMix | None, kept: Bench | None) -> CoverNote | None:
    path = None
    if sheet.cover:
        path = sheet.cover.absolute()
        prepared_cover(str(path))
    elif stored and kept and kept.cover:
        path = data_folder().mix(stored.sha256) / kept.cover
    return CoverNote(path.name, sha256(path.read_bytes()).hexdigest(), str(path)) if path and path.is_file() else None


def frames_of(
    wish: RangeRequest, facts: SourceFacts, kept: Bench | None = None, embedded: Embedded | None = None
) -> tuple[int, int]:
    """The frames that a typed range means. Raises: BadInput for what cannot be read or does not go together."""
    rate = facts.rate_hz
    embedded = embedded or read_embedded(Path(facts.path), facts.rate_hz, facts.frames)
    ways = [bool(wish.bars), bool(wish.marker), bool(wish.start or wish.end)]
    if sum(ways) > 1:
        message = "Use one of bars, markers, or start and end."
        raise BadInput("range.two-ways", message)
    if wish.marker:
        known = kept.markers if kept and not wish.markers_file else _markers(wish, facts, embedded)
        return between_markers(wish.marker, known, facts.frames)
    tempo = _tempo(wish, facts, kept, embedded)
    start, end = wish.start, wish.end
    if wish.bars:
        if tempo is None:
            raise _no_tempo(facts)
        first_bar, _, last_bar = (part.strip() for part in wish.bars.partition(".."))
        last_bar = last_bar or first_bar
        if not first_bar.isdigit() or not last_bar.isdigit() or int(last_bar) < int(first_bar):
            message = f"“{wish.bars}” is not a bar range. Use first and last bar, for example 9..16."
            raise BadInput("bars.unreadable", message, text=wish.bars)
        start, end = f"b{first_bar}", f"b{int(last_bar) + 1}"
    first = parse_place(start, rate, tempo) if start else 0
    last = parse_place(end, rate, tempo) if end else facts.frames
    check_range(Stretch(first, last), facts)
    return first, last


def _tempo(wish: RangeRequest, facts: SourceFacts, kept: Bench | None, embedded: Embedded) -> TempoMap | None:
    """The typed tempo, that of the bench, or one from the file, a MIDI file next to it or its name.

    Bar 1 is where it is typed, or else by the sound, as on the page.
    """
    path = Path(facts.path)
    if wish.tempo is None:
        if kept:
            return kept.tempo
        hint = tempo_hint(path, embedded.tempo_bpm)
        if hint is None:
            return None
        changes = hint.changes
    else:
        beats, unit = parse_metre(wish.metre)
        changes = (TempoChange(1, wish.tempo, beats, unit),)
    if wish.bar_one:
        return TempoMap(changes, parse_place(wish.bar_one, facts.rate_hz))
    history = level_history(FileSource(facts))
    return TempoMap(changes, first_bar_frame(history.sounding(), history.tempo(), changes[0].tempo_bpm, facts.rate_hz))


def _no_tempo(facts: SourceFacts) -> BadInput:
    """What to do about bars of a mix without a tempo: its own, by its sound, is offered and not taken."""
    found = level_history(FileSource(facts)).tempo()
    name = Path(facts.path).name
    if found is None:
        message = f"“{name}” has no tempo, and none was detected. Add --tempo, for example --tempo 96."
    else:
        others = " or ".join(f"{one:g}" for one in found.others)
        message = (
            f"“{name}” has no tempo; detected: {found.bpm:g} bpm (confidence {found.confidence:.2f}; or "
            f"{others}). Add --tempo {found.bpm:g}."
        )
    return BadInput("bars.no-tempo", message)


def _markers(wish: RangeRequest, facts: SourceFacts, embedded: Embedded) -> Sequence[Marker]:
    if wish.markers_file is None:
        return embedded.markers
    try:
        text = wish.markers_file.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        message = f"{quoted(wish.markers_file)} is not a marker file. Use text in UTF-8."
        raise BadInput("marker.unreadable", message, path=str(wish.markers_file)) from error
    return parse_markers(text, facts.rate_hz)
