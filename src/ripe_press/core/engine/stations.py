"""The stations of a delivery's path: frozen, hashable values with every parameter resolved.

Equal stations are equal values: that, and no cache, is why shared work is done once.
"""

from dataclasses import dataclass, field
from typing import Literal

from ripe_press.core.formats.capabilities import Coding, Container, Encoding
from ripe_press.core.formats.layout import Layout
from ripe_press.core.formats.reader import HeldSamples
from ripe_press.core.signal.channels import MonoLaw, Sides
from ripe_press.core.signal.fade import NO_FADE, Fade
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.signal.resample import Quality
from ripe_press.core.tags.sheet import FileTags


@dataclass(frozen=True, slots=True)
class Source(HeldSamples):
    """The mix as it lies on disk."""

    path: str
    rate_hz: int
    channels: int
    frames: int
    bit_depth: int | None
    codec: str
    downmix: str = ""
    """How two channels were made of more, as `downmix.settle` gives it."""
    file_channels: int = 0
    effective_bits: int | None = None
    """Bits in use, where the samples were looked at."""
    layout: Layout | None = None
    """What the channels of a file with more than two are for, where that is known."""

    @property
    def idle(self) -> bool:
        """A source changes nothing, unless channels are folded down or picked."""
        return not self.downmix


@dataclass(frozen=True, slots=True)
class Range:
    """The frames from ``start_frame`` up to, without, ``end_frame`` of ``source_frames``, and their edges.

    ``tail_frames`` beyond the end are heard (*hold*, *ring out*) or, with ``fold``, added to the start. Fades
    count from the first and the last frame that is heard; silence lies outside them. All in frames of the mix.
    """

    start_frame: int
    end_frame: int
    source_frames: int
    tail_frames: int = 0
    fold: bool = False
    fade_in: Fade = NO_FADE
    fade_out: Fade = NO_FADE
    silence_before: int = 0
    silence_after: int = 0
    window: tuple[int, int] | None = None
    """Only this part of what is heard, without the silence around it: for listening to a piece of a range."""

    @property
    def sounding_frames(self) -> int:
        """What is heard of the mix: the range, and its tail unless that is folded."""
        return self.end_frame - self.start_frame + (0 if self.fold else self.tail_frames)

    @property
    def frames(self) -> int:
        """Everything that leaves, in frames of the mix."""
        if self.window:
            return self.window[1] - self.window[0]
        return self.silence_before + self.sounding_frames + self.silence_after

    @property
    def read_end(self) -> int:
        """The frame after the last that the walk has to bring; a folded tail is read on its own."""
        if self.window:
            return self.start_frame + self.window[1]
        return self.end_frame + (0 if self.fold else self.tail_frames)

    @property
    def read_start(self) -> int:
        """The first frame that the walk has to bring."""
        return self.start_frame + (self.window[0] if self.window else 0)

    @property
    def changes_samples(self) -> bool:
        """Whether samples leave otherwise than they came: fades and folding do that, cutting and silence do not."""
        return bool((self.fold and self.tail_frames) or self.fade_in.frames or self.fade_out.frames)

    @property
    def idle(self) -> bool:
        """Whether the range is the whole mix, as it is."""
        whole = self.start_frame == 0 and self.end_frame == self.source_frames
        return whole and not self.changes_samples and not self.silence_before and not self.silence_after


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
class Finish:
    """The finishing chain of the mix: offsets taken away, high-pass, gain, limiter, in that order."""

    gain_db: float = 0.0
    offsets: tuple[float, ...] = ()
    high_pass_hz: float = 0.0
    ceiling_dbtp: float | None = None

    @property
    def idle(self) -> bool:
        """Whether nothing in it is switched on."""
        return not self.gain_db and not any(self.offsets) and not self.high_pass_hz and self.ceiling_dbtp is None


@dataclass(frozen=True, slots=True)
class Channels:
    """Which sides leave; on the path only where it is not both sides as they came. ``side`` is for the name."""

    sides: Sides
    law_db: MonoLaw = -6
    split: bool = False
    """Whether this is one of two files that the sides were split into."""

    @property
    def changes_samples(self) -> bool:
        """A sum computes; picking and swapping hand on what came."""
        return self.sides == "mono"

    @property
    def idle(self) -> bool:
        """It is on the path only when it works."""
        return False

    def after(self, channels: int) -> int:
        """How many channels leave."""
        return 2 if self.sides in ("both", "swapped") else min(1, channels)


