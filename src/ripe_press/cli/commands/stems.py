"""Stems on the command line."""

from pathlib import Path

import click

from ripe_press.cli.speech import PATH, as_json, say_json, show_progress, stop_on_signal, verdict


@click.command()
@click.argument("mix", type=PATH)
@click.argument("folder", type=PATH)
@as_json
def stems(mix: Path, folder: Path, as_json: bool) -> None:
    """Check that stems align with the mix and sum to it.

    \b
    Example:
      ripe-press stems Millrace.wav "Millrace stems"
    """
    from ripe_press.studio.command_line import stems_report

    found = stems_report(mix, folder, show_progress(as_json), stop_on_signal())
    if as_json:
        say_json(found)
    else:
        click.echo(found["sentence"])
        for one in found["stems"]:
            what = f"{one['name']}: {one['wrong']}" if one["wrong"] else one["name"]
            click.echo(f"{verdict('look' if one['wrong'] else 'ready')}: {what}")
        for said in found["remarks"]:
            click.echo(f"      {said}")
        for one in found["unreadable"]:
            click.echo(f"{verdict('stop')}: {one['path']}: {one['sentence']}")
    if not found["lines_up"] or not found["sums"]:
        raise SystemExit(1)
