"""Watching a folder for new mixes."""

import time
from pathlib import Path

import click

from ripe_press.cli.grouping import renamed
from ripe_press.cli.set_out import read_ticket
from ripe_press.cli.speech import (
    PATH,
    VERBOSITY,
    as_json,
    data_option,
    say_json,
    say_pressed,
    show_files,
    stop_on_signal,
)
from ripe_press.core.errors import RipePressError
from ripe_press.core.units import print_count


@click.command()
@click.argument("folder", type=PATH)
@click.option("--ticket", type=PATH, required=True, help="Ticket file from `plan --ticket-out`.")
@click.option("--out", type=PATH, required=True, help="Output folder (created if missing).")
@renamed("--existing", "also_there", earlier=["--also-there"], is_flag=True, help="Include existing files.")
@click.option(
    "--every", type=click.FloatRange(0.1, 3600), default=2.0, show_default=True, help="Polling interval in seconds."
)
@click.option("--once", is_flag=True, help="Press new files, then exit.")
@data_option
@as_json
def watch(
    folder: Path, ticket: Path, out: Path, also_there: bool, every: float, once: bool, data: Path | None, as_json: bool
) -> None:
    """Press every mix added to FOLDER with one ticket.

    A file is pressed when it no longer changes. Its own tags are used. --json prints one object per line.

    \b
    Example:
      ripe-press watch incoming --ticket cd.json --out out
    """
    from ripe_press.studio.command_line import WatchedFolder
    from ripe_press.studio.data_folder import data_folder

    watched = WatchedFolder(folder, read_ticket(ticket), out, data_folder(data))
    stopped = stop_on_signal()
    if not watched.known and not also_there:
        count = watched.pass_over()
        if count and not as_json and not VERBOSITY.quiet:
            click.echo(f"{print_count(count, 'existing file')} skipped (see --existing).")
    if not as_json and not VERBOSITY.quiet and not once:
        click.echo(f"Watching {watched.folder}; Ctrl C stops it.")
    watched.look()
    while not stopped():
        # A file is taken once two looks found it the same.
        time.sleep(min(every, 0.5) if once else every)
        found = watched.look()
        for path in found:
            try:
                report = watched.press(path, show_files(as_json), stopped)
            except (RipePressError, OSError) as error:
                said = error.message if isinstance(error, RipePressError) else str(error)
                click.echo(f"ripe-press: {path.name}: {said}", err=True)
                continue
            if as_json:
                say_json({"mix": str(path), **report.row})
            else:
                say_pressed(report)
        if once:
            return
