"""Work on stems in worker processes."""

from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from ripe_press.core.engine.stems import stem_source
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.proof.stems import StemsReport, check_stems
from ripe_press.core.requests.part import StemNote
from ripe_press.core.sources.source import AudioSource, facts_of_file
from ripe_press.core.units import finite
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.stems.files import examined_stem


def read_stem(path: str) -> dict[str, Any]:
    """A file that came in as a stem, as it is kept, with what can only be known by reading it. Raises: as reading."""
    return asdict(examined_stem(StemNote("stem", facts_of_file(Path(path)))))


def hold_stems(mix: AudioSource, facts: SourceFacts, stems: Sequence[StemNote], job: str) -> dict[str, Any]:
    """Holds stems, as they lie, against their mix."""
    folder = JobFolder(Path(job))
    sources = [(one.name, stem_source(one, facts)) for one in stems]
    return stems_row(check_stems(mix, sources, folder.report, folder.cancelled))


def stems_row(report: StemsReport) -> dict[str, Any]:
    """A check in the form of reports and of the record."""
    return {
        "lines_up": report.lines_up, "sums": report.sums,
        "residual_dbfs": finite(report.residual_dbfs), "residual_peak_dbfs": finite(report.residual_peak_dbfs),
        "sentence": report.sentence, "stems": [asdict(one) for one in report.stems],
    }  # fmt: skip
