"""Routes of the Bench of one mix: deliveries, waveform, measurements and playback."""

from collections.abc import Iterator
from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse
from pydantic import TypeAdapter, ValidationError

from ripe_press.api import schemas
from ripe_press.api.deps import TheStudio
from ripe_press.api.pressing.routes import asked_file
from ripe_press.api.shelf.routes import arrival_schema, mix_schema
from ripe_press.core.engine.stems import part_source
from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.formats.capabilities import READ_SUFFIXES
from ripe_press.core.formats.marker_lists import markers_csv, markers_json, parse_markers
from ripe_press.core.measure.loudness import k_weighting
from ripe_press.core.oversampling import between
from ripe_press.core.requests.bench import LOOKS, Bench, NamedRange
from ripe_press.core.requests.delivery import NO_CHANGES
from ripe_press.core.requests.document import bench_of
from ripe_press.core.requests.edges import NO_EDGES, Edges
from ripe_press.core.rules.proposals import Proposal, silence_words
from ripe_press.core.stations.level import USUAL_TARGETS
from ripe_press.core.timeline import Marker, TempoMap, parse_place
from ripe_press.core.words import quoted
from ripe_press.studio.planning import delivery_path, stretch_of
from ripe_press.studio.shelf import check_inside

router = APIRouter(prefix="/api/mixes/{mix_id}", tags=["bench"])
defaults_router = APIRouter(prefix="/api", tags=["bench"])

_EDGES = TypeAdapter(Edges)
_BINARY = "application/octet-stream"
# A mix is never altered, so its tiles are good for as long as the browser keeps them.
_KEEP = {"Cache-Control": "private, max-age=86400"}


@defaults_router.get("/defaults")
def read_defaults() -> schemas.Defaults:
    """What new ranges, deliveries and levels begin with."""
    return schemas.Defaults(
        edges=NO_EDGES, changes=NO_CHANGES, looks=LOOKS, targets=USUAL_TARGETS, read_suffixes=sorted(READ_SUFFIXES)
    )


@defaults_router.get("/loudness-meter")
def read_meter(rate_hz: Annotated[int, Query(ge=8_000, le=384_000)]) -> schemas.LoudnessMeter:
    """What a meter of loudness and true peak needs at a sample rate, so that the page hears as the press measures."""
    shelf, high_pass = k_weighting(rate_hz)
    return schemas.LoudnessMeter(
        shelf=shelf.tolist(), high_pass=high_pass.tolist(), between=between(rate_hz).astype(float).tolist()
    )


@router.put("/bench")
def set_bench(
    mix_id: int, wish: Bench, studio: TheStudio, content: str = Query(default="", max_length=80)
) -> schemas.Mix:
    """Keeps ranges, markers and tempo map; of the version whose content begins so, where that is named."""
    mix = studio.shelf.mix(mix_id)
    if content and not mix.sha256.startswith(content):
        message = f"{quoted(mix.title)} has a newer version. Reload the page."
        raise Conflict("version.other", message, mix=mix_id)
    return mix_schema(studio.shelf.set_bench(mix_id, wish))


@router.put("/downmix", status_code=202)
def set_downmix(mix_id: int, wish: schemas.DownmixRequest, studio: TheStudio) -> schemas.Arrival:
    """Makes the mix of other channels of its file; it is measured again."""
    return arrival_schema(studio.shelf.set_downmix(mix_id, wish.downmix))


@router.post("/time")
def read_time(mix_id: int, wish: schemas.TimeRequest, studio: TheStudio) -> schemas.Place:
    """The frame of a mix that a typed time means."""
    rate_hz = studio.shelf.mix(mix_id).rate_hz
    return schemas.Place(frame=parse_place(wish.text, rate_hz, wish.tempo))


@router.post("/bars")
def read_bars(mix_id: int, tempo: TempoMap, studio: TheStudio) -> list[schemas.Bar]:
    """Every bar of a mix by a tempo map, from bar 1 on."""
    mix = studio.shelf.mix(mix_id)
    bars = tempo.grid(mix.frames, mix.rate_hz)
    return [schemas.Bar(frame=frame, beats=beats) for frame, beats in bars]


