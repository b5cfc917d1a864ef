"""Sample-rate conversion."""

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from ripe_press.core.blocks import Processor
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.signal.edges import Surrounded
from ripe_press.core.signal.resample import Quality, Resampler, grid_frames, reach_frames
from ripe_press.core.stations.base import Description, PathFacts, Signal, Station, Work
from ripe_press.core.units import frames_after_conversion, print_rate


@dataclass(frozen=True, slots=True)
class Rate(Station):
    """Sample-rate conversion; idle when the rates are equal."""

    from_hz: int
    to_hz: int
    quality: Quality
    kind: ClassVar[str] = "rate"

    @property
    def idle(self) -> bool:
        """Whether the rate is kept."""
        return self.from_hz == self.to_hz

    @property
    def computes(self) -> str:
        """A conversion makes new numbers."""
        return "" if self.idle else "Rate conversion uses floating point"

    def reach(self, rate_hz: int) -> tuple[float, float]:
        """The length of its filter to either side."""
        return (0.0, 0.0) if self.idle else (reach := float(reach_frames(self.from_hz, self.to_hz)), reach)

    def leaving_hz(self, rate_hz: int) -> int:
        """The rate that it converts to."""
        return self.to_hz

    def after(self, here: Signal) -> Signal:
        """So many frames fewer or more, by the exact ratio."""
        lead = (here.lead + self._grid_lead(here)) * self.to_hz // self.from_hz
        frames = frames_after_conversion(here.frames, self.from_hz, self.to_hz)
        return replace(here, rate_hz=self.to_hz, lead=lead, frames=frames)

    def work(self, here: Signal) -> Work:
        """The converter; the cut in its stream begins at a common point of both grids."""
        if self.idle:
            return Work()
        converter = Resampler(self.from_hz, self.to_hz, here.channels, self.quality)
        silence = np.zeros((self._grid_lead(here), here.channels))
        chain: list[Processor] = [Surrounded(silence, silence[:0]), converter] if len(silence) else [converter]
        return Work(chain)

    def _grid_lead(self, here: Signal) -> int:
        """Frames of silence before a stream so that its cut begins at a common point of both grids."""
        return 0 if self.idle else -here.lead % grid_frames(self.from_hz, self.to_hz)

    def words(self, known: PathFacts) -> Description:
        """From which rate to which, and what cannot be kept."""
        if self.idle:
            sentence = "Same rate as the mix: no conversion."
            return Description(self.kind, print_rate(self.to_hz), "kept", True, sentence)
        lower = print_rate(min(self.from_hz, self.to_hz) // 2)
        quality = self.quality.replace("-", " ")
        sentence = (
            f"Converted from {print_rate(self.from_hz)} to {print_rate(self.to_hz)} at {quality} quality. "
            f"Content above {lower} is removed."
        )
        can = CAPABILITIES[known.container] if known.container else None
        if can and not can.takes_rate(self.from_hz):
            sentence += f" {can.title} supports {can.print_rates()} only."
        detail = f"from {self.from_hz / 1000:g} k"
        return Description(self.kind, print_rate(self.to_hz), detail, False, sentence, (("Quality", quality),))
