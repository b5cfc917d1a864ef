"""What travels between page and server."""

from typing import Literal

from pydantic import Field

from ripe_press.api.brief_schemas import LevelWish, NameStyle, Schema
from ripe_press.core import bench
from ripe_press.core.bench import LOOKS
from ripe_press.core.engine.delivery import ChannelWish
from ripe_press.core.engine.edges import RING_BELOW_DBFS, RING_LIMIT_S, EndKind
from ripe_press.core.engine.wishes import checked_level
from ripe_press.core.formats.capabilities import Container, Encoding, Mode
from ripe_press.core.naming import Clash
from ripe_press.core.rules.findings import Verdict
from ripe_press.core.signal.channels import MonoLaw
from ripe_press.core.signal.fade import Curve
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.signal.resample import Quality
from ripe_press.core.tags.sheet import Id3Version


class Edges(Schema):
    """End treatment, fades and silence of a range, in seconds."""

    end: EndKind = "stop"
    hold_s: float = Field(default=0.0, ge=0)
    ring_below_dbfs: float = RING_BELOW_DBFS
    ring_limit_s: float = Field(default=RING_LIMIT_S, ge=0)
    fade_in_s: float = Field(default=0.0, ge=0)
    fade_in_curve: Curve = "equal-power"
    fade_out_s: float = Field(default=0.0, ge=0)
    fade_out_curve: Curve = "equal-power"
    silence_before_s: float = Field(default=0.0, ge=0)
    silence_after_s: float = Field(default=0.0, ge=0)
    declick_ms: float = Field(default=0.0, ge=0)


class RangeMeasures(Schema):
    """Measures of a stretch of a mix; None is digital silence, or too short for the measure."""

    sample_peak_dbfs: float | None
    integrated_lufs: float | None
    lra_lu: float | None
    max_momentary_lufs: float | None
    max_short_term_lufs: float | None
    noise_floor_dbfs: float | None
    end_level_dbfs: float | None


class Measures(Schema):
    """Measures of a whole mix; None is digital silence."""

    sample_peak_dbfs: float | None
    true_peak_dbtp: float | None
    true_peak_at_s: float
    integrated_lufs: float | None
    lra_lu: float | None
    max_momentary_lufs: float | None
    max_short_term_lufs: float | None
    noise_floor_dbfs: float | None
    balance_db: float | None
    correlation: float | None
    dc_offset: list[float]
    effective_bits: int | None
    effective_bandwidth_hz: float
    spectrum: list[tuple[float, float]]
    sample_peak_at_s: float
    clipped_samples: int
    samples_over_full_scale: int
    head_silence_frames: int
    tail_silence_frames: int


class Marker(Schema):
    """A named place."""

    frame: int = Field(ge=0)
    name: str


class TempoChange(Schema):
    """From a bar on: quarter notes a minute, and so many beats of a note value a bar."""

    bar: int = Field(ge=1)
    tempo_bpm: float
    beats: int = Field(default=4, ge=1, le=99)
    unit: Literal[1, 2, 4, 8, 16, 32] = 4


class TempoMap(Schema):
    """Bars and beats, and where bar 1 begins."""

    changes: list[TempoChange]
    first_bar_frame: int = 0


class NamedRange(Schema):
    """A stretch of a mix that leaves; the end is not part of it."""

    id: str = Field(min_length=1, max_length=40)
    start_frame: int
    end_frame: int
    name: str = ""
    look: int = Field(default=0, ge=0, lt=LOOKS)
    edges: Edges = Edges()


class Changes(Schema):
    """Where a delivery departs from its brief; null follows it, a rate of 0 keeps the mix's."""

    container: Container | None = None
    encoding: Encoding | Literal["keep"] | None = None
    rate_hz: int | None = Field(default=None, ge=0, le=384_000)
    quality: Quality | None = None
    channels: ChannelWish | None = None
    mono_law_db: MonoLaw | None = None
    dither: Dither | Literal["auto"] | None = None
    level: LevelWish | None = None
    finish: bool | None = None
    label_pattern: str | None = Field(default=None, max_length=300)
    style: NameStyle | None = None
    mode: Mode | None = None
    kbps: int | None = Field(default=None, ge=1, le=1000)
    coding_quality: int | None = Field(default=None, ge=0, le=10)
    tags: list[tuple[str, str]] | None = None
    cover: bool | None = None
    id3_version: Id3Version | None = None
    gain_tags: bool | None = None
    markers: bool | None = None


