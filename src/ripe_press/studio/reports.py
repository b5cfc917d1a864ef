"""What is said of a pressed file and of a measured one, in the one shape that page, command line and record share."""

from dataclasses import asdict
from typing import Any

from ripe_press.core.press import PressedFile
from ripe_press.core.survey import Survey
from ripe_press.studio.shelf import finite, measures_of


def file_report(file: PressedFile) -> dict[str, Any]:
    """A pressed file; later work only adds keys."""
    proof = file.proof
    return {
        "path": file.path,
        "brief": file.brief,
        "container": proof.container,
        "codec": proof.codec,
        "sample_rate_hz": proof.rate_hz,
        "bit_depth": proof.bit_depth,
        "channels": proof.channels,
        "frames": proof.frames,
        "bytes": proof.bytes,
        "sha256": proof.sha256,
        "verdict": file.verdict,
        "findings": [asdict(finding) for finding in file.findings],
        "checks": [{"check": check, "found": found} for check, found in proof.checks],
        "measured": {
            "sample_peak_dbfs": finite(proof.sample_peak_dbfs),
            "clipped_samples": file.clipped_samples,
        },
    }


def measure_report(path: str, result: Survey) -> dict[str, Any]:
    """A measured file; later work only adds keys. Levels of digital silence are None."""
    facts = result.facts
    return {
        "path": path,
        "container": facts.container,
        "codec": facts.codec,
        "sample_rate_hz": facts.rate_hz,
        "bit_depth": facts.bit_depth,
        "channels": facts.channels,
        "frames": facts.frames,
        "duration_s": facts.duration_s,
        **measures_of(result),
        "clipped_runs": [asdict(run) for run in result.clipping.runs],
    }
