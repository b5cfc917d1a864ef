"""What every station is: a small frozen value that does work, and says what it does.

A station holds work and nothing else: equal work is an equal value, and that, no cache, is why shared work is done
once. Why it was chosen, by rule or by hand, for which group, as which half of a pair, lives in the wish.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, ClassVar

from ripe_press.core.blocks import Meter, Processor, Samples
from ripe_press.core.formats.capabilities import Container
from ripe_press.core.formats.writing._file import NewFile
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.signal.edges import Trimmer
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.stations.size.forecast import Forecast
from ripe_press.core.timeline import TempoMap
from ripe_press.core.units import frames_after_conversion


@dataclass(frozen=True, slots=True)
class Signal:
    """What flows between two stations: ``frames`` of a cut after the first ``lead``; anything behind is context."""

    source: AudioSource
    channels: int
    rate_hz: int
    start_frame: int = 0
    """The frame of the mix at which the stream begins, before a range is cut out."""
    lead: int = 0
    frames: int = 0
    context: bool = False
    """Whether there is any, before or behind."""
    silence: tuple[int, int, int] | None = None
    """Where sound begins, where it ends, and all, in frames of the mix: for the silence still to be put around it."""
    behind: tuple[int, int] = (0, 0)
    """How many frames before and after what they are given the stations behind this place are to hear."""
    integers: bool = False

    def trimmer(self) -> Trimmer | None:
        """What makes the file's own frames of it: context away, silence on; None where there is nothing to do."""
        if self.silence is None:
            return None
        mix_rate_hz = self.source.facts.rate_hz
        first, last, total = (frames_after_conversion(one, mix_rate_hz, self.rate_hz) for one in self.silence)
        if not self.context and not first and total == last:
            return None
        return Trimmer(self.channels, self.lead, last - first, first, total - last)

    @property
    def trimmed(self) -> "Signal":
        """The same behind its trimmer."""
        return replace(self, lead=0, context=False, silence=None)


@dataclass(frozen=True, slots=True)
class Tap:
    """A meter that a station wants: what it is called in the report, and behind how many of its processors it looks.

    One without a name is not asked for in the report.
    """

    name: str
    meter: Meter
    behind: int = 0
    alone: bool = True
    """Whether it gets the cut alone, without the audio around it."""
    threaded: bool = False


@dataclass(slots=True)
class Work:
    """What a station does in one walk: processors in order, meters between them, and what they tell at the end."""

    processors: list[Processor] = field(default_factory=list)
    taps: list[Tap] = field(default_factory=list)
    readings: list[tuple[str, Callable[[], Any]]] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class PathFacts:
    """Measurements of the mix and decisions about the path that sentences need; None where it is unknown."""

    quietest_half_second_dbfs: float | None = None
    range_name: str = ""
    part: str = ""
    """What of the mix is pressed, in words; empty where it is the mix."""
    signal: SignalResult | None = None
    """Peaks and loudness of the range, as far as they are known before it is pressed."""
    tempo: TempoMap | None = None
    container: Container | None = None
    """Of the file that the path ends in."""
    forecast: Forecast | None = None
    rate_hz: int = 44_100
    """Of the mix."""
    computed: str = ""
    """Why the samples that reach a depth station are no longer integers of the mix; empty where they are."""
    holds: str = ""
    """The bit depth of the mix, where its samples are unchanged."""
    dither_asked: Dither | str = "auto"
    group: str = ""
    back_off: bool = False
    pair: bool = False
    """Whether the file is one of two that the sides were parted into."""
    target: Any = None
    """The level that was asked for, where it is settled already."""


@dataclass(frozen=True, slots=True)
class Description:
    """A cell of the tree and the panel behind it. ``figures`` are (name, value with unit)."""

    kind: str
    label: str
    detail: str
    idle: bool
    sentence: str
    figures: tuple[tuple[str, str], ...] = ()


class Station:
    """What the walk, the tree and the sentences ask of every station; a kind of station answers where it differs."""

    __slots__ = ()
    kind: ClassVar[str]
    writes: ClassVar[bool] = False
    """Whether it is the file at the end of a path: later stations write into it."""
    apart: ClassVar[bool] = False
    """Whether it has a thread of its own."""
    trims: ClassVar[bool] = False
    """Whether the audio around a cut ends before it."""

    @property
    def idle(self) -> bool:
        """Return whether the samples pass unchanged."""
        return False

    @property
    def effort_ms(self) -> float:
        """Milliseconds of one core for a second of stereo at 48 kHz, roughly; ratios count."""
        return 0.0 if self.idle else 4.0

    @property
    def computes(self) -> str:
        """Why what leaves are other numbers than those that came, in a few words; empty where they are the same."""
        return ""

    def begin(self, start_frame: int) -> Signal:
        """What leaves when a walk starts here, at a frame. Raises: TypeError for another kind of station."""
        message = f"a walk begins at a source, not at {self}"
        raise TypeError(message)

    def reads(self, behind: tuple[int, int]) -> tuple[int, int] | None:
        """From which frame of the source up to which it has to be given sound; None for any format."""
        return None

    def writer(self, path: Path) -> NewFile:
        """The new file that a path ends in. Raises: TypeError for what writes none."""
        message = f"{self} writes no file at {path}"
        raise TypeError(message)

    def reach(self, rate_hz: int) -> tuple[float, float]:
        """How many frames before and after what it is given it remembers, or looks ahead."""
        return 0.0, 0.0

    def leaving_hz(self, rate_hz: int) -> int:
        """The rate that leaves where this one comes."""
        return rate_hz

    def after(self, here: Signal) -> Signal:
        """What leaves where ``here`` comes."""
        return here

    def work(self, here: Signal) -> Work:
        """Its processing, newly created for each walk."""
        return Work()

    def words(self, known: PathFacts) -> Description:
        """What it says of itself: a short label, and one plain sentence with its figures."""
        raise NotImplementedError


class OfIntegers:
    """A meter that is shown left-justified integers as fractions of full scale."""

    def __init__(self, meter: Meter) -> None:
        self._meter = meter

    def process(self, block: Samples) -> None:
        """Takes the next block into account."""
        self._meter.process(block / 2.0**31)

    def result(self) -> Any:
        """The finished measure."""
        return self._meter.result()
