"""The ticket, its pressing, and the files that come of it."""

from functools import lru_cache
from pathlib import Path, PurePosixPath
from typing import Any

import numpy as np
from fastapi import APIRouter
from fastapi.responses import FileResponse, StreamingResponse

from ripe_press.api import press_schemas as schemas
from ripe_press.api.bench_routes import wav_stream
from ripe_press.api.brief_schemas import LevelWish, NameStyle
from ripe_press.api.deps import TheStudio
from ripe_press.api.schemas import Bench, Finding
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.edges import Stretch
from ripe_press.core.engine.size import Forecast, stations_of
from ripe_press.core.errors import NotFound
from ripe_press.core.formats.capabilities import CAPABILITIES, bit_rates
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.rules.files import problems
from ripe_press.core.signal.limiter import REDUCTION_BIN
from ripe_press.core.signal.quantise import added_noise_dbfs, noise_density_db
from ripe_press.core.signal.resample import Quality, measure_response
from ripe_press.core.tags.forms import LOOP, MARKERS, carried, mapping, not_held
from ripe_press.core.tags.sheet import COVER, FIELDS, FileTags
from ripe_press.core.trial import size_after
from ripe_press.store.mixes import StoredMix
from ripe_press.store.pressings import StoredPressing
from ripe_press.studio.reports import finite
from ripe_press.studio.studio import Studio
from ripe_press.studio.tickets import Refused, Row, plan, ticket_of

router = APIRouter(prefix="/api", tags=["press"])

_KINDS = {can.suffix: can.media_type for can in CAPABILITIES.values()}


def _row(row: Row) -> schemas.Row:
    converter, noise, file_name, heard_end = None, None, "", 0
    codec, tags = stations_of(row.path)
    rate_hz = row.delivery.rate_hz or 0
    for station in row.path:
        match station:
            case st.Rate():
                rate_hz = station.to_hz
                if not station.idle:
                    converter = schemas.ConverterWish(
                        from_hz=station.from_hz, to_hz=station.to_hz, quality=station.quality
                    )
            case st.Depth(exact=False):
                noise = _noise(station, row.quietest_dbfs)
            case st.Name():
                file_name = str(PurePosixPath(station.file_name).with_name(row.placed.path.name))
            case st.Range():
                heard_end = station.read_end
    cells = [
        schemas.Station(
            node=node, kind=cell.kind, label=cell.label, detail=cell.detail, idle=cell.idle, sentence=cell.sentence,
            figures=[schemas.Figure(name=name, value=value) for name, value in cell.figures],
        )
        for cell, node in zip(row.stations, row.nodes, strict=True)
    ]  # fmt: skip
    made, brief, coding = row.delivery, row.brief, codec.coding
    settled = schemas.Settled(
        container=made.container, encoding=codec.encoding, rate_hz=rate_hz, quality=made.quality,
        channels=made.channels,
        mono_law_db=made.mono_law_db, dither=made.dither, level=LevelWish.model_validate(made.level),
        finish=made.finish, label_pattern=made.label_pattern, style=NameStyle.model_validate(made.style),
        group=made.group, mode=coding.mode if coding else None, kbps=coding.kbps or None if coding else None,
        coding_quality=coding.quality if coding and not coding.kbps else None, id3_version=made.tags.id3_version,
        gain_tags=made.tags.gain_tags, markers=made.tags.markers, cover=made.tags.cover,
    )  # fmt: skip
    return schemas.Row(
        line_id=row.line.id, range_id=row.line.range_id, heard_end_frame=heard_end, brief=brief.id,
        brief_title=brief.title, brief_sentence=brief.sentence, brief_why=brief.why, settled=settled, stations=cells,
        converter=converter, noise=noise, file_name=file_name, clash=row.placed.clash, skipped=row.placed.skipped,
        replaces=row.placed.replaces, tags=_tags(row, codec, tags), size=_size(row.size), before=_signal(row.before),
        forecast=_signal(row.forecast), bit_exact=codec.exact, lossy=codec.encoding == "lossy", channels=codec.channels,
        kbps_offered=list(bit_rates(codec.container, codec.rate_hz, codec.channels)),
        findings=[Finding.model_validate(finding) for finding in row.findings], verdict=row.verdict,
    )  # fmt: skip


