"""Routes for other programs: timeline export of a mix, and sidecars of pressed files."""

from fastapi import APIRouter

from ripe_press.api.deps import TheStudio
from ripe_press.api.jobs import job_view
from ripe_press.api.sending import views as schemas
from ripe_press.core.handoff.frame_rate import RATES, parse_frame_rate
from ripe_press.studio.handoff import HandoffRequest
from ripe_press.studio.jobs import JobState

router = APIRouter(prefix="/api", tags=["next program"])


@router.get("/mixes/{mix_id}/handoff")
def read_handoff(mix_id: int, studio: TheStudio) -> schemas.HandoffShown:
    """How the last hand-off of a mix stands, where it would go, and the frame rates there are."""
    folder = str(studio.handoffs.usual_folder(mix_id))
    last = studio.handoffs.of(("mix", mix_id))
    return schemas.HandoffShown(folder=folder, frame_rates=list(RATES), last=_state(last) if last else None)


@router.post("/mixes/{mix_id}/handoff", status_code=202)
def begin_handoff(mix_id: int, wish: schemas.HandoffBody, studio: TheStudio) -> schemas.HandoffStateShown:
    """Begins to hand a mix off to picture: timeline, edit list, and the media or where they lie."""
    made = HandoffRequest(parse_frame_rate(wish.frame_rate), wish.link)
    return _state(studio.handoffs.hand_off(mix_id, made, wish.folder))


@router.delete("/mixes/{mix_id}/handoff", status_code=204)
def cancel_handoff(mix_id: int, studio: TheStudio) -> None:
    """Asks a hand-off to stop."""
    studio.handoffs.cancel(("mix", mix_id))


@router.get("/pressings/{number}/sidecars")
def read_sidecars(number: int, studio: TheStudio) -> schemas.HandoffStateShown | None:
    """How the writing of sidecars stands, if it was begun."""
    last = studio.handoffs.of(("pressing", studio.press_room.pressing(number).id))
    return _state(last) if last else None


@router.post("/pressings/{number}/sidecars", status_code=202)
def begin_sidecars(number: int, studio: TheStudio) -> schemas.HandoffStateShown:
    """Begins to write a sidecar beside each file of a pressing."""
    return _state(studio.handoffs.write_sidecars(number))


@router.delete("/pressings/{number}/sidecars", status_code=204)
def cancel_sidecars(number: int, studio: TheStudio) -> None:
    """Asks for no more sidecars."""
    studio.handoffs.cancel(("pressing", number))


def _state(state: JobState[tuple[str, ...]]) -> schemas.HandoffStateShown:
    return schemas.HandoffStateShown(**job_view(state), written=list(state.result or ()))