@router.post("/proposals")
def read_proposals(mix_id: int, wish: Bench, studio: TheStudio) -> list[Proposal]:
    """Ranges that could leave, each with its reason."""
    return list(studio.mix_views.proposals(studio.shelf.mix(mix_id), wish))


@router.get("/after")
def read_after(mix_id: int, frame: int, studio: TheStudio, silence_dbfs: float | None = None) -> schemas.AfterView:
    """What follows a frame: nothing, a tail that decays, the music, or what only a person can tell."""
    found = studio.mix_views.after(studio.shelf.mix(mix_id), frame, silence_dbfs)
    return schemas.AfterView(
        kind=found.tail.kind, decay_s=found.tail.decay_s, music_frame=found.music_frame, sentence=found.sentence
    )


@router.get("/sounding")
def read_sounding(
    mix_id: int, studio: TheStudio, silence_dbfs: float | None = Query(default=None, ge=-120, le=-20)
) -> schemas.SoundingView:
    """From where to where a mix sounds, above a level that is set or out of its own noise."""
    found = studio.mix_views.known(studio.shelf.mix(mix_id)).sounding(silence_dbfs)
    return schemas.SoundingView(
        start_frame=found.start_frame, end_frame=found.end_frame, noise_dbfs=found.noise_dbfs,
        silence_dbfs=found.silence_dbfs, sentence=silence_words(found),
    )  # fmt: skip


@router.get("/tempo-hints")
def read_tempo_hints(
    mix_id: int, studio: TheStudio, bpm: float | None = Query(default=None, ge=10, le=1000)
) -> list[schemas.TempoHintView]:
    """Tempos that are offered for a mix, each with bar 1; one that was typed or tapped is given its bar 1, too."""
    return [schemas.TempoHintView(**asdict(one)) for one in studio.mix_views.tempo_hints(studio.shelf.mix(mix_id), bpm)]


@router.post("/markers")
def read_markers(mix_id: int, wish: schemas.MarkerList, studio: TheStudio) -> list[Marker]:
    """The markers in a list that was sent; nothing is kept yet."""
    mix = studio.shelf.mix(mix_id)
    return list(parse_markers(wish.text, mix.rate_hz, wish.tempo))


@router.get("/markers.{form}")
def export_markers(mix_id: int, form: str, studio: TheStudio) -> Response:
    """The markers of a mix as ``csv`` or ``json``."""
    mix = studio.shelf.mix(mix_id)
    markers = bench_of(mix.bench).markers
    if form == "csv":
        return _attached(markers_csv(markers, mix.rate_hz), "text/csv", f"markers-{mix.id}.csv")
    if form == "json":
        return _attached(markers_json(markers, mix.rate_hz), "application/json", f"markers-{mix.id}.json")
    message = f"Unknown marker format {quoted(form)}. Use csv or json."
    raise BadInput("marker.form", message, form=form)


@router.get("/tiles/{frames_per_bin}/{index}")
def read_tile(mix_id: int, frames_per_bin: int, index: int, studio: TheStudio) -> Response:
    """A tile of the waveform: little-endian float32 (bin, channel, [minimum, maximum, mean square])."""
    tile = studio.mix_views.tile(studio.shelf.mix(mix_id), frames_per_bin, index)
    return Response(tile, media_type=_BINARY, headers=_KEEP)