def _size(size: Forecast) -> schemas.Size:
    return schemas.Size(low=size.low, high=size.high, middle=size.middle, basis=size.basis, words=str(size))


def _tags(row: Row, codec: st.Codec, tags: FileTags) -> schemas.FileTags:
    names, kept = mapping(codec.container), carried(codec.container, tags)
    held = dict(kept.values)
    notes = dict([*not_held(codec.container, tags), *problems(tags.values)])
    departing = {field for field, _ in row.line.changes.tags or ()}
    lines = [
        schemas.TagLine(
            field=field, text=tags.text(field), written=held.get(field), names=list(names[field]),
            note=notes.get(field), departs=field in departing,
        )
        for field in FIELDS
    ]  # fmt: skip
    gain = "bext" if codec.container == "bwf" else CAPABILITIES[codec.container].gain_tags if tags.gain_tags else ""
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


def _noise(depth: st.Depth, quietest_dbfs: float) -> schemas.NoisePicture:
    hz = np.geomspace(20.0, depth.rate_hz / 2, 120)
    density = noise_density_db(depth.bits, depth.dither, depth.rate_hz, hz)
    return schemas.NoisePicture(
        dither_noise_dbfs=added_noise_dbfs(depth.bits, depth.dither, depth.rate_hz),
        undithered_noise_dbfs=added_noise_dbfs(depth.bits, "none"),
        quietest_dbfs=finite(quietest_dbfs), bits=depth.bits, dither=depth.dither, rate_hz=depth.rate_hz,
        density=[(round(float(one), 1), round(float(db), 1)) for one, db in zip(hz, density, strict=True)],
    )  # fmt: skip


@router.post("/mixes/{mix_id}/ticket")
def read_ticket(mix_id: int, wish: Bench, studio: TheStudio) -> schemas.Ticket:
    """What will be pressed of a mix, before it is pressed."""
    mix = studio.shelf.mix(mix_id)
    rows, refused = _plan(studio, mix, wish)
    return schemas.Ticket(
        rows=[_row(row) for row in rows],
        refused=[schemas.Refused(line_id=one.line.id, sentence=one.sentence) for one in refused],
        drop_off=str(studio.press_room.drop_off(mix)),
    )


def _plan(studio: Studio, mix: StoredMix, bench: Bench) -> tuple[tuple[Row, ...], tuple[Refused, ...]]:
    folder = studio.press_room.drop_off(mix)
    return plan(studio.looking, mix, bench.as_core(), studio.briefs.all(), folder, studio.trials)


@router.post("/mixes/{mix_id}/level")
def try_level(mix_id: int, wish: schemas.LevelAsk, studio: TheStudio) -> schemas.LevelTrial:
    """The level of a delivery as it will be pressed: the very signal is walked, and nothing is written."""
    mix = studio.shelf.mix(mix_id)
    row = _asked(studio, mix, wish.bench, wish.line_id)
    found = studio.trials.level(row.asked)
    source = next(station for station in row.path if isinstance(station, st.Source))
    rate = next(station for station in row.path if isinstance(station, st.Rate))
    cut = next(station for station in row.path if isinstance(station, st.Range))
    return schemas.LevelTrial(
        gain_db=found.gain_db, sample_peak_dbfs=finite(found.signal.sample_peak_dbfs),
        true_peak_dbtp=finite(found.signal.true_peak_dbtp), integrated_lufs=finite(found.signal.integrated_lufs),
        reduction_db=list(found.reduction_db), start_frame=cut.start_frame,
        frames_per_bin=REDUCTION_BIN * source.rate_hz / rate.to_hz,
        reached=found.short is None,
    )  # fmt: skip


def _asked(studio: Studio, mix: StoredMix, bench: Bench, line_id: str) -> Row:
    rows, _ = _plan(studio, mix, bench)
    row = next((one for one in rows if one.line.id == line_id), None)
    if row is None:
        message = "That delivery is no longer on the ticket."
        raise NotFound("delivery.unknown", message, delivery=line_id)
    return row


