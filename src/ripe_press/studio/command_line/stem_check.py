"""Stems on the command line: a folder of them, checked against the mix."""

from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress
from ripe_press.core.engine.stems import stem_source
from ripe_press.core.errors import RipePressError
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.proof.stems import check_stems
from ripe_press.core.requests.part import StemNote
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import facts_of_file
from ripe_press.core.units import print_rate
from ripe_press.studio.stems import stems_in, stems_row


def stems_report(mix: Path, folder: Path, progress: Progress, should_stop: Callable[[], bool]) -> dict[str, Any]:
    """The check as reports carry it. Raises: as `check_stems`; what cannot be read is named."""
    facts = facts_of_file(mix)
    notes = []
    unreadable = []
    for name, path in stems_in(folder, mix):
        try:
            notes.append(StemNote(name, facts_of_file(path)))
        except RipePressError as error:
            unreadable.append({"path": str(path), "sentence": error.message})
    sources = [(one.name, stem_source(one, facts)) for one in notes]
    row = stems_row(check_stems(FileSource(facts), sources, progress, should_stop))
    return {
        "mix": str(mix), **row, "lines_up": row["lines_up"] and not unreadable, "unreadable": unreadable,
        "remarks": [said for one in notes for said in _unlike(one, facts)],
    }  # fmt: skip


def _unlike(stem: StemNote, mix: SourceFacts) -> Iterator[str]:
    """Where a stem has another rate or length than its mix, and what becomes of that."""
    facts = stem.facts
    if facts.rate_hz != mix.rate_hz:
        rates = f"{print_rate(facts.rate_hz)}, the mix {print_rate(mix.rate_hz)}"
        yield f"{stem.name} has {rates}: converted on reading."
    by_s = facts.duration_s - mix.duration_s
    if abs(by_s) * mix.rate_hz >= 1:
        what = "the rest is cut" if by_s > 0 else "padded with silence"
        yield f"{stem.name} is {abs(by_s):.3f} s {'longer' if by_s > 0 else 'shorter'} than the mix: {what}."


def aligned(mix: SourceFacts, stems: tuple[StemNote, ...]) -> tuple[StemNote, ...]:
    """Stems with their places beside the mix, each found by what the others leave of it. Raises: as `check_stems`."""
    found = check_stems(FileSource(mix), [(one.name, stem_source(one, mix)) for one in stems])
    late = {one.name: one.late_frames for one in found.stems}
    return tuple(replace(one, late_frames=late[one.name]) for one in stems)
