"""A folder that is watched for new mixes."""

import time
from pathlib import Path

import click

from ripe_press.cli.set_out import read_ticket
from ripe_press.cli.speech import (
    LOUDNESS,
    PATH,
    as_json,
    data_option,
    say_json,
    say_pressed,
    show_files,
    stop_on_signal,
)
from ripe_press.core.errors import RipePressError


@click.command()
@click.argument("folder", type=PATH)
@click.option("--ticket", type=PATH, required=True, help="What is made of each; see `plan --ticket-out`.")
@click.option("--out", type=PATH, required=True, help="The folder for the files; made when it is missing.")
@click.option("--also-there", is_flag=True, help="Press what lies there already, too.")
@click.option(
    "--every", type=click.FloatRange(0.1, 3600), default=2.0, show_default=True, help="Seconds between looks."
)
@click.option("--once", is_flag=True, help="Press what is new since the last time, and end.")
@data_option
@as_json
def watch(
    folder: Path, ticket: Path, out: Path, also_there: bool, every: float, once: bool, data: Path | None, as_json: bool
) -> None:
    """Watch FOLDER, and press every mix that arrives in it, once it rests, with one ticket.

    Tags come from each file itself; of the ticket's only what is true of all of them. With --json each pressing is one
    JSON object on a line.
    """
    from ripe_press.studio.arriving import WatchedFolder
    from ripe_press.studio.data_folder import data_folder

    watched = WatchedFolder(folder, read_ticket(ticket), out, data_folder(data))
    stopped = stop_on_signal()
    if not watched.known and not also_there:
        count = watched.pass_over()
        if count and not as_json and not LOUDNESS.quiet:
            what = "1 file that lay there already is" if count == 1 else f"{count:,} files that lay there already are"
            click.echo(f"{what} left; --also-there presses them too.")
    if not as_json and not LOUDNESS.quiet and not once:
        click.echo(f"Watching {watched.folder}; Ctrl C ends it.")
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
                say_json({"mix": str(path), **report})
            else:
                say_pressed(report)
        if once:
            return
