"""Discs on the command line."""

from pathlib import Path

import click

from ripe_press.cli.speech import as_json, say_json, show_progress


@click.group()
def disc() -> None:
    """Images of audio discs."""


@disc.command(name="check")
@click.argument("what", type=click.Path(path_type=Path), metavar="FOLDER|CUE")
@as_json
def check_disc(what: Path, as_json: bool) -> None:
    """Holds an image and its cue sheet, from anywhere, against the rules of the disc and against each other.

    Exit status 1 when anything does not hold.
    """
    from ripe_press.studio.discs import check_image

    found = check_image(what, show_progress(as_json))
    if as_json:
        say_json(found)
    else:
        held = sum(one["holds"] for one in found["checks"])
        click.echo(f"{found['verdict']:<6} {found['image']}: {held} of {len(found['checks'])} hold")
        for one in found["checks"]:
            if not one["holds"]:
                click.echo(f"       {one['sentence']}")
        for track in found["tracks"]:
            click.echo(f"{track['number']:>4}  {track['start']}  {track['isrc'] or '-':<12}  {track['title']}")
        click.echo(f"  out  {found['lead_out']}")
    if found["verdict"] != "ready":
        raise SystemExit(1)