@router.post("/mixes/{mix_id}/trial")
def try_codec(mix_id: int, wish: schemas.TrialAsk, studio: TheStudio) -> schemas.Trial:
    """What the codec of a delivery does to this mix: pieces are coded and decoded, nothing is kept."""
    mix = studio.shelf.mix(mix_id)
    row = _asked(studio, mix, wish.bench, wish.line_id)
    found = studio.trials.of(row.asked, row.before)
    levels = (
        found.mix_dbfs, found.difference_dbfs, found.peak_before_dbfs, found.peak_after_dbfs, found.above_cutoff_db,
    )  # fmt: skip
    mix_db, difference, before, after, above = (None if level is None else finite(level) for level in levels)
    cutoff = schemas.Cutoff(edge_hz=found.cutoff.edge_hz, full=found.cutoff.full) if found.cutoff else None
    return schemas.Trial(
        size=_size(size_after(row.asked, found)), mix_dbfs=mix_db, difference_dbfs=difference, peak_before_dbfs=before,
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
def read_converter(wish: schemas.ConverterWish) -> schemas.Converter:
    """The figures of a conversion, measured on the converter itself."""
    return _measured_converter(wish.from_hz, wish.to_hz, wish.quality)


@router.post("/pressings", status_code=202)
def begin(wish: schemas.PressWish, studio: TheStudio) -> schemas.Pressing:
    """Puts the ticket of a mix to press."""
    mix = studio.shelf.mix(wish.mix_id)
    ticket = ticket_of(studio.looking, mix, wish.bench.as_core(), studio.briefs.all())
    return _pressing(studio.press_room.press(mix, ticket), studio)


@router.get("/pressings")
def read_record(studio: TheStudio) -> list[schemas.Pressing]:
    """The newest pressings first."""
    return [_pressing(pressing, studio) for pressing in studio.press_room.recent()]


@router.get("/pressings/{number}")
def read_pressing(number: int, studio: TheStudio) -> schemas.Pressing:
    """One pressing: how far it is, or what came of it."""
    return _pressing(studio.press_room.pressing(number), studio)


@router.post("/pressings/{number}/cancel", status_code=202)
def cancel(number: int, studio: TheStudio) -> schemas.Pressing:
    """Asks a pressing to stop; no file is left."""
    studio.press_room.cancel(number)
    return _pressing(studio.press_room.pressing(number), studio)


@router.get("/pressings/{number}/files/{file_number}/download")
def download(number: int, file_number: int, studio: TheStudio) -> FileResponse:
    """The file itself."""
    path = Path(studio.press_room.file(number, file_number)["path"])
    return FileResponse(path, filename=path.name, media_type=_KINDS.get(path.suffix, "application/octet-stream"))


@router.get("/pressings/{number}/files/{file_number}/listen")
def listen(
    number: int, file_number: int, studio: TheStudio, start_frame: int = 0, end_frame: int | None = None
) -> StreamingResponse:
    """A stretch of a pressed file, for the ear."""
    report = studio.press_room.file(number, file_number)
    facts = SourceFacts(
        report["path"], report["container"], report["codec"], report["sample_rate_hz"], report["channels"],
        report["frames"], report["bit_depth"],
    )  # fmt: skip
    return wav_stream(*studio.listening_desk.play(facts, Stretch(start_frame, end_frame or facts.frames)))


def _file(report: dict[str, Any]) -> schemas.PressedFile:
    path = Path(report["path"])
    return schemas.PressedFile.model_validate({**report, "name": path.name, "there": path.is_file()})


def _pressing(pressing: StoredPressing, studio: Studio) -> schemas.Pressing:
    progress = studio.press_room.progress(pressing.id)
    speed = None
    if progress and progress.seconds > 0 and pressing.mix_id is not None:
        speed = progress.done / studio.shelf.mix(pressing.mix_id).rate_hz / progress.seconds
    return schemas.Pressing(
        id=pressing.id, mix_id=pressing.mix_id, mix_title=pressing.mix_title, state=pressing.state,
        error=pressing.error, made_at=pressing.made_at, seconds=pressing.seconds,
        times_realtime=pressing.times_realtime, files=[_file(report) for report in pressing.files],
        done=progress.done if progress else 0, total=progress.total if progress else 0,
        running_seconds=progress.seconds if progress else 0.0, speed=speed,
    )  # fmt: skip
