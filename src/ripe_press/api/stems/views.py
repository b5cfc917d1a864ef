"""Models of stems and captures."""

from typing import Literal

from pydantic import Field

from ripe_press.api.briefs.views import Schema
from ripe_press.api.jobs import JobView
from ripe_press.core.requests.part import MOST_STEM_NAME


class DropoutShown(Schema):
    """Samples of a capture that differ from the send, and how they were detected."""

    kind: Literal["counter", "silent", "slip"]
    start_frame: int
    frames: int


class CaptureShown(Schema):
    """The measurements of the live pass of a capture."""

    latency_frames: float
    latency_after_frames: float | None
    drift_ppm: float | None
    drift_corrected: bool
    dropouts: list[DropoutShown]
    peak_dbfs: float | None
    overs: int
    complete: bool


class StemShown(Schema):
    """Something beside a mix. ``late_frames`` are those that it is moved by, at the rate of the mix."""

    id: int
    name: str
    path: str
    rate_hz: int
    depth: str
    channels: int
    frames: int
    late_frames: int
    mono: bool
    apart: bool
    owned: bool
    """Whether its file is ours, and goes with it."""
    origin: str
    unit: str
    live_s: float
    """How long its live pass takes, where it has to be captured first; 0 where it is there."""
    captured: CaptureShown | None


class HeldStem(Schema):
    """A stem as the check found it."""

    name: str
    late_frames: int
    gain_db: float
    inverted: bool
    in_mix: bool
    wrong: str


class StemCheck(Schema):
    """The result of a stem check; ``stale`` if the stems changed since."""

    lines_up: bool
    sums: bool
    residual_dbfs: float | None
    residual_peak_dbfs: float | None
    sentence: str
    stems: list[HeldStem]
    stale: bool


class StemsShown(Schema):
    """All stems of a mix, running imports, and the last check; ``checking`` is a running one."""

    stems: list[StemShown]
    reading: list[str]
    refused: list[str]
    check: StemCheck | None
    checking: JobView | None


class StemChange(Schema):
    """Changes to a stem; omitted fields stay unchanged."""

    name: str | None = Field(default=None, max_length=4 * MOST_STEM_NAME)
    late_frames: int | None = Field(default=None, ge=-1_000_000_000, le=1_000_000_000)
    mono: bool | None = None
    apart: bool | None = None


class StemFromFile(Schema):
    """A pressed file that is put beside the mix that it was made of."""

    pressing: int
    file: int = Field(ge=0)


class CountShown(Schema):
    """How many."""

    count: int