class TicketLine(Schema):
    """A delivery on the ticket."""

    id: str = Field(min_length=1, max_length=40)
    brief: str = Field(max_length=80)
    range_id: str = Field(max_length=40)
    on: bool = True
    group: str = Field(default="", max_length=40)
    changes: Changes = Changes()


class FinishChain(Schema):
    """The finishing chain of a mix; a high-pass of 0 Hz and a ceiling of null are off."""

    remove_dc: bool = False
    high_pass_hz: float = Field(default=0.0, ge=0)
    gain_db: float = 0.0
    ceiling_dbtp: float | None = None


class Bench(Schema):
    """What is set out for a mix: ranges, markers, tempo map, finishing chain, ticket."""

    ranges: list[NamedRange]
    markers: list[Marker] = Field(default=[])
    tempo: TempoMap | None = None
    finish: FinishChain = FinishChain()
    ticket: list[TicketLine]
    tags: list[tuple[str, str]] = Field(default=[])
    cover: str = Field(default="", max_length=80)
    clash: Clash = "keep-both"

    def as_core(self) -> bench.Bench:
        """The same for the core. Raises: BadInput for edges and tempos that cannot be."""
        made = bench.bench_of(self.model_dump())
        for line in made.ticket:
            if line.changes.level:
                checked_level(line.changes.level)
        return made


class Proposal(Schema):
    """Ranges that could leave, and why."""

    label: str
    reason: str
    ranges: list[NamedRange]


class Embedded(Schema):
    """What the file carries besides sound."""

    tags: list[tuple[str, str]] = Field(default=[])
    tempo_bpm: float | None = None
    markers: list[Marker] = Field(default=[])
    loop: tuple[int, int] | None = None
    time_reference: int | None = None
    gain: list[tuple[str, str]] = Field(default=[])
    broadcast: list[tuple[str, str]] = Field(default=[])


class Mix(Schema):
    """A mix on the shelf, with what is set out for it."""

    id: int
    content: str
    """Changes whenever the samples do: for the addresses of what browsers keep."""
    title: str
    path: str
    owned: bool
    container: str
    codec: str
    rate_hz: int
    channels: int
    frames: int
    bit_depth: int | None
    depth_label: str
    measures: Measures
    downmix: str
    file_channels: int
    fold_order: str
    """The roles of the file's channels by which they are folded down, ``L R C``; empty where they cannot be."""
    channels_asked: bool
    """Whether nothing says what they are for, and nobody has chosen yet."""
    embedded: Embedded
    bench: Bench


class Arrival(Schema):
    """A file on its way to the shelf."""

    id: str
    name: str
    state: Literal["reading", "done", "refused"]
    mix_id: int | None
    error: str | None
    done: int = 0
    total: int = 0


class ShelfView(Schema):
    """Everything on the shelf."""

    mixes: list[Mix]
    arrivals: list[Arrival]


class PathWish(Schema):
    """A file on the server, by its full path."""

    path: str = Field(max_length=4096)


class TimeWish(Schema):
    """A time as it was typed, and the tempo map that bars count by."""

    text: str = Field(max_length=64)
    tempo: TempoMap | None = None


class Place(Schema):
    """A frame of a mix."""

    frame: int


class Bar(Schema):
    """Where a bar begins, and how many beats it has."""

    frame: int
    beats: int


class DownmixWish(Schema):
    """Which channels of a file make the mix: ``bs775`` to fold them down, ``1+2``, ``3``."""

    downmix: str = Field(max_length=16)


class MarkerList(Schema):
    """Markers as a file holds them, CSV or JSON."""

    text: str = Field(max_length=2_000_000)
    tempo: TempoMap | None = None


class TruePeak(Schema):
    """The true peak of a range, and a frame close to it."""

    true_peak_dbtp: float | None
    frame: int


class Remedy(Schema):
    """What one click would change."""

    label: str
    start_frame: int | None
    end_frame: int | None
    end: EndKind | None
    declick_ms: float | None
    target_lufs: float | None = None


class Finding(Schema):
    """One thing a rule noticed."""

    rule: str
    verdict: Verdict
    sentence: str
    frame: int | None = None
    remedy: Remedy | None = None
    field: str | None = None
