"""The piece of a run that one file is: cut out behind the last station that makes sound."""

from dataclasses import dataclass, replace
from typing import ClassVar

from ripe_press.core.blocks import Meter
from ripe_press.core.measure.signal import SamplesHash
from ripe_press.core.signal.edges import Cutter
from ripe_press.core.stations.base import Description, OfIntegers, PathFacts, Signal, Station, Tap, Work
from ripe_press.core.stations.finish import Finish
from ripe_press.core.stations.range import Range
from ripe_press.core.stations.source import Source
from ripe_press.core.units import print_count


@dataclass(frozen=True, slots=True)
class Piece(Station):
    """The frames from ``start_frame`` up to, without, ``end_frame`` of all that comes.

    Conversion, limiter and dither continue across the cut, so that the joined pieces equal the whole, to the bit.
    """

    start_frame: int
    end_frame: int
    exact: bool = False
    """Whether its samples are promised to be those that came, so that they are fingerprinted."""
    kind: ClassVar[str] = "piece"
    trims: ClassVar[bool] = True

    @property
    def frames(self) -> int:
        """How many it lets through."""
        return self.end_frame - self.start_frame

    @property
    def idle(self) -> bool:
        """Cutting makes no new numbers."""
        return True

    def after(self, here: Signal) -> Signal:
        """Its frames alone."""
        return replace(here, frames=self.frames)

    def work(self, here: Signal) -> Work:
        """Cuts, and fingerprints the promised samples."""
        meter: Meter = SamplesHash()
        taps = [Tap("fingerprint", OfIntegers(meter) if here.integers else meter, behind=1)] if self.exact else []
        return Work([Cutter(here.channels, self.start_frame, self.end_frame)], taps)

    def words(self, known: PathFacts) -> Description:
        """Where it was cut, and why there."""
        length = print_count(self.frames, "sample")
        sentence = (
            f"Gapless: split after the last station from one continuous render. This file: {length}; "
            "joined again, the files are bit-exact with the whole."
        )
        figures = (("From", f"sample {self.start_frame:,}"), ("To", f"sample {self.end_frame:,}"))
        return Description(self.kind, "Split", "gapless", True, sentence, figures)


@dataclass(frozen=True, slots=True)
class Run:
    """The whole of a piece: gapless entries as one source with one range and one chain.

    ``first_frame`` is the start of the entry's own range in that source, ``before`` and ``behind`` whether another
    entry is adjacent on that side.
    """

    source: Source
    cut: Range
    finish: Finish | None
    piece: Piece
    first_frame: int
    before: bool
    behind: bool
