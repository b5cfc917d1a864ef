"""The command line, over the same core and studio as the web application.

Exit codes: see the topic ``exit-codes``. Error messages go to standard error.
"""

import os
import sys
from pathlib import Path
from typing import Any, ClassVar, NoReturn

import click

from ripe_press.cli.commands.carry import export, import_
from ripe_press.cli.commands.disc import disc
from ripe_press.cli.commands.handoff import handoff
from ripe_press.cli.commands.key import key
from ripe_press.cli.commands.ladder import ladder
from ripe_press.cli.commands.live import live_pass, rack
from ripe_press.cli.commands.order import order
from ripe_press.cli.commands.record import again, check, compare, doctor, history
from ripe_press.cli.commands.send import send
from ripe_press.cli.commands.sheet import bag, sheet, sidecar
from ripe_press.cli.commands.stems import stems
from ripe_press.cli.commands.watch import watch
from ripe_press.cli.grouping import GroupedCommand, GroupedCommands, renamed
from ripe_press.cli.helping import completion, help_
from ripe_press.cli.set_out import GROUPS, set_out_of, with_set_out
from ripe_press.cli.speech import (
    PATH,
    VERBOSITY,
    as_json,
    data_option,
    say_json,
    say_pressed,
    say_tree,
    show_files,
    show_progress,
    stop_on_signal,
)
from ripe_press.core.errors import BadInput, NotFound, RipePressError

# Nothing here multiplies matrices, and starting the linear algebra library's threads costs 0.15 s a command.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

browser_option = click.option("--browser/--no-browser", default=None, help="Open a browser (default on a terminal).")
port_option = click.option("--port", type=click.IntRange(0, 65535), default=8137, show_default=True, help="Port.")


class _Commands(GroupedCommands):
    groups: ClassVar = {
        "Basics": ("press", "plan", "measure", "briefs", "sets", "check", "watch", "serve"),
        "Albums and discs": ("order", "disc"),
        "Stems and live passes": ("stems", "pass", "rack"),
        "Sending": ("send", "sheet", "key", "bag", "sidecar", "handoff"),
        "History": ("history", "again", "compare", "export", "import"),
        "Tools": ("ladder", "markers", "doctor", "demo", "help", "completion"),
    }
    earlier: ClassVar = {"record": "history"}


@click.group(
    cls=_Commands, epilog="`ripe-press help` lists topics: times, levels, names, tags, formats, exit codes and more.",
    context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 120},
)  # fmt: skip
def app() -> None:
    """Render a finished stereo mix to delivery files and verify them."""


for _command in (
    history,
    check,
    compare,
    again,
    doctor,
    ladder,
    order,
    disc,
    stems,
    rack,
    live_pass,
    sheet,
    sidecar,
    handoff,
    send,
    key,
    bag,
    watch,
    export,
    import_,
    help_,
    completion,
):
    app.add_command(_command)


@app.command(cls=GroupedCommand, groups=GROUPS)
@with_set_out
@click.option("--out", type=PATH, required=True, help="Output folder (created if missing).")
def press(mixes: tuple[Path, ...], briefs: tuple[str, ...], out: Path, as_json: bool, **typed: Any) -> None:
    """Render mixes to verified delivery files.

    The mixes are never changed.

    \b
    Examples:
      ripe-press press Millrace.wav --brief audio-cd --out out
      ripe-press press Millrace.wav --from 0:10 --to 1:40 --format flac --out out
    """
    from ripe_press.scripting import plan as plan_job, press as press_job

    made = set_out_of(mixes, briefs, typed)
    if VERBOSITY.verbose and not as_json:
        say_tree(plan_job(made), as_json)
    report = press_job(made, out, progress=show_files(as_json), should_stop=stop_on_signal())
    if as_json:
        say_json(report.row)
    else:
        say_pressed(report)
    if not report.all_ready:
        raise SystemExit(1)


@app.command(cls=GroupedCommand, groups=GROUPS)
@with_set_out
@click.option("--ticket-out", type=PATH, help="Save the ticket as a file.")
def plan(
    mixes: tuple[Path, ...], briefs: tuple[str, ...], ticket_out: Path | None, as_json: bool, **typed: Any
) -> None:
    """Show deliveries and findings without pressing.

    \b
    Example:
      ripe-press plan Millrace.wav --brief streaming-loud
    """
    from ripe_press.scripting import plan as plan_job
    from ripe_press.studio.command_line import write_document

    made = set_out_of(mixes, briefs, typed)
    if ticket_out:
        write_document(made.document, ticket_out)
    say_tree(plan_job(made), as_json)


@app.command()
@as_json
def briefs(as_json: bool) -> None:
    """List briefs and their requirements.

    \b
    Example:
      ripe-press briefs
    """
    from ripe_press.studio.command_line import all_briefs

    found = all_briefs()
    if as_json:
        say_json({"briefs": found})
        return
    for brief in found:
        click.echo(f"{brief['id']:16} {brief['title']}: {brief['sentence']} {brief['why']}")


