"""What travels between page and server."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from ripe_press.core.engine.edges import RING_BELOW_DBFS, RING_LIMIT_S, EndKind
from ripe_press.core.rules.findings import Verdict
from ripe_press.core.signal.fade import Curve


class Schema(BaseModel):
    """Every field that has a default is still always sent, so the page need not guess."""

    model_config = ConfigDict(from_attributes=True, json_schema_serialization_defaults_required=True)


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


class Mix(Schema):
    """A mix on the shelf, with the range that leaves."""

    id: int
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
    start_frame: int
    end_frame: int
    edges: Edges


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


class FrameRange(Schema):
    """A stretch of a mix in frames; the end is not part of it."""

    start_frame: int = Field(ge=0)
    end_frame: int = Field(ge=0)
    edges: Edges = Edges()


class TypedTime(Schema):
    """The frame that a typed time means."""

    frame: int


class Remedy(Schema):
    """What one click would change."""

    label: str
    start_frame: int | None
    end_frame: int | None
    end: EndKind | None


class Finding(Schema):
    """One thing a rule noticed."""

    rule: str
    verdict: Verdict
    sentence: str
    frame: int | None = None
    remedy: Remedy | None = None


class Figure(Schema):
    """A name and a value with its unit."""

    name: str
    value: str


class Station(Schema):
    """A cell of the tree and what its panel says."""

    kind: str
    label: str
    detail: str
    idle: bool
    sentence: str
    figures: list[Figure]


class ConverterWish(Schema):
    """Which conversion a rate station makes, for its picture."""

    from_hz: int
    to_hz: int
    quality: Literal["high", "very-high"]


class NoisePicture(Schema):
    """Levels in dBFS for the picture of a depth station; None is digital silence."""

    dither_noise_dbfs: float
    undithered_noise_dbfs: float
    quietest_dbfs: float | None
    bits: int
    dither: str


class Row(Schema):
    """One delivery of the ticket."""

    brief: str
    brief_title: str
    brief_sentence: str
    brief_why: str
    stations: list[Station]
    converter: ConverterWish | None
    noise: NoisePicture | None
    file_name: str
    forecast_bytes: int
    findings: list[Finding]
    verdict: Verdict


class Ticket(Schema):
    """What will be pressed for a range."""

    rows: list[Row]
    drop_off: str
    heard_end_frame: int


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


class PressWish(FrameRange):
    """Which range of which mix to press."""

    mix_id: int


class FileMeasures(Schema):
    """What was measured on a pressed file."""

    sample_peak_dbfs: float | None
    clipped_samples: int


class Check(Schema):
    """Something that came out as asked for."""

    check: str
    found: str


class PressedFile(Schema):
    """A pressed file and its proof."""

    path: str
    name: str
    brief: str
    container: str
    codec: str
    sample_rate_hz: int
    bit_depth: int | None
    channels: int
    frames: int
    bytes: int
    sha256: str
    verdict: Verdict
    findings: list[Finding]
    checks: list[Check]
    measured: FileMeasures
    there: bool


class Pressing(Schema):
    """A pressing of the record; ``done`` and ``total`` are frames of a running one."""

    id: int
    mix_id: int | None
    mix_title: str
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    error: str | None
    made_at: str
    seconds: float | None
    times_realtime: float | None
    files: list[PressedFile]
    done: int = 0
    total: int = 0
    running_seconds: float = 0.0
    speed: float | None = None
