"""Deliveries: one range of one mix made to one brief, and where it departs from that brief."""

from dataclasses import dataclass, replace
from typing import Any, Literal

from ripe_press.core.engine.edges import Stretch
from ripe_press.core.engine.notes import PLAIN_TAGS, TagWish
from ripe_press.core.engine.stations import MOST_REDUCTION_DB, LevelKind
from ripe_press.core.formats.capabilities import CAPABILITIES, Container, Encoding, Mode
from ripe_press.core.naming import PLAIN_STYLE, NameStyle
from ripe_press.core.signal.channels import MonoLaw
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.signal.resample import Quality
from ripe_press.core.tags.sheet import Id3Version, Values

ChannelWish = Literal["stereo", "split", "mono", "left", "right", "swapped", "keep"]


@dataclass(frozen=True, slots=True)
class LevelWish:
    """What is to be done about the level; see `stations.Level`."""

    kind: LevelKind = "leave"
    target: float = 0.0
    ceiling_dbtp: float = -1.0
    limit: bool = True
    only_down: bool = False
    back_off: bool = False
    max_reduction_db: float = MOST_REDUCTION_DB


LEAVE = LevelWish()


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
    finish: bool = True
    id: str = ""
    tempo: str = ""
    """For the name of the file, as the four that follow."""
    bars: str = ""
    metre: str = ""
    day: str = ""
    number: int = 0
    mode: Mode | None = None
    kbps: int | None = None
    coding_quality: int | None = None
    """How a lossy encoder is set; what is None is left to the capability table."""
    tags: TagWish = PLAIN_TAGS
    style: NameStyle = PLAIN_STYLE


@dataclass(frozen=True, slots=True)
class Changes:
    """Where a delivery departs from its brief; None follows it. ``rate_hz`` 0 keeps the rate of the mix."""

    container: Container | None = None
    encoding: Encoding | Literal["keep"] | None = None
    rate_hz: int | None = None
    quality: Quality | None = None
    channels: ChannelWish | None = None
    mono_law_db: MonoLaw | None = None
    dither: Dither | Literal["auto"] | None = None
    level: LevelWish | None = None
    finish: bool | None = None
    label_pattern: str | None = None
    style: NameStyle | None = None
    mode: Mode | None = None
    kbps: int | None = None
    coding_quality: int | None = None
    tags: Values | None = None
    cover: bool | None = None
    id3_version: Id3Version | None = None
    gain_tags: bool | None = None
    markers: bool | None = None

    def applied_to(self, delivery: Delivery) -> Delivery:
        """The delivery with every change made.

        A container that does not hold what the brief preferred takes what comes nearest; what was changed with it
        by hand is left as it is, and refused where it cannot be.
        """
        plain = (
            "container", "quality", "channels", "mono_law_db", "dither", "level", "finish", "label_pattern", "style",
            "mode", "kbps", "coding_quality",
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
