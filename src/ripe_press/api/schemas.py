"""What travels between page and server."""

from typing import Annotated

from pydantic import Field

from ripe_press.api.briefs.views import Schema
from ripe_press.api.jobs import JobView
from ripe_press.core.measure.places.tail import After
from ripe_press.core.requests.bench import Bench
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.edges import Edges
from ripe_press.core.stations.level import LevelKind
from ripe_press.core.tags.embedded import Embedded
from ripe_press.core.timeline import TempoMap
from ripe_press.store.mixes import Measures, ShelfRow
from ripe_press.studio.shelf import ChangeState


class RangeMeasures(Schema):
    """Measures of a stretch of a mix; None is digital silence, or too short for the measure."""

    sample_peak_dbfs: float | None
    integrated_lufs: float | None
    lra_lu: float | None
    max_momentary_lufs: float | None
    max_short_term_lufs: float | None
    noise_floor_dbfs: float | None
    end_level_dbfs: float | None


class Mix(Schema):
    """A mix on the Shelf, with its ranges and deliveries."""

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
    """Whether the channels have no labels, and the user has not chosen yet."""
    embedded: Embedded
    bench: Bench
    origin: str


class Arrival(JobView):
    """A file on its way to the shelf."""

    id: str
    name: str
    mix_id: int | None


class FileChange(Schema):
    """A mix whose file changed; ``sentences`` give the differences or the read error."""

    mix_id: int
    state: ChangeState
    sentences: list[str]
    lost: list[str]
    """What of its bench could not be carried over to it."""
    job: JobView | None
    """The analysis of the changed file while it runs."""


class ShelfView(Schema):
    """Everything on the shelf."""

    mixes: list[ShelfRow]
    arrivals: list[Arrival]
    changes: list[FileChange]


class MixVersion(Schema):
    """A version of a mix; ``sentences`` give the differences from the previous one."""

    version: int
    title: str
    path: str
    came_at: str
    in_use: bool
    there: bool
    """Whether its file can still be heard and pressed."""
    rate_hz: int
    frames: int
    depth_label: str
    integrated_lufs: float | None
    true_peak_dbtp: float | None
    sentences: list[str]


class MixUsed(Schema):
    """A mix once another version of it is in use, and in sentences what of its bench could not be carried over."""

    mix: Mix
    lost: list[str]


class VersionDifferences(Schema):
    """The differences of two mixes, in sentences, and whether they are the same piece."""

    sentences: list[str]
    related: bool


class PileRequest(Schema):
    """Mixes that are versions of one; the last comes into use, with the bench of the first."""

    mix_ids: Annotated[list[int], Field(max_length=100)]


class Defaults(Schema):
    """Default settings of ranges, deliveries and levels."""

    edges: Edges
    changes: Changes
    looks: int
    """So many ranges look different from each other."""
    targets: dict[LevelKind, float]
    read_suffixes: list[str]
    """Extensions of audio files: other files of a dropped folder are omitted."""


class LoudnessMeter(Schema):
    """Filters of a meter: the shelf as (b0, b1, b2, a1, a2), the high-pass as (a1, a2) behind (1, −2, 1).

    ``between`` are the phases that tell the signal between its samples; none where the rate is high enough.
    """

    shelf: list[float]
    high_pass: list[float]
    between: list[list[float]]


class PathRequest(Schema):
    """A file on the server, or a folder of them, by its full path."""

    path: str = Field(max_length=4096)


class TimeRequest(Schema):
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


class DownmixRequest(Schema):
    """Which channels of a file make the mix: ``bs775`` to fold them down, ``1+2``, ``3``."""

    downmix: str = Field(max_length=16)


class MarkerList(Schema):
    """Markers as a file holds them, CSV or JSON."""

    text: str = Field(max_length=2_000_000)
    tempo: TempoMap | None = None


class AfterView(Schema):
    """What follows a frame of a mix: ``decay_s`` of a tail, or of what may be one, and where the music continues."""

    kind: After
    decay_s: float
    music_frame: int | None
    sentence: str


class SoundingView(Schema):
    """From where to where a mix sounds, the noise under it, and the level that counts as silence."""

    start_frame: int
    end_frame: int
    noise_dbfs: float | None
    silence_dbfs: float
    sentence: str


class TempoHintView(Schema):
    """A tempo that is offered, and by what: tags, a MIDI file beside the mix, its file name, its sound."""

    bpm: float
    by: str
    confidence: float | None
    others: list[float]
    beats: int
    first_bar_frame: int


class TruePeak(Schema):
    """The true peak of a range, and a frame close to it."""

    true_peak_dbtp: float | None
    frame: int
