"""What travels of running orders."""

from typing import Literal

from pydantic import Field

from ripe_press.api.briefs.views import Schema
from ripe_press.api.jobs import JobView
from ripe_press.core.requests.running_order import RunningOrder
from ripe_press.core.rules.findings import Finding


class OrderSummary(Schema):
    """An order in the list of all."""

    id: int
    title: str
    entries: int
    changed_at: str


class PickedRange(Schema):
    """A mix, or a range of it where one is named."""

    mix_id: int
    range_id: str = Field(default="", max_length=40)


class NewOrder(Schema):
    """What an order is made of; without ranges it is empty."""

    title: str = Field(default="", max_length=300)
    ranges: list[PickedRange] = Field(default=[], max_length=400)
    gap_frames: int = Field(default=150, ge=0, le=45_000)


class CutOrder(Schema):
    """One long mix that is to be cut at its markers, or where it falls quiet."""

    mix_id: int
    at: Literal["markers", "quiet"] = "markers"


class OrderFile(Schema):
    """A running order as a file holds it."""

    text: str = Field(max_length=60_000_000)


class EntryRow(Schema):
    """An entry as it lies; places are CD frames from the start of the programme, ``wave`` peaks from 0 to 1."""

    title: str
    artist: str
    isrc: str
    mix_title: str
    range_name: str
    track: int
    pause_frame: int
    start_frame: int
    end_frame: int
    integrated_lufs: float | None
    true_peak_dbtp: float | None
    gain_db: float
    rate_hz: int
    goes_on: bool
    wave: list[float]


class PathCellRow(Schema):
    """A station of a track; ``shared`` is processed once for gapless neighbours."""

    kind: str
    label: str
    detail: str
    idle: bool
    sentence: str
    shared: bool


class OrderShown(Schema):
    """A running order with tracks, findings and levels."""

    id: int
    order: RunningOrder
    entries: list[EntryRow]
    findings: list[Finding]
    lead_out_frame: int
    capacities: dict[int, int]
    loudest: int | None
    folder: str
    """Where its files go."""
    folder_problem: str
    """Why files cannot go there; empty where they can."""


class OrderPressRequest(Schema):
    """What of an order is to be pressed: the files for its briefs, the disc, or both."""

    files: bool = True
    disc: bool = False


class BurnBody(Schema):
    """How a disc is to be burnt."""

    kind: Literal["cdr74", "cdr80", "cdrw80"] = "cdr80"
    speed: Literal[4, 8, 16, 24, 48] = 16
    simulate: bool = False
    finalize: bool = True


class WrongFrameRow(Schema):
    """A frame of the disc that is not as it was burnt."""

    track: int
    at_s: float
    samples: int
    known: bool
    sentence: str


class BurnView(JobView):
    """The state of a burn, in CD frames, and the result of the verification."""

    pressing: int
    worth: str = ""
    """What the disc is worth."""
    offset_samples: int | None = None
    frames: int = 0
    wrong_frames: int = 0
    wrong: list[WrongFrameRow] = Field(default_factory=list)
    medium: str = ""
    simulated: bool = False
