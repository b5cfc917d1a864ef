"""Drop-offs and the outbox, as the page sees them. What a drop-off is let in with comes in, and never goes out."""

from typing import Any

from pydantic import Field

from ripe_press.api.briefs.views import Schema
from ripe_press.api.jobs import JobView
from ripe_press.core.sending.drop_off import DropOff, Kind
from ripe_press.core.sending.parcel import ParcelState
from ripe_press.store.pressings import Verdict


class DropOffRequest(Schema):
    """A drop-off to add or change; a ``secret`` of None keeps the stored one."""

    drop_off: DropOff
    secret: str | None = Field(default=None, max_length=1000)


class DropOffSaid(Schema):
    """What a drop-off answered when it was last tried; ``limit_bytes`` is 0 where it named none."""

    good: bool
    sentence: str
    limit_bytes: int = 0


class DropOffShown(Schema):
    """A drop-off, its last answer, and the number of its transfers by state."""

    id: int
    drop_off: DropOff
    word: str
    has_secret: bool
    said: DropOffSaid | None
    counts: dict[ParcelState, int]


class DropOffBookShown(Schema):
    """All drop-offs, and where what they are let in with is kept: the system's keyring, or a file."""

    drop_offs: list[DropOffShown]
    secrets_in: str


class SendRequest(Schema):
    """Files of a pressing, by their numbers, to drop-offs by their names; no numbers are all of them."""

    pressing: int = Field(ge=0, le=2**53)
    files: list[int] = Field(default=[], max_length=1000)
    drop_offs: list[str] = Field(max_length=20)
    accepted_by: str = Field(default="", max_length=200)
    because: str = Field(default="", max_length=1000)


class Acceptance(Schema):
    """Who signs off the findings of a file, and why."""

    accepted_by: str = Field(max_length=200)
    because: str = Field(max_length=1000)


class HandedOver(Schema):
    """The transfer of a file; one that is not new existed before."""

    parcel: int
    new: bool


class ReasonShown(Schema):
    """Why something was refused."""

    kind: str
    sentence: str
    asked: list[str]


class ParcelShown(Schema):
    """A transfer. ``next_try_in_s`` is None if no retry is scheduled."""

    id: int
    drop_off: str
    kind: Kind
    word: str
    mix_id: int | None
    pressing: int | None
    file: int | None
    line: str
    name: str
    path: str
    bytes: int
    sha256: str
    brief: str
    verdict: Verdict
    state: ParcelState
    sentence: str
    reasons: list[ReasonShown]
    receipt: dict[str, Any]
    attempts: int
    next_try_in_s: float | None
    accepted_by: str
    because: str
    made_at: str
    ended_at: str | None
    done_bytes: int = 0
    bytes_a_second: float = 0.0


class HandoffBody(Schema):
    """How a mix is handed off to picture; an empty folder is the usual one."""

    frame_rate: str = Field(default="25", max_length=20)
    link: bool = False
    folder: str = Field(default="", max_length=1000)


class HandoffStateShown(JobView):
    """Files for another program: bytes or files done of all, and the files that were written."""

    written: list[str]


class HandoffShown(Schema):
    """Where a mix would be handed off to, the frame rates that can be asked for, and how the last one stands."""

    folder: str
    frame_rates: list[str]
    last: HandoffStateShown | None
