"""Routes of pressings: queue, history and pressed files."""

from contextlib import suppress
from dataclasses import fields, replace
from pathlib import Path
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse, StreamingResponse

from ripe_press.api.bench.routes import wav_stream
from ripe_press.api.deps import TheStudio
from ripe_press.api.jobs import JobView, job_view
from ripe_press.api.pressing import record_views as schemas
from ripe_press.api.schemas import Arrival
from ripe_press.api.shelf.routes import arrival_schema
from ripe_press.core.engine.resolve import mix_of_file
from ripe_press.core.errors import Conflict, RipePressError
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.requests.bench import Bench
from ripe_press.core.requests.delivery import NO_CHANGES
from ripe_press.core.requests.document import Document, bench_of
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.sets import set_for, ticket_of
from ripe_press.core.sheet.file_report import FileReport
from ripe_press.store.mixes import StoredMix
from ripe_press.store.pressings import StoredFile, StoredPressing
from ripe_press.studio.jobs import JobProgress, JobState
from ripe_press.studio.listening import facts_of_report
from ripe_press.studio.pressing import as_new_mix, is_order
from ripe_press.studio.shelf import check_inside, document_for
from ripe_press.studio.studio import Studio

router = APIRouter(prefix="/api", tags=["record"])

_KINDS = {can.suffix: can.media_type for can in CAPABILITIES.values()}


@router.get("/press")
def read_press(studio: TheStudio) -> schemas.PressView:
    """Running, queued and interrupted pressings."""
    state = studio.press_room.state()
    return schemas.PressView(
        paused=state.paused, goes_on=state.goes_on, cores=state.cores, free_bytes=state.free_bytes,
        off_by=state.off_by, fixity=studio.fixity.state(), compares_idle=studio.idle_comparisons.on,
        open=[pressing_schema(one, studio, state.pace) for one in state.open],
    )  # fmt: skip


@router.patch("/press")
def set_press(wish: schemas.PressSetting, studio: TheStudio) -> schemas.PressView:
    """Pause or resume the queue; set the handling of interrupted pressings."""
    room = studio.press_room
    if wish.paused is not None:
        (room.pause if wish.paused else room.go_on)()
    if wish.goes_on is not None:
        room.set_goes_on(wish.goes_on)
    if wish.nightly is not None:
        studio.fixity.set_nightly(wish.nightly)
    if wish.compares_idle is not None:
        studio.idle_comparisons.turn(wish.compares_idle)
    return read_press(studio)


@router.post("/pressings", status_code=202)
def begin(wish: schemas.PressRequest, studio: TheStudio) -> schemas.Pressing:
    """Puts the ticket of a mix to press."""
    mix = studio.shelf.mix(wish.mix_id)
    pressing = studio.press_room.press(mix, _document(studio, mix, wish.bench))
    # It is pressed all the same where this cannot be noted.
    with suppress(RipePressError):
        studio.sets.pressed(wish.bench)
    return pressing_schema(pressing, studio)


@router.post("/pressings/batch/plan")
def plan_batch(wish: schemas.BatchRequest, studio: TheStudio) -> list[schemas.BatchLine]:
    """What would come of a ticket for many mixes."""
    return [_planned(studio, mix, bench) for mix, bench in _batch(wish, studio)]


@router.post("/pressings/batch", status_code=202)
def begin_batch(wish: schemas.BatchRequest, studio: TheStudio) -> list[schemas.BatchLine]:
    """Puts a ticket to press for many mixes; a mix that cannot be pressed is said so, the others go."""
    return [_begun(studio, mix, bench) for mix, bench in _batch(wish, studio)]


@router.post("/pressings/batch/tickets")
def set_tickets(wish: schemas.BatchRequest, studio: TheStudio) -> list[schemas.BatchLine]:
    """Puts a ticket on the benches of many mixes; nothing is pressed."""
    return [_put_on(studio, mix, bench) for mix, bench in _batch(wish, studio)]


@router.get("/pressings")
def read_record(
    studio: TheStudio,
    find: Annotated[str, Query(max_length=200)] = "",
    verdict: Literal["", "ready", "look", "stop"] = "",
    before: int | None = None,
    most: Annotated[int, Query(ge=1, le=200)] = 50,
) -> schemas.RecordPage:
    """The newest pressings that have every word of ``find``: in mix, file, brief, tag or checksum."""
    rows, count = studio.press_room.record.find(find, verdict, before, most)
    return schemas.RecordPage(rows=rows, count=count)


@router.get("/pressings/{number}")
def read_pressing(number: int, studio: TheStudio) -> schemas.Pressing:
    """One pressing: how far it is, or what came of it."""
    # Read first: results are stored file by file, and all of them are stored at the end of the check.
    return pressing_schema(studio.press_room.pressing(number), studio)


@router.get("/mixes/{mix_id}/pressing")
def read_latest(mix_id: int, studio: TheStudio) -> schemas.Pressing | None:
    """The newest pressing of a mix, if there is one."""
    found = studio.press_room.latest(mix_id)
    return read_pressing(found.id, studio) if found else None


