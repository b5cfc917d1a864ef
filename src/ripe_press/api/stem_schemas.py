"""What stands beside a mix, as the page sees it."""

from pydantic import Field

from ripe_press.api.brief_schemas import Schema
from ripe_press.core.wishes.part import MOST_STEM_NAME


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
    origin: str
    live: bool


class HeldStem(Schema):
    """A stem as the check found it."""

    name: str
    late_frames: int
    gain_db: float
    inverted: bool
    in_mix: bool
    wrong: str


class StemCheck(Schema):
    """What holding the stems against the mix came to; ``stale`` where they are not what was held."""

    lines_up: bool
    sums: bool
    residual_dbfs: float | None
    residual_peak_dbfs: float | None
    sentence: str
    stems: list[HeldStem]
    stale: bool


class StemsShown(Schema):
    """All stems of a mix, what is on its way, and the check; ``checked`` from 0 to 1 while it goes on."""

    stems: list[StemShown]
    reading: list[str]
    refused: list[str]
    check: StemCheck | None
    checked: float | None


class StemChange(Schema):
    """What is changed of a stem; what is left out stays."""

    name: str | None = Field(default=None, max_length=4 * MOST_STEM_NAME)
    late_frames: int | None = Field(default=None, ge=-1_000_000_000, le=1_000_000_000)
    mono: bool | None = None


class StemFromFile(Schema):
    """A pressed file that is put beside the mix that it was made of."""

    pressing: int
    file: int = Field(ge=0)


class CountShown(Schema):
    """How many."""

    count: int
