"""Routes of blind tests: what X is stays on the server until the test is over."""

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import Field

from ripe_press.api.briefs.views import Schema
from ripe_press.api.deps import TheStudio
from ripe_press.api.listening.routes import SOUND, UNKEPT
from ripe_press.store.blind_tests import BlindState
from ripe_press.studio.listening import MOST_ALTERNATIVES, BlindTest

router = APIRouter(prefix="/api", tags=["blind test"])


class BlindRequest(Schema):
    """Two or three sources of a listening desk by their slots, and the passage in samples of its timeline."""

    slots: Annotated[list[int], Field(min_length=2, max_length=MOST_ALTERNATIVES)]
    trials: int
    start_frame: int
    end_frame: int


class BlindAnswer(Schema):
    """Which alternative X was taken for, from 0."""

    answer: int


class BlindView(Schema):
    """A blind test. X (``hidden``), its seed and the result are given when the test is over.

    ``p`` is the one-sided binomial probability of this result by chance, 0 to 1; null for an ended test.
    """

    id: int
    pressing_id: int | None
    state: BlindState
    began_at: str
    trials: int
    answered: int
    titles: list[str]
    rate_hz: int
    start_frame: int
    frames: int
    seed: str
    answers: list[int]
    hidden: list[int]
    right: int | None
    p: float | None
    sentence: str


@router.post("/desks/{desk_id}/blind-tests", status_code=201)
def begin_blind_test(desk_id: str, wish: BlindRequest, studio: TheStudio) -> BlindView:
    """Start a blind test; the server matches the levels of its sources."""
    return _view(studio.blind_tests.begin(desk_id, wish.slots, wish.trials, wish.start_frame, wish.end_frame))


@router.get("/blind-tests/{test_id}")
def read_blind_test(test_id: int, studio: TheStudio) -> BlindView:
    """The blind test without what must stay hidden."""
    return _view(studio.blind_tests.test(test_id))


@router.get("/blind-tests/{test_id}/trials/{trial}/blocks", response_class=Response)
def read_blind_blocks(test_id: int, trial: int, start: int, frames: int, studio: TheStudio) -> Response:
    """A stretch of the passage for the trial whose turn it is: the alternatives, then X, as 32-bit floats."""
    sound = studio.blind_tests.blocks(test_id, trial, start, frames)
    return Response(sound, media_type=SOUND, headers=UNKEPT)


@router.post("/blind-tests/{test_id}/trials/{trial}")
def answer_blind_test(test_id: int, trial: int, wish: BlindAnswer, studio: TheStudio) -> BlindView:
    """Writes an answer down."""
    return _view(studio.blind_tests.answer(test_id, trial, wish.answer))


@router.delete("/blind-tests/{test_id}")
def leave_off_blind_test(test_id: int, studio: TheStudio) -> BlindView:
    """Ends a test without a result; that it was left off stays in the record."""
    return _view(studio.blind_tests.leave_off(test_id))


@router.get("/pressings/{number}/blind-tests")
def read_blind_tests(number: int, studio: TheStudio) -> list[BlindView]:
    """The tests of a pressing that are over, newest first."""
    studio.press_room.pressing(number)
    return [_view(one) for one in studio.blind_tests.of_pressing(number)]


@router.get("/mixes/{mix_id}/blind-tests")
def read_blind_tests_of_mix(mix_id: int, studio: TheStudio) -> list[BlindView]:
    """The finished blind tests of a mix, newest first."""
    studio.shelf.mix(mix_id)
    return [_view(one) for one in studio.blind_tests.of_mix(mix_id)]


def _view(test: BlindTest) -> BlindView:
    return BlindView.model_validate(asdict(test))
