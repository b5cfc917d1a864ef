"""Statistics of a blind test: an unpredictable but verifiable order, and the meaning of a result."""

import hashlib
import math
from fractions import Fraction

FEWEST_TRIALS, MOST_TRIALS = 10, 100
"""With fewer trials, even a result without a mistake may well be luck."""
SURE_BELOW = 0.05
"""What happens by guessing in fewer than one of twenty tests is taken for heard: common practice in statistics."""
OPEN_BELOW = 0.2
"""What lies between may be hearing as well as luck: our own choice."""


def hidden_in(seed: str, trial: int, alternatives: int) -> int:
    """The alternative that X is in a trial, both from 0.

    The first eight bytes of SHA-256 over "seed:trial", big-endian, modulo the number of alternatives. The bias of the
    modulus is below 2^-62 for three.
    """
    digest = hashlib.sha256(f"{seed}:{trial}".encode()).digest()
    return int.from_bytes(digest[:8], "big") % alternatives


def guessed_p(right: int, trials: int, alternatives: int = 2) -> float:
    """Probability of this result or better by chance: exact one-sided binomial."""
    hit = Fraction(1, alternatives)
    ways = (math.comb(trials, one) * hit**one * (1 - hit) ** (trials - one) for one in range(right, trials + 1))
    return float(sum(ways))


def meaning(right: int, trials: int, alternatives: int = 2) -> str:
    """What a result means, in words."""
    p = guessed_p(right, trials, alternatives)
    said = f"{right} of {trials} correct (by chance: {_percent(p)} of tests)"
    if p < SURE_BELOW:
        return f"Difference heard: {said}."
    if p < OPEN_BELOW:
        return f"Inconclusive: {said}. Run more trials."
    return f"No difference heard: {said}. This does not prove that there is none."


def _percent(p: float) -> str:
    percent = 100 * p
    if percent < 0.01:
        return "under 0.01 %"
    return f"{percent:.2f} %" if percent < 1 else f"{percent:.1f} %"
