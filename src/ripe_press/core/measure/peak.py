"""Sample peak, per channel, with its place."""

from dataclasses import dataclass

from ripe_press.core.blocks import Block
from ripe_press.core.units import db_from_linear


@dataclass(frozen=True, slots=True)
class PeakResult:
    """The largest absolute sample: linear and in dBFS (``-inf`` for silence), its frame and channel."""

    frames: int
    peak_linear: float
    peak_frame: int
    peak_channel: int
    channel_peaks: tuple[float, ...]

    @property
    def sample_peak_dbfs(self) -> float:
        """20·log10 of the peak; 0 dBFS is full scale."""
        return db_from_linear(self.peak_linear)


class PeakMeter:
    """Follows the largest absolute sample of every channel."""

    def __init__(self, channels: int) -> None:
        self._frames = 0
        self._peaks = [0.0] * channels
        self._places = [0] * channels

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        if len(block):
            for channel in range(block.shape[1]):
                self._look(block, channel)
        self._frames += len(block)

    def _look(self, block: Block, channel: int) -> None:
        column = block[:, channel]
        peak = max(float(column.max()), -float(column.min()))
        if peak > self._peaks[channel]:
            self._peaks[channel] = peak
            self._places[channel] = self._frames + int(abs(column).argmax())

    def result(self) -> PeakResult:
        """The finished measure; the first of equal peaks counts."""
        peak = max(self._peaks)
        channel = self._peaks.index(peak)
        return PeakResult(self._frames, peak, self._places[channel], channel, tuple(self._peaks))
