"""Briefs: those that ship and one's own, copied, changed, imported and exported."""

import json
from dataclasses import fields

from fastapi import APIRouter, Response

from ripe_press.api.briefs import views as brief_schemas
from ripe_press.api.deps import TheStudio
from ripe_press.api.pressing.routes import asked_file
from ripe_press.api.pressing.views import NewBrief
from ripe_press.core.formats.capabilities import CAPABILITIES, DEPTH_WORDS, Capability
from ripe_press.core.requests.brief import Brief
from ripe_press.core.tags.forms import has_id3, mapping
from ripe_press.studio.briefs import brief_row, is_own

router = APIRouter(prefix="/api", tags=["briefs"])


def _view(brief: Brief) -> brief_schemas.BriefView:
    return brief_schemas.BriefView(**{one.name: getattr(brief, one.name) for one in fields(brief)}, own=is_own(brief))


@router.get("/briefs")
def read_briefs(studio: TheStudio) -> list[brief_schemas.BriefView]:
    """Every brief, those that ship first."""
    return [_view(brief) for brief in studio.briefs.all().values()]


@router.put("/briefs")
def keep_brief(body: Brief, studio: TheStudio) -> brief_schemas.BriefView:
    """Adds a brief of one's own, or puts it in the place of the one with its id."""
    return _view(studio.briefs.keep(body))


@router.post("/briefs/{brief_id}/copy", status_code=201)
def copy_brief(brief_id: str, studio: TheStudio) -> brief_schemas.BriefView:
    """A copy under a name of its own, to be changed."""
    return _view(studio.briefs.copy(brief_id))


@router.post("/mixes/{mix_id}/brief", status_code=201)
def save_as_brief(mix_id: int, wish: NewBrief, studio: TheStudio) -> brief_schemas.BriefView:
    """Saves the settings of a delivery as a brief of one's own."""
    file = asked_file(studio, studio.shelf.mix(mix_id), wish.bench, wish.id)
    return _view(studio.briefs.save_as(wish.title, file))


@router.delete("/briefs/{brief_id}", status_code=204)
def remove_brief(brief_id: str, studio: TheStudio) -> None:
    """Takes a brief of one's own away."""
    studio.briefs.remove(brief_id)


@router.get("/briefs/{brief_id}/file")
def export_brief(brief_id: str, studio: TheStudio) -> Response:
    """Export a brief as a file."""
    body = json.dumps(brief_row(studio.briefs.brief(brief_id)), indent=2, ensure_ascii=False)
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
    # Some parts of the table are not fields: computed ones are added here.
    known = {name: getattr(can, name) for name in brief_schemas.Capability.model_fields if hasattr(can, name)}
    known |= {"rates_hz": can.offered_rates_hz, "depths": [(one, DEPTH_WORDS[one]) for one in can.encodings]}
    return brief_schemas.Capability(**known, id3=has_id3(can.container), tags=names)
