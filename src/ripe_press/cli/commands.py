"""The command line: thin, over the same core and studio as the page.

Exit status: 0 done, 1 a file may not leave or the work failed, 2 wrong usage; the sentence goes to standard error.
"""

import os
import sys
from pathlib import Path
from typing import Any, ClassVar, NoReturn

import click

from ripe_press.cli.carry import export, import_
from ripe_press.cli.disc import disc
from ripe_press.cli.grouping import GroupedCommand, GroupedCommands
from ripe_press.cli.handoff import handoff
from ripe_press.cli.helping import completion, help_
from ripe_press.cli.key import key
from ripe_press.cli.ladder import ladder
from ripe_press.cli.live import live_pass, rack
from ripe_press.cli.order import order
from ripe_press.cli.record import again, check, compare, doctor, record
from ripe_press.cli.send import send
from ripe_press.cli.set_out import GROUPS, set_out_of, with_set_out
from ripe_press.cli.sheet import bag, sheet, sidecar
from ripe_press.cli.speech import (
    LOUDNESS,
    PATH,
    as_json,
    data_option,
    say_json,
    say_pressed,
    say_tree,
    show_files,
    show_progress,
    stop_on_signal,
)
from ripe_press.cli.stems import stems
from ripe_press.cli.watch import watch
from ripe_press.core.errors import BadInput, NotFound, RipePressError

# Nothing here multiplies matrices, and starting the linear algebra library's threads costs 0.15 s a command.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

browser_option = click.option("--browser/--no-browser", default=None, help="Open the page; otherwise on a terminal.")
port_option = click.option("--port", type=click.IntRange(0, 65535), default=8137, help="The port on 127.0.0.1.")


class _Commands(GroupedCommands):
    groups: ClassVar = {
        "Every day": ("press", "plan", "measure", "briefs", "check", "watch", "serve"),
        "Albums and discs": ("order", "disc"),
        "Stems, and what goes no faster than time": ("stems", "pass", "rack"),
        "To others": ("send", "sheet", "key", "bag", "sidecar", "handoff"),
        "Looking back": ("record", "again", "compare", "export", "import"),
        "Finding out": ("ladder", "markers", "doctor", "demo", "help", "completion"),
    }


@click.group(
    cls=_Commands, epilog="`ripe-press help` lists topics: times, levels, names, tags, formats and more.",
    context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 120},
)  # fmt: skip
def app() -> None:
    """Renders a finished stereo mix to delivery files, and proves that they are right."""


