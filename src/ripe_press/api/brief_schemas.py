"""What travels of briefs, and the base of everything that travels."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from ripe_press.core.engine.delivery import ChannelWish
from ripe_press.core.engine.stations import MOST_REDUCTION_DB, LevelKind
from ripe_press.core.formats.capabilities import Container, Encoding, Knob, MarkerForm, Mode
from ripe_press.core.naming import Case, Spaces
from ripe_press.core.signal.channels import MonoLaw
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.signal.resample import Quality
from ripe_press.core.tags.sheet import Id3Version


class Schema(BaseModel):
    """Every field that has a default is still always sent, so the page need not guess."""

    model_config = ConfigDict(from_attributes=True, json_schema_serialization_defaults_required=True)


class LevelWish(Schema):
    """What is to be done about the level: target in dBFS, dBTP or LUFS by its kind."""

    kind: LevelKind = "leave"
    target: float = 0.0
    ceiling_dbtp: float = -1.0
    limit: bool = True
    only_down: bool = False
    back_off: bool = False
    max_reduction_db: float = Field(default=MOST_REDUCTION_DB, ge=0, le=40)


class NameStyle(Schema):
    """How the fields of a label pattern are written."""

    digits: int = Field(default=2, ge=1, le=4)
    case: Case = "as-is"
    spaces: Spaces = "keep"


class Requirements(Schema):
    """What a brief allows; an empty list allows everything."""

    containers: list[Container] = []
    encodings: list[Encoding] = []
    rates_hz: list[int] = []
    channels: list[int] = []
    sample_peak_max_dbfs: float | None = None
    true_peak_max_dbtp: float | None = None
    loudness_lufs: tuple[float, float] | None = None
    bytes_max: int | None = Field(default=None, gt=0)
    kbps_min: int | None = Field(default=None, gt=0)


class Preferences(Schema):
    """What a brief makes when nobody says otherwise."""

    container: Container = "wav"
    encoding: Encoding | Literal["keep"] = "keep"
    rate_hz: int | Literal["keep"] = "keep"
    quality: Quality = "very-high"
    channels: ChannelWish = "keep"
    mono_law_db: MonoLaw = -6
    dither: Dither | Literal["auto"] = "auto"
    level: LevelWish = LevelWish()
    finish: bool = True
    mode: Mode | None = None
    kbps: int | None = Field(default=None, ge=1, le=1000)
    coding_quality: int | None = Field(default=None, ge=0, le=10)
    id3_version: Id3Version = "2.4"
    gain_tags: bool = False
    markers: bool = True
    loop_points: bool = False
    style: NameStyle = NameStyle()


class BriefBody(Schema):
    """A brief as its file has it."""

    model_config = ConfigDict(
        from_attributes=True, json_schema_serialization_defaults_required=True, extra="ignore", title="Brief"
    )

    id: str = Field(pattern=r"^[a-z0-9][a-z0-9-]{0,60}$")
    title: str = Field(min_length=1, max_length=80)
    sentence: str = Field(min_length=1, max_length=300)
    why: str = Field(max_length=400)
    label_pattern: str = Field(default="{title} {range} {rate} {depth}", min_length=1, max_length=300)
    drop_off: str = Field(default="", max_length=120)
    tags: list[str] = []
    require: Requirements = Requirements()
    prefer: Preferences = Preferences()


class BriefView(BriefBody):
    """A brief, and whether it was made here."""

    own: bool


class Capability(Schema):
    """What a container holds."""

    container: Container
    title: str
    depths: list[tuple[Encoding, str]]
    """Encodings with their words."""
    max_channels: int
    compressed: bool
    lossy: bool
    rates_hz: list[int]
    """The rates to choose from."""
    knobs: list[tuple[Mode, Knob]]
    kbps: list[int]
    kbps_listed: bool
    pictures: bool
    markers: MarkerForm
    gain_tags: Literal["", "replaygain", "r128"]
    id3: bool
    max_bytes: int | None
    tags: dict[str, list[str]]
    """For every field the names it goes by; no names where it has no place."""
