"""Sending on the command line."""

from pathlib import Path

import click

from ripe_press.cli.speech import PATH, as_json, data_option, say_json, show_progress, stop_on_signal

_THERE = ("taken", "accepted")


@click.command()
@click.argument("files", nargs=-1, required=True, type=PATH)
@click.option(
    "--to", "places", multiple=True, required=True, metavar="KIND:PLACE|NAME", help="Where to; several may be."
)
@click.option("--accept", "accepted_by", default="", metavar="NAME", help="Who accepts what was noticed of the files.")
@click.option("--because", default="", metavar="REASON", help="Why; it stands on the delivery sheet.")
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

    A drop-off is folder:DIR, library:DIR, sync:DIR, mail:ADDRESS@HOST[:PORT], desk:URL, or the NAME of one that is set
    up. What was taken there once is not sent again. Fails where anything was not taken, and says why.
    """
    from ripe_press.core.errors import BadInput
    from ripe_press.studio.send_now import Sending, send_now

    if bool(accepted_by.strip()) != bool(because.strip()):
        message = "Say both, who accepts it (--accept) and why (--because): they stand on the delivery sheet."
        raise BadInput("send.because", message)
    how = Sending(accepted_by, because, show_progress(as_json), stop_on_signal())
    rows = send_now(files, places, data, how)
    if as_json:
        say_json({"sent": rows})
    else:
        for row in rows:
            name = Path(row["path"]).name
            told = " ".join(row["reasons"]) or row["sentence"]
            click.echo(f"{name} to {row['to']}: {row['state']}{f'. {told}' if told else ''}")
    if any(row["state"] not in _THERE for row in rows):
        raise SystemExit(1)
