"""Deliveries: one range of one mix made to one brief, and where it departs from that brief."""

from dataclasses import dataclass, field, replace
from typing import Any

from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.making import DeliverySettings, PartialSettings, settings_of


@dataclass(frozen=True, slots=True)
class Delivery(DeliverySettings):
    """One range of one mix, made to one brief."""

    brief: str = field(kw_only=True)
    stretch: Stretch = field(kw_only=True)
    group: str = ""
    """All of a group get the same gain: that of its loudest, or with ``whole`` that which the whole of it needs."""
    whole: bool = False
    id: str = ""
    tempo: str = ""
    """For the name of the file, as the four that follow."""
    bars: str = ""
    bars_s: float = 0.0
    """How long its whole bars are, exactly; 0 where it is not whole bars."""
    metre: str = ""
    day: str = ""
    number: int = 0
    part: str = ""
    """What of the mix it is of, in words; empty where it is the mix."""
    album: str = ""
    """The group whose loudness for players is stored besides its own."""


@dataclass(frozen=True, slots=True)
class Changes(PartialSettings):
    """Settings that differ from the brief; None follows it."""

    def applied_to(self, delivery: Delivery) -> Delivery:
        """The delivery with every change made.

        A container without the brief's preferred encoding gets the nearest; a setting changed by hand is kept, and
        rejected where it is impossible.
        """
        own = {name: value for name, value in settings_of(self, type(self)).items() if value is not None}
        follows: dict[str, Any] = {}
        if own.get("container", delivery.container) != delivery.container:
            can = CAPABILITIES[self.container]
            follows = {"mode": None, "kbps": None, "coding_quality": None}
            if delivery.encoding not in can.encodings:
                follows["encoding"] = "keep"
            if delivery.rate_hz != "keep" and not can.takes_rate(delivery.rate_hz):
                follows["rate_hz"] = "keep"
        if "mode" in own or "coding_quality" in own:
            follows["kbps"] = None
        if "mode" in own or "kbps" in own:
            follows["coding_quality"] = None
        return replace(delivery, **follows | own)

    def over(self, other: "Changes") -> "Changes":
        """These changes, and those of another where these follow the brief."""
        own = {name: value for name, value in settings_of(self, Changes).items() if value is not None}
        return replace(other, **own)


NO_CHANGES = Changes()
