"""The settings of a file, each declared once.

A brief has defaults for all, a departure has some: a new setting is declared here, takes effect in `engine.resolve`,
and gets its control on the page.
"""

from dataclasses import dataclass, fields, make_dataclass
from typing import TYPE_CHECKING, Annotated, Any, Literal

from annotated_types import Ge, Le, MaxLen

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.capabilities import PLAIN, Container, Encoding, Mode
from ripe_press.core.naming import PLAIN_STYLE, NameStyle
from ripe_press.core.signal.channels import MonoLaw
from ripe_press.core.signal.limiter import USUAL_LIMITING, Limiting
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.signal.resample import Quality
from ripe_press.core.stations.level import MOST_REDUCTION_DB, LevelKind, Target
from ripe_press.core.tags.sheet import Id3Version, Values

STRICT = {"extra": "forbid", "allow_inf_nan": False, "json_schema_serialization_defaults_required": True}
"""Validation of documents of wishes: unknown fields are rejected, and every field is written out."""

ChannelRequest = Literal["stereo", "split", "mono", "left", "right", "swapped", "keep"]


@dataclass(frozen=True, slots=True)
class LevelRequest:
    """A level setting; see `stations.Target`.

    With ``back_off`` a lossy file is encoded again, lower, until its decoded peaks stay under the ceiling.
    """

    kind: LevelKind = "leave"
    target: float = 0.0
    ceiling_dbtp: float = -1.0
    limit: bool = True
    only_down: bool = False
    back_off: bool = False
    max_reduction_db: Annotated[float, Ge(0), Le(40)] = MOST_REDUCTION_DB
    limiting: Limiting = USUAL_LIMITING

    @property
    def target_station(self) -> Target | None:
        """The station that it comes to; None where the level is left alone."""
        if self.kind == "leave":
            return None
        return Target(
            self.kind, self.target, self.ceiling_dbtp, self.limit, self.only_down, self.max_reduction_db, self.limiting
        )  # fmt: skip


LEAVE = LevelRequest()


def checked_level(level: LevelRequest) -> LevelRequest:
    """The level itself, once it is one that a file can have. Raises: BadInput ``level.range``."""
    if not (-70 <= level.target <= 0 and -20 <= level.ceiling_dbtp <= 0):
        message = f"Level {level.target:g} is out of range. Use −70 to 0, ceiling −20 to 0 dBTP."
        raise BadInput("level.range", message, target=level.target, ceiling_dbtp=level.ceiling_dbtp)
    if not 0 <= level.max_reduction_db <= 40:
        message = f"Gain reduction {level.max_reduction_db:g} dB is out of range. Use 0 to 40 dB."
        raise BadInput("level.range", message, max_reduction_db=level.max_reduction_db)
    return level


@dataclass(frozen=True, slots=True)
class Making:
    """Settings of a file; *keep* means as the mix, where allowed.

    ``channels``: *stereo* is two sides whatever comes, *keep* as many as the mix has. ``dither`` *auto* is decided
    by rule. ``finish`` takes the finishing chain of the mix or leaves it out. ``mode``, ``kbps`` and
    ``coding_quality`` are for lossy containers; None is left to the capability table.
    """

    container: Container = PLAIN
    encoding: Encoding | Literal["keep"] = "keep"
    rate_hz: Annotated[int, Ge(1), Le(384_000)] | Literal["keep"] = "keep"
    quality: Quality = "very-high"
    channels: ChannelRequest = "keep"
    mono_law_db: MonoLaw = -6
    dither: Dither | Literal["auto"] = "auto"
    level: LevelRequest = LEAVE
    finish: bool = True
    mode: Mode | None = None
    kbps: Annotated[int, Ge(1), Le(1000)] | None = None
    coding_quality: Annotated[int, Ge(0), Le(10)] | None = None
    id3_version: Id3Version = "2.4"
    gain_tags: bool = False
    cover: bool = True
    markers: bool = True
    loop_points: bool = False
    style: NameStyle = PLAIN_STYLE


@dataclass(frozen=True, slots=True)
class DeliverySettings(Making):
    """All settings of a delivery: of the file, its name, tags and drop-offs."""

    label_pattern: Annotated[str, MaxLen(300)] = ""
    tags: Values = ()
    """Where they depart from the tag sheet of the mix."""
    sends_to: Annotated[tuple[Annotated[str, MaxLen(80)], ...], MaxLen(20)] = ()
    """The names of the drop-offs that it goes to once it is pressed."""


def settings_of(making: Making, kind: type[Making] = Making) -> dict[str, Any]:
    """The settings of a ``kind`` by their names."""
    return {one.name: getattr(making, one.name) for one in fields(kind)}


if TYPE_CHECKING:
    # Type checkers cannot derive a class; they see that of a whole.
    PartialSettings = DeliverySettings
else:
    PartialSettings = make_dataclass(
        "PartialSettings", [(one.name, one.type | None, None) for one in fields(DeliverySettings)],
        frozen=True, slots=True,
    )  # fmt: skip
