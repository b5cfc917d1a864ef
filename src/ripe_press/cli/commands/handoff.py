"""Timeline export on the command line."""

from pathlib import Path

import click

from ripe_press.cli.speech import PATH, as_json, say_json, show_progress, stop_on_signal


@click.command()
@click.argument("mix", type=PATH)
@click.option("--stems", type=PATH, help="Folder of stems (default: those on the Shelf).")
@click.option(
    "--frame-rate", default="25", show_default=True, help="23.976, 24, 25, 29.97, 29.97df, 30, 50, 59.94, 60."
)
@click.option("--link", is_flag=True, help="Link the media instead of copying them.")
@click.option("--out", type=PATH, required=True, help="Output folder (created if missing).")
@as_json
def handoff(mix: Path, stems: Path | None, frame_rate: str, link: bool, out: Path, as_json: bool) -> None:
    """Export a video-editing timeline.

    OpenTimelineIO with MIX and stems, and a text edit list.

    \b
    Example:
      ripe-press handoff Millrace.wav --frame-rate 25 --out picture
    """
    from ripe_press.core.handoff.frame_rate import parse_frame_rate
    from ripe_press.studio.command_line import handed_file
    from ripe_press.studio.handoff import HandoffRequest, hand_off

    wish = HandoffRequest(parse_frame_rate(frame_rate), link)
    report = hand_off(handed_file(mix, stems), wish, out, show_progress(as_json), stop_on_signal())
    if as_json:
        say_json(report)
    else:
        click.echo(report["timeline"])
        click.echo(report["edit_list"])
