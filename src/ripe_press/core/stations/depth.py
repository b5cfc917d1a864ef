"""Making integers, with dither where anything is rounded."""

from dataclasses import dataclass, replace
from typing import ClassVar

from ripe_press.core.measure.signal import SamplesHash
from ripe_press.core.signal.quantise import Dither, Quantiser, added_noise_dbfs
from ripe_press.core.stations.base import Description, PathFacts, Signal, Station, Tap, Work
from ripe_press.core.units import print_db


@dataclass(frozen=True, slots=True)
class Depth(Station):
    """Integers of ``bits`` at ``rate_hz`` with ``dither``; ``exact`` where those that arrive are those that leave."""

    bits: int
    dither: Dither
    exact: bool
    rate_hz: int = 44_100
    seeds: tuple[int, ...] = ()
    """One a channel, by what its samples are; none where no noise is added."""
    kind: ClassVar[str] = "depth"
    apart: ClassVar[bool] = True
    trims: ClassVar[bool] = True

    @property
    def idle(self) -> bool:
        """Whether the integers that arrive are the integers that leave."""
        return self.exact

    def after(self, here: Signal) -> Signal:
        """Integers."""
        return replace(here, integers=True)

    def work(self, here: Signal) -> Work:
        """Rounds, and counts what it holds at full scale."""
        quantiser = Quantiser(self.bits, here.channels, self.dither, self.seeds, self.rate_hz)
        taps = [Tap("fingerprint", SamplesHash())] if self.exact else []
        return Work([quantiser], taps, [("clipped_samples", lambda: quantiser.clipped_samples)])

    def words(self, known: PathFacts) -> Description:
        """Where its noise lies, against the quietest of what leaves; and why it is made so."""
        if self.exact:
            reason = f"{known.holds} at this rate: bit-exact."
            return Description(self.kind, f"{self.bits} bits", "exact, no dither", True, reason)
        noise = added_noise_dbfs(self.bits, self.dither, self.rate_hz)
        words = self.dither.replace("-", " ")
        how = "without dither" if self.dither == "none" else f"with {words} dither"
        sentence = f"Noise at {self.bits} bits {how}: {print_db(noise)}"
        figures = [("Noise" if self.dither == "none" else "Dither noise", print_db(noise))]
        quiet = known.quietest_half_second_dbfs
        if quiet is None:
            sentence += "."
        elif quiet == float("-inf"):
            sentence += ". The quietest half second is digital silence plus dither noise."
            figures.append(("Quietest half second", "digital silence"))
        else:
            sentence += f"; quietest half second: {print_db(quiet)}."
            figures.append(("Quietest half second", print_db(quiet)))
        detail = "no dither" if self.dither == "none" else words
        text = f"{sentence} {self._reason(known)}"
        return Description(self.kind, f"{self.bits} bits", detail, False, text, tuple(figures))

    def _reason(self, known: PathFacts) -> str:
        made = f"{known.computed or known.holds}: reduced to {self.bits} bits"
        if known.dither_asked == "auto":
            return f"{made} with {self.dither} dither, once, at the end."
        words = "without dither" if self.dither == "none" else f"with {self.dither.replace('-', ' ')} dither"
        rule = "" if self.dither == "triangular" else " Automatic would use triangular."
        return f"{made} {words}.{rule}"
