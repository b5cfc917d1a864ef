"""The finishing chain of the mix."""

from dataclasses import dataclass
from typing import ClassVar

from ripe_press.core.blocks import Processor
from ripe_press.core.signal.gain import Gain, HighPass, high_pass_reach_s
from ripe_press.core.signal.limiter import AHEAD_S, REACH_S
from ripe_press.core.stations.base import Description, PathFacts, Signal, Station, Work
from ripe_press.core.stations.level import limited
from ripe_press.core.units import print_db


@dataclass(frozen=True, slots=True)
class Finish(Station):
    """Offset removal, high-pass, gain, limiter, in that order; on the path only with something enabled."""

    gain_db: float = 0.0
    offsets: tuple[float, ...] = ()
    high_pass_hz: float = 0.0
    ceiling_dbtp: float | None = None
    kind: ClassVar[str] = "finish"

    @property
    def idle(self) -> bool:
        """Whether nothing in it is switched on."""
        return not self.gain_db and not any(self.offsets) and not self.high_pass_hz and self.ceiling_dbtp is None

    @property
    def computes(self) -> str:
        """Everything in it makes new numbers."""
        return "" if self.idle else "Finishing uses floating point"

    def reach(self, rate_hz: int) -> tuple[float, float]:
        """What the high-pass remembers, and the limiter."""
        before = high_pass_reach_s(self.high_pass_hz) * rate_hz if self.high_pass_hz else 0.0
        if self.ceiling_dbtp is None:
            return before, 0.0
        return before + REACH_S * rate_hz, AHEAD_S * rate_hz

    def work(self, here: Signal) -> Work:
        """The enabled processors."""
        chain: list[Processor] = []
        if any(self.offsets):
            chain.append(Gain(0.0, here.channels, self.offsets))
        if self.high_pass_hz:
            chain.append(HighPass(self.high_pass_hz, here.rate_hz, here.channels))
        if self.gain_db:
            chain.append(Gain(self.gain_db, here.channels))
        return limited(Work(chain), self.ceiling_dbtp, here)

    def words(self, known: PathFacts) -> Description:
        """Every step, in order."""
        steps = []
        if any(self.offsets):
            steps.append("DC offset removed")
        if self.high_pass_hz:
            steps.append(f"high-pass at {self.high_pass_hz:g} Hz")
        if self.gain_db:
            steps.append(f"gain {print_db(self.gain_db, 'dB')}")
        if self.ceiling_dbtp is not None:
            steps.append(f"limiter at {print_db(self.ceiling_dbtp, 'dBTP')}")
        sentence = f"Finishing chain of the mix: {', then '.join(steps)}."
        return Description(self.kind, "Finishing", f"{len(steps)} step{'s' if len(steps) > 1 else ''}", False, sentence)


NO_FINISH = Finish()
