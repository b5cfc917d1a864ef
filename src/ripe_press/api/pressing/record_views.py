"""What travels of pressings, their files and the record between page and server."""

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from ripe_press.api.briefs.views import Schema
from ripe_press.api.jobs import JobView
from ripe_press.core.proof.hearing.opinion import Prediction
from ripe_press.core.requests.bench import Bench
from ripe_press.core.rules.findings import Check, Finding, Verdict
from ripe_press.core.sheet.file_report import FileReport
from ripe_press.store.pressings import FileState, Found, State
from ripe_press.store.record import RecordRow
from ripe_press.studio.pressing import Comparison, Fixity

__all__ = ["Comparison"]


class PressRequest(Schema):
    """The mix to press, with its deliveries."""

    mix_id: int
    bench: Bench


class FileLine(Schema):
    """How far a file of a pressing came; ``error`` says why it failed, or was left out."""

    number: int
    name: str
    state: FileState
    error: str | None = None
    part: float = 0.0
    """How far it is, from 0 to 1."""
    times_realtime: float | None = None
    """How fast it was made, while it is under way."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PressedFile(FileReport):
    """A pressed file: its report, its place, and the result of the last check."""

    number: int
    name: str
    there: bool
    needs_sign_off: bool
    """Whether it breaks a requirement, and is sent only with a sign-off."""
    found: Found | None
    """Result, place and time of the last check."""
    found_path: str | None
    found_at: str | None
    compared: str | None
    """The result of its comparison with the mix; null where there is none."""


class DiscRow(Schema):
    """A disc that was made: its files, and how many of its rules hold."""

    verdict: Verdict
    folder: str
    image: str
    cue: str
    log_sheet: str
    lead_out: str
    sha256: str
    tracks: int
    holds: int
    checks: int
    sentences: list[str]
    """Of what does not hold."""


class Pressing(Schema):
    """A pressing of the record; ``done`` and ``total`` are work of a running one, settling and proofs too.

    ``lines`` are all of its files, from when their places are settled; ``files`` those that were made.
    """

    id: int
    mix_id: int | None
    mix_title: str
    state: State
    error: str | None
    made_at: str
    ended_at: str | None
    seconds: float | None
    times_realtime: float | None
    again_of: int | None
    purposes: str
    verdict: Verdict | None
    off_by: float | None
    """Mean error of the predicted time left, as a share of the whole."""
    checking: JobView | None
    """The check of its files while it runs."""
    """Whether its files are being looked for."""
    libraries: dict[str, str]
    waits_seconds: float | None = None
    """How long it will take once it is its turn, by the speed of those before it."""
    lines: list[FileLine]
    files: list[PressedFile]
    done: int = 0
    total: int = 0
    running_seconds: float = 0.0
    seconds_left: float | None = None
    is_order: bool = False
    """Whether it is of a running order; then ``mix_title`` is that of the order."""
    disc: DiscRow | None = None
    """The disc that was made of it."""


class PressView(Schema):
    """The queue: running, queued and interrupted pressings.

    ``off_by`` is the mean error of the time estimates of the last pressings, as a fraction.
    """

    paused: bool
    goes_on: bool
    """Whether interrupted pressings resume automatically at the next start."""
    cores: int
    free_bytes: int | None
    off_by: float | None
    fixity: Fixity
    compares_idle: bool
    """Whether pressed files are compared with their mix while the machine is idle."""
    open: list[Pressing]


class PressSetting(Schema):
    """Settings of the queue; omitted ones stay unchanged."""

    paused: bool | None = None
    goes_on: bool | None = None
    nightly: bool | None = None
    compares_idle: bool | None = None


class QueuePlace(Schema):
    """A place in the line, counted from 0."""

    to: int = Field(ge=0, le=1_000_000)


class RecordPage(Schema):
    """Lines of the record, newest first, and how many there are in all."""

    rows: list[RecordRow]
    count: int


class BatchRequest(Schema):
    """The ticket of one mix, a set, or one delivery a brief, for many mixes."""

    mix_ids: Annotated[list[int], Field(min_length=1, max_length=1000)]
    like: int | None = None
    """The mix whose ticket it is."""
    set: Annotated[str, Field(max_length=80)] = ""
    """The name of a set."""
    briefs: Annotated[tuple[str, ...], Field(max_length=40)] = ()


class BatchLine(Schema):
    """The files of a batch for one mix, its pressing number once queued, or the reason why not."""

    mix_id: int
    mix_title: str
    files: tuple[str, ...] = ()
    refused: str | None = None
    pressing: int | None = None


class HeldDifference(Schema):
    """What a file differs by from its mix, in dBFS: in all, at most, where most, and over time; null is nothing."""

    rms_dbfs: float | None
    peak_dbfs: float | None
    most_frame: int
    curve_dbfs: list[float | None]


class HeldPlace(Schema):
    """Where the ear may notice."""

    start_s: float
    end_s: float
    hz: float
    above_db: float


class HeldHearing(Schema):
    """Noise over mask by time and band: ``cells`` are bytes in base64, a row of bands a column of time, low ones first.

    A cell is so many steps of ``step_db`` above ``floor_db``.
    """

    prediction: Prediction
    sentence: str
    reasons: list[str]
    total_db: float | None
    p99_db: float | None
    above_share: float
    columns: int
    bands: int
    seconds: float
    band_hz: list[float]
    floor_db: float
    step_db: float
    cells: str
    places: list[HeldPlace]
    most_s: float
    """Where the difference is nearest to the masking threshold, or highest above it."""


class HeldSpectra(Schema):
    """Long-term spectra as (Hz, dB): masking threshold for lossy files, and encoder cutoff."""

    mix: list[tuple[float, float]]
    file: list[tuple[float, float]]
    difference: list[tuple[float, float]]
    masked: list[tuple[float, float]]
    stops_hz: float | None


class CurvePair(Schema):
    """A curve of what should be in the file, made of the mix, and of the file."""

    mix: list[float | None]
    file: list[float | None]


class HeldLooks(Schema):
    """What a file looks like beside what it should be.

    ``wave`` is base64 of little-endian 16-bit integers, ``wave_scale`` at full scale: minimum and maximum, channel by
    channel, column by column. ``levels`` are shares of samples in every decibel from ``levels_from_dbfs`` on;
    ``reduction_db`` what limiters took off over time, null where there is none.
    """

    columns: int
    channels: int
    frames_per_column: int
    wave_scale: int
    wave: str
    levels_from_dbfs: float
    levels: CurvePair
    loudness_lufs: CurvePair
    reduction_db: list[float] | None


class HeldReport(Schema):
    """A comparison of a file with its mix."""

    path: str
    verdict: Verdict
    sentence: str
    findings: list[Finding]
    checks: list[Check]
    difference: HeldDifference | None
    spectra: HeldSpectra | None
    looks: HeldLooks | None
    hearing: HeldHearing | None


class Holding(JobView):
    """How far holding a file against its mix has come, and its report."""

    report: HeldReport | None
