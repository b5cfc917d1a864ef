"""The stems of a mix on the command line: a folder of them, held against the mix."""

from collections.abc import Callable
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from ripe_press.core.errors import NotFound, RipePressError
from ripe_press.core.formats.capabilities import READ_SUFFIXES
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.proof.stems import StemsReport, check_stems
from ripe_press.core.sources.file import FileSource
from ripe_press.core.units import finite
from ripe_press.core.wishes.part import StemNote


def stems_in(folder: Path, mix: Path) -> list[tuple[str, Path]]:
    """The sound files of a folder, but for the mix itself, each by its name without what it shares with the mix.

    Raises: NotFound ``stems.no-folder``.
    """
    if not folder.is_dir():
        message = f"There is no folder {str(folder)!r}."
        raise NotFound("stems.no-folder", message, folder=str(folder))
    files = sorted(one for one in folder.iterdir() if one.suffix.lower() in READ_SUFFIXES and one.is_file())
    return [(stem_name(one, mix), one) for one in files if one.resolve() != mix.resolve()]


def stem_name(path: Path, mix: Path) -> str:
    """What a stem is called: ``Millrace bass.wav`` beside ``Millrace.wav`` is ``bass``."""
    name = path.stem
    if name.lower().startswith(mix.stem.lower()):
        name = name[len(mix.stem) :].strip(" -_.") or path.stem
    return name


def stems_report(
    mix: Path, folder: Path, told: Callable[[int, int], None], should_stop: Callable[[], bool]
) -> dict[str, Any]:
    """The check as reports carry it. Raises: as `check_stems`; what cannot be read is named."""
    found = []
    unreadable = []
    for name, path in stems_in(folder, mix):
        try:
            found.append((name, FileSource.at(path)))
        except RipePressError as error:
            unreadable.append({"path": str(path), "sentence": error.message})
    report = check_stems(FileSource.at(mix), found, told, should_stop)
    row = stems_row(report)
    return {"mix": str(mix), **row, "lines_up": row["lines_up"] and not unreadable, "unreadable": unreadable}


def stems_row(report: StemsReport) -> dict[str, Any]:
    """A check as it is told and kept."""
    return {
        "lines_up": report.lines_up, "sums": report.sums,
        "residual_dbfs": finite(report.residual_dbfs), "residual_peak_dbfs": finite(report.residual_peak_dbfs),
        "sentence": report.sentence, "stems": [asdict(one) for one in report.stems],
    }  # fmt: skip


def aligned(mix: SourceFacts, stems: tuple[StemNote, ...]) -> tuple[StemNote, ...]:
    """Stems with their places beside the mix, each found by what the others leave of it. Raises: as `check_stems`."""
    found = check_stems(FileSource(mix), [(one.name, FileSource(one.facts)) for one in stems])
    late = {one.name: one.late_frames for one in found.stems}
    return tuple(replace(one, late_frames=late[one.name]) for one in stems)
