"""The rack, and live passes through its units."""

import base64
import binascii

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from ripe_press.api.deps import TheStudio
from ripe_press.api.live import views as schemas
from ripe_press.core.errors import BadInput, NotFound
from ripe_press.studio.live import LiveRequest, PassShown

router = APIRouter(prefix="/api", tags=["passes"])


@router.get("/rack")
def read_rack(studio: TheStudio) -> list[schemas.UnitShown]:
    """Who answers at the places of the rack, asked now."""
    found = []
    for slot in studio.passes.rack.slots():
        unit = slot.unit
        found.append(
            schemas.UnitShown(
                address=slot.address, unit=unit.unit if unit else "", name=unit.name if unit else "",
                busy=bool(unit and unit.busy), rates_hz=list(unit.rates_hz) if unit else [], sentence=slot.sentence,
            )
        )  # fmt: skip
    return found


@router.post("/mixes/{mix_id}/live", status_code=201)
def make_live_source(mix_id: int, wish: schemas.LiveSource, studio: TheStudio) -> schemas.MadeSource:
    """Puts a source beside a mix that is captured in a live pass."""
    unit = next((one.unit for one in studio.passes.rack.slots() if one.address == wish.address and one.unit), None)
    if unit is None:
        message = f"No unit at {wish.address}. Start it with `ripe-press rack`."
        raise NotFound("rack.away", message, address=wish.address)
    try:
        score = base64.b64decode(wish.score, validate=True)
    except (binascii.Error, ValueError) as error:
        message = "The MIDI file is not base64. Upload it again."
        raise BadInput("pass.score", message) from error
    asked = LiveRequest(
        "instrument" if unit.unit == "instrument" else "outboard", wish.address, unit.name, wish.part, wish.finish, "",
        wish.correct_drift, wish.on_dropout, wish.stop_on_over, wish.send_gain_db,
    )  # fmt: skip
    return schemas.MadeSource(stem=studio.passes.make(mix_id, wish.name, asked, score))


@router.get("/mixes/{mix_id}/passes")
def read_passes(mix_id: int, studio: TheStudio) -> list[schemas.PassShown]:
    """The live passes of a mix, newest first."""
    return [_shown(one) for one in studio.passes.of(mix_id)]


@router.post("/mixes/{mix_id}/stems/{stem_id}/pass", status_code=202)
def begin_pass(mix_id: int, stem_id: int, studio: TheStudio) -> list[schemas.PassShown]:
    """Puts the pass of a live source into the line."""
    studio.passes.begin(mix_id, stem_id)
    return [_shown(one) for one in studio.passes.of(mix_id)]


@router.delete("/passes/{number}", status_code=204)
def stop_pass(number: int, studio: TheStudio) -> None:
    """Stop a running live pass and keep the recording; remove a waiting one from the queue."""
    studio.passes.stop(number)


@router.get("/passes/{number}/sound")
def hear_pass(number: int, studio: TheStudio) -> StreamingResponse:
    """What a pass that runs gives back, from now on: float32, little-endian, interleaved."""
    rate_hz, channels, chunks = studio.passes.sound(number)
    headers = {"X-Rate-Hz": str(rate_hz), "X-Channels": str(channels), "Cache-Control": "no-store"}
    return StreamingResponse(chunks, media_type="application/octet-stream", headers=headers)


def _shown(one: PassShown) -> schemas.PassShown:
    stored, levels = one.stored, one.levels
    return schemas.PassShown(
        id=stored.id, stem_id=stored.stem_id, name=stored.name, state=stored.state, sentence=stored.sentence,
        made_at=stored.made_at, ended_at=stored.ended_at, rate_hz=one.rate_hz,
        levels=schemas.LevelsShown(
            done=levels.done, total=levels.total, sent_peak=levels.sent_peak, heard_peak=levels.heard_peak,
            overs=levels.overs, dropouts=levels.dropouts,
        ) if levels else None,
    )  # fmt: skip