@router.get("/listen")
def listen(
    mix_id: int,
    start_frame: int,
    end_frame: int,
    studio: TheStudio,
    from_frame: int | None = None,
    to_frame: int | None = None,
    edges: str = Query(default="{}", max_length=2000),
    stems: str = Query(default="", max_length=2000),
    times: int = Query(default=1, ge=1, le=500),
    file: str = Query(default="", max_length=100),
) -> StreamingResponse:
    """A range with its edges, as it will be pressed, or the part between two frames of it; sent while it is made.

    It is sent so many ``times``, without a seam. With a ``file`` of the ticket as it was last kept it is that file,
    through its channels and its level.

    With the numbers of ``stems``, parted by commas, it is those, added up, in place of the mix.
    """
    mix = studio.shelf.mix(mix_id)
    try:
        wish = _EDGES.validate_json(edges)
    except ValidationError as error:
        message = "Invalid start or end treatment of the range."
        raise BadInput("edges.unreadable", message, edges=edges) from error
    known = studio.mix_views.known(mix)
    check_inside(mix.frames, start_frame, end_frame)
    if file:
        heard = asked_file(studio, mix, bench_of(mix.bench), file)
        path = delivery_path(heard.planned, heard.known, from_frame, to_frame)
        return wav_stream(*studio.previews.play_path(path, times))
    stretch = stretch_of(known, NamedRange("heard", start_frame, end_frame, edges=wish))
    source = known.source
    if stems:
        source = part_source(source, studio.stems.notes(mix_id), studio.stems.part_of(mix_id, stems))
    if times > 1:
        return wav_stream(*studio.previews.loop(source, stretch, times, from_frame, to_frame))
    return wav_stream(*studio.previews.play(source, stretch, from_frame, to_frame))


@router.get("/measures")
def read_measures(mix_id: int, start_frame: int, end_frame: int, studio: TheStudio) -> schemas.RangeMeasures:
    """Peak and loudness of a stretch."""
    mix = studio.shelf.mix(mix_id)
    check_inside(mix.frames, start_frame, end_frame)
    found = studio.mix_views.known(mix).range_measures(start_frame, end_frame)
    return schemas.RangeMeasures.model_validate(found)


@router.get("/true-peak")
def read_true_peak(mix_id: int, start_frame: int, end_frame: int, studio: TheStudio) -> schemas.TruePeak:
    """The true peak of a stretch; the first question about a mix waits for a pass over it."""
    peak, frame = studio.mix_views.true_peak(studio.shelf.mix(mix_id), start_frame, end_frame)
    return schemas.TruePeak(true_peak_dbtp=peak, frame=frame)


@router.get("/true-peaks")
def read_true_peaks(mix_id: int, studio: TheStudio) -> Response:
    """The true peak, linear, of every 8192 frames of a mix, as little-endian float32."""
    peaks = studio.mix_views.true_peaks(studio.shelf.mix(mix_id))
    return Response(peaks.astype("<f4").tobytes(), media_type=_BINARY)


@router.get("/clipped")
def read_clipped(mix_id: int, studio: TheStudio) -> list[tuple[int, int, int]]:
    """Runs of clipped samples: (first frame, frames, channel), the first ten thousand by time."""
    mix = studio.shelf.mix(mix_id)
    runs = studio.mix_views.known(mix).clipping(0, mix.frames).runs
    return [(run.start_frame, run.frames, run.channel) for run in runs[:10_000]]


@router.get("/spectrum")
def read_spectrum(mix_id: int, start_frame: int, end_frame: int, studio: TheStudio) -> list[tuple[float, float]]:
    """The mean spectrum of a stretch: (frequency in Hz, level in dB)."""
    return studio.mix_views.spectrum(studio.shelf.mix(mix_id), start_frame, end_frame)


@router.get("/zero-crossing")
def read_zero_crossing(mix_id: int, frame: int, studio: TheStudio) -> schemas.Place:
    """The nearest place where the sum of the channels changes sign, at most 20 ms away."""
    return schemas.Place(frame=studio.mix_views.zero_crossing(studio.shelf.mix(mix_id), frame))


@router.get("/loudness")
def read_loudness(mix_id: int, studio: TheStudio, points: int = Query(default=2000, ge=1, le=20_000)) -> Response:
    """Momentary loudness of the whole mix at even places, as little-endian float32; NaN is silence."""
    return Response(studio.mix_views.loudness_curve(studio.shelf.mix(mix_id), points), media_type=_BINARY)


def wav_stream(size: int, chunks: Iterator[bytes]) -> StreamingResponse:
    """A response of known length that follows a file while it grows."""
    headers = {"Content-Length": str(size), "Cache-Control": "no-store"}
    return StreamingResponse(chunks, media_type="audio/wav", headers=headers)


def _attached(text: str, kind: str, name: str) -> Response:
    return Response(text, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})
