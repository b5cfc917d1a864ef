"""The ticket, its pressing, and the files that come of it."""

from functools import lru_cache
from pathlib import PurePosixPath

import numpy as np
from fastapi import APIRouter, Response

from ripe_press.api.deps import TheStudio
from ripe_press.api.pressing import views as schemas
from ripe_press.core.errors import NotFound
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.formats.coding import bit_rates
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.requests.bench import Bench
from ripe_press.core.requests.making import DeliverySettings, settings_of
from ripe_press.core.rules.checks.files import problems
from ripe_press.core.rules.explained import About, explained
from ripe_press.core.signal.limiter import REDUCTION_BIN
from ripe_press.core.signal.quantise import added_noise_dbfs, noise_density_db
from ripe_press.core.signal.resample import Quality, measure_response
from ripe_press.core.stations import Codec, Depth
from ripe_press.core.stations.size.forecast import Forecast
from ripe_press.core.tags.forms import LOOP, MARKERS, carried, mapping, not_held
from ripe_press.core.tags.sheet import COVER, FIELDS, FileTags
from ripe_press.core.trial import size_after
from ripe_press.core.units import finite
from ripe_press.store.mixes import StoredMix
from ripe_press.studio.planning import Plan, RequestedFile, Row, rows_of
from ripe_press.studio.shelf import document_for
from ripe_press.studio.studio import Studio

router = APIRouter(prefix="/api", tags=["press"])


def _row(row: Row) -> schemas.Row:
    path, codec, tags = row.path, row.path.codec, row.path.tags.content
    converter = noise = None
    if not path.rate.idle:
        rate = path.rate
        converter = schemas.ConverterRequest(from_hz=rate.from_hz, to_hz=rate.to_hz, quality=rate.quality)
    if path.depth and not path.depth.exact:
        noise = _noise(path.depth, row.quietest_dbfs)
    cells = [
        schemas.Station(
            node=node, kind=cell.kind, label=cell.label, detail=cell.detail, idle=cell.idle, sentence=cell.sentence,
            figures=[schemas.Figure(name=name, value=value) for name, value in cell.figures],
        )
        for cell, node in zip(row.stations, row.nodes, strict=True)
    ]  # fmt: skip
    made, brief, coding = row.delivery, row.brief, codec.coding
    # What cannot be read off the wish alone is read off the path that it came to.
    same = settings_of(made, DeliverySettings) | {"group": made.group}
    same |= {"encoding": codec.encoding, "rate_hz": path.rate.to_hz, "mode": None, "kbps": None, "coding_quality": None}
    if coding:
        same |= {"mode": coding.mode, "kbps": coding.kbps or None}
        same |= {"coding_quality": None if coding.kbps else coding.quality}
    file_name = str(PurePosixPath(path.name.file_name).with_name(row.placed.path.name))
    return schemas.Row(
        id=row.id, half=row.half, line_id=row.line.id, range_id=row.line.range_id, heard_end_frame=path.cut.read_end,
        part=made.part, joined=list(row.joined),
        brief=brief.id, brief_title=brief.title, brief_sentence=brief.sentence, brief_why=brief.why,
        settled=schemas.Settled(**same), stations=cells, converter=converter, noise=noise, file_name=file_name,
        clash=row.placed.clash, skipped=row.placed.skipped, replaces=row.placed.replaces, tags=_tags(row, codec, tags),
        size=_size(row.size), before=_signal(row.before), forecast=_signal(row.forecast), bit_exact=codec.exact,
        lossy=codec.lossy, channels=codec.channels,
        kbps_offered=list(bit_rates(codec.container, codec.rate_hz, codec.channels)), findings=list(row.findings),
        verdict=row.verdict,
    )  # fmt: skip


def _size(size: Forecast) -> schemas.Size:
    return schemas.Size(low=size.low, high=size.high, middle=size.middle, basis=size.basis, words=str(size))


