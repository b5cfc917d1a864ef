"""The report of one file: what the record keeps, the delivery sheet prints, and every interface answers."""

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, field, fields, is_dataclass
from functools import cache
from typing import Any, ClassVar, cast, get_args, get_origin, get_type_hints

from ripe_press.core.proof.read_back import Proof
from ripe_press.core.rules.findings import Check, Finding, Verdict
from ripe_press.core.stations.size.forecast import Basis
from ripe_press.core.units import finite

_SENT_WHOLE = {"json_schema_serialization_defaults_required": True}
"""Every field is always sent, so the page need not guess."""


@dataclass(frozen=True, slots=True)
class BackOffTry:
    """A try before the file was made again quieter: its gain, and the true peak that it decoded to."""

    gain_db: float
    true_peak_dbtp: float | None


@dataclass(frozen=True, slots=True)
class ReportedMeasures:
    """Measurements of a file; None where nothing was measured."""

    __pydantic_config__: ClassVar[Any] = _SENT_WHOLE
    sample_peak_dbfs: float | None = None
    clipped_samples: int = 0
    true_peak_dbtp: float | None = None
    integrated_lufs: float | None = None
    gain_db: float | None = None
    reduction_db: float | None = None
    backed_off_db: float = 0.0
    tries: tuple[BackOffTry, ...] = ()


@dataclass(frozen=True, slots=True)
class ReportedForecast:
    """The estimated size, and its error in percent."""

    low_bytes: int
    high_bytes: int
    basis: Basis
    error_percent: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FileReport:
    """A file that was made or read; empty and None where an older report has nothing."""

    __pydantic_config__: ClassVar[Any] = _SENT_WHOLE
    path: str
    brief: str = ""
    line: str = ""
    """The delivery on its ticket."""
    sends_to: tuple[str, ...] = ()
    """The names of the drop-offs that it goes to."""
    container: str = ""
    codec: str = ""
    sample_rate_hz: int = 0
    bit_depth: int | None = None
    channels: int = 0
    frames: int = 0
    bytes: int = 0
    sha256: str = ""
    verdict: Verdict = "ready"
    findings: tuple[Finding, ...] = ()
    checks: tuple[Check, ...] = ()
    measured: ReportedMeasures = field(default_factory=ReportedMeasures)
    forecast: ReportedForecast | None = None

    def sentences(self, verdict: Verdict) -> tuple[str, ...]:
        """The sentences of its findings with a verdict."""
        return tuple(one.sentence for one in self.findings if one.verdict == verdict)

    @property
    def broken(self) -> tuple[str, ...]:
        """The sentences of the requirements that it breaks: those need a sign-off before it is sent."""
        return tuple(one.sentence for one in self.findings if one.breaks_requirement)


def report_of_proof(path: str, proof: Proof) -> FileReport:
    """The report of a file that was read back, with the levels that were measured then."""
    measured = ReportedMeasures(
        finite(proof.sample_peak_dbfs), 0, _known(proof.true_peak_dbtp), _known(proof.integrated_lufs)
    )
    return FileReport(
        path=path, container=proof.container, codec=proof.codec, sample_rate_hz=proof.rate_hz,
        bit_depth=proof.bit_depth, channels=proof.channels, frames=proof.frames, bytes=proof.bytes,
        sha256=proof.sha256, measured=measured,
    )  # fmt: skip


def report_row(report: FileReport) -> dict[str, Any]:
    """The report as plain values, for JSON; later versions only add keys."""
    return asdict(report)


def report_from_row(row: Mapping[str, Any]) -> FileReport:
    """The report of a row, of any version: unknown keys are left out, missing ones have their defaults."""
    checks = [{"rule": one.get("id") or "", "title": one.get("check"), **one} for one in row.get("checks") or ()]
    report: FileReport = _reader(FileReport)({**row, "checks": checks})
    return report


@cache
def _reader(kind: Any) -> Callable[[Any], Any]:
    """Reads values of a kind, dataclasses and tuples of them, from plain ones; others stay as they are."""
    if is_dataclass(kind):
        types = get_type_hints(kind)
        readers, make = {one.name: _reader(types[one.name]) for one in fields(kind)}, cast("Any", kind)
        return lambda row: make(
            **{name: readers[name](value) for name, value in row.items() if value is not None and name in readers}
        )
    if get_origin(kind) is tuple:
        one = _reader(get_args(kind)[0])
        return lambda rows: tuple(map(one, rows))
    return next((found for one in get_args(kind) if (found := _reader(one)) is not _as_it_is), _as_it_is)


def _as_it_is(value: Any) -> Any:
    return value


def _known(value: float | None) -> float | None:
    return None if value is None else finite(value)
