"""The one planner: from a ticket to the files of a pressing, with stored measurements or new ones.

The page previews with it, press room and command line press with it: so the same wishes make the same files.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from pathlib import Path

from ripe_press.core.engine.resolve import Mix, PlannedFile, resolve
from ripe_press.core.engine.stems import part_source
from ripe_press.core.errors import BadInput, Conflict, NotFound, RipePressError
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.naming import Clash, FilePlace, place, safe_stem
from ripe_press.core.requests.bench import Bench, TicketLine
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.requests.document import Document, MixRequest
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.part import Part
from ripe_press.core.rules.checks.mix import tail_is_music
from ripe_press.core.stations.range import bars_between
from ripe_press.core.tags.sheet import Values, in_order
from ripe_press.core.timeline import TempoChange, TempoMap
from ripe_press.core.units import print_minutes
from ripe_press.core.words import quoted
from ripe_press.studio.planning.apart import told_apart
from ripe_press.studio.planning.knowledge import BEING_MEASURED, LIVE, Knowledge
from ripe_press.studio.planning.measured import measured
from ripe_press.studio.planning.orders import resolved_order
from ripe_press.studio.planning.places import Places
from ripe_press.studio.planning.resolved import RejectedDelivery, Resolved, brief_of_line, mix_of, stretch_of


@dataclass(frozen=True, slots=True)
class RequestedFile:
    """A file of a ticket: what it is planned to be, the line that asks for it, its brief, and where it goes."""

    planned: PlannedFile
    line: TicketLine
    brief: Brief
    mix: Mix
    known: Knowledge
    placed: FilePlace
    joined: tuple[str, ...] = ()
    """The stems that are added up, where there are several."""


@dataclass(frozen=True, slots=True)
class Plan:
    """The files of a ticket, or of several, and the deliveries that cannot be made."""

    files: tuple[RequestedFile, ...]
    refused: tuple[RejectedDelivery, ...]

    def or_refuse_ends(self) -> "Plan":
        """The plan itself, once nothing in it is refused, and no tail is asked for where the music continues.

        Raises: what the first refusal says; BadInput ``edges.music``.
        """
        if self.refused:
            raise self.refused[0].error
        for one in self.files:
            stretch = one.planned.wish.stretch
            if sentence := tail_is_music(stretch, one.known.facts.rate_hz):
                raise BadInput("edges.music", sentence, end_frame=stretch.end_frame)
        return self

    def or_refuse(self) -> "Plan":
        """The plan itself, once nothing in it is refused and there is something to press.

        A stem still being measured, or waiting for its live pass, is not an error: it will exist when it is pressed.

        Raises: what the first refusal says; BadInput ``press.nothing`` or ``press.all-there``.
        """
        waiting = [one for one in self.refused if one.error.code in (BEING_MEASURED, LIVE)]
        for one in self.refused:
            if one not in waiting:
                raise one.error
        if waiting:
            return self
        Plan(self.files, ()).or_refuse_ends()
        if not self.files:
            message = "No active deliveries. Add or enable one."
            raise BadInput("press.nothing", message)
        if all(one.placed.skipped for one in self.files):
            message = "All files exist and were skipped."
            raise BadInput("press.all-there", message)
        return self


KnowledgeOf = Callable[[MixRequest], Knowledge]
FolderOf = Callable[[MixRequest, Brief], Path]


def files_pressed(document: Document) -> list[Resolved]:
    """The files that a pressing of a document made, each at its number.

    Raises: NotFound ``record.no-file`` where some are unknown, so that numbers are not reliable: a source is missing,
    or the record is from before captures were recorded.
    """
    files, refused = resolved_files(document, lambda wish: measured(wish.source.facts))
    if refused:
        message = f"The history does not say how these files were made. {refused[0].error.message}"
        raise NotFound("record.no-file", message)
    return files


def resolved_files(
    document: Document, knowledge_of: KnowledgeOf, *, judged: bool = False
) -> tuple[list[Resolved], list[RejectedDelivery]]:
    """Every file of a document, mix by mix and line by line, and the lines of which none can be made.

    A running order is resolved in place of the tickets of its mixes. Files to be ``judged`` are measured for that.
    """
    if document.order:
        return resolved_order(document, document.order, knowledge_of)
    briefs = document.briefs_by_id
    refused: list[RejectedDelivery] = []
    found: list[Resolved] = []
    for wish in document.mixes:
        whole = knowledge_of(wish)
        parts: dict[Part, tuple[Knowledge, Mix]] = {}
        lines = [line for line in wish.bench.ticket if line.on]
        for number, line in enumerate(lines, 1):
            try:
                brief = brief_of_line(line, briefs)
                if line.part not in parts:
                    parts[line.part] = _of_part(wish, whole, line.part)
                known, mix = parts[line.part]
                made = _delivery(known, whole, wish.bench, line, brief, number, document.day, judged)
                found += [Resolved(file, line, brief, mix, known, wish) for file in resolve(made, mix)]
            except RipePressError as error:
                refused.append(RejectedDelivery(line, error))
    return found, refused


def plan(document: Document, knowledge_of: KnowledgeOf, folder_of: FolderOf, under_way: Iterable[str] = ()) -> Plan:
    """Every file of a document with its place, clashes settled; ``under_way`` are files that others are pressing."""
    found, refused = resolved_files(document, knowledge_of, judged=True)
    places = Places(under_way)
    if not document.order:
        found = told_apart(found)
    wanted = [folder_of(one.wish, one.brief) / one.planned.path.name.file_name for one in found]
    # What a bench says of names that are taken is said of its own ticket.
    clash: Clash = "keep-both" if document.order else document.mixes[0].bench.clash
    placed = place(wanted, clash, places.in_the_way)
    files = (
        RequestedFile(one.planned, one.line, one.brief, one.mix, one.known, where, _joined(one))
        for one, where in zip(found, placed, strict=True)
    )
    return Plan(tuple(files), tuple(refused))


def _joined(one: Resolved) -> tuple[str, ...]:
    part = one.line.part
    chosen = () if part.is_mix else part.of(one.wish.stems)
    return chosen if len(chosen) > 1 else ()


def brief_folder(folder: Path, brief: Brief) -> Path:
    """The folder that files for a brief go to."""
    return folder / safe_stem(brief.drop_off) if brief.drop_off else folder


def _of_part(wish: MixRequest, whole: Knowledge, part: Part) -> tuple[Knowledge, Mix]:
    """Measurements of a stem, and the source of its deliveries."""
    if part.is_mix:
        return whole, mix_of(wish, whole)
    for stem in wish.stems:
        if stem.live_s and stem.name in part.of(wish.stems):
            length = print_minutes(stem.live_s)
            message = f"{quoted(stem.name)} needs a live pass through {stem.unit} first ({length}, real time)."
            raise Conflict(LIVE, message, seconds=stem.live_s)
    known = whole.part(part_source(whole.source, wish.stems, part))
    return known, mix_of(wish, known, beside=True)


def _looped(known: Knowledge, brief: Brief, stretch: Stretch) -> Stretch:
    """A stretch with the crossfade that its brief wants, as far as its seam needs one."""
    edges = stretch.edges
    wanted = brief.prefer.crossfade and edges.end == "stop" and not edges.silence_before_s
    again = stretch.shortened and edges.end == "crossfade"
    if not wanted and not again:
        return stretch
    frames = known.crossfade_frames(stretch.start_frame, stretch.end_frame, needed=not wanted)
    return replace(stretch, edges=replace(edges, end="crossfade" if frames else "stop"), crossfade_frames=frames)


def _loudest(known: Knowledge, brief: Brief, tempo: TempoMap | None) -> tuple[int, int] | None:
    """The loudest part of a mix that a brief takes: whole bars where they are known, else from any second on."""
    facts, most = known.facts, int(brief.prefer.longest_s * known.facts.rate_hz)
    starts = [frame for frame, _ in tempo.grid(facts.frames, facts.rate_hz)] if tempo else []
    if not starts:
        starts = list(range(0, max(1, facts.frames - most), facts.rate_hz))
    starts = [one for one in starts if one + most <= facts.frames] or [0]
    first = known.loudest(starts, most)
    end = min(facts.frames, first + most)
    if tempo:
        line = tempo.bar_line_before(end, facts.rate_hz)
        end = line if line > first else end
    return first, end


def _on_bars(stretch: Stretch, facts: SourceFacts, tempo: TempoMap) -> tuple[int, int] | None:
    """The whole bars of a mix that lie nearest to a stretch; None where there are none."""
    lines = [frame for frame, _ in tempo.grid(facts.frames, facts.rate_hz)]
    if len(lines) < 2:
        return None
    start = min(lines[:-1], key=lambda line: abs(line - stretch.start_frame))
    return start, min((line for line in lines if line > start), key=lambda line: abs(line - stretch.end_frame))


def _saying_tempo(tags: Values, bench: Bench, begins: TempoChange, metre: bool) -> Values:
    """Tags that say how fast it is, and in which metre, where the sheet and the delivery say nothing of either."""
    said = {**dict(bench.tags), **dict(tags)}
    own = {"tempo": f"{begins.tempo_bpm:g}"}
    if metre:
        own["comment"] = f"{begins.tempo_bpm:g} bpm, {begins.beats}/{begins.unit}"
    more = {name: text for name, text in own.items() if not said.get(name)}
    return in_order({**more, **dict(tags)})


def _delivery(
    known: Knowledge,
    whole: Knowledge,
    bench: Bench,
    line: TicketLine,
    brief: Brief,
    number: int,
    day: str,
    judged: bool,
) -> Delivery:
    part, facts = bench.range_of(line.range_id), known.facts
    # The tail is measured on the mix: its stems get the same length.
    silence_dbfs = bench.silence_dbfs if bench.silence_dbfs is not None else brief.prefer.silence_dbfs
    delivery = line.changes.applied_to(
        brief.delivery(stretch_of(whole, part, silence_dbfs, judged=judged), facts, bench.tempo)
    )
    stretch = _looped(whole, brief, delivery.stretch)
    if judged and stretch.shortened:
        stretch = replace(stretch, loudest=_loudest(whole, brief, bench.tempo))
    delivery = replace(delivery, stretch=stretch)
    tempo = metre = bars = ""
    bars_s = 0.0
    if bench.tempo:
        begins = bench.tempo.change_at(bench.tempo.last_bar_line(stretch.start_frame, facts.rate_hz))
        tempo, metre = f"{begins.tempo_bpm:g}bpm", f"{begins.beats}-{begins.unit}"
        delivery = replace(delivery, tags=_saying_tempo(delivery.tags, bench, begins, brief.prefer.tempo_map))
        found = bars_between(stretch.start_frame, stretch.end_frame, facts.rate_hz, bench.tempo)
        bars = found.text.replace("–", "-") if found else ""
        bars_s = bench.tempo.seconds_between(found.first, found.last + 1) if found else 0.0
        if judged and brief.require.whole_bars and not found:
            delivery = replace(delivery, stretch=replace(stretch, on_bars=_on_bars(stretch, facts, bench.tempo)))
    return replace(
        delivery,
        group=line.group,
        part=line.part.name,
        id=line.id,
        tempo=tempo,
        bars=bars,
        bars_s=bars_s,
        metre=metre,
        number=number,
        day=day,
    )
