"""Audio around a cut: stations with memory process it, and it is trimmed after the last of them.

A converter, a high-pass or a limiter that began at the cut would hear silence before it, and ring. So the walk brings
as much of the mix around a range as the stations behind it remember; a loop is brought its own end and its own start.
"""

import math

from ripe_press.core.engine.tree import Node


def behind(node: Node, rate_hz: int) -> tuple[int, int]:
    """How many frames before and after what they are given the stations behind one are to hear."""
    wants = [_reach(child, rate_hz) for child in node.children]
    return max((before for before, _ in wants), default=0), max((after for _, after in wants), default=0)


def _reach(node: Node, rate_hz: int) -> tuple[int, int]:
    """How many a station and all behind it remember, or look ahead."""
    before, after = node.station.reach(rate_hz)
    leaving_hz = node.station.leaving_hz(rate_hz)
    further = behind(node, leaving_hz)
    share = rate_hz / leaving_hz
    return math.ceil(before + share * further[0]), math.ceil(after + share * further[1])
