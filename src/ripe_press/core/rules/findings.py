"""Findings and verdicts."""

from dataclasses import dataclass
from typing import Literal

Verdict = Literal["ready", "look", "stop"]

_ORDER: tuple[Verdict, ...] = ("ready", "look", "stop")


@dataclass(frozen=True, slots=True)
class Remedy:
    """What one click would change: the label says it; None leaves a thing as it is."""

    label: str
    start_frame: int | None = None
    end_frame: int | None = None
    end: str | None = None
    declick_ms: float | None = None
    target_lufs: float | None = None
    """Another loudness for the level station of the delivery."""


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing a rule noticed: in a sentence, and where there is one, the frame of the mix to look at."""

    rule: str
    verdict: Verdict
    sentence: str
    frame: int | None = None
    remedy: Remedy | None = None
    field: str | None = None
    """The field of the tag sheet to go to, where it is about one."""


def worst(findings: tuple[Finding, ...]) -> Verdict:
    """The verdict of a file: ready when nothing was found."""
    return max((finding.verdict for finding in findings), key=_ORDER.index, default="ready")
