"""Briefs: those that ship and one's own, copied, changed, imported and exported."""

from fastapi import APIRouter, Response

from ripe_press.api import brief_schemas
from ripe_press.api.deps import TheStudio
from ripe_press.core.briefs.library import Brief, brief_from
from ripe_press.core.formats.capabilities import CAPABILITIES, DEPTH_WORDS, Capability
from ripe_press.core.tags.forms import has_id3, mapping
from ripe_press.studio.briefs import is_own

router = APIRouter(prefix="/api", tags=["briefs"])


def _view(brief: Brief) -> brief_schemas.BriefView:
    body = brief_schemas.BriefBody.model_validate(brief).model_dump()
    return brief_schemas.BriefView(**body, own=is_own(brief))


@router.get("/briefs")
def read_briefs(studio: TheStudio) -> list[brief_schemas.BriefView]:
    """Every brief, those that ship first."""
    return [_view(brief) for brief in studio.briefs.all().values()]


@router.put("/briefs")
def keep_brief(body: brief_schemas.BriefBody, studio: TheStudio) -> brief_schemas.BriefView:
    """Adds a brief of one's own, or puts it in the place of the one with its id."""
    return _view(studio.briefs.keep(brief_from(body.model_dump())))


@router.post("/briefs/{brief_id}/copy", status_code=201)
def copy_brief(brief_id: str, studio: TheStudio) -> brief_schemas.BriefView:
    """A copy under a name of its own, to be changed."""
    return _view(studio.briefs.copy(brief_id))


@router.delete("/briefs/{brief_id}", status_code=204)
def remove_brief(brief_id: str, studio: TheStudio) -> None:
    """Takes a brief of one's own away."""
    studio.briefs.remove(brief_id)


@router.get("/briefs/{brief_id}/file")
def export_brief(brief_id: str, studio: TheStudio) -> Response:
    """A brief as a file that can be brought in elsewhere."""
    body = brief_schemas.BriefBody.model_validate(studio.briefs.brief(brief_id)).model_dump_json(indent=2)
    name = f"{brief_id}.brief.json"
    return Response(
        body, media_type="application/json", headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@router.get("/capabilities")
def read_capabilities() -> list[brief_schemas.Capability]:
    """What every container holds."""
    return [_capability(can) for can in CAPABILITIES.values()]


def _capability(can: Capability) -> brief_schemas.Capability:
    names = {field: list(names) for field, names in mapping(can.container).items()}
    # Not every part of the table is a field: what is computed from it is added here.
    known = {name: getattr(can, name) for name in brief_schemas.Capability.model_fields if hasattr(can, name)}
    known |= {"rates_hz": can.offered_rates_hz, "depths": [(one, DEPTH_WORDS[one]) for one in can.encodings]}
    return brief_schemas.Capability(**known, id3=has_id3(can.container), tags=names)