LevelKind = Literal["leave", "peak", "true-peak", "loudness"]

MOST_REDUCTION_DB = 12.0
"""A limiter that takes off more than this has changed the mix (our own choice)."""


@dataclass(frozen=True, slots=True)
class Level:
    """The level that is asked for, after the rate was converted; settled once ``gain_db`` is known.

    ``target`` is in dBFS, dBTP or LUFS by ``kind``; loudness is held under ``ceiling_dbtp``, with ``limit`` by a
    limiter and otherwise by staying below the target. Deliveries of one ``group`` get the same gain. With ``back_off``
    a lossy file is coded again, lower, until what is decoded of it stays under its ceiling too.
    """

    kind: LevelKind = "leave"
    target: float = 0.0
    ceiling_dbtp: float = -1.0
    limit: bool = True
    only_down: bool = False
    group: str = ""
    gain_db: float | None = None
    back_off: bool = False
    max_reduction_db: float = MOST_REDUCTION_DB
    """What the limiter may take off at most: a loudness that would need more is not reached."""
    lowered_db: float = 0.0
    """How far gain and ceiling were lowered since, so that what is decoded stays under ``peak_max_dbtp``."""
    untouched: bool = False
    """Whether it was settled that nothing is to be done: no gain, and nothing for a limiter to hold."""

    @property
    def peak_max_dbtp(self) -> float:
        """The true peak that a file of this level should not pass, by its target or its ceiling."""
        return self.ceiling_dbtp if self.kind == "loudness" else self.target

    @property
    def limits(self) -> bool:
        """Whether a limiter stands behind the gain."""
        return self.kind == "loudness" and self.limit and not self.untouched

    @property
    def idle(self) -> bool:
        """Whether the level is left alone."""
        return self.kind == "leave" or self.untouched


@dataclass(frozen=True, slots=True)
class Depth:
    """Integers of ``bits`` at ``rate_hz`` with ``dither``, for the stated ``reason``; idle when nothing is rounded."""

    bits: int
    dither: Dither
    reason: str = field(compare=False)
    exact: bool
    rate_hz: int = 44_100
    seeds: tuple[int, ...] = ()
    """One a channel, by what its samples are; none where no noise is added."""
    asked: Dither | Literal["auto"] = field(default="auto", compare=False)

    @property
    def idle(self) -> bool:
        """Whether the integers that arrive are the integers that leave."""
        return self.exact


@dataclass(frozen=True, slots=True)
class Codec:
    """Container and encoding of the file, the frames it must hold, and how a lossy encoder is set."""

    container: Container
    encoding: Encoding
    rate_hz: int
    channels: int
    frames: int
    exact: bool = False
    """Whether the samples that leave are the samples that came, to the bit."""
    coding: Coding | None = None

    @property
    def idle(self) -> bool:
        """A file is always written."""
        return False


@dataclass(frozen=True, slots=True)
class Tags:
    """Everything that the file carries besides sound; idle when that is nothing."""

    content: FileTags

    @property
    def idle(self) -> bool:
        """Whether there is nothing to write."""
        return not self.content.has_any


@dataclass(frozen=True, slots=True)
class Name:
    """The name of the file, with its ending, and its sub-folders before it, parted by slashes."""

    file_name: str

    @property
    def idle(self) -> bool:
        """A name is always given."""
        return False


@dataclass(frozen=True, slots=True)
class Measure:
    """The signal here is measured and goes no further: a leaf of the walk that settles levels.

    Sketched, too, where a limiter that may take off ``sketch_db`` is to be foreseen.
    """

    sketch_db: float | None = None

    @property
    def idle(self) -> bool:
        """Measuring changes nothing."""
        return True


Station = Source | Range | Finish | Channels | Rate | Level | Depth | Codec | Tags | Name | Measure
Path = tuple[Station, ...]
