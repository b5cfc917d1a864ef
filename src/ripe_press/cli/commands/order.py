"""Running orders on the command line."""

from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar

import click

from ripe_press.cli.grouping import CommandsWithEarlier, renamed
from ripe_press.cli.speech import PATH, as_json, say_json, say_pressed, say_tree, show_files, stop_on_signal, verdict

if TYPE_CHECKING:
    from ripe_press.core.requests.document import Document

title_option = click.option("--title", default="", help="Title.")
out_option = click.option("--out", type=PATH, required=True, help="Running order file to write.")


class _Orders(CommandsWithEarlier):
    earlier: ClassVar = {"make": "create", "cut": "split"}


@click.group(cls=_Orders)
def order() -> None:
    """Create, check and press running orders (albums)."""


@order.command()
@click.argument("mixes", type=PATH, nargs=-1, required=True, metavar="MIX...")
@click.option("--gap", default="2s", show_default=True, help="Gap before each track: 2s, 0:02.5 or 150cdf.")
@renamed("--gapless", "runs_on", earlier=["--runs-on"], is_flag=True, help="No gaps.")
@title_option
@out_option
@as_json
def create(mixes: tuple[Path, ...], gap: str, runs_on: bool, title: str, out: Path, as_json: bool) -> None:
    """Create a running order from whole mixes.

    \b
    Example:
      ripe-press order create 1.wav 2.wav --title "Nine Weirs" --out weirs.json
    """
    from ripe_press.core.requests.from_command_line import parse_gap
    from ripe_press.studio.command_line import order_of_mixes

    made = order_of_mixes(mixes, title, parse_gap(gap), runs_on)
    _say(made, out, as_json)


@order.command()
@click.argument("mix", type=PATH)
@click.option("--markers", type=PATH, help="Marker file, CSV or JSON (default: from mix).")
@renamed("--at-silences", "quiet_places", earlier=["--quiet-places"], is_flag=True, help="Split at silences.")
@title_option
@out_option
@as_json
def split(mix: Path, markers: Path | None, quiet_places: bool, title: str, out: Path, as_json: bool) -> None:
    """Split a mix into gapless tracks at markers or silences.

    \b
    Example:
      ripe-press order split "Long Pound.wav" --at-silences --out pound.json
    """
    from ripe_press.studio.command_line import order_by_cutting

    made = order_by_cutting(mix, title, markers, quiet_places)
    _say(made, out, as_json)


@order.command()
@click.argument("order_file", type=PATH, metavar="ORDER.json")
@click.option("--brief", "briefs", multiple=True, help="Brief ID. Repeatable (default: from order).")
@click.option("--disc", "with_disc", is_flag=True, help="Include the disc.")
@as_json
def plan(order_file: Path, briefs: tuple[str, ...], with_disc: bool, as_json: bool) -> None:
    """Show the findings of a running order without pressing.

    \b
    Example:
      ripe-press order plan weirs.json --brief audio-cd
    """
    from ripe_press.studio.command_line import order_set_out, plan_now, read_order

    say_tree(plan_now(order_set_out(read_order(order_file), briefs, with_disc)), as_json)


@order.command()
@click.argument("order_file", type=PATH, metavar="ORDER.json")
@click.option("--brief", "briefs", multiple=True, help="Brief ID. Repeatable (default: from order).")
@click.option("--disc", "with_disc", is_flag=True, help="Also make the disc, in the folder `disc`.")
@click.option("--out", type=PATH, required=True, help="Output folder (created if missing).")
@as_json
def press(order_file: Path, briefs: tuple[str, ...], with_disc: bool, out: Path, as_json: bool) -> None:
    """Press every track of a running order for every brief.

    \b
    Example:
      ripe-press order press weirs.json --brief streaming-loud --out out
    """
    from ripe_press.studio.command_line import DiscRequest, order_set_out, press_now, read_order

    made = order_set_out(read_order(order_file), briefs, with_disc)
    disc = DiscRequest(out / "disc") if with_disc else None
    report = press_now(made, out, show_files(as_json), stop_on_signal(), disc=disc)
    if as_json:
        say_json(report.row)
    else:
        say_pressed(report)
        for path in report.playlists or ():
            click.echo(f"playlist: {path}")
        if report.disc:
            say_disc(report.disc)
    if not report.all_ready:
        raise SystemExit(1)


def say_disc(found: dict[str, Any]) -> None:
    """Print a checked disc, track by track."""
    held = sum(one["holds"] for one in found["checks"])
    click.echo(f"{verdict(found['verdict'])}: {found['image']}: {held} of {len(found['checks'])} checks passed")
    for one in found["checks"]:
        if not one["holds"]:
            click.echo(f"       {one['sentence']}")
    for one in found.get("findings", ()):
        click.echo(f"       {one['sentence']}")
    for track in found["tracks"]:
        click.echo(f"{track['number']:>4}  {track['start']}  {track['isrc'] or '-':<12}  {track['title']}")
    click.echo(f"  out  {found['lead_out']}")


def _say(document: "Document", out: Path, as_json: bool) -> None:
    from ripe_press.studio.command_line import known_of, write_document
    from ripe_press.studio.discs import order_report

    write_document(document, out)
    made = known_of(document)
    report = {"order": str(out), **order_report(made.document, made.knowledge_of)}
    if as_json:
        say_json(report)
        return
    for one in report["entries"]:
        join = "gapless" if one["runs_on"] else f"gap {one['gap']}"
        click.echo(f"{one['number']:>4}  {one['start']}  {one['length']}  {join:<12}  {one['title']}")
    left = f"left on a 74-minute disc {report['left_74']}, on an 80-minute disc {report['left_80']}"
    click.echo(f"      {report['length']} total; {left}")
    for one in report["findings"]:
        click.echo(f"{verdict(one['verdict'])}: {one['sentence']}")
