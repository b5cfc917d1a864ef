"""Handing a mix off to picture, on the command line."""

from pathlib import Path

import click

from ripe_press.cli.speech import PATH, as_json, say_json, show_progress, stop_on_signal


@click.command()
@click.argument("mix", type=PATH)
@click.option("--stems", type=PATH, help="A folder of its stems; otherwise those that the shelf has beside it.")
@click.option("--frame-rate", default="25", show_default=True, help="23.976, 24, 25, 29.97, 29.97df, 30, 50, 59.94…")
@click.option("--link", is_flag=True, help="Name the media where they lie, and copy none.")
@click.option("--out", type=PATH, required=True, help="The folder for timeline, edit list and media.")
@as_json
def handoff(mix: Path, stems: Path | None, frame_rate: str, link: bool, out: Path, as_json: bool) -> None:
    """Lay MIX and its stems on a timeline for picture editing (OpenTimelineIO), with an edit list in plain text."""
    from ripe_press.core.handoff.frame_rate import parse_frame_rate
    from ripe_press.studio.handoff_now import HandoffWish, hand_off, handed_file

    wish = HandoffWish(parse_frame_rate(frame_rate), link)
    report = hand_off(handed_file(mix, stems), wish, out, show_progress(as_json), stop_on_signal())
    if as_json:
        say_json(report)
    else:
        click.echo(report["timeline"])
        click.echo(report["edit_list"])
