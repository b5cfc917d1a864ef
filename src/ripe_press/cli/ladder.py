"""The command line's ladder."""

from pathlib import Path

import click

from ripe_press.cli.speech import PATH, as_json, say_json, show_progress, stop_on_signal


@click.command()
@click.argument("mix", type=PATH)
@click.option("--downmix", default="", help="Of more than two channels: bs775 folds down, 1+2 is a pair, 3 is one.")
@click.option("--from", "start", default="", help="Code the mix from here on.")
@click.option("--to", "end", default="", help="Code it up to here.")
@click.option("--format", "container", default="", help="Begin with this format: aac, mp3, opus or vorbis.")
@as_json
def ladder(mix: Path, downmix: str, start: str, end: str, container: str, as_json: bool) -> None:
    """Codes a mix at every usual bit rate, and says the smallest file that nobody should tell from it.

    By a model of hearing; nobody listened. Exit status 1 when no rung is small and good.
    """
    from ripe_press.studio.typed import RangeWish
    from ripe_press.studio.up_the_ladder import ladder_of

    wish = RangeWish(start, end, downmix=downmix)
    found = ladder_of(mix, wish, show_progress(as_json), stop_on_signal(), container)
    if as_json:
        say_json(found)
    else:
        click.echo(f"{'':14} {'set to':<24} {'real':>9} {'size':>11} {'noise/mask':>11} {'peak':>10} {'up to':>9}")
        for rung in found["rungs"]:
            ratio = "the same" if rung["nmr_db"] is None else f"{rung['nmr_db']:.1f} dB"
            click.echo(
                f"{rung['codec']:<14} {rung['set_to']:<24} {rung['kbps']:>4.0f} kbps {rung['bytes'] / 1e6:>8.2f} MB "
                f"{ratio:>11} {rung['decoded_peak_dbtp'] or 0:>5.1f} dBTP {rung['bandwidth_hz'] / 1000:>5.1f} kHz"
                f"  {_SAID[rung['prediction']]}"
            )
        click.echo(found["sentence"])
    if found["smallest_transparent"] is None:
        raise SystemExit(1)


_SAID = {"same": "the same", "none": "no difference predicted", "perhaps": "perhaps a difference", "noticed": "noticed"}
