"""Which sides leave."""

from dataclasses import dataclass, replace
from typing import ClassVar

from ripe_press.core.measure.content import StereoMeter
from ripe_press.core.signal.channels import ChannelChange, MonoLaw, Sides
from ripe_press.core.stations.base import Description, PathFacts, Signal, Station, Tap, Work

_WORDS = {
    "both": ("Stereo", "from mono", "Mono mix on both channels, level unchanged."),
    "left": ("Left", "only", "Left channel only, bit-exact."),
    "right": ("Right", "only", "Right channel only, bit-exact."),
    "swapped": ("Swapped", "left and right", "Left and right swapped, bit-exact."),
}


@dataclass(frozen=True, slots=True)
class Channels(Station):
    """Which sides leave; on the path only where it is not both sides as they came."""

    sides: Sides
    law_db: MonoLaw = -6
    kind: ClassVar[str] = "channels"

    @property
    def computes(self) -> str:
        """A sum computes; picking and swapping hand on what came."""
        return "The mono sum uses floating point" if self.sides == "mono" else ""

    def leaving(self, channels: int) -> int:
        """How many channels leave where so many come."""
        return 2 if self.sides in ("both", "swapped") else min(1, channels)

    def names(self) -> tuple[str, ...]:
        """What the channels that leave are."""
        return {
            "both": ("left", "right"), "left": ("left",), "right": ("right",), "swapped": ("right", "left"),
            "mono": ("sum",),
        }[self.sides]  # fmt: skip

    def after(self, here: Signal) -> Signal:
        """The same with other channels."""
        return replace(here, channels=self.leaving(here.channels))

    def work(self, here: Signal) -> Work:
        """Selects or sums channels; a sum is checked for cancellation."""
        taps = [Tap("stereo", StereoMeter(here.channels))] if self.sides == "mono" else []
        return Work([ChannelChange(self.sides, self.law_db)], taps)

    def words(self, known: PathFacts) -> Description:
        """Which sides, or by which law they are added."""
        if self.sides == "mono":
            law = f"−{-self.law_db} dB"
            keeps = "the centre keeps its level" if self.law_db == -6 else "uncorrelated sides keep their power"
            sentence = f"Left plus right, each at {law}: {keeps}."
            return Description(self.kind, "Mono sum", law, False, sentence, (("Per side", law),))
        label, detail, sentence = _WORDS[self.sides]
        if known.pair:
            detail, sentence = "of a pair", f"{sentence} The other side is a separate file."
        return Description(self.kind, label, detail, False, sentence)
