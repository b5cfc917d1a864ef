"""Findings, checks and verdicts."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.edges import EndKind
from ripe_press.core.timeline import TempoMap

Verdict = Literal["ready", "look", "stop"]

OrderAction = Literal["", "join-before", "run-on", "declick", "one-loudness", "gap", "codes", "two-seconds"]
"""What one click does to an entry of a running order."""

MeasureName = Literal["sample_peak", "true_peak", "loudness"]

_ORDER: tuple[Verdict, ...] = ("ready", "look", "stop")


@dataclass(frozen=True, slots=True)
class Remedy:
    """What one click would change: the label says it; None leaves a thing as it is."""

    label: str
    start_frame: int | None = None
    end_frame: int | None = None
    end: EndKind | None = None
    declick_ms: float | None = None
    fade_out_s: float | None = None
    silence_before_s: float | None = None
    silence_after_s: float | None = None
    """Made of the recording's own room tone."""
    tempo: TempoMap | None = None
    """Another tempo map for the mix."""
    target_lufs: float | None = None
    """Another loudness for the level station of the delivery."""
    changes: Changes | None = None
    """Other departures of the delivery from its brief."""
    action: OrderAction = ""


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that was noticed of a file, a running order, a disc or the installation, in a sentence."""

    __pydantic_config__: ClassVar[Any] = {"json_schema_serialization_defaults_required": True}
    rule: str
    """The same id for good, whether a check came out well or not."""
    verdict: Verdict
    sentence: str
    frame: int | None = None
    """Where to look in the mix."""
    remedy: Remedy | None = None
    field: str | None = None
    """The field of the tag sheet to go to, where it is about one."""
    measure: MeasureName | None = None
    """The measured figure that it is about, where it is about one."""
    entry: int | None = None
    """The place in a running order, from 0; None where it is about the whole."""
    disc: bool = False
    """Whether it matters on a disc alone."""

    @property
    def breaks_requirement(self) -> bool:
        """Whether the file breaks a requirement of its brief, or a setting of its delivery."""
        return self.verdict == "look" and (self.rule.startswith("brief_") or self.rule in _NOT_AS_ASKED)


_NOT_AS_ASKED = ("level_as_asked", "ceiling_held", "tags_read_back", "clips_when_decoded")


@dataclass(frozen=True, slots=True)
class Check:
    """A passed check: its subject and its result; ``rule`` is empty in reports from before checks had IDs."""

    __pydantic_config__: ClassVar[Any] = {"json_schema_serialization_defaults_required": True}
    rule: str
    title: str
    found: str
    measure: MeasureName | None = None
    """The measured figure compared with a target, if there is one."""


def worst(findings: Iterable[Finding]) -> Verdict:
    """The verdict of a file: ready when nothing was found."""
    return max((finding.verdict for finding in findings), key=_ORDER.index, default="ready")
