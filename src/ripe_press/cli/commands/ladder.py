"""The bit-rate ladder on the command line."""

from pathlib import Path

import click

from ripe_press.cli.speech import PATH, as_json, say_json, show_progress, stop_on_signal
from ripe_press.core.words import PREDICTIONS


@click.command()
@click.argument("mix", type=PATH)
@click.option("--downmix", default="", help="Multichannel: bs775, pair 1+2, or channel 3.")
@click.option("--from", "start", default="", help="Start.")
@click.option("--to", "end", default="", help="End.")
@click.option("--format", "container", default="", help="First format to test: aac, mp3, opus or vorbis.")
@as_json
def ladder(mix: Path, downmix: str, start: str, end: str, container: str, as_json: bool) -> None:
    """Find the smallest transparent lossy setting.

    The prediction is from a hearing model; confirm it by ear.

    \b
    Example:
      ripe-press ladder Millrace.wav --format opus
    """
    from ripe_press.studio.command_line import RangeRequest, ladder_of

    wish = RangeRequest(start, end, downmix=downmix)
    found = ladder_of(mix, wish, show_progress(as_json), stop_on_signal(), container)
    if as_json:
        say_json(found)
    else:
        click.echo(
            f"{'':14} {'setting':<24} {'bit rate':>10} {'size':>11} {'noise/mask':>11} {'peak':>10} {'bandwidth':>9}"
        )
        for rung in found["rungs"]:
            ratio = "none" if rung["nmr_db"] is None else f"{rung['nmr_db']:.1f} dB"
            click.echo(
                f"{rung['codec']:<14} {rung['set_to']:<24} {rung['kbps']:>3.0f} kbit/s {rung['bytes'] / 1e6:>8.2f} MB "
                f"{ratio:>11} {rung['decoded_peak_dbtp'] or 0:>5.1f} dBTP {rung['bandwidth_hz'] / 1000:>5.1f} kHz"
                f"  {PREDICTIONS[rung['prediction']]}"
            )
        click.echo(found["sentence"])
    if found["smallest_transparent"] is None:
        raise SystemExit(1)


_SAID = {"same": "the same", "none": "no difference predicted", "perhaps": "perhaps a difference", "noticed": "noticed"}
