"""Running orders on the command line."""

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from ripe_press.cli.speech import PATH, as_json, say_json, say_pressed, say_tree, show_files, stop_on_signal

if TYPE_CHECKING:
    from ripe_press.core.wishes.document import Document

title_option = click.option("--title", default="", help="What the whole is called: the album, for tags and names.")
out_option = click.option("--out", type=PATH, required=True, help="The file to write the running order to.")


@click.group()
def order() -> None:
    """Running orders: mixes, or parts of one, that leave together."""


@order.command()
@click.argument("mixes", type=PATH, nargs=-1, required=True, metavar="MIX...")
@click.option("--gap", default="2s", show_default=True, help="The gap before each: 2s, 0:02.5 or 150cdf.")
@click.option("--runs-on", is_flag=True, help="No gaps: one signal through all stations, cut behind the last.")
@title_option
@out_option
@as_json
def make(mixes: tuple[Path, ...], gap: str, runs_on: bool, title: str, out: Path, as_json: bool) -> None:
    """Make a running order of whole mixes, in the order in which they are named."""
    from ripe_press.core.wishes.typed import parse_gap
    from ripe_press.studio.typed_orders import order_of_mixes

    made = order_of_mixes(mixes, title, parse_gap(gap), runs_on)
    _say(made, out, as_json)


@order.command()
@click.argument("mix", type=PATH)
@click.option("--markers", type=PATH, help="Markers as CSV or JSON; otherwise those of the mix.")
@click.option("--quiet-places", is_flag=True, help="Cut where it falls quiet instead: silence, applause falling away.")
@title_option
@out_option
@as_json
def cut(mix: Path, markers: Path | None, quiet_places: bool, title: str, out: Path, as_json: bool) -> None:
    """Cut one long mix into entries that run on."""
    from ripe_press.studio.typed_orders import order_by_cutting

    made = order_by_cutting(mix, title, markers, quiet_places)
    _say(made, out, as_json)


@order.command()
@click.argument("order_file", type=PATH, metavar="ORDER.json")
@click.option("--brief", "briefs", multiple=True, help="Where it is going; again for more; else those of the order.")
@click.option("--disc", "with_disc", is_flag=True, help="The tracks of a disc, too.")
@as_json
def plan(order_file: Path, briefs: tuple[str, ...], with_disc: bool, as_json: bool) -> None:
    """Show the tree of stations that a pressing of an order would walk: what runs on is one path, then cuts."""
    from ripe_press.studio.press_now import plan_now
    from ripe_press.studio.typed_orders import order_set_out, read_order

    say_tree(plan_now(order_set_out(read_order(order_file), briefs, with_disc)), as_json)


@order.command()
@click.argument("order_file", type=PATH, metavar="ORDER.json")
@click.option("--brief", "briefs", multiple=True, help="Where it is going; again for more; else those of the order.")
@click.option("--disc", "with_disc", is_flag=True, help="The image of a disc, too, in the folder `disc`.")
@click.option("--out", type=PATH, required=True, help="The folder for the files; made when it is missing.")
@as_json
def press(order_file: Path, briefs: tuple[str, ...], with_disc: bool, out: Path, as_json: bool) -> None:
    """Press every entry of a running order to every brief, with playlists beside them."""
    from ripe_press.studio.press_now import DiscWish, press_now
    from ripe_press.studio.typed_orders import order_set_out, read_order

    made = order_set_out(read_order(order_file), briefs, with_disc)
    disc = DiscWish(out / "disc") if with_disc else None
    report = press_now(made, out, show_files(as_json), stop_on_signal(), disc=disc)
    if as_json:
        say_json(report)
    else:
        say_pressed(report)
        for path in report.get("playlists", ()):
            click.echo(f"playlist: {path}")
        if disc:
            say_disc(report["disc"])
    if report["failed"] or any(file["verdict"] == "stop" for file in report["files"]):
        raise SystemExit(1)


def say_disc(found: dict[str, Any]) -> None:
    """A disc as it was checked, track by track."""
    held = sum(one["holds"] for one in found["checks"])
    click.echo(f"{found['verdict']:<6} {found['image']}: {held} of {len(found['checks'])} hold")
    for one in found["checks"]:
        if not one["holds"]:
            click.echo(f"       {one['sentence']}")
    for one in found.get("findings", ()):
        click.echo(f"       {one['sentence']}")
    for track in found["tracks"]:
        click.echo(f"{track['number']:>4}  {track['start']}  {track['isrc'] or '-':<12}  {track['title']}")
    click.echo(f"  out  {found['lead_out']}")


def _say(document: "Document", out: Path, as_json: bool) -> None:
    from ripe_press.studio.disc_making import order_report
    from ripe_press.studio.typed import known_of, write_document

    write_document(document, out)
    made = known_of(document)
    report = {"order": str(out), **order_report(made.document, made.knowledge_of)}
    if as_json:
        say_json(report)
        return
    for one in report["entries"]:
        join = "runs on" if one["runs_on"] else f"gap {one['gap']}"
        click.echo(f"{one['number']:>4}  {one['start']}  {one['length']}  {join:<12}  {one['title']}")
    left = f"left on a disc of 74 minutes {report['left_74']}, of 80 {report['left_80']}"
    click.echo(f"      {report['length']} in all; {left}")
    for one in report["findings"]:
        click.echo(f"{one['verdict']}: {one['sentence']}")
