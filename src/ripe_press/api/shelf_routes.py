"""Mixes and files on their way to the shelf."""

from collections.abc import Iterator

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import StreamingResponse
from pydantic import ValidationError

from ripe_press.api import schemas
from ripe_press.api.deps import TheStudio
from ripe_press.core.engine.describe import depth_label
from ripe_press.core.engine.edges import Edges
from ripe_press.core.errors import BadInput
from ripe_press.core.units import parse_time
from ripe_press.store.mixes import StoredMix
from ripe_press.studio import shelf
from ripe_press.studio.tickets import facts_of, stretch_of

router = APIRouter(prefix="/api", tags=["shelf"])


def mix_schema(mix: StoredMix) -> schemas.Mix:
    """A mix as the page sees it."""
    return schemas.Mix(
        id=mix.id, title=mix.title, path=mix.path, owned=mix.owned, container=mix.container, codec=mix.codec,
        rate_hz=mix.rate_hz, channels=mix.channels, frames=mix.frames, bit_depth=mix.bit_depth,
        depth_label=depth_label(mix.bit_depth, mix.codec), measures=schemas.Measures.model_validate(mix.measures),
        start_frame=mix.start_frame, end_frame=mix.end_frame, edges=schemas.Edges(**mix.edges),
    )  # fmt: skip


def _arrival(arrival: shelf.Arrival) -> schemas.Arrival:
    progress = arrival.job.progress()
    return schemas.Arrival(
        id=arrival.id, name=arrival.name, state=arrival.state, mix_id=arrival.mix_id, error=arrival.error,
        done=progress.done if progress else 0, total=progress.total if progress else 0,
    )  # fmt: skip


@router.get("/shelf")
def read_shelf(studio: TheStudio) -> schemas.ShelfView:
    """All mixes, and the files on their way."""
    return schemas.ShelfView(
        mixes=[mix_schema(mix) for mix in studio.shelf.mixes()],
        arrivals=[_arrival(arrival) for arrival in studio.shelf.arrivals()],
    )


@router.post("/arrivals/upload", status_code=202)
async def upload(request: Request, studio: TheStudio, name: str = Query(max_length=1024)) -> schemas.Arrival:
    """Takes a file as the raw body of the request, streamed to disk."""
    return _arrival(await studio.shelf.receive(name, request.stream()))


@router.post("/arrivals/path", status_code=202)
def fetch(wish: schemas.PathWish, studio: TheStudio) -> schemas.Arrival:
    """Brings in a file that lies on the server; it stays where it is."""
    return _arrival(studio.shelf.fetch(wish.path))


@router.get("/arrivals/{arrival_id}")
def read_arrival(arrival_id: str, studio: TheStudio) -> schemas.Arrival:
    """How far an arrival is."""
    return _arrival(studio.shelf.arrival(arrival_id))


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
    """Takes a mix off the shelf."""
    studio.shelf.remove(mix_id)


@router.put("/mixes/{mix_id}/range")
def set_range(mix_id: int, wish: schemas.FrameRange, studio: TheStudio) -> schemas.Mix:
    """Keeps the range that leaves."""
    return mix_schema(studio.shelf.set_range(mix_id, wish.start_frame, wish.end_frame, edges_of(wish.edges)))


@router.get("/mixes/{mix_id}/tiles/{frames_per_bin}/{index}")
def read_tile(mix_id: int, frames_per_bin: int, index: int, studio: TheStudio) -> Response:
    """A tile of the waveform: little-endian float32 (bin, channel, [minimum, maximum, mean square])."""
    tile = studio.shelf.tile(mix_id, frames_per_bin, index)
    # A mix is never altered, so its tiles are good for as long as the browser keeps them.
    return Response(tile, media_type="application/octet-stream", headers={"Cache-Control": "private, max-age=86400"})


@router.get("/mixes/{mix_id}/time")
def read_time(mix_id: int, studio: TheStudio, text: str = Query(max_length=64)) -> schemas.TypedTime:
    """The frame of a mix that a typed time means."""
    return schemas.TypedTime(frame=parse_time(text, studio.shelf.mix(mix_id).rate_hz))


@router.get("/mixes/{mix_id}/listen")
def listen(
    mix_id: int,
    start_frame: int,
    end_frame: int,
    studio: TheStudio,
    from_frame: int | None = None,
    to_frame: int | None = None,
    edges: str = Query(default="{}", max_length=2000),
) -> StreamingResponse:
    """A range with its edges, as it will be pressed, or the part between two frames of it; sent while it is made."""
    mix = studio.shelf.mix(mix_id)
    try:
        wish = edges_of(schemas.Edges.model_validate_json(edges))
    except ValidationError as error:
        message = "The edges of the range could not be read."
        raise BadInput("edges.unreadable", message, edges=edges) from error
    stretch = stretch_of(studio.shelf, mix, start_frame, end_frame, wish)
    return wav_stream(*studio.listening_desk.play(facts_of(mix), stretch, from_frame, to_frame))


@router.get("/mixes/{mix_id}/measures")
def read_measures(mix_id: int, start_frame: int, end_frame: int, studio: TheStudio) -> schemas.RangeMeasures:
    """Peak and loudness of a stretch."""
    return schemas.RangeMeasures.model_validate(studio.shelf.range_measures(mix_id, start_frame, end_frame))


@router.get("/mixes/{mix_id}/loudness")
def read_loudness(mix_id: int, studio: TheStudio, points: int = Query(default=2000, ge=1, le=20_000)) -> Response:
    """Momentary loudness of the whole mix at even places, as little-endian float32; NaN is silence."""
    return Response(studio.shelf.loudness_curve(mix_id, points), media_type="application/octet-stream")


def edges_of(edges: schemas.Edges) -> Edges:
    """The edges of a request as the core knows them. Raises: BadInput ``edges.range``."""
    return Edges(**edges.model_dump())


def wav_stream(size: int, chunks: Iterator[bytes]) -> StreamingResponse:
    """A response of known length that follows a file while it grows."""
    headers = {"Content-Length": str(size), "Cache-Control": "no-store"}
    return StreamingResponse(chunks, media_type="audio/wav", headers=headers)
