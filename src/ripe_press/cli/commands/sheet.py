"""Delivery sheet, sidecar and archive package on the command line."""

from pathlib import Path

import click

from ripe_press.cli.speech import PATH, as_json, data_option, say_json, show_progress, stop_on_signal
from ripe_press.core.units import print_count


@click.command()
@click.argument("what", metavar="FOLDER|NUMBER")
@click.option("--out", type=PATH, help="Output folder (default: next to the files).")
@click.option(
    "--paper", type=click.Choice(["A4", "Letter"]), default="A4", show_default=True, help="Paper size of the PDF."
)
@data_option
@as_json
def sheet(what: str, out: Path | None, paper: str, data: Path | None, as_json: bool) -> None:
    """Write the delivery sheet of a pressing or folder.

    Writes HTML, PDF, JSON and checksums.

    \b
    Example:
      ripe-press sheet 12 --out handover
    """
    from ripe_press.studio.command_line import sheet_now

    report = sheet_now(what, out, "Letter" if paper == "Letter" else "A4", data, show_progress(as_json))
    if as_json:
        say_json(report)
    else:
        for path in report["written"]:
            click.echo(path)


@click.command()
@click.argument("file", type=PATH)
@as_json
def sidecar(file: Path, as_json: bool) -> None:
    """Export analysis data as FILE.json.

    Waveform, loudness, tempo, markers and key.

    \b
    Example:
      ripe-press sidecar Millrace.wav
    """
    from ripe_press.studio.handoff import sidecar_now

    report = sidecar_now(file, show_progress(as_json), stop_on_signal())
    if as_json:
        say_json(report)
    else:
        click.echo(report["written"])


@click.command()
@click.argument("what", metavar="FOLDER|NUMBER")
@click.option("--out", type=PATH, required=True, help="Package folder to create.")
@click.option("--mix", is_flag=True, help="Include the mix.")
@data_option
@as_json
def bag(what: str, out: Path, mix: bool, data: Path | None, as_json: bool) -> None:
    """Write an archive package (BagIt, RFC 8493).

    \b
    Example:
      ripe-press bag 12 --out archive/millrace
    """
    from ripe_press.studio.command_line import bag_now

    report = bag_now(what, out, data, mix=mix, progress=show_progress(as_json), should_stop=stop_on_signal())
    if as_json:
        say_json(report)
    else:
        click.echo(f"{report['path']}: {print_count(report['files'], 'file')}, {report['bytes']:,} bytes")
