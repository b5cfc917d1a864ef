"""Routes of versions: changes on disk, differences, grouping."""

from fastapi import APIRouter

from ripe_press.api import schemas
from ripe_press.api.deps import TheStudio
from ripe_press.api.shelf.routes import change_schema, mix_schema
from ripe_press.core.stations.source import depth_label
from ripe_press.studio.shelf import VersionInUse, VersionShown

router = APIRouter(prefix="/api", tags=["versions"])


def _shown(one: VersionShown) -> schemas.MixVersion:
    mix = one.mix
    return schemas.MixVersion(
        version=mix.version, title=mix.title, path=mix.came_from or mix.path, came_at=mix.version_at, in_use=one.in_use,
        there=one.there, rate_hz=mix.rate_hz, frames=mix.frames, depth_label=depth_label(mix.bit_depth, mix.codec),
        integrated_lufs=mix.measures["integrated_lufs"], true_peak_dbtp=mix.measures["true_peak_dbtp"],
        sentences=list(one.sentences),
    )  # fmt: skip


def _used(one: VersionInUse) -> schemas.MixUsed:
    return schemas.MixUsed(mix=mix_schema(one.mix), lost=list(one.lost))


@router.get("/changes")
def read_changes(studio: TheStudio) -> list[schemas.FileChange]:
    """The mixes whose file is not what it was: for screens that do not show the shelf."""
    return [change_schema(change) for change in studio.versions.changes.all()]


@router.get("/mixes/{mix_id}/versions")
def read_versions(mix_id: int, studio: TheStudio) -> list[schemas.MixVersion]:
    """All versions of a mix, the newest first."""
    return [_shown(one) for one in studio.versions.of(mix_id)]


@router.get("/mixes/{mix_id}/beside/{other_id}")
def read_differences(mix_id: int, other_id: int, studio: TheStudio) -> schemas.VersionDifferences:
    """The differences of a mix from another one."""
    found = studio.versions.between(mix_id, other_id)
    return schemas.VersionDifferences(sentences=list(found.sentences), related=found.related)


@router.post("/mixes/{mix_id}/change")
def look_at_change(mix_id: int, studio: TheStudio) -> bool:
    """Looks once more at the file of a mix; whether it is not what it was."""
    return studio.versions.changes.notice(mix_id, again=True)


@router.post("/mixes/{mix_id}/change/take")
def take_change(mix_id: int, studio: TheStudio) -> schemas.MixUsed:
    """Puts the file as it is now into use, as a new version of the mix."""
    return _used(studio.versions.take(mix_id))


@router.delete("/mixes/{mix_id}/change", status_code=204)
def leave_change(mix_id: int, studio: TheStudio) -> None:
    """Leaves the mix as it is."""
    studio.versions.changes.leave(mix_id)


@router.post("/mixes/{mix_id}/versions/{version}/use")
def use_version(mix_id: int, version: int, studio: TheStudio) -> schemas.MixUsed:
    """Puts another version into use."""
    return _used(studio.versions.back(mix_id, version))


@router.post("/mixes/{mix_id}/versions/{version}/apart")
def take_apart(mix_id: int, version: int, studio: TheStudio) -> schemas.MixUsed:
    """Makes a version a mix of its own again."""
    return _used(studio.versions.apart(mix_id, version))


@router.post("/piles")
def pile_up(wish: schemas.PileRequest, studio: TheStudio) -> schemas.MixUsed:
    """Group mixes as versions of the first of them."""
    return _used(studio.versions.pile_up(wish.mix_ids))


@router.delete("/mixes/{mix_id}/likely", status_code=204)
def stand_alone(mix_id: int, studio: TheStudio) -> None:
    """Keep a mix separate from the one with a similar name."""
    studio.versions.on_its_own(mix_id)
