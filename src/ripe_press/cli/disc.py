"""Discs on the command line."""

from pathlib import Path

import click

from ripe_press.cli.order import say_disc
from ripe_press.cli.speech import PATH, as_json, say_json, show_progress, stop_on_signal


@click.group()
def disc() -> None:
    """Audio discs: images made, checked and burnt."""


@disc.command(name="press")
@click.argument("order_file", type=PATH, metavar="ORDER.json")
@click.option("--tracks", is_flag=True, help="Keep one WAV a track, too, in the folder `tracks`.")
@click.option("--out", type=PATH, required=True, help="The folder for the disc; made when it is missing.")
@as_json
def press_disc(order_file: Path, tracks: bool, out: Path, as_json: bool) -> None:
    """Press a running order as a disc: image, cue sheet, CD-Text, checksums and log sheet."""
    from ripe_press.studio.press_now import DiscWish, press_now
    from ripe_press.studio.typed_orders import order_set_out, read_order

    made = order_set_out(read_order(order_file), (), True, alone=True)
    report = press_now(made, out, show_progress(as_json), stop_on_signal(), disc=DiscWish(out, tracks))
    found = {**report["disc"], "files": report["files"], "seconds": report["seconds"], "pressing": report["pressing"]}
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
    """Holds an image and its cue sheet, from anywhere, against the rules of the disc and against each other.

    Exit status 1 when anything does not hold.
    """
    from ripe_press.studio.discs import check_image

    found = check_image(what, show_progress(as_json))
    if as_json:
        say_json(found)
    else:
        say_disc(found)
    if found["verdict"] != "ready":
        raise SystemExit(1)
