"""Work on stems in worker processes."""

import json
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from ripe_press.core.engine.stems import stem_source
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.proof.stems import check_stems
from ripe_press.core.sources.source import Source, facts_of_file
from ripe_press.core.survey import survey_source
from ripe_press.core.whole_files import sync_folder, write_whole
from ripe_press.core.wishes.part import StemNote
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.kept_levels import keep_measures
from ripe_press.studio.reports import measures_of
from ripe_press.studio.stem_looks import looked_at
from ripe_press.studio.stems import stems_row


def measure_part(source: Source, new: str, place: str) -> None:
    """Measures a part of a mix; its folder appears when it is whole."""
    folder = Path(new)
    folder.mkdir(parents=True)
    result = survey_source(source, folder / "pyramid.bin")
    keep_measures(folder, result)
    write_whole(folder / "measures.json", json.dumps(measures_of(result)))
    if not Path(place).is_dir():
        folder.rename(place)
        sync_folder(Path(place).parent)


def read_stem(path: str) -> dict[str, Any]:
    """A file that came in as a stem, as it is kept, with what can only be known by reading it. Raises: as reading."""
    return asdict(looked_at(StemNote("stem", facts_of_file(Path(path)))))


def hold_stems(mix: Source, facts: SourceFacts, stems: Sequence[StemNote], job: str) -> dict[str, Any]:
    """Holds stems, as they lie, against their mix."""
    folder = JobFolder(Path(job))
    sources = [(one.name, stem_source(one, facts)) for one in stems]
    return stems_row(check_stems(mix, sources, folder.report, folder.cancelled))
