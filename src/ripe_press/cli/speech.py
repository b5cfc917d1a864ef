"""What every command shares: its options, and how it speaks."""

import json
import signal
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import click

PATH = click.Path(path_type=Path)
as_json = click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output and nothing else.")
data_option = click.option("--data", type=PATH, help="The data folder; otherwise RIPE_PRESS_DATA or a default.")


def say_json(report: dict[str, Any]) -> None:
    """One JSON object on standard output."""
    click.echo(json.dumps(report))


def show_progress(quiet: bool) -> Callable[[int, int], None]:
    """A line of progress where somebody looks at one."""
    return progress_line() if not quiet and sys.stderr.isatty() else (lambda _done, _total: None)


def stop_on_signal() -> Callable[[], bool]:
    """Asks a pressing to stop on the first interrupt, so that no half-made file is left."""
    asked = threading.Event()
    for name in (signal.SIGINT, signal.SIGTERM):
        signal.signal(name, lambda _number, _frame: asked.set())
    return asked.is_set


def progress_line() -> Callable[[int, int], None]:
    """How far a pressing is, written over itself on standard error."""
    began = time.monotonic()
    last = [began]

    def show(done: int, total: int) -> None:
        now = time.monotonic()
        if now - last[0] < 0.2 and done < total:
            return
        last[0] = now
        left = (now - began) * (total - done) / max(1, done)
        end = "\n" if done >= total else ""
        click.echo(f"\r{100 * done // total:3d} %, {left:.0f} s left {end}", nl=False, err=True)

    return show


def say_tree(report: dict[str, Any], as_json: bool) -> None:
    """What would be walked: the tree, one station a line, and what is noticed of each file."""
    if as_json:
        say_json(report)
        return
    # Nodes are numbered parents first, branch by branch: in that order they draw the tree.
    cells = {
        station["node"]: (depth, station) for file in report["files"] for depth, station in enumerate(file["stations"])
    }
    for _, (depth, station) in sorted(cells.items()):
        click.echo(f"{'  ' * depth}{station['label']}{', ' if station['detail'] else ''}{station['detail']}")
    for file in report["files"]:
        for finding in file["findings"]:
            click.echo(f"{finding['verdict']}: {file['name']}: {finding['sentence']}")


def say_pressed(report: dict[str, Any]) -> None:
    """What came of a pressing, file by file."""
    for file in report["files"]:
        say_file(file, report["times_realtime"])
    for file in report["failed"]:
        click.echo(f"failed: {file['path']}\n  {file['sentence']}")
    for path in report["skipped"]:
        click.echo(f"skipped: {path} is there already")


def say_file(file: dict[str, Any], times_realtime: float) -> None:
    """A pressed file and what was found of it."""
    peak = file["measured"]["sample_peak_dbfs"]
    level = "digital silence" if peak is None else f"peak {peak:.1f} dBFS"
    told = file["forecast"]
    if told and told["basis"] in ("bit rate", "trial"):
        level += f", forecast {told['low_bytes']:,} to {told['high_bytes']:,} bytes"
    click.echo(f"{file['verdict']}: {file['path']}")
    click.echo(
        f"  {file['frames']:,} frames, {file['bytes']:,} bytes, {level}, {times_realtime:.0f} times real time\n"
        f"  sha256 {file['sha256']}"
    )
    for finding in file["findings"]:
        click.echo(f"  {finding['verdict']}: {finding['sentence']}")
