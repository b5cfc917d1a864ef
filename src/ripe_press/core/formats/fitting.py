"""What a container keeps of a mix: the rate and the encoding that come nearest, and whether they hold every sample."""

from collections.abc import Sequence

from ripe_press.core.formats.capabilities import BITS, CAPABILITIES, Container, Encoding, is_float
from ripe_press.core.formats.facts import SourceFacts


def kept_rate(rate_hz: int, container: Container) -> int:
    """The rate of the mix, or the one to convert it to where the codec does not exist at it."""
    can = CAPABILITIES[container]
    if can.takes_rate(rate_hz):
        return rate_hz
    return nearest_rate(rate_hz, can.rates_hz) if can.rates_hz else min(can.max_rate_hz, max(can.min_rate_hz, rate_hz))


def nearest_rate(rate_hz: int, allowed: Sequence[int]) -> int:
    """The allowed rate to convert to: one that the mix's is a multiple of before others, high before low."""
    lower = [one for one in allowed if one <= rate_hz]
    even = [one for one in lower if rate_hz % one == 0 and one >= min(rate_hz, _HEARD_HZ)]
    return max(even or lower) if lower else min(allowed)


_HEARD_HZ = 44_100
"""An even ratio is not worth losing what can be heard."""


def encoding_for(container: Container, facts: SourceFacts) -> Encoding:
    """The encoding in which a container keeps what the mix holds, or the most it can hold of it."""
    held = CAPABILITIES[container].encodings
    kept = kept_encoding(facts)
    if kept in held:
        return kept
    whole = [one for one in held if one != "lossy" and fits(facts, one)]
    return min(whole, key=BITS.__getitem__) if whole else max(held, key=BITS.__getitem__)


def fits(facts: SourceFacts, encoding: Encoding) -> bool:
    """Whether an encoding holds every sample that comes; single precision has 24 bits."""
    if is_float(encoding):
        single = facts.bit_depth == 32 if facts.is_float else facts.holds_integers and bits_in_use(facts) <= 24
        return encoding == "f64" or single
    return facts.holds_integers and bits_in_use(facts) <= BITS[encoding]


def held_whole(facts: SourceFacts, encoding: Encoding) -> bool:
    """Return whether an encoding stores every sample of a mix exactly."""
    return (facts.holds_integers or facts.is_float) and fits(facts, encoding)


def kept_encoding(facts: SourceFacts) -> Encoding:
    """The encoding that stores a mix exactly; audio decoded from a lossy codec is kept in float."""
    if facts.is_float:
        return "f64" if facts.bit_depth == 64 else "f32"
    if not facts.holds_integers or facts.bit_depth is None:
        return "f32"
    kept: dict[int, Encoding] = {8: "u8", 16: "s16", 20: "s20", 24: "s24", 32: "s32"}
    return next(kept[bits] for bits in sorted(kept) if bits >= facts.bit_depth)


def bits_in_use(facts: SourceFacts) -> int:
    """The bits that the integers of a mix really need, where that is known; otherwise those that it declares."""
    declared = facts.bit_depth or 64
    return min(declared, facts.effective_bits or declared)
