"""What travels of briefs, and the base of everything that travels."""

from dataclasses import dataclass
from typing import Literal

from pydantic import BaseModel, ConfigDict

from ripe_press.core.formats.capabilities import Container, Encoding, Knob, MarkerForm, Mode
from ripe_press.core.requests.brief import Brief


class Schema(BaseModel):
    """Every field that has a default is still always sent, so the page need not guess."""

    model_config = ConfigDict(
        from_attributes=True, allow_inf_nan=False, json_schema_serialization_defaults_required=True
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class BriefView(Brief):
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
