"""The meter of what an ear may notice for signals of any rate: the model's own are 44.1 and 48 kHz."""

from ripe_press.core.blocks import Block
from ripe_press.core.proof.hearing.meter import Audibility, HearingMeter
from ripe_press.core.signal.resample import Resampler

HEARD_HZ = (44_100, 48_000)


def heard_rate(rate_hz: int) -> int:
    """The rate at which the model hears a signal: its own, or that of its family."""
    if rate_hz in HEARD_HZ:
        return rate_hz
    return 44_100 if rate_hz > HEARD_HZ[0] and rate_hz % HEARD_HZ[0] == 0 else 48_000


class HearingAtAnyRate:
    """Converts both signals where the model needs it. Nothing that it could hear is lost: it ends at 18 kHz."""

    def __init__(self, channels: int, rate_hz: int) -> None:
        to_hz = heard_rate(rate_hz)
        self._meter = HearingMeter(channels, to_hz)
        self._ways = [Resampler(rate_hz, to_hz, channels, "high") for _ in range(2)] if to_hz != rate_hz else []

    def process(self, source: Block, test: Block) -> None:
        """Takes the next block of both, of the same frames, into account."""
        if self._ways:
            # Both ways are the same, so that what they hold back is the same as well.
            source, test = (way.process(one) for way, one in zip(self._ways, (source, test), strict=True))
        self._meter.process(source, test)

    def result(self) -> Audibility:
        """The finished measure; of no use afterwards."""
        if self._ways:
            source, test = (way.flush() for way in self._ways)
            self._ways = []
            self._meter.process(source, test)
        return self._meter.result()
