"""The rack and live passes on the command line."""

import json
import time
from pathlib import Path
from typing import Any

import click

from ripe_press.cli.speech import PATH, as_json, data_option, say_json, show_progress, stop_on_signal


@click.command()
@click.argument("names", nargs=-1, metavar="[NAME]...")
@click.option("--hurry", type=click.FloatRange(0, 1000), default=1.0, help="Times faster than time; for tries.")
@click.option("--folder", type=PATH, help="Where what comes in is kept; the folder of the rack in the data folder.")
@click.option("--any-port", is_flag=True, help="Take ports that are free, instead of the usual ones.")
@data_option
def rack(names: tuple[str, ...], hurry: float, folder: Path | None, any_port: bool, data: Path | None) -> None:
    """Start the stand-ins of the rack, all or those named: outboard, instrument, mail, intake, sync.

    One JSON line each says where it can be reached. They run until you end this.
    """
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.stand_ins import StandIns, checked_names

    wanted = checked_names(names)
    place = (folder or data_folder(data).root / "rack").absolute()
    # Before anything is told: whoever reads the lines may end this at once.
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
@click.option("--through", "address", default="", help="The unit's address; the first of its kind in the rack.")
@click.option("--play", "score", type=PATH, help="A Standard MIDI File for an instrument; as long as MIX at least.")
@click.option("--out", type=PATH, required=True, help="The capture: a WAV file of 32-bit floating point.")
@click.option("--correct-drift/--as-heard", default=True, help="Bring it to the time of the mix, or leave it as heard.")
@click.option("--on-drop-out", type=click.Choice(["go-on", "end"]), default="go-on", show_default=True)
@click.option("--stop-on-over", is_flag=True, help="End the pass where what comes back reaches full scale.")
@click.option("--send-gain", type=click.FloatRange(-60, 24), default=0.0, help="Gain of what goes out, in dB.")
@as_json
def live_pass(mix: Path, address: str, score: Path | None, out: Path, as_json: bool, **typed: Any) -> None:
    """Send MIX through a unit at the speed of time, or let an instrument play beside it, and keep what comes back.

    Latency, drift and drop-outs are measured. Exit status 1 when the pass did not come to its end.
    """
    from ripe_press.studio.live_now import pass_now

    report = pass_now(
        mix, address, score, out, show_progress(as_json), stop_on_signal(), correct_drift=typed["correct_drift"],
        on_dropout=typed["on_drop_out"], stop_on_over=typed["stop_on_over"], send_gain_db=typed["send_gain"],
    )  # fmt: skip
    if as_json:
        say_json(report)
    else:
        click.echo(report["sentence"])
        for gap in report.get("dropouts", []):
            click.echo(f"look  {gap['kind']}: {gap['frames']} frames at frame {gap['start_frame']:,}")
        if report["ended"]:
            click.echo(f"stop  {report['ended']}")
    if report["ended"]:
        raise SystemExit(1)
