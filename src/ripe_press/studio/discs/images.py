"""Disc images from any program, for the command line."""

from dataclasses import asdict
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.disc.check import DiscCheck, DiscReport, DiscTrack, check_disc
from ripe_press.core.disc.frames import print_frames
from ripe_press.core.errors import NotFound
from ripe_press.core.words import quoted
from ripe_press.studio.reports import figure


def check_image(path: Path, progress: Progress = no_progress) -> dict[str, Any]:
    """A cue sheet, or the one in a folder, with its image. Raises: NotFound; as `check_disc`."""
    return checked_report(check_disc(cue_in(path), progress))


def cue_in(path: Path) -> Path:
    """The cue sheet itself, or the one in a folder. Raises: NotFound ``disc.no-sheet`` or ``check.missing``."""
    cue = path
    if path.is_dir():
        found = sorted(one for one in path.iterdir() if one.suffix.lower() == ".cue")
        if len(found) != 1:
            message = f"{quoted(path)} holds {len(found)} cue sheets. Choose one."
            raise NotFound("disc.no-sheet", message, path=str(path))
        cue = found[0]
    elif not path.is_file():
        raise NotFound("check.missing", f"{quoted(path)} not found.", path=str(path))
    return cue


def checked_report(report: DiscReport) -> dict[str, Any]:
    """The checks of a disc, in the form of reports."""
    return {
        "cue": str(report.cue), "image": str(report.image), "verdict": _verdict(report.checks),
        "lead_out_frame": report.lead_out_frame, "lead_out": print_frames(report.lead_out_frame),
        "tracks": [_track_row(one) for one in report.tracks],
        "checks": [
            {"id": one.rule, "asked": one.asked, "found": one.found, "holds": one.holds, "sentence": one.sentence}
            for one in report.checks
        ],
    }  # fmt: skip


def _track_row(track: DiscTrack) -> dict[str, Any]:
    figures = {"peak_dbfs": figure(track.peak_dbfs), "integrated_lufs": figure(track.integrated_lufs)}
    return {**asdict(track), **figures, "start": print_frames(track.start_frame)}


def _verdict(checks: tuple[DiscCheck, ...]) -> str:
    wrong = [one for one in checks if not one.holds]
    return "stop" if any(one.stops for one in wrong) else "look" if wrong else "ready"
