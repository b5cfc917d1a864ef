"""Mixes and files on their way to the shelf."""

import secrets

from fastapi import APIRouter, Query, Request, Response
from pydantic import TypeAdapter

from ripe_press.api import schemas
from ripe_press.api.deps import TheStudio
from ripe_press.api.jobs import JobView, job_view
from ripe_press.core.formats.reading.channel_layout import Layout, customary
from ripe_press.core.formats.reading.downmix import can_fold
from ripe_press.core.requests.document import bench_of, validated
from ripe_press.core.stations.source import depth_label
from ripe_press.core.tags.embedded import Embedded
from ripe_press.store.mixes import Measures, StoredMix
from ripe_press.studio.jobs import running
from ripe_press.studio.shelf import Arrival, Change

router = APIRouter(prefix="/api", tags=["shelf"])
_BOOT = secrets.token_hex(4)
"""Distinguishes this run's answers from another's: counters restart at each run."""
_EMBEDDED = TypeAdapter(Embedded)


def mix_schema(mix: StoredMix) -> schemas.Mix:
    """A mix as the page sees it."""
    return schemas.Mix(
        id=mix.id, content=f"{mix.sha256[:16]}-{mix.downmix}",
        title=mix.title, path=mix.path, owned=mix.owned, container=mix.container, codec=mix.codec,
        rate_hz=mix.rate_hz, channels=mix.channels, frames=mix.frames, bit_depth=mix.bit_depth,
        depth_label=depth_label(mix.bit_depth, mix.codec), measures=validated(Measures, mix.measures, "measures"),
        downmix=mix.downmix, file_channels=mix.file_channels, fold_order=" ".join(fold_order(mix)),
        channels_asked=mix.measures.get("channels_asked", False),
        embedded=_EMBEDDED.validate_python(mix.embedded), bench=bench_of(mix.bench), origin=mix.origin,
    )  # fmt: skip


def fold_order(mix: StoredMix) -> Layout:
    """What the channels of a mix's file are taken for when they are folded down; nothing where they cannot be."""
    layout = tuple(mix.measures.get("layout") or ()) or customary(mix.file_channels)
    return layout if layout and can_fold(layout) else ()


def arrival_schema(arrival: Arrival) -> schemas.Arrival:
    """An arrival as the page sees it."""
    return schemas.Arrival(id=arrival.id, name=arrival.name, mix_id=arrival.mix_id, **job_view(arrival.now()))


def change_schema(change: Change) -> schemas.FileChange:
    """A changed file as the page sees it."""
    return schemas.FileChange(
        mix_id=change.mix_id,
        state=change.state,
        sentences=list(change.differences.sentences),
        lost=list(change.lost),
        job=JobView(**job_view(running(change.job))) if change.job and change.state == "reading" else None,
    )


@router.get("/shelf", response_model=schemas.ShelfView)
def read_shelf(request: Request, studio: TheStudio) -> Response:
    """All mixes, and running imports. With a current ETag the answer is 304."""
    arrivals = [arrival_schema(arrival) for arrival in studio.shelf.arrivals()]
    changes = [change_schema(change) for change in studio.versions.changes.all()]
    under_way = hash((str(arrivals), str(changes)))
    tag = f'"{_BOOT}-{studio.events.count("shelf")}-{studio.events.count("pressings")}-{under_way:x}"'
    headers = {"ETag": tag, "Cache-Control": "private, no-cache"}
    if request.headers.get("If-None-Match") == tag:
        return Response(status_code=304, headers=headers)
    # Written by us, so it is not looked through once more.
    view = schemas.ShelfView.model_construct(mixes=studio.shelf.rows(), arrivals=arrivals, changes=changes)
    return Response(view.model_dump_json(), media_type="application/json", headers=headers)


@router.post("/arrivals/upload", status_code=202)
async def upload(request: Request, studio: TheStudio, name: str = Query(max_length=1024)) -> schemas.Arrival:
    """Takes a file as the raw body of the request, streamed to disk."""
    return arrival_schema(await studio.shelf.receive(name, request.stream()))


@router.post("/arrivals/path", status_code=202)
def fetch(wish: schemas.PathRequest, studio: TheStudio) -> list[schemas.Arrival]:
    """Import a file, or all audio of a folder, on the server; the files stay in place."""
    return [arrival_schema(arrival) for arrival in studio.shelf.fetch_all(wish.path)]


@router.get("/arrivals/{arrival_id}")
def read_arrival(arrival_id: str, studio: TheStudio) -> schemas.Arrival:
    """How far an arrival is."""
    return arrival_schema(studio.shelf.arrival(arrival_id))


@router.delete("/arrivals/{arrival_id}", status_code=204)
def dismiss(arrival_id: str, studio: TheStudio) -> None:
    """Cancels an arrival, or forgets a refused one."""
    studio.shelf.dismiss(arrival_id)


@router.get("/mixes/{mix_id}")
def read_mix(mix_id: int, studio: TheStudio) -> schemas.Mix:
    """One mix."""
    return mix_schema(studio.shelf.mix(mix_id))


@router.delete("/mixes/{mix_id}", status_code=204)
def remove_mix(mix_id: int, studio: TheStudio) -> None:
    """Remove a mix from the Shelf, unless a running order uses it."""
    studio.orders.let_go(mix_id)
    studio.shelf.remove(mix_id)
