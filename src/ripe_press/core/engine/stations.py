"""The stations of a delivery's path: frozen, hashable values with every parameter resolved.

Equal stations are equal values: that, and no cache, is why shared work is done once.
"""

from dataclasses import dataclass

from ripe_press.core.formats.capabilities import Container, Encoding
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.signal.resample import Quality


@dataclass(frozen=True, slots=True)
class Source:
    """The mix as it lies on disk."""

    path: str
    rate_hz: int
    channels: int
    frames: int
    bit_depth: int | None
    codec: str

    @property
    def idle(self) -> bool:
        """A source changes nothing."""
        return True


@dataclass(frozen=True, slots=True)
class Range:
    """The frames from ``start_frame`` up to, without, ``end_frame`` of ``source_frames``."""

    start_frame: int
    end_frame: int
    source_frames: int

    @property
    def frames(self) -> int:
        """Length in frames of the mix."""
        return self.end_frame - self.start_frame

    @property
    def idle(self) -> bool:
        """Whether the range is the whole mix."""
        return self.start_frame == 0 and self.end_frame == self.source_frames


@dataclass(frozen=True, slots=True)
class Rate:
    """Sample-rate conversion; idle when the rates are equal."""

    from_hz: int
    to_hz: int
    quality: Quality

    @property
    def idle(self) -> bool:
        """Whether the rate is kept."""
        return self.from_hz == self.to_hz


@dataclass(frozen=True, slots=True)
class Depth:
    """Integers of ``bits`` with ``dither``, decided for the stated ``reason``; idle when nothing is rounded."""

    bits: int
    dither: Dither
    reason: str
    exact: bool

    @property
    def idle(self) -> bool:
        """Whether the integers that arrive are the integers that leave."""
        return self.exact


@dataclass(frozen=True, slots=True)
class Codec:
    """Container and encoding of the file, and the frames it must hold."""

    container: Container
    encoding: Encoding
    rate_hz: int
    channels: int
    frames: int

    @property
    def idle(self) -> bool:
        """A file is always written."""
        return False


@dataclass(frozen=True, slots=True)
class Name:
    """The name of the file, with its ending, without a folder."""

    file_name: str

    @property
    def idle(self) -> bool:
        """A name is always given."""
        return False


Station = Source | Range | Rate | Depth | Codec | Name
Path = tuple[Station, ...]
