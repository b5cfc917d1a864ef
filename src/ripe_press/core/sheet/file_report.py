"""The report of one file: what the record keeps, the delivery sheet prints, and every interface answers."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields
from functools import cache
from typing import Any, ClassVar

from ripe_press.core.proof.read_back import Proof
from ripe_press.core.rules.findings import MeasureName, Verdict
from ripe_press.core.stations.size.forecast import Basis
from ripe_press.core.units import finite

_SENT_WHOLE = {"json_schema_serialization_defaults_required": True}
"""Every field is always sent, so the page need not guess."""


@dataclass(frozen=True, slots=True)
class ReportedFinding:
    """A finding as it is kept: rules of older versions had other ids."""

    __pydantic_config__: ClassVar[Any] = _SENT_WHOLE
    rule: str
    verdict: Verdict
    sentence: str
    frame: int | None = None
    remedy: dict[str, Any] | None = None
    field: str | None = None
    measure: MeasureName | None = None


@dataclass(frozen=True, slots=True)
class ReportedCheck:
    """A passed check; ``id`` is None in reports from before checks had IDs."""

    __pydantic_config__: ClassVar[Any] = _SENT_WHOLE
    id: str | None
    check: str
    found: str
    measure: MeasureName | None = None


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
    findings: tuple[ReportedFinding, ...] = ()
    checks: tuple[ReportedCheck, ...] = ()
    measured: ReportedMeasures = field(default_factory=ReportedMeasures)
    forecast: ReportedForecast | None = None

    def sentences(self, verdict: Verdict) -> tuple[str, ...]:
        """The sentences of its findings with a verdict."""
        return tuple(one.sentence for one in self.findings if one.verdict == verdict)


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
    measured = dict(_of(ReportedMeasures, row.get("measured") or {}))
    measured["tries"] = tuple(BackOffTry(**_of(BackOffTry, one)) for one in measured.get("tries") or ())
    forecast = row.get("forecast")
    known = {
        **_of(FileReport, row),
        "sends_to": tuple(row.get("sends_to") or ()),
        "findings": tuple(ReportedFinding(**_of(ReportedFinding, one)) for one in row.get("findings") or ()),
        "checks": tuple(ReportedCheck(**{"id": None, **_of(ReportedCheck, one)}) for one in row.get("checks") or ()),
        "measured": ReportedMeasures(**measured),
        "forecast": ReportedForecast(**_of(ReportedForecast, forecast)) if forecast else None,
    }
    return FileReport(**known)


@cache
def _names(kind: type) -> frozenset[str]:
    return frozenset(one.name for one in fields(kind))


def _of(kind: type, row: Mapping[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in row.items() if name in _names(kind)}


def _known(value: float | None) -> float | None:
    return None if value is None else finite(value)