def _tags(row: Row, codec: Codec, tags: FileTags) -> schemas.FileTags:
    names, kept = mapping(codec.container), carried(codec.container, tags)
    held = dict(kept.values)
    notes = dict([*not_held(codec.container, tags), *problems(tags.values)])
    departing = {field for field, _ in row.line.changes.tags or ()}
    lines = [
        schemas.TagLine.model_construct(
            field=field, text=tags.text(field), written=held.get(field), names=list(names[field]),
            note=notes.get(field), departs=field in departing,
        )
        for field in FIELDS
    ]  # fmt: skip
    can = CAPABILITIES[codec.container]
    gain = "bext" if can.states_loudness else can.gain_tags if tags.gain_tags else ""
    return schemas.FileTags(
        lines=lines, cover=bool(kept.cover), cover_names=list(names[COVER]), cover_note=notes.get(COVER),
        markers=len(kept.markers), markers_note=notes.get(MARKERS), loop=kept.loop is not None,
        loop_note=notes.get(LOOP), loudness=gain,
    )  # fmt: skip


def _signal(found: SignalResult) -> schemas.Signal:
    return schemas.Signal(
        sample_peak_dbfs=finite(found.sample_peak_dbfs), true_peak_dbtp=finite(found.true_peak_dbtp),
        integrated_lufs=finite(found.integrated_lufs),
    )  # fmt: skip


def _noise(depth: Depth, quietest_dbfs: float) -> schemas.NoisePicture:
    hz = np.geomspace(20.0, depth.rate_hz / 2, 120)
    density = noise_density_db(depth.bits, depth.dither, depth.rate_hz, hz)
    return schemas.NoisePicture(
        dither_noise_dbfs=added_noise_dbfs(depth.bits, depth.dither, depth.rate_hz),
        undithered_noise_dbfs=added_noise_dbfs(depth.bits, "none"),
        quietest_dbfs=finite(quietest_dbfs), bits=depth.bits, dither=depth.dither, rate_hz=depth.rate_hz,
        density=[(round(float(one), 1), round(float(db), 1)) for one, db in zip(hz, density, strict=True)],
    )  # fmt: skip


@router.post("/mixes/{mix_id}/ticket", response_model=schemas.Ticket)
def read_ticket(mix_id: int, wish: Bench, studio: TheStudio) -> Response:
    """What will be pressed of a mix, before it is pressed."""
    mix = studio.shelf.mix(mix_id)
    found = _plan(studio, mix, wish)
    folders = studio.press_room.destinations
    folder = folders.of(mix.title, mix.path, wish.folder)
    # Branch by branch, as the tree is drawn, so that no two branches cross.
    rows = sorted(_rows(studio, mix, wish, found), key=lambda row: row.nodes)
    ticket = schemas.Ticket(
        rows=[_row(row) for row in rows],
        refused=[
            schemas.RejectedDelivery(line_id=one.line.id, code=one.error.code, sentence=one.error.message)
            for one in found.refused
        ],
        folder=str(folder),
        folder_problem=folders.problem(wish.folder, mix.path) if wish.folder else "",
        seconds=studio.press_room.estimate(found),
    )
    # The largest answer there is, asked for at every change: it is written out in one go.
    return Response(ticket.model_dump_json(), media_type="application/json")


@router.post("/mixes/{mix_id}/explained/{file_id}")
def explain(mix_id: int, file_id: str, wish: Bench, studio: TheStudio) -> list[schemas.Explained]:
    """Words of the trade, and what they are in this file. Raises: NotFound ``delivery.unknown``."""
    mix = studio.shelf.mix(mix_id)
    row = next((one for one in _rows(studio, mix, wish, _plan(studio, mix, wish)) if one.id == file_id), None)
    if row is None:
        message = "Delivery not found on this ticket."
        raise NotFound("delivery.unknown", message, file=file_id)
    bandwidth_hz = mix.measures["effective_bandwidth_hz"]
    found = explained(About(row.path, row.before, row.forecast, row.quietest_dbfs, bandwidth_hz))
    return [schemas.Explained(word=word, sentences=text) for word, text in found.items()]


