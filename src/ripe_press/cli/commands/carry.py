"""Export and import of a data folder."""

from pathlib import Path

import click

from ripe_press.cli.speech import PATH, VERBOSITY, as_json, data_option, say_json


@click.command(name="export")
@click.argument("file", type=PATH)
@data_option
@as_json
def export(file: Path, data: Path | None, as_json: bool) -> None:
    """Export all data except audio to FILE.

    \b
    Example:
      ripe-press export studio.zip
    """
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.export_import import carry_off

    report = carry_off(data_folder(data), file)
    if as_json:
        say_json(report)
    elif not VERBOSITY.quiet:
        click.echo(f"{report['path']}: {report['bytes']:,} bytes")


@click.command(name="import")
@click.argument("file", type=PATH)
@data_option
@as_json
def import_(file: Path, data: Path | None, as_json: bool) -> None:
    """Import a FILE from `export`. Existing data is kept.

    \b
    Example:
      ripe-press import studio.zip
    """
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.export_import import carry_in

    report = carry_in(data_folder(data), file)
    if as_json:
        say_json(report)
        return
    for word, counts in (("imported", report["taken"]), ("already present", report["there"])):
        if counts and not VERBOSITY.quiet:
            counted = ", ".join(f"{count:,} {_many(kind, count)}" for kind, count in counts.items())
            click.echo(f"{word}: {counted}")
    for sentence in report["left"]:
        click.echo(f"not imported: {sentence}")


def _many(kind: str, count: int) -> str:
    if count == 1:
        return kind
    return {"bench": "benches", "mix": "mixes"}.get(kind, f"{kind}s")