for _command in (
    record,
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
@click.option("--out", type=PATH, required=True, help="The folder for the files; made when it is missing.")
def press(mixes: tuple[Path, ...], briefs: tuple[str, ...], out: Path, as_json: bool, **typed: Any) -> None:
    """Press mixes to delivery files, and prove them. The mixes are never altered."""
    from ripe_press.studio.press_now import plan_now, press_now

    made = set_out_of(mixes, briefs, typed)
    if LOUDNESS.verbose and not as_json:
        say_tree(plan_now(made), as_json)
    report = press_now(made, out, show_files(as_json), stop_on_signal())
    if as_json:
        say_json(report)
    else:
        say_pressed(report)
    if report["failed"] or any(file["verdict"] == "stop" for file in report["files"]):
        raise SystemExit(1)


@app.command(cls=GroupedCommand, groups=GROUPS)
@with_set_out
@click.option("--ticket-out", type=PATH, help="Write what is set out to a file, for `--ticket`, here or elsewhere.")
def plan(
    mixes: tuple[Path, ...], briefs: tuple[str, ...], ticket_out: Path | None, as_json: bool, **typed: Any
) -> None:
    """Show the tree of stations that a pressing would walk, and what is noticed, without pressing."""
    from ripe_press.studio.press_now import plan_now
    from ripe_press.studio.typed import write_document

    made = set_out_of(mixes, briefs, typed)
    if ticket_out:
        write_document(made.document, ticket_out)
    report = plan_now(made)
    say_tree(report, as_json)


@app.command()
@as_json
def briefs(as_json: bool) -> None:
    """List the briefs: where a mix can go, what is asked for there, and why."""
    from ripe_press.studio.press_now import all_briefs

    found = all_briefs()
    if as_json:
        say_json({"briefs": found})
        return
    for brief in found:
        click.echo(f"{brief['id']:16} {brief['title']}: {brief['sentence']} {brief['why']}")


@app.command()
@click.argument("mix", type=PATH)
@as_json
def markers(mix: Path, as_json: bool) -> None:
    """List the markers that a mix carries, as CSV, or as JSON."""
    from ripe_press.core.formats.marker_lists import markers_csv, markers_json
    from ripe_press.core.sources.source import facts_of_file
    from ripe_press.core.tags.embedded import read_embedded

    facts = facts_of_file(mix)
    found = read_embedded(mix, facts.rate_hz, facts.frames).markers
    show = markers_json if as_json else markers_csv
    click.echo(show(found, facts.rate_hz), nl=as_json)


@app.command()
@click.argument("file", type=PATH)
@click.option("--downmix", default="", help="Of more than two channels: bs775 folds down, 1+2 is a pair, 3 is one.")
@click.option("--from", "start", default="", help="Measure from here on; places then count from here.")
@click.option("--to", "end", default="", help="Measure up to here.")
@as_json
def measure(file: Path, downmix: str, start: str, end: str, as_json: bool) -> None:
    """Measure a file, or a stretch of it: peaks, loudness, clipping, silence, and what is really in it."""
    from ripe_press.cli.measured import room, say_measured
    from ripe_press.core.sources.source import facts_of_file
    from ripe_press.core.survey import survey
    from ripe_press.core.tags.embedded import read_embedded
    from ripe_press.core.tags.pictures import read_cover
    from ripe_press.studio.reports import measure_report, survey_with_wave
    from ripe_press.studio.typed import RangeWish, frames_of

    first, last = 0, None
    if start or end:
        first, last = frames_of(RangeWish(start, end), facts_of_file(file, downmix))
    wave: list[float] = []
    if as_json or first or last is not None:
        result = survey(file, downmix=downmix, start_frame=first, end_frame=last)
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
@click.option("--host", default="127.0.0.1", show_default=True, help="Another address demands the token it prints.")
@click.option("--name", "names", multiple=True, help="Another name that the machine is asked for under; repeatable.")
@click.option("--tls", is_flag=True, help="Encrypt the line, with a certificate of this data folder.")
@click.option("--cert", type=PATH, help="Encrypt it with this certificate (PEM) instead.")
@click.option("--cert-key", type=PATH, help="The key of that certificate, where it is not in the same file.")
@browser_option
@click.option("--scheduler", default="", help="Press on a Dask cluster: tcp://host:8786; see docs/cluster.md.")
def serve(host: str, port: int, data: Path | None, browser: bool | None, **more: Any) -> None:
    """Serve the page, on this machine alone unless another address is named."""
    from ripe_press.api.server import Line, run
    from ripe_press.studio.data_folder import data_folder

    line = Line(more["tls"] or more["cert"] is not None, more["cert"], more["cert_key"])
    run(
        data_folder(data), port, host=host, names=more["names"], line=line, scheduler=more["scheduler"],
        browser=_wanted(browser),
    )  # fmt: skip


@app.command()
@port_option
@data_option
@browser_option
@click.option("--only-make", is_flag=True, help="Make the demo mixes and end.")
def demo(port: int, data: Path | None, only_make: bool, browser: bool | None) -> None:
    """Make the demo mixes once, put them on the shelf, and serve the page."""
    from ripe_press.demo.mixes import make_demo_mixes
    from ripe_press.studio.data_folder import data_folder

    folder = data_folder(data)
    made = make_demo_mixes(folder.root / "demo", click.echo)
    if only_make:
        return
    from ripe_press.api.server import run

    run(folder, port, demo_mixes=made, browser=_wanted(browser))


def _wanted(browser: bool | None) -> bool:
    """Whether the page is opened: where somebody sits at a terminal, unless something else was said."""
    return sys.stdout.isatty() if browser is None else browser


def main() -> None:
    """Runs the command line and turns errors into a sentence and an exit status."""
    try:
        app(standalone_mode=False)
    except RipePressError as error:
        usage = isinstance(error, BadInput | NotFound)
        _end(error.message, 2 if usage else 1)
    except click.ClickException as error:
        _end(error.format_message(), 2)
    except MemoryError:
        _end("There is not enough memory for this here. Close other programs, or run `ulimit -v unlimited` first.", 1)
    except click.Abort:
        _end("Stopped.", 1)


def _end(sentence: str, status: int) -> NoReturn:
    click.echo(f"ripe-press: {sentence}", err=True)
    raise SystemExit(status)
