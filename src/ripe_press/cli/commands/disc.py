"""Discs on the command line."""

from pathlib import Path

import click

from ripe_press.cli.commands.order import say_disc
from ripe_press.cli.grouping import renamed
from ripe_press.cli.speech import PATH, as_json, say_json, show_files, show_progress, stop_on_signal


@click.group()
def disc() -> None:
    """Make, check and burn audio CD images."""


@disc.command(name="press")
@click.argument("order_file", type=PATH, metavar="ORDER.json")
@click.option("--tracks", is_flag=True, help="Also keep one WAV per track, in the folder `tracks`.")
@click.option("--out", type=PATH, required=True, help="Output folder (created if missing).")
@as_json
def press_disc(order_file: Path, tracks: bool, out: Path, as_json: bool) -> None:
    """Press a running order as a disc image.

    Writes image, cue sheet, CD-Text, checksums and log sheet.

    \b
    Example:
      ripe-press disc press weirs.json --out disc
    """
    from ripe_press.studio.command_line import DiscRequest, order_set_out, press_now, read_order

    made = order_set_out(read_order(order_file), (), True, alone=True)
    report = press_now(made, out, show_files(as_json), stop_on_signal(), disc=DiscRequest(out, tracks))
    row = report.row
    found = {**row["disc"], **{name: row[name] for name in ("files", "seconds", "pressing")}}
    if as_json:
        say_json(found)
    else:
        say_disc(found)
    if found["verdict"] == "stop":
        raise SystemExit(1)


@disc.command(name="check")
@click.argument("what", type=PATH, metavar="FOLDER|CUE")
@as_json
def check_disc(what: Path, as_json: bool) -> None:
    """Check a disc image and cue sheet.

    \b
    Example:
      ripe-press disc check disc/
    """
    from ripe_press.studio.discs import check_image

    found = check_image(what, show_progress(as_json))
    if as_json:
        say_json(found)
    else:
        say_disc(found)
    if found["verdict"] != "ready":
        raise SystemExit(1)


@disc.command(name="burn")
@click.argument("what", type=PATH, metavar="FOLDER|CUE")
@click.option("--medium", type=PATH, help="Folder of the simulated disc (default: `medium` next to the image).")
@click.option(
    "--kind", type=click.Choice(["cdr74", "cdr80", "cdrw80"]), default="cdr80", show_default=True, help="Blank disc."
)
@click.option(
    "--speed", type=click.Choice(["4", "8", "16", "24", "48"]), default="16", show_default=True, help="Burn speed."
)
@click.option("--simulate", is_flag=True, help="Test burn (laser off).")
@click.option("--leave-open", is_flag=True, help="Do not finalise the disc.")
@click.option("--erase", is_flag=True, help="Erase a rewritable disc first.")
@click.option("--writer", type=click.IntRange(1, 65535), help="Port of a disc writer (default: own).")
@renamed(
    "--speedup", "hurry", earlier=["--hurry"], type=click.FloatRange(1, 10_000), default=100.0, show_default=True,
    help="Speed factor of the simulation.",
)  # fmt: skip
@as_json
def burn_disc(
    what: Path,
    medium: Path | None,
    kind: str,
    speed: str,
    simulate: bool,
    leave_open: bool,
    erase: bool,
    writer: int | None,
    hurry: float,
    as_json: bool,
) -> None:
    """Burn to the simulated writer and verify.

    \b
    Example:
      ripe-press disc burn disc/ --speed 8
    """
    from ripe_press.studio.discs import BurnRequest, Writer, burn

    place = medium or (what if what.is_dir() else what.parent) / "medium"
    wish = BurnRequest(place, kind, int(speed), simulate, not leave_open, erase)
    show, stop = show_progress(as_json), stop_on_signal()
    with Writer(writer) if writer else Writer.own(hurry) as device:
        found = burn(what, wish, device, lambda _what, done, total: show(done, total), stop)
    if as_json:
        say_json(found)
    else:
        click.echo(found["worth"])
        for one in (found["read_back"] or {}).get("wrong", ()):
            click.echo(f"  {one['sentence']}")
    if found["read_back"] and not found["read_back"]["holds"]:
        raise SystemExit(1)
