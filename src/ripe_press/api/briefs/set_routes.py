"""Sets of deliveries: saved, chosen for new mixes, put on a bench."""

from typing import Literal

from fastapi import APIRouter

from ripe_press.api.briefs import set_views as schemas
from ripe_press.api.deps import TheStudio
from ripe_press.core.requests.bench import Bench
from ripe_press.core.requests.sets import ticket_of
from ripe_press.studio.sets import FIRST, LAST

router = APIRouter(prefix="/api", tags=["sets"])

_KINDS: dict[str, Literal["last", "built-in"]] = {LAST: "last", FIRST: "built-in"}


@router.get("/sets")
def read_sets(studio: TheStudio) -> list[schemas.SetView]:
    """The last pressed set, the built-in one, and saved ones by name."""
    briefs, default = studio.briefs.all(), studio.sets.default
    return [
        schemas.SetView(
            name=name, kind=_KINDS.get(name, "saved"), default=name == default,
            briefs=[briefs[one.brief].title if one.brief in briefs else one.brief for one in like.ticket],
        )
        for name, like in studio.sets.all().items()
    ]  # fmt: skip


@router.put("/sets")
def save_set(wish: schemas.NewSet, studio: TheStudio) -> list[schemas.SetView]:
    """Saves the deliveries of a bench under a name, in the place of a set with the same name."""
    studio.sets.save(wish.name, wish.bench)
    return read_sets(studio)


@router.delete("/sets")
def remove_set(name: schemas.Name, studio: TheStudio) -> list[schemas.SetView]:
    """Deletes a saved set."""
    studio.sets.remove(name)
    return read_sets(studio)


@router.put("/sets/default")
def set_default(wish: schemas.SetName, studio: TheStudio) -> list[schemas.SetView]:
    """Chooses the set that a new mix opens with."""
    studio.sets.set_default(wish.name)
    return read_sets(studio)


@router.post("/mixes/{mix_id}/set")
def put_on_bench(mix_id: int, wish: schemas.SetOnBench, studio: TheStudio) -> Bench:
    """A bench with the deliveries of a set instead of its own; nothing is stored."""
    return ticket_of(wish.bench, studio.sets.named(wish.name), (0, studio.shelf.mix(mix_id).frames))
