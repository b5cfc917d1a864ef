"""Live passes and the rack, as the page sees them."""

from typing import Literal

from pydantic import Field

from ripe_press.api.briefs.views import Schema
from ripe_press.core.requests.part import MOST_STEM_NAME, THE_MIX, Part
from ripe_press.core.words import JobStateName

MOST_SCORE = 4 << 20


class UnitShown(Schema):
    """A rack address and its unit; without a unit ``sentence`` gives the reason."""

    address: str
    unit: str
    name: str
    busy: bool
    rates_hz: list[int]
    sentence: str


class LiveSource(Schema):
    """A source for a live pass: the send signal and the unit."""

    name: str = Field(default="", max_length=4 * MOST_STEM_NAME)
    address: str = Field(max_length=200)
    part: Part = THE_MIX
    finish: bool = False
    score: str = Field(default="", max_length=MOST_SCORE)
    """A Standard MIDI File as base64, for an instrument."""
    correct_drift: bool = True
    on_dropout: Literal["go-on", "end"] = "go-on"
    stop_on_over: bool = False
    send_gain_db: float = Field(default=0.0, ge=-60, le=24)


class MadeSource(Schema):
    """The number of a source that was put beside a mix."""

    stem: int


class LevelsShown(Schema):
    """Progress of a live pass in samples, and linear peak levels since the last event."""

    done: int
    total: int
    sent_peak: float
    heard_peak: float
    overs: int
    dropouts: int


class PassShown(Schema):
    """A live pass, with its levels while it runs."""

    id: int
    stem_id: int
    name: str
    state: JobStateName
    sentence: str
    made_at: str
    ended_at: str | None
    rate_hz: int
    levels: LevelsShown | None