def _plan(studio: Studio, mix: StoredMix, bench: Bench) -> Plan:
    return studio.press_room.planned(mix, document_for(studio.mix_views, mix, bench, studio.briefs.all()))


def _rows(studio: Studio, mix: StoredMix, bench: Bench, found: Plan) -> tuple[Row, ...]:
    unheard = mix.file_channels if mix.measures.get("channels_asked") else 0
    return rows_of(found.files, studio.trials, bench.tempo, unheard, studio.drop_offs.sends_of(mix.id))


@router.post("/mixes/{mix_id}/level")
def try_level(mix_id: int, wish: schemas.LevelStretchRequest, studio: TheStudio) -> schemas.LevelTrial:
    """The level of a delivery as it will be pressed: the very signal is walked, and nothing is written."""
    mix = studio.shelf.mix(mix_id)
    file = asked_file(studio, mix, wish.bench, wish.id)
    found, path = studio.trials.level(file.planned), file.planned.path
    return schemas.LevelTrial(
        gain_db=found.gain_db, sample_peak_dbfs=finite(found.signal.sample_peak_dbfs),
        true_peak_dbtp=finite(found.signal.true_peak_dbtp), integrated_lufs=finite(found.signal.integrated_lufs),
        reduction_db=list(found.reduction_db), start_frame=path.cut.start_frame,
        frames_per_bin=REDUCTION_BIN * path.rate.from_hz / path.rate.to_hz,
        reached=found.short is None,
    )  # fmt: skip


def asked_file(studio: Studio, mix: StoredMix, bench: Bench, file_id: str) -> RequestedFile:
    """A file of a ticket by its id. Raises: NotFound ``delivery.unknown``."""
    found = next((one for one in _plan(studio, mix, bench).files if one.planned.id == file_id), None)
    if found is None:
        message = "Delivery not found on this ticket."
        raise NotFound("delivery.unknown", message, file=file_id)
    return found


@router.post("/mixes/{mix_id}/trial")
def try_codec(mix_id: int, wish: schemas.TrialRequest, studio: TheStudio) -> schemas.Trial:
    """What the codec of a delivery does to this mix: pieces are coded and decoded, nothing is kept."""
    mix = studio.shelf.mix(mix_id)
    file = asked_file(studio, mix, wish.bench, wish.id)
    path = file.planned.path
    found = studio.trials.of(path, file.known.signal(path.cut.start_frame, path.cut.read_end))
    levels = (
        found.mix_dbfs, found.difference_dbfs, found.peak_before_dbfs, found.peak_after_dbfs, found.above_cutoff_db,
    )  # fmt: skip
    mix_db, difference, before, after, above = (None if level is None else finite(level) for level in levels)
    cutoff = schemas.Cutoff(edge_hz=found.cutoff.edge_hz, full=found.cutoff.full) if found.cutoff else None
    return schemas.Trial(
        size=_size(size_after(path, found)), mix_dbfs=mix_db, difference_dbfs=difference, peak_before_dbfs=before,
        peak_after_dbfs=after, mix_curve=list(found.mix_curve), difference_curve=list(found.difference_curve),
        cutoff=cutoff, above_cutoff_db=above,
    )  # fmt: skip


@lru_cache(maxsize=64)
def _measured_converter(from_hz: int, to_hz: int, quality: Quality) -> schemas.Converter:
    response = measure_response(from_hz, to_hz, quality)
    return schemas.Converter(
        ripple_db=response.ripple_db, flat_to_hz=response.flat_to_hz, edge_hz=response.edge_hz,
        rejection_db=response.rejection_db,
        curve=[schemas.CurvePoint(hz=hz, db=db) for hz, db in response.curve],
    )  # fmt: skip


@router.post("/converter")
def read_converter(wish: schemas.ConverterRequest) -> schemas.Converter:
    """The figures of a conversion, measured on the converter itself."""
    return _measured_converter(wish.from_hz, wish.to_hz, wish.quality)
