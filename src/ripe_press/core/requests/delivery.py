"""Deliveries: one range of one mix made to one brief, and where it departs from that brief."""

from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal

from annotated_types import Ge, Le, MaxLen

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.capabilities import CAPABILITIES, Container, Encoding, Mode
from ripe_press.core.naming import PLAIN_STYLE, NameStyle
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.notes import PLAIN_TAGS, TagWish
from ripe_press.core.signal.channels import MonoLaw
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.signal.resample import Quality
from ripe_press.core.stations.level import MOST_REDUCTION_DB, LevelKind, Target
from ripe_press.core.tags.sheet import Id3Version, Values

STRICT = {"extra": "forbid", "allow_inf_nan": False, "json_schema_serialization_defaults_required": True}
"""Validation of documents of wishes: unknown fields are rejected, and every field is written out."""

ChannelWish = Literal["stereo", "split", "mono", "left", "right", "swapped", "keep"]


@dataclass(frozen=True, slots=True)
class LevelWish:
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

    @property
    def target_station(self) -> Target | None:
        """The station that it comes to; None where the level is left alone."""
        if self.kind == "leave":
            return None
        return Target(self.kind, self.target, self.ceiling_dbtp, self.limit, self.only_down, self.max_reduction_db)


LEAVE = LevelWish()


def checked_level(level: LevelWish) -> LevelWish:
    """The level itself, once it is one that a file can have. Raises: BadInput ``level.range``."""
    if not (-70 <= level.target <= 0 and -20 <= level.ceiling_dbtp <= 0):
        message = f"Level {level.target:g} is out of range. Use −70 to 0, ceiling −20 to 0 dBTP."
        raise BadInput("level.range", message, target=level.target, ceiling_dbtp=level.ceiling_dbtp)
    if not 0 <= level.max_reduction_db <= 40:
        message = f"Gain reduction {level.max_reduction_db:g} dB is out of range. Use 0 to 40 dB."
        raise BadInput("level.range", message, max_reduction_db=level.max_reduction_db)
    return level


@dataclass(frozen=True, slots=True)
class Delivery:
    """One range of one mix, made to one brief. ``rate_hz`` None and ``encoding`` None keep what the mix has.

    ``channels``: *stereo* is two sides whatever comes, *keep* as many as the mix has. ``dither`` *auto* is decided
    by rule. ``finish`` takes the finishing chain of the mix or leaves it out.
    """

    brief: str
    stretch: Stretch
    container: Container
    encoding: Encoding | None
    rate_hz: int | None
    quality: Quality
    label_pattern: str
    channels: ChannelWish = "keep"
    mono_law_db: MonoLaw = -6
    dither: Dither | Literal["auto"] = "auto"
    level: LevelWish = LEAVE
    group: str = ""
    """All of a group get the same gain: that of its loudest, or with ``whole`` that which the whole of it needs."""
    whole: bool = False
    finish: bool = True
    id: str = ""
    tempo: str = ""
    """For the name of the file, as the four that follow."""
    bars: str = ""
    bars_s: float = 0.0
    """How long its whole bars are, exactly; 0 where it is not whole bars."""
    metre: str = ""
    day: str = ""
    number: int = 0
    mode: Mode | None = None
    kbps: int | None = None
    coding_quality: int | None = None
    """The settings of a lossy encoder; None uses the capability table."""
    tags: TagWish = PLAIN_TAGS
    style: NameStyle = PLAIN_STYLE
    part: str = ""
    """What of the mix it is of, in words; empty where it is the mix."""
    album: str = ""
    """The group whose loudness for players is stored besides its own."""
    sends_to: tuple[str, ...] = ()
    """The names of the drop-offs that it goes to once it is pressed."""


@dataclass(frozen=True, slots=True)
class Changes:
    """Settings that differ from the brief; None follows it. ``rate_hz`` 0 keeps the rate of the mix."""

    container: Container | None = None
    encoding: Encoding | Literal["keep"] | None = None
    rate_hz: Annotated[int, Ge(0), Le(384_000)] | None = None
    quality: Quality | None = None
    channels: ChannelWish | None = None
    mono_law_db: MonoLaw | None = None
    dither: Dither | Literal["auto"] | None = None
    level: LevelWish | None = None
    finish: bool | None = None
    label_pattern: Annotated[str, MaxLen(300)] | None = None
    style: NameStyle | None = None
    mode: Mode | None = None
    kbps: Annotated[int, Ge(1), Le(1000)] | None = None
    coding_quality: Annotated[int, Ge(0), Le(10)] | None = None
    tags: Values | None = None
    cover: bool | None = None
    id3_version: Id3Version | None = None
    gain_tags: bool | None = None
    markers: bool | None = None
    sends_to: Annotated[tuple[Annotated[str, MaxLen(80)], ...], MaxLen(20)] | None = None

    def applied_to(self, delivery: Delivery) -> Delivery:
        """The delivery with every change made.

        A container without the brief's preferred encoding gets the nearest; a setting changed by hand is kept, and
        rejected where it is impossible.
        """
        plain = (
            "container", "quality", "channels", "mono_law_db", "dither", "level", "finish", "label_pattern", "style",
            "mode", "kbps", "coding_quality", "sends_to",
        )  # fmt: skip
        changed = {name: getattr(self, name) for name in plain if getattr(self, name) is not None}
        if self.container is not None and self.container != delivery.container:
            can = CAPABILITIES[self.container]
            if delivery.encoding not in can.encodings:
                changed["encoding"] = None
            if delivery.rate_hz is not None and not can.takes_rate(delivery.rate_hz):
                changed["rate_hz"] = None
            changed = {"mode": None, "kbps": None, "coding_quality": None} | changed
        if (self.mode or self.coding_quality is not None) and self.kbps is None:
            changed["kbps"] = None
        if (self.mode or self.kbps) and self.coding_quality is None:
            changed["coding_quality"] = None
        if self.rate_hz is not None:
            changed["rate_hz"] = self.rate_hz or None
        if self.encoding is not None:
            changed["encoding"] = None if self.encoding == "keep" else self.encoding
        named: dict[str, Any] = {"departures": self.tags}
        named |= {name: getattr(self, name) for name in ("cover", "id3_version", "gain_tags", "markers")}
        wish = replace(delivery.tags, **{name: value for name, value in named.items() if value is not None})
        return replace(delivery, **changed, tags=wish)


NO_CHANGES = Changes()
