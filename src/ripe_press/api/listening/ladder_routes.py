"""Routes of the bit-rate ladder: a mix at all common bit rates, and the smallest transparent setting."""

from typing import Literal

from fastapi import APIRouter

from ripe_press.api.briefs.views import Schema
from ripe_press.api.deps import TheStudio
from ripe_press.api.jobs import JobView, job_view
from ripe_press.api.pressing import views as press_schemas
from ripe_press.api.pressing.routes import asked_file
from ripe_press.core.errors import NotFound
from ripe_press.core.formats.capabilities import Container, Mode
from ripe_press.core.proof.hearing.opinion import Prediction

router = APIRouter(prefix="/api", tags=["ladder"])


class RungView(Schema):
    """One codec at one bit rate; ``set_kbps`` or ``set_quality`` is how it is set, ``kbps`` what it takes.

    Ratios are noise to mask in dB; null where nothing differs.
    """

    codec: str
    container: Container
    set_to: str
    kbps: float
    bytes: int
    nmr_db: float | None
    nmr_p95_db: float | None
    nmr_p99_db: float | None
    above_mask_share: float
    decoded_peak_dbtp: float | None
    bandwidth_hz: int
    prediction: Prediction
    reasons: list[str]
    whole: bool
    """Whether it was coded and measured whole, not by passages."""
    mode: Mode | None
    set_kbps: int | None
    set_quality: int | None


class PassageView(Schema):
    """A passage that is hard on encoders."""

    why: Literal["loudest", "most transient", "most tonal", "quietest", "between"]
    start_s: float
    end_s: float


class LadderReport(Schema):
    """All settings, and the smallest transparent one."""

    rungs: list[RungView]
    smallest_transparent: RungView | None
    smallest_asked: RungView | None
    asked: str
    """The format that was asked for, where it is lossy."""
    passages: list[PassageView]
    sentence: str


class LadderView(JobView):
    """How far a ladder is, and what it came to."""

    id: str
    report: LadderReport | None


@router.post("/mixes/{mix_id}/ladder")
def climb(mix_id: int, wish: press_schemas.TrialRequest, studio: TheStudio) -> LadderView:
    """The bit-rate ladder of a delivery; the first request starts it."""
    file = asked_file(studio, studio.shelf.mix(mix_id), wish.bench, wish.id)
    key, state = studio.ladders.climb(file.planned, file.mix)
    return LadderView.model_validate({"id": key, **job_view(state), "report": state.result})


@router.delete("/ladders/{ladder_id}", status_code=204)
def cancel(ladder_id: str, studio: TheStudio) -> None:
    """Stops one that is being climbed."""
    if not studio.ladders.cancel(ladder_id) and studio.ladders.of(ladder_id) is None:
        raise NotFound("ladder.unknown", "Bit-rate ladder not found. Start it again.", ladder=ladder_id)
