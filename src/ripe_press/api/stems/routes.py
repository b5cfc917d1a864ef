"""Routes of stems and captures: add, check, align, rename, remove."""

from typing import Any

from fastapi import APIRouter, Query, Request

from ripe_press.api.deps import TheStudio
from ripe_press.api.jobs import JobView, job_view
from ripe_press.api.schemas import PathRequest
from ripe_press.api.stems import views as schemas
from ripe_press.core.stations.source import depth_label
from ripe_press.studio.pressing import put_back
from ripe_press.studio.stems import Beside
from ripe_press.studio.studio import Studio

router = APIRouter(prefix="/api/mixes/{mix_id}/stems", tags=["stems"])


@router.get("")
def read_stems(mix_id: int, studio: TheStudio) -> schemas.StemsShown:
    """All stems and captures of a mix."""
    return _shown(studio, mix_id)


@router.post("/upload", status_code=202)
async def upload_stem(
    mix_id: int, request: Request, studio: TheStudio, name: str = Query(max_length=1024)
) -> schemas.CountShown:
    """Takes a stem as the raw body of the request, streamed to disk."""
    await studio.stems.receive(mix_id, name, request.stream())
    return schemas.CountShown(count=1)


@router.post("/path", status_code=202)
def fetch_stems(mix_id: int, wish: PathRequest, studio: TheStudio) -> schemas.CountShown:
    """Brings in a file, a folder, or what a pattern names; the files stay where they are."""
    return schemas.CountShown(count=studio.stems.fetch(mix_id, wish.path))


@router.post("/file", status_code=202)
def put_file_beside(mix_id: int, wish: schemas.StemFromFile, studio: TheStudio) -> schemas.CountShown:
    """Puts a pressed file beside the mix as a stem."""
    put_back(studio.stems, studio.press_room, mix_id, wish.pressing, wish.file)
    return schemas.CountShown(count=1)


@router.post("/check", status_code=202)
def begin_check(mix_id: int, studio: TheStudio) -> schemas.StemsShown:
    """Begins to hold the stems against the mix."""
    studio.stems.check(mix_id)
    return _shown(studio, mix_id)


@router.delete("/check", status_code=204)
def cancel_check(mix_id: int, studio: TheStudio) -> None:
    """Cancel the running stem check."""
    studio.stems.cancel_check(mix_id)


@router.post("/align")
def align_stems(mix_id: int, studio: TheStudio) -> schemas.CountShown:
    """Moves every stem to where the check found that it belongs, and checks again."""
    return schemas.CountShown(count=studio.stems.align(mix_id))


@router.delete("/refused", status_code=204)
def forget_refused(mix_id: int, studio: TheStudio) -> None:
    """Dismiss the errors of rejected files."""
    studio.stems.forget_refused(mix_id)


@router.patch("/{stem_id}")
def change_stem(mix_id: int, stem_id: int, wish: schemas.StemChange, studio: TheStudio) -> schemas.StemsShown:
    """Changes the name of a stem, its place, or whether it is taken as mono."""
    studio.stems.change(mix_id, stem_id, **wish.model_dump())
    return _shown(studio, mix_id)


@router.delete("/{stem_id}", status_code=204)
def remove_stem(mix_id: int, stem_id: int, studio: TheStudio) -> None:
    """Takes a stem away from its mix; a file that lies elsewhere stays."""
    studio.stems.remove(mix_id, stem_id)


def _shown(studio: Studio, mix_id: int) -> schemas.StemsShown:
    view = studio.stems.view(mix_id)
    check: dict[str, Any] | None = view.check
    return schemas.StemsShown(
        stems=[_stem(one) for one in view.stems], reading=list(view.reading), refused=list(view.refused),
        check=schemas.StemCheck(**check, stale=view.stale) if check else None,
        checking=JobView(**job_view(view.checking)) if view.checking else None,
    )  # fmt: skip


def _captured(report: dict[str, Any] | None) -> schemas.CaptureShown | None:
    if not report:
        return None
    known = {name: report[name] for name in schemas.CaptureShown.model_fields}
    return schemas.CaptureShown.model_validate(known)


def _stem(one: Beside) -> schemas.StemShown:
    note, facts = one.note, one.note.facts
    return schemas.StemShown(
        id=one.id, name=note.name, path=facts.path, rate_hz=facts.rate_hz,
        depth=depth_label(facts.bit_depth, facts.codec), channels=facts.channels, frames=facts.frames,
        late_frames=note.late_frames, mono=note.mono, apart=note.apart, owned=one.owned,
        origin=one.origin.get("sentence", ""), unit=note.unit, live_s=note.live_s,
        captured=_captured(one.origin.get("report")),
    )  # fmt: skip
