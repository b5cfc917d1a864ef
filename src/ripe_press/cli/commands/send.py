"""Sending on the command line."""

from pathlib import Path

import click

from ripe_press.cli.grouping import renamed
from ripe_press.cli.speech import PATH, as_json, data_option, say_json, show_progress, stop_on_signal
from ripe_press.core.words import TRANSFERS

_THERE = ("taken", "accepted")


@click.command()
@click.argument("files", nargs=-1, required=True, type=PATH)
@click.option("--to", "places", multiple=True, required=True, metavar="KIND:PLACE|NAME", help="Drop-off. Repeatable.")
@renamed("--sign-off", "accepted_by", earlier=["--accept"], default="", metavar="NAME", help="Sign-off name.")
@renamed("--reason", "because", earlier=["--because"], default="", metavar="REASON", help="Sign-off reason.")
@data_option
@as_json
def send(
    files: tuple[Path, ...],
    places: tuple[str, ...],
    accepted_by: str,
    because: str,
    data: Path | None,
    as_json: bool,
) -> None:
    """Send finished files to drop-offs.

    A drop-off is a NAME, folder:DIR, library:DIR, sync:DIR, mail:ADDRESS@HOST[:PORT] or desk:URL. Delivered files are
    not sent again.

    \b
    Example:
      ripe-press send out/Millrace.flac --to folder:handover
    """
    from ripe_press.core.errors import BadInput
    from ripe_press.studio.command_line import Sending, send_now

    if bool(accepted_by.strip()) != bool(because.strip()):
        message = "Sign-off needs a name (--sign-off) and a reason (--reason)."
        raise BadInput("send.because", message)
    how = Sending(accepted_by, because, show_progress(as_json), stop_on_signal())
    rows = send_now(files, places, data, how)
    if as_json:
        say_json({"sent": rows})
    else:
        for row in rows:
            name = Path(row["path"]).name
            reason = " ".join(row["reasons"]) or row["sentence"]
            click.echo(f"{name} to {row['to']}: {TRANSFERS[row['state']]}{f'. {reason}' if reason else ''}")
    if any(row["state"] not in _THERE for row in rows):
        raise SystemExit(1)
