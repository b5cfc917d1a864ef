"""The ticket, its pressing, and the files that come of it."""

from functools import lru_cache
from pathlib import Path
from typing import Any

from fastapi import APIRouter
from fastapi.responses import FileResponse, StreamingResponse

from ripe_press.api import schemas
from ripe_press.api.bench_routes import wav_stream
from ripe_press.api.deps import TheStudio
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.edges import Stretch
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.signal.quantise import added_noise_dbfs
from ripe_press.core.signal.resample import Quality, measure_response
from ripe_press.store.pressings import StoredPressing
from ripe_press.studio.reports import finite
from ripe_press.studio.studio import Studio
from ripe_press.studio.tickets import Row, deliveries_of, plan

router = APIRouter(prefix="/api", tags=["press"])


def _row(row: Row) -> schemas.Row:
    converter, noise, file_name, heard_end = None, None, "", 0
    for station in row.path:
        match station:
            case st.Rate(idle=False):
                converter = schemas.ConverterWish(from_hz=station.from_hz, to_hz=station.to_hz, quality=station.quality)
            case st.Depth(exact=False):
                noise = schemas.NoisePicture(
                    dither_noise_dbfs=added_noise_dbfs(station.bits, station.dither),
                    undithered_noise_dbfs=added_noise_dbfs(station.bits, "none"),
                    quietest_dbfs=finite(row.quietest_dbfs), bits=station.bits, dither=station.dither,
                )  # fmt: skip
            case st.Name():
                file_name = station.file_name
            case st.Range():
                heard_end = station.read_end
    cells = [
        schemas.Station(
            node=node, kind=cell.kind, label=cell.label, detail=cell.detail, idle=cell.idle, sentence=cell.sentence,
            figures=[schemas.Figure(name=name, value=value) for name, value in cell.figures],
        )
        for cell, node in zip(row.stations, row.nodes, strict=True)
    ]  # fmt: skip
    return schemas.Row(
        range_id=row.range_id, heard_end_frame=heard_end, brief=row.brief.id,
        brief_title=row.brief.title, brief_sentence=row.brief.sentence, brief_why=row.brief.why,
        stations=cells, converter=converter, noise=noise, file_name=file_name, forecast_bytes=row.forecast_bytes,
        findings=[schemas.Finding.model_validate(finding) for finding in row.findings], verdict=row.verdict,
    )  # fmt: skip


@router.post("/mixes/{mix_id}/ticket")
def read_ticket(mix_id: int, wish: schemas.Bench, studio: TheStudio) -> schemas.Ticket:
    """What will be pressed of a mix, before it is pressed."""
    mix = studio.shelf.mix(mix_id)
    rows = plan(studio.looking, mix, wish.as_core())
    return schemas.Ticket(rows=[_row(row) for row in rows], drop_off=str(studio.press_room.drop_off(mix)))


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
    deliveries = deliveries_of(studio.looking, mix, wish.bench.as_core())
    return _pressing(studio.press_room.press(mix, deliveries), studio)


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
    return FileResponse(path, filename=path.name, media_type="audio/wav")


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
