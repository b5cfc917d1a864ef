"""What goes beside files, on the command line: the delivery sheet, and the sidecar for the next program."""

from pathlib import Path

import click

from ripe_press.cli.speech import PATH, as_json, data_option, say_json, show_progress, stop_on_signal


@click.command()
@click.argument("what", metavar="FOLDER|NUMBER")
@click.option("--out", type=PATH, help="Where it is written; beside the files where nothing is said.")
@click.option("--paper", type=click.Choice(["A4", "Letter"]), default="A4", show_default=True)
@data_option
@as_json
def sheet(what: str, out: Path | None, paper: str, data: Path | None, as_json: bool) -> None:
    """Write the delivery sheet of a pressing, or of a folder of files: HTML, PDF, JSON and checksums."""
    from ripe_press.studio.sheets_now import sheet_now

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
    """Write FILE.json: waveform, loudness, tempo and beats, markers and key, for the next program."""
    from ripe_press.studio.sheets_now import sidecar_now

    report = sidecar_now(file, show_progress(as_json), stop_on_signal())
    if as_json:
        say_json(report)
    else:
        click.echo(report["written"])


@click.command()
@click.argument("what", metavar="FOLDER|NUMBER")
@click.option("--out", type=PATH, required=True, help="The folder that becomes the package; it must not be there yet.")
@click.option("--mix", is_flag=True, help="Put the mix that it was pressed of into it as well.")
@data_option
@as_json
def bag(what: str, out: Path, mix: bool, data: Path | None, as_json: bool) -> None:
    """Write a package for an archive (BagIt, RFC 8493) of a pressing, or of a folder, with its delivery sheet."""
    from ripe_press.studio.bags import bag_now

    report = bag_now(what, out, data, mix=mix, told=show_progress(as_json), should_stop=stop_on_signal())
    if as_json:
        say_json(report)
    else:
        files = "1 file" if report["files"] == 1 else f"{report['files']:,} files"
        click.echo(f"{report['path']}: {files}, {report['bytes']:,} bytes")