@router.post("/pressings/{number}/cancel", status_code=202)
def cancel(number: int, studio: TheStudio) -> schemas.Pressing:
    """Cancel a pressing or remove it from the queue; completed files are kept."""
    studio.press_room.cancel(number)
    return read_pressing(number, studio)


@router.post("/pressings/{number}/move", status_code=202)
def move(number: int, wish: schemas.QueuePlace, studio: TheStudio) -> schemas.PressView:
    """Puts a pressing that waits at another place of the line."""
    studio.press_room.move(number, wish.to)
    return read_press(studio)


@router.post("/pressings/{number}/go-on", status_code=202)
def go_on(number: int, studio: TheStudio) -> schemas.Pressing:
    """Resume an interrupted, failed or cancelled pressing; completed files are kept."""
    return pressing_schema(studio.press_room.try_again(number), studio)


@router.post("/pressings/{number}/again", status_code=202)
def press_again(number: int, studio: TheStudio) -> schemas.Pressing:
    """Press an earlier ticket again; the two pressings are compared."""
    return pressing_schema(studio.press_room.press_again(number), studio)


@router.post("/pressings/{number}/check", status_code=202)
def check_files(number: int, studio: TheStudio) -> schemas.Pressing:
    """Begins to look whether the files are still there, as they were pressed."""
    studio.press_room.check_files(number)
    return read_pressing(number, studio)


@router.delete("/pressings/{number}/check", status_code=202)
def cancel_check(number: int, studio: TheStudio) -> None:
    """Cancel the check of the files."""
    if not studio.press_room.checks.cancel(number):
        raise Conflict("job.idle", "No check to cancel.")


@router.get("/pressings/{number}/beside/{other}")
def compare(number: int, other: int, studio: TheStudio) -> schemas.Comparison:
    """Compare two pressings, ``other`` being the earlier. Measured parts follow later."""
    room = studio.press_room
    return studio.comparisons.compare(room.pressing(other), room.pressing(number))


@router.get("/pressings/{number}/files/{file_number}/against")
def read_mix_comparison(number: int, file_number: int, studio: TheStudio) -> schemas.Holding | None:
    """The comparison of a pressed file with its mix; null where there is none."""
    state = studio.mix_comparisons.state(*studio.press_room.stored(number, file_number))
    return _holding(state) if state else None


@router.post("/pressings/{number}/files/{file_number}/against", status_code=202)
def compare_with_mix(number: int, file_number: int, studio: TheStudio) -> schemas.Holding:
    """Compare a pressed file with its mix: differences over time and frequency, and audibility."""
    return _holding(studio.mix_comparisons.hold(*studio.press_room.stored(number, file_number)))


@router.delete("/pressings/{number}/files/{file_number}/against", status_code=202)
def cancel_mix_comparison(number: int, file_number: int, studio: TheStudio) -> None:
    """Cancel the comparison of a pressed file with its mix."""
    if not studio.mix_comparisons.stop(*studio.press_room.stored(number, file_number)):
        raise Conflict("job.idle", "No comparison to cancel.")


def _holding(state: JobState[dict[str, Any]]) -> schemas.Holding:
    return schemas.Holding.model_validate(job_view(state) | {"report": state.result})


@router.get("/pressings/{number}/files/{file_number}/download")
def download(number: int, file_number: int, studio: TheStudio) -> FileResponse:
    """The file itself."""
    path = Path(studio.press_room.file(number, file_number).path)
    return FileResponse(path, filename=path.name, media_type=_KINDS.get(path.suffix, "application/octet-stream"))


@router.get("/pressings/{number}/files/{file_number}/listen")
def listen(
    number: int,
    file_number: int,
    studio: TheStudio,
    start_frame: int = 0,
    end_frame: int | None = None,
    times: int = Query(default=1, ge=1, le=500),
) -> StreamingResponse:
    """A stretch of a pressed file, for the ear; of a loop so many ``times``, without a seam."""
    report = studio.press_room.file(number, file_number)
    facts = facts_of_report(report)
    end = facts.frames if end_frame is None else end_frame
    check_inside(facts.frames, start_frame, end)
    return wav_stream(*studio.previews.loop(mix_of_file(facts, "").source, Stretch(start_frame, end), times))


@router.post("/pressings/{number}/files/{file_number}/shelf", status_code=202)
def put_on_shelf(number: int, file_number: int, studio: TheStudio) -> Arrival:
    """Brings a pressed file to the shelf as a mix of its own; it stays where it is."""
    return arrival_schema(as_new_mix(studio.shelf, studio.press_room, number, file_number))


def _document(studio: Studio, mix: StoredMix, bench: Bench) -> Document:
    return document_for(studio.mix_views, mix, bench, studio.briefs.all())


