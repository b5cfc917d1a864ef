"""Shared by all commands: options and output."""

import json
import os
import signal
import sys
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from ripe_press.core.blocks import Progress
from ripe_press.core.units import print_count, print_db, print_minutes
from ripe_press.core.words import VERDICTS
from ripe_press.studio.jobs import JobProgress

if TYPE_CHECKING:
    from ripe_press.core.sheet.file_report import FileReport
    from ripe_press.studio.command_line import FilePlan, PressResult

PATH = click.Path(path_type=Path)


@dataclass(slots=True)
class Verbosity:
    """How much a command prints."""

    quiet: bool = False
    verbose: bool = False


VERBOSITY = Verbosity()
"""Of the running command; set by every command."""


def _hear(context: click.Context, option: click.Parameter, value: bool) -> None:
    setattr(VERBOSITY, str(option.name), value and not context.resilient_parsing)


def as_json(command: Callable[..., None]) -> Callable[..., None]:
    """Add --json, --quiet and --verbose to a command."""
    heard: dict[str, Any] = {"is_flag": True, "expose_value": False, "callback": _hear}
    options: tuple[Callable[[Callable[..., None]], Callable[..., None]], ...] = (
        click.option("-v", "--verbose", help="Also show the plan and every check.", **heard),
        click.option("-q", "--quiet", help="Show only warnings and errors.", **heard),
        click.option("--json", "as_json", is_flag=True, help="Print JSON."),
    )
    for option in options:
        command = option(command)
    return command


data_option = click.option("--data", type=PATH, help="Data folder (default: $RIPE_PRESS_DATA or the user's).")


def say_json(report: dict[str, Any]) -> None:
    """Print one JSON object on standard output."""
    click.echo(json.dumps(report))


def show_progress(quiet: bool) -> Progress:
    """A progress line on a terminal; nothing elsewhere."""
    if quiet or VERBOSITY.quiet or not sys.stderr.isatty():
        return lambda _done, _total: None
    return progress_line()


PressProgress = Callable[[JobProgress, Sequence[str]], None]
MOST_LINES = 12
_BAR = 20


def show_files(quiet: bool) -> PressProgress:
    """One progress line per file on a terminal, with the time left; nothing elsewhere."""
    if quiet or VERBOSITY.quiet or not sys.stderr.isatty():
        return lambda _progress, _names: None
    lines = [0]

    def show(progress: JobProgress, names: Sequence[str]) -> None:
        text = file_lines(progress, names, room())
        # Overwrites the previous line; removed at the end, because the report has the results.
        up = f"\x1b[{lines[0]}A" if lines[0] else ""
        ended = progress.done >= progress.total
        lines[0] = 0 if ended else len(text)
        body = "" if ended else "".join(f"{line}\x1b[K\n" for line in text)
        click.echo(f"{up}\r\x1b[J{body}", nl=False, err=True, color=True)

    return show


def file_lines(progress: JobProgress, names: Sequence[str], width: int) -> list[str]:
    """The progress lines of a pressing: running files first."""
    rows = [(names[one.number] if one.number < len(names) else "", one.part) for one in progress.files]
    open_ones = sorted(rows, key=lambda row: (row[1] >= 1, row[1] <= 0))
    lines = []
    for name, part in open_ones[:MOST_LINES]:
        bar = ("━" * round(part * _BAR)).ljust(_BAR, "─")
        lines.append(f"{bar} {100 * part:3.0f} %  {name}"[: max(20, width)])
    if len(rows) > MOST_LINES:
        lines.append(f"and {len(rows) - MOST_LINES} more")
    left = "" if progress.seconds_left is None else f", {print_minutes(progress.seconds_left)} left"
    return [*lines, f"{100 * progress.done // max(1, progress.total)} % of {len(rows)} files{left}"]


def room() -> int:
    """The columns of the terminal; 80 without one."""
    try:
        return os.get_terminal_size(sys.stderr.fileno()).columns
    except (OSError, ValueError):
        return 80


_COLOURS = {"ready": "green", "look": "yellow", "stop": "red", "Failed": "red", "Skipped": "cyan"}


def verdict(word: str) -> str:
    """The word of a verdict, coloured unless NO_COLOR is set (no-color.org)."""
    said = VERDICTS.get(word, word)
    return said if os.environ.get("NO_COLOR") else click.style(said, fg=_COLOURS.get(word), bold=True)


def stop_on_signal() -> Callable[[], bool]:
    """A check that turns true on the first interrupt, so that no partial file is left."""
    asked = threading.Event()
    for name in (signal.SIGINT, signal.SIGTERM):
        signal.signal(name, lambda _number, _frame: asked.set())
    return asked.is_set


def progress_line() -> Progress:
    """A progress line that overwrites itself on standard error."""
    began = time.monotonic()
    last = [began]

    def show(done: int, total: int) -> None:
        now = time.monotonic()
        if now - last[0] < 0.2 and done < total:
            return
        last[0] = now
        left = (now - began) * (total - done) / max(1, done)
        end = "\n" if done >= total else ""
        click.echo(f"\r{100 * done // total:3d} %, {print_minutes(left)} left {end}", nl=False, err=True)

    return show


def say_tree(files: "Sequence[FilePlan]", as_json: bool) -> None:
    """Print planned files: the tree of their stations and their findings."""
    if as_json:
        say_json({"files": [asdict(one) for one in files]})
        return
    # Nodes are numbered parents first, branch by branch: in that order they draw the tree.
    cells = {station.node: (depth, station) for file in files for depth, station in enumerate(file.stations)}
    for _, (depth, station) in sorted(cells.items(), key=lambda one: one[0]):
        click.echo(f"{'  ' * depth}{station.label}{', ' if station.detail else ''}{station.detail}")
    for file in files:
        for finding in file.findings:
            click.echo(f"{verdict(finding.verdict)}: {file.name}: {finding.sentence}")


def say_pressed(result: "PressResult") -> None:
    """Print the result of a pressing, file by file."""
    for file in result.files:
        if not VERBOSITY.quiet or file.verdict != "ready":
            say_file(file, result.times_realtime or 0.0)
    for failed in result.failed:
        click.echo(f"{verdict('Failed')}: {failed.path}\n  {failed.sentence}")
    for path in () if VERBOSITY.quiet else result.skipped:
        click.echo(f"{verdict('Skipped')}: {path} exists")


def say_file(file: "FileReport", times_realtime: float) -> None:
    """Print a pressed file, its figures and findings."""
    peak = file.measured.sample_peak_dbfs
    level = "digital silence" if peak is None else f"peak {print_db(peak)}"
    forecast = file.forecast
    if forecast and forecast.basis in ("bit rate", "trial"):
        level += f", estimated {forecast.low_bytes:,} to {forecast.high_bytes:,} bytes"
    speed = f"{times_realtime:.1f}" if times_realtime < 10 else f"{times_realtime:.0f}"
    click.echo(f"{verdict(file.verdict)}: {file.path}")
    click.echo(
        f"  {print_count(file.frames, 'sample')}, {file.bytes:,} bytes, {level}, {speed}× real time\n"
        f"  sha256 {file.sha256}"
    )
    for finding in file.findings:
        click.echo(f"  {verdict(finding.verdict)}: {finding.sentence}")
    for check in file.checks if VERBOSITY.verbose else ():
        click.echo(f"  {check.title}: {check.found}")
