"""Simulated devices and live passes on the command line."""

import json
import time
from pathlib import Path
from typing import Any

import click

from ripe_press.cli.grouping import renamed
from ripe_press.cli.speech import PATH, as_json, data_option, say_json, show_progress, stop_on_signal, verdict
from ripe_press.core.units import print_count


class _Dropout(click.Choice[str]):
    """The choices on a dropout, by today's words or the earlier ones; gives the earlier ones, which are kept."""

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> str:
        """``go-on`` or ``end``."""
        earlier = {"go-on": "continue", "end": "stop"}
        return {"continue": "go-on", "stop": "end"}[super().convert(earlier.get(value, value), param, ctx)]


@click.command()
@click.argument("names", nargs=-1, metavar="[NAME]...")
@renamed(
    "--speedup", "hurry", earlier=["--hurry"], type=click.FloatRange(0, 1000), default=1.0, show_default=True,
    help="Speed factor for testing.",
)  # fmt: skip
@click.option("--folder", type=PATH, help="Folder for received files (default: in the data folder).")
@click.option("--any-port", is_flag=True, help="Use free ports instead of the default ones.")
@data_option
def rack(names: tuple[str, ...], hurry: float, folder: Path | None, any_port: bool, data: Path | None) -> None:
    """Start simulated devices and services.

    Names: outboard, instrument, mail, intake, sync (default: all). Prints one JSON line per device with its
    address. Ctrl C stops them.

    \b
    Example:
      ripe-press rack outboard instrument
    """
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.demo import StandIns, checked_names

    wanted = checked_names(names)
    place = (folder or data_folder(data).root / "rack").absolute()
    # Before any output: a reader of the lines may end this at once.
    asked = stop_on_signal()
    begun = StandIns()
    try:
        for name in wanted:
            click.echo(json.dumps(begun.begin(name, place, hurry=hurry, port=0 if any_port else None)))
        while not asked():
            time.sleep(0.1)
    finally:
        begun.close()


@click.command("pass")
@click.argument("mix", type=PATH)
@click.option("--through", "address", default="", help="Address of the unit (default: first of the rack).")
@click.option("--play", "score", type=PATH, help="MIDI file for an instrument, as long as MIX.")
@click.option("--out", type=PATH, required=True, help="Capture file, 32-bit float WAV.")
@renamed(
    "--correct-drift/--keep-drift", "correct_drift", earlier=[" /--as-heard"], default=True,
    show_default=True, help="Correct clock drift.",
)  # fmt: skip
@renamed(
    "--on-dropout", "on_drop_out", earlier=["--on-drop-out"], type=_Dropout(["continue", "stop"]), default="continue",
    show_default=True, help="Continue and list dropouts, or stop.",
)  # fmt: skip
@click.option("--stop-on-over", is_flag=True, help="Stop if the return clips.")
@click.option("--send-gain", type=click.FloatRange(-60, 24), default=0.0, show_default=True, help="Send gain in dB.")
@as_json
def live_pass(mix: Path, address: str, score: Path | None, out: Path, as_json: bool, **typed: Any) -> None:
    """Record outboard or instruments in real time.

    MIX is sent through outboard, or an instrument plays along with it. Latency is removed; clock drift and dropouts
    are measured.

    \b
    Example:
      ripe-press pass Millrace.wav --out "Millrace outboard.wav"
    """
    from ripe_press.studio.command_line import pass_now

    report = pass_now(
        mix, address, score, out, show_progress(as_json), stop_on_signal(), correct_drift=typed["correct_drift"],
        on_dropout=typed["on_drop_out"], stop_on_over=typed["stop_on_over"], send_gain_db=typed["send_gain"],
    )  # fmt: skip
    if as_json:
        say_json(report)
    else:
        click.echo(report["sentence"])
        for gap in report.get("dropouts", []):
            place = f"{print_count(gap['frames'], 'sample')} at sample {gap['start_frame']:,}"
            click.echo(f"{verdict('look')}: {gap['kind']}: {place}")
        if report["ended"]:
            click.echo(f"{verdict('stop')}: {report['ended']}")
    if report["ended"]:
        raise SystemExit(1)