def _batch(wish: schemas.BatchRequest, studio: Studio) -> list[tuple[StoredMix, Bench]]:
    """Every mix with its bench; all of them are found before the first of them is pressed."""
    like = None
    if wish.like is not None:
        like = bench_of(studio.shelf.mix(wish.like).bench)
    elif wish.set:
        like = studio.sets.named(wish.set)
    found = []
    for mix in [studio.shelf.mix(mix_id) for mix_id in dict.fromkeys(wish.mix_ids)]:
        own = bench_of(mix.bench)
        # Briefs alone say nothing of existing files.
        plain = replace(set_for(dict.fromkeys(wish.briefs, NO_CHANGES)), clash=own.clash)
        found.append((mix, ticket_of(own, like or plain, (0, mix.frames))))
    return found


def _planned(studio: Studio, mix: StoredMix, bench: Bench) -> schemas.BatchLine:
    line = schemas.BatchLine(mix_id=mix.id, mix_title=mix.title)
    try:
        found = studio.press_room.planned(mix, _document(studio, mix, bench)).or_refuse()
    except RipePressError as error:
        return line.model_copy(update={"refused": error.message})
    return line.model_copy(update={"files": tuple(one.placed.path.name for one in found.files)})


def _put_on(studio: Studio, mix: StoredMix, bench: Bench) -> schemas.BatchLine:
    try:
        studio.shelf.set_bench(mix.id, bench)
    except RipePressError as error:
        return schemas.BatchLine(mix_id=mix.id, mix_title=mix.title, refused=error.message)
    return _planned(studio, mix, bench)


def _begun(studio: Studio, mix: StoredMix, bench: Bench) -> schemas.BatchLine:
    line = schemas.BatchLine(mix_id=mix.id, mix_title=mix.title)
    try:
        number = studio.press_room.press(mix, _document(studio, mix, bench)).id
    except RipePressError as error:
        return line.model_copy(update={"refused": error.message})
    return line.model_copy(update={"pressing": number})


def _line(file: StoredFile, progress: JobProgress | None) -> schemas.FileLine:
    ended = {"named": 1.0, "left-out": 1.0}.get(file.state, 0.0)
    under_way = progress.files if progress and not file.ended else ()
    running = next((one for one in under_way if one.number == file.number), None)
    return schemas.FileLine(
        number=file.number, name=Path(file.path).name, state=file.state, error=file.error,
        part=running.part if running else ended, times_realtime=running.times_realtime if running else None,
    )  # fmt: skip


def _file(file: StoredFile, report: FileReport, compared: str | None) -> schemas.PressedFile:
    path = Path(report.path)
    return schemas.PressedFile(
        **{one.name: getattr(report, one.name) for one in fields(report)}, number=file.number, name=path.name,
        there=path.is_file(), needs_sign_off=bool(report.broken),
        found=file.found, found_path=file.found_path, found_at=file.found_at, compared=compared,
    )  # fmt: skip


def pressing_schema(pressing: StoredPressing, studio: Studio, pace: float | None = None) -> schemas.Pressing:
    """A pressing as it travels, with how far it is."""
    progress = studio.press_room.progress(pressing.id)
    check = studio.press_room.checks.of(pressing.id)
    compared = studio.mix_comparisons.sentences(pressing)
    waits = pressing.work_seconds * (pace or 1.0) if pressing.work_seconds else None
    return schemas.Pressing(
        id=pressing.id, mix_id=pressing.mix_id, mix_title=pressing.mix_title, state=pressing.state,
        error=pressing.error, made_at=pressing.made_at, ended_at=pressing.ended_at, seconds=pressing.seconds,
        times_realtime=pressing.times_realtime, again_of=pressing.again_of, purposes=pressing.purposes,
        verdict=pressing.verdict, off_by=pressing.off_by, libraries=pressing.libraries, waits_seconds=waits,
        checking=JobView(**job_view(check)) if check and check.state == "running" else None,
        lines=[_line(file, progress) for file in pressing.files],
        files=[
            _file(file, file.report, compared.get(file.number)) for file in pressing.files if file.report and file.ended
        ],
        done=progress.done if progress else 0, total=progress.total if progress else 0,
        running_seconds=progress.seconds if progress else 0.0,
        seconds_left=progress.seconds_left if progress else None,
        is_order=is_order(pressing), disc=_disc(pressing.disc) if pressing.disc else None,
    )  # fmt: skip


def _disc(report: dict[str, Any]) -> schemas.DiscRow:
    checks = report["checks"]
    return schemas.DiscRow(
        verdict=report["verdict"], folder=str(Path(report["cue"]).parent), image=Path(report["image"]).name,
        cue=Path(report["cue"]).name, log_sheet=Path(report["log_sheet"]).name, lead_out=report["lead_out"],
        sha256=report["sha256"], tracks=len(report["tracks"]), holds=sum(one["holds"] for one in checks),
        checks=len(checks), sentences=[one["sentence"] for one in checks if not one["holds"]],
    )  # fmt: skip
