"""What travels of tickets, pressings and files between page and server."""

from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from pydantic import Field

from ripe_press.api.briefs.views import Schema
from ripe_press.core.formats.capabilities import Encoding
from ripe_press.core.naming import PLAIN_STYLE, NameStyle
from ripe_press.core.requests.bench import Bench
from ripe_press.core.requests.making import STRICT, DeliverySettings
from ripe_press.core.rules.explained import Word
from ripe_press.core.rules.findings import Finding, Verdict
from ripe_press.core.stations.size.forecast import Basis


class Figure(Schema):
    """A name and a value with its unit."""

    name: str
    value: str


class Station(Schema):
    """A cell of the tree and what its panel says."""

    node: int
    """The same number in every row that shares this station's work."""
    kind: str
    label: str
    detail: str
    idle: bool
    sentence: str
    figures: list[Figure]


class ConverterRequest(Schema):
    """Which conversion a rate station makes, for its picture."""

    from_hz: int
    to_hz: int
    quality: Literal["high", "very-high"]


class Explained(Schema):
    """A word of the trade: what it means, and what that is in a file, in two sentences."""

    word: Word
    sentences: str


class NoisePicture(Schema):
    """Levels in dBFS for the picture of a depth station; None is digital silence."""

    dither_noise_dbfs: float
    undithered_noise_dbfs: float
    quietest_dbfs: float | None
    bits: int
    dither: str
    rate_hz: int
    density: list[tuple[float, float]]
    """(Hz, dB a hertz) of the noise that quantising adds."""


@dataclass(frozen=True, slots=True)
class Settled(DeliverySettings):
    """What a delivery comes to, with brief and changes taken together."""

    encoding: Encoding = "f32"
    rate_hz: int = 0
    group: str = ""
    __pydantic_config__: ClassVar[Any] = STRICT


class TagLine(Schema):
    """A field of the tag sheet, and what becomes of it in one file; ``written`` is null where it is left out."""

    field: str
    text: str
    written: str | None
    names: list[str]
    note: str | None
    departs: bool


class FileTags(Schema):
    """Everything that one file carries besides sound."""

    lines: list[TagLine]
    cover: bool
    cover_names: list[str]
    cover_note: str | None
    markers: int
    markers_note: str | None
    loop: bool
    loop_note: str | None
    loudness: Literal["", "replaygain", "r128", "bext"]


class Size(Schema):
    """A size between two bounds in bytes, how they came about, and the same in words."""

    low: int
    high: int
    middle: int
    basis: Basis
    words: str


class Signal(Schema):
    """Peaks and loudness; null is digital silence, or too short."""

    sample_peak_dbfs: float | None
    true_peak_dbtp: float | None
    integrated_lufs: float | None


class Row(Schema):
    """One file of the ticket: a delivery has one, or two where its sides are parted."""

    id: str
    half: Literal["", "left", "right"]
    line_id: str
    range_id: str
    brief: str
    brief_title: str
    brief_sentence: str
    brief_why: str
    settled: Settled
    stations: list[Station]
    converter: ConverterRequest | None
    noise: NoisePicture | None
    file_name: str
    clash: Literal["", "ticket", "disk"]
    skipped: bool
    replaces: bool
    size: Size
    tags: FileTags
    lossy: bool
    kbps_offered: list[int]
    channels: int
    before: Signal
    forecast: Signal
    bit_exact: bool
    findings: list[Finding]
    verdict: Verdict
    heard_end_frame: int
    part: str
    """What of the mix it is of, in words; empty where it is the mix."""
    joined: list[str]
    """The stems that are added up, where there are several."""


class RejectedDelivery(Schema):
    """A delivery that cannot be made."""

    line_id: str
    code: str
    sentence: str


class Ticket(Schema):
    """What will be pressed."""

    rows: list[Row]
    refused: list[RejectedDelivery]
    folder: str
    """Where the files land."""
    folder_problem: str
    """Why they cannot go there; empty where they can."""
    seconds: float
    """How long a pressing of it takes, by the speed of those before it."""


class CurvePoint(Schema):
    """A level at a frequency."""

    hz: float
    db: float


class Converter(Schema):
    """A converter's measured figures and its curve."""

    ripple_db: float
    flat_to_hz: float
    edge_hz: float
    rejection_db: float
    curve: list[CurvePoint]


class LevelStretchRequest(Schema):
    """Which file's level is to be measured as it will be pressed."""

    bench: Bench
    id: str


class LevelTrial(Schema):
    """A measured level: gain, results after it, and gain reduction for every 1024 samples."""

    gain_db: float
    sample_peak_dbfs: float | None
    true_peak_dbtp: float | None
    integrated_lufs: float | None
    reduction_db: list[float]
    start_frame: int
    frames_per_bin: float
    reached: bool
    """Whether the target is met; otherwise the delivery's findings give the result and the reason."""


class TrialRequest(Schema):
    """Which file is to be tried."""

    bench: Bench
    id: str


class NewBrief(Schema):
    """The file whose settings are to be a brief, and its title."""

    bench: Bench
    id: str
    title: str = Field(max_length=80)


class Cutoff(Schema):
    """Where an encoder stops, measured with noise; ``full`` when it reaches all that the rate carries."""

    edge_hz: float
    full: bool


class Trial(Schema):
    """What coding pieces of a delivery showed; levels are null for codecs that lose nothing.

    ``above_cutoff_db`` is the share of the power that lies where the encoder has stopped.
    """

    size: Size
    mix_dbfs: float | None
    difference_dbfs: float | None
    peak_before_dbfs: float | None
    peak_after_dbfs: float | None
    mix_curve: list[tuple[float, float]]
    difference_curve: list[tuple[float, float]]
    cutoff: Cutoff | None
    above_cutoff_db: float | None


class LabelField(Schema):
    """A field of label patterns."""

    name: str
    meaning: str


class LabelPattern(Schema):
    """A label pattern kept under a name."""

    name: str = Field(min_length=1, max_length=60)
    pattern: str = Field(min_length=1, max_length=300)
    style: NameStyle = PLAIN_STYLE
