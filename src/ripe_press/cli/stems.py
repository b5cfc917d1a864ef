"""Stems on the command line."""

from pathlib import Path

import click

from ripe_press.cli.speech import PATH, as_json, say_json, show_progress, stop_on_signal


@click.command()
@click.argument("mix", type=PATH)
@click.argument("folder", type=PATH)
@as_json
def stems(mix: Path, folder: Path, as_json: bool) -> None:
    """Hold the stems of a folder against their mix: whether they line up, and whether they sum to it.

    Exit status 1 when they do not.
    """
    from ripe_press.studio.stems import stems_report

    found = stems_report(mix, folder, show_progress(as_json), stop_on_signal())
    if as_json:
        say_json(found)
    else:
        click.echo(found["sentence"])
        for one in found["stems"]:
            click.echo(f"{'look' if one['wrong'] else 'good':<5} {one['name']}: {one['wrong'] or 'as it should be'}")
        for said in found["remarks"]:
            click.echo(f"      {said}")
        for one in found["unreadable"]:
            click.echo(f"stop  {one['path']}: {one['sentence']}")
    if not found["lines_up"] or not found["sums"]:
        raise SystemExit(1)
