"""Tag sheets of one mix and of many, cover pictures, label patterns."""

from dataclasses import asdict, replace
from typing import Literal

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import FileResponse

from ripe_press.api.bench import tag_views as tag_schemas
from ripe_press.api.deps import TheStudio
from ripe_press.api.pressing import views as press_schemas
from ripe_press.api.schemas import Mix
from ripe_press.api.shelf.routes import mix_schema
from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.naming import LABEL_FIELDS, NameStyle
from ripe_press.core.requests.document import bench_of
from ripe_press.core.rules.checks.files import problems
from ripe_press.core.tags.lists import parse_sheets, sheets_csv, sheets_json
from ripe_press.core.tags.sheet import FIELDS, in_order
from ripe_press.store.labels import KeptPattern

router = APIRouter(prefix="/api", tags=["tags"])

MOST_PICTURE_BYTES = 60_000_000


@router.get("/tag-fields")
def read_fields() -> list[tag_schemas.TagField]:
    """The lines of the tag sheet, in order."""
    return [tag_schemas.TagField.model_validate(field) for field in FIELDS.values()]


@router.post("/tag-sheets/check")
def check_sheet(sheet: tag_schemas.Sheet) -> list[tag_schemas.TagProblem]:
    """What on a sheet is not written as it must be."""
    found = problems(in_order(sheet.values))
    return [tag_schemas.TagProblem(field=field, sentence=sentence) for field, sentence in found]


@router.get("/tag-sheets")
def export_sheets(studio: TheStudio, form: Literal["csv", "json"] = "csv", mix_id: int | None = None) -> Response:
    """The sheets of all mixes, or of one, as a file."""
    mixes = [studio.shelf.mix(mix_id)] if mix_id is not None else studio.shelf.mixes()
    sheets = [(mix.title, bench_of(mix.bench).tags) for mix in mixes]
    body = sheets_csv(sheets) if form == "csv" else sheets_json(sheets)
    kind = "text/csv; charset=utf-8" if form == "csv" else "application/json"
    return Response(body, media_type=kind, headers={"Content-Disposition": f'attachment; filename="tag-sheets.{form}"'})


@router.get("/tag-sheets/kept")
def read_kept(studio: TheStudio) -> list[tag_schemas.KeptSheet]:
    """The sheets of all mixes on the shelf."""
    return [
        tag_schemas.KeptSheet(id=mix.id, title=mix.title, tags=list(bench_of(mix.bench).tags))
        for mix in studio.shelf.mixes()
    ]


@router.post("/tag-sheets/read")
def read_sheets(body: tag_schemas.SheetFile) -> list[tag_schemas.ReadSheet]:
    """The sheets in a file that was chosen, JSON or CSV; nothing is kept yet."""
    return [tag_schemas.ReadSheet(mix=mix, values=list(values)) for mix, values in parse_sheets(body.text)]


@router.patch("/tag-sheets")
def write_sheets(sheets: list[tag_schemas.MixSheet], studio: TheStudio) -> list[Mix]:
    """Write fields to the tag sheets of several mixes: to all, or to none if one is rejected.

    Only given fields change; an empty text deletes its field.
    """
    checked = []
    for one in sheets:
        mix = studio.shelf.mix(one.mix_id)
        bench = bench_of(mix.bench)
        checked.append((mix.id, replace(bench, tags=in_order(dict(bench.tags) | dict(one.values)))))
    return [mix_schema(studio.shelf.set_bench(mix_id, bench)) for mix_id, bench in checked]


@router.post("/mixes/{mix_id}/cover")
async def keep_cover(
    mix_id: int, request: Request, studio: TheStudio, name: str = Query(max_length=1024)
) -> tag_schemas.KeptCover:
    """Takes a picture as the raw body of the request and makes it ready; the bench then names it."""
    from fastapi.concurrency import run_in_threadpool

    data = bytearray()
    async for chunk in request.stream():
        data += chunk
        if len(data) > MOST_PICTURE_BYTES:
            message = "Cover over 60 MB. Choose a smaller picture."
            raise BadInput("cover.too-large", message)
    kept, cover = await run_in_threadpool(studio.shelf.keep_cover, mix_id, bytes(data), name)
    return tag_schemas.KeptCover(
        name=kept, width=cover.width, height=cover.height, bytes=len(cover.data), square=cover.square, note=cover.note
    )


@router.get("/mixes/{mix_id}/cover/{name}")
def read_cover(mix_id: int, name: str, studio: TheStudio) -> FileResponse:
    """A kept picture."""
    path = studio.mix_views.cover_path(studio.shelf.mix(mix_id), name)
    if path is None:
        message = "Picture not found. Choose it again."
        raise NotFound("cover.missing", message, name=name)
    kept_for_ever = {"Cache-Control": "public, max-age=31536000, immutable"}
    return FileResponse(path, media_type="image/png" if path.suffix == ".png" else "image/jpeg", headers=kept_for_ever)


@router.get("/label-fields")
def read_label_fields() -> list[press_schemas.LabelField]:
    """The fields that label patterns may have."""
    return [press_schemas.LabelField(name=name, meaning=meaning) for name, meaning in LABEL_FIELDS.items()]


@router.get("/label-patterns")
def read_patterns(studio: TheStudio) -> list[press_schemas.LabelPattern]:
    """Patterns that were kept."""
    return [_pattern(one) for one in studio.labels.all()]


@router.put("/label-patterns")
def keep_pattern(body: press_schemas.LabelPattern, studio: TheStudio) -> list[press_schemas.LabelPattern]:
    """Keeps a pattern under its name, in the place of one of the same name."""
    kept = studio.labels.keep(KeptPattern(body.name.strip(), body.pattern, asdict(body.style)))
    return [_pattern(one) for one in kept]


@router.delete("/label-patterns")
def remove_pattern(name: str, studio: TheStudio) -> list[press_schemas.LabelPattern]:
    """Forgets a pattern."""
    return [_pattern(one) for one in studio.labels.remove(name)]


def _pattern(kept: KeptPattern) -> press_schemas.LabelPattern:
    return press_schemas.LabelPattern(name=kept.name, pattern=kept.pattern, style=NameStyle(**kept.style))