@app.command()
@as_json
def sets(as_json: bool) -> None:
    """List saved sets of deliveries.

    \b
    Example:
      ripe-press sets
    """
    from ripe_press.studio.sets import sets_here

    found = {name: [line.brief for line in like.ticket] for name, like in sets_here().items()}
    if as_json:
        say_json({"sets": [{"name": name, "briefs": briefs} for name, briefs in found.items()]})
        return
    for name, briefs in found.items():
        click.echo(f"{name:16} {', '.join(briefs)}")


@app.command()
@click.argument("mix", type=PATH)
@as_json
def markers(mix: Path, as_json: bool) -> None:
    """List the markers of a mix.

    \b
    Example:
      ripe-press markers Millrace.wav
    """
    from ripe_press.core.formats.marker_lists import markers_csv, markers_json
    from ripe_press.core.sources.source import facts_of_file
    from ripe_press.core.tags.embedded import read_embedded

    facts = facts_of_file(mix)
    found = read_embedded(mix, facts.rate_hz, facts.frames).markers
    show = markers_json if as_json else markers_csv
    click.echo(show(found, facts.rate_hz), nl=as_json)


@app.command()
@click.argument("file", type=PATH)
@click.option("--downmix", default="", help="Multichannel: bs775, pair 1+2, or channel 3.")
@click.option("--from", "start", default="", help="Start. Positions are relative to it.")
@click.option("--to", "end", default="", help="End.")
@as_json
def measure(file: Path, downmix: str, start: str, end: str, as_json: bool) -> None:
    """Measure peaks, loudness, clipping and silence.

    \b
    Examples:
      ripe-press measure Millrace.wav
      ripe-press measure Millrace.wav --from 0:10 --to 0:40 --json
    """
    from ripe_press.cli.commands.measured import room, say_measured
    from ripe_press.core.tags.embedded import read_embedded
    from ripe_press.core.tags.pictures import read_cover
    from ripe_press.scripting import measure as measure_file
    from ripe_press.studio.reports import measure_report, survey_with_wave

    wave: list[float] = []
    if as_json or start or end:
        result = measure_file(file, start=start, end=end, downmix=downmix)
    else:
        # A picture of the whole: of a stretch there are its figures alone.
        result, wave = survey_with_wave(file, downmix, room(), show_progress(quiet=False))
    embedded = read_embedded(file, result.facts.rate_hz, result.facts.frames)
    report = measure_report(str(file), result, embedded, read_cover(file))
    if as_json:
        say_json(report)
    else:
        say_measured(report, wave, "" if wave else f", from {start or 'its start'} to {end or 'its end'}")


@app.command()
@port_option
@data_option
@click.option("--host", default="127.0.0.1", show_default=True, help="Listen address (non-local: token required).")
@click.option("--name", "names", multiple=True, help="Additional host name of this machine. Repeatable.")
@click.option("--tls", is_flag=True, help="Use HTTPS with a certificate made for this data folder.")
@click.option("--cert", type=PATH, help="Use HTTPS with this certificate (PEM).")
@click.option("--cert-key", type=PATH, help="Key of --cert (default: in the same file).")
@browser_option
@click.option("--scheduler", default="", help="Dask scheduler to press on, tcp://host:8786.")
def serve(host: str, port: int, data: Path | None, browser: bool | None, **more: Any) -> None:
    """Start the web application.

    It listens on this machine only, unless --host is given.

    \b
    Example:
      ripe-press serve --data studio
    """
    from ripe_press.api.server import Encryption, run
    from ripe_press.studio.data_folder import data_folder

    line = Encryption(more["tls"] or more["cert"] is not None, more["cert"], more["cert_key"])
    run(
        data_folder(data), port, host=host, names=more["names"], line=line, scheduler=more["scheduler"],
        browser=_wanted(browser),
    )  # fmt: skip


@app.command()
@port_option
@data_option
@browser_option
@renamed("--create-only", "only_make", earlier=["--only-make"], is_flag=True, help="Create the demo mixes, then exit.")
def demo(port: int, data: Path | None, only_make: bool, browser: bool | None) -> None:
    """Start the web application with demo mixes.

    \b
    Example:
      ripe-press demo --port 8140
    """
    from ripe_press.demo.mixes import make_demo_mixes
    from ripe_press.studio.data_folder import data_folder

    # What the demo makes stays with the demo.
    os.environ.setdefault("RIPE_PRESS_SAVE_TO", "pressed")
    folder = data_folder(data)
    made = make_demo_mixes(folder.root / "demo", click.echo)
    if only_make:
        return
    from ripe_press.api.server import run

    run(folder, port, demo_mixes=made, browser=_wanted(browser))


def _wanted(browser: bool | None) -> bool:
    """Whether to open a browser: on a terminal, unless chosen otherwise."""
    return sys.stdout.isatty() if browser is None else browser


def main() -> None:
    """Run the command line; turn errors into a message and an exit code."""
    try:
        app(standalone_mode=False)
    except RipePressError as error:
        usage = isinstance(error, BadInput | NotFound)
        _end(error.message, 2 if usage else 1)
    except click.ClickException as error:
        _end(error.format_message(), 2)
    except MemoryError:
        _end("Out of memory. Close other programs or run `ulimit -v unlimited`.", 1)
    except click.Abort:
        _end("Stopped.", 1)


def _end(sentence: str, status: int) -> NoReturn:
    click.echo(f"ripe-press: {sentence}", err=True)
    raise SystemExit(status)
