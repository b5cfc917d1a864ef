"""The command line: thin, over the same core and studio as the page.

Exit status: 0 done, 1 a file may not leave or the work failed, 2 wrong usage; the sentence goes to standard error.
"""

import json
import signal
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, NoReturn

import click

from ripe_press.core.errors import BadInput, NotFound, RipePressError

PATH = click.Path(path_type=Path)
as_json = click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output and nothing else.")
data_option = click.option("--data", type=PATH, help="The data folder; otherwise RIPE_PRESS_DATA or a default.")
port_option = click.option("--port", type=click.IntRange(0, 65535), default=8137, help="The port on 127.0.0.1.")


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
def app() -> None:
    """Renders a finished stereo mix to delivery files, and proves that they are right."""


@app.command()
@click.argument("mix", type=PATH)
@click.option("--brief", required=True, help="Where the file is going: audio-cd.")
@click.option("--out", type=PATH, required=True, help="The folder for the file; made when it is missing.")
@click.option("--from", "start", default="", help="Start: 3.2, 0:03.2, 1:02:03.5 or 141120smp.")
@click.option("--to", "end", default="", help="End, in the same forms.")
@as_json
def press(mix: Path, brief: str, out: Path, start: str, end: str, as_json: bool) -> None:
    """Press a mix to a delivery file, and prove it. The mix is never altered."""
    from ripe_press.studio.press_now import press_now

    show = _progress_line() if not as_json and sys.stderr.isatty() else (lambda _done, _total: None)
    report = press_now(mix, (brief,), out, start, end, show, _stop_on_signal())
    if as_json:
        click.echo(json.dumps(report))
    else:
        for file in report["files"]:
            _say_file(file, report["times_realtime"])
    if any(file["verdict"] == "stop" for file in report["files"]):
        raise SystemExit(1)


@app.command()
@click.argument("file", type=PATH)
@as_json
def measure(file: Path, as_json: bool) -> None:
    """Measure a file: what it is, its peak, clipped samples, silence at either end."""
    from ripe_press.core.survey import survey
    from ripe_press.studio.reports import measure_report

    report = measure_report(str(file), survey(file))
    if as_json:
        click.echo(json.dumps(report))
        return
    for name, value in report.items():
        click.echo(f"{name:28} {value}")


@app.command()
@port_option
@data_option
def serve(port: int, data: Path | None) -> None:
    """Serve the page on 127.0.0.1."""
    from ripe_press.api.server import run
    from ripe_press.studio.data_folder import data_folder

    run(data_folder(data), port)


@app.command()
@port_option
@data_option
@click.option("--only-make", is_flag=True, help="Make the demo mixes and end.")
def demo(port: int, data: Path | None, only_make: bool) -> None:
    """Make the demo mixes once, put them on the shelf, and serve the page."""
    from ripe_press.demo.mixes import make_demo_mixes
    from ripe_press.studio.data_folder import data_folder

    folder = data_folder(data)
    made = make_demo_mixes(folder.root / "demo", click.echo)
    if only_make:
        return
    from ripe_press.api.server import run

    run(folder, port, demo_mixes=made)


def main() -> None:
    """Runs the command line and turns errors into a sentence and an exit status."""
    try:
        app(standalone_mode=False)
    except RipePressError as error:
        usage = isinstance(error, BadInput | NotFound)
        _end(error.message, 2 if usage else 1)
    except click.ClickException as error:
        _end(error.format_message(), 2)
    except click.Abort:
        _end("Stopped.", 1)


def _end(sentence: str, status: int) -> NoReturn:
    click.echo(f"ripe-press: {sentence}", err=True)
    raise SystemExit(status)


def _stop_on_signal() -> Callable[[], bool]:
    """Asks a pressing to stop on the first interrupt, so that no half-made file is left."""
    asked = threading.Event()
    for name in (signal.SIGINT, signal.SIGTERM):
        signal.signal(name, lambda _number, _frame: asked.set())
    return asked.is_set


def _progress_line() -> Callable[[int, int], None]:
    began = time.monotonic()
    last = [began]

    def show(done: int, total: int) -> None:
        now = time.monotonic()
        if now - last[0] < 0.2 and done < total:
            return
        last[0] = now
        left = (now - began) * (total - done) / max(1, done)
        end = "\n" if done >= total else ""
        click.echo(f"\r{100 * done // total:3d} %, {left:.0f} s left {end}", nl=False, err=True)

    return show


def _say_file(file: dict[str, Any], times_realtime: float) -> None:
    peak = file["measured"]["sample_peak_dbfs"]
    level = "digital silence" if peak is None else f"peak {peak:.1f} dBFS"
    click.echo(f"{file['verdict']}: {file['path']}")
    click.echo(
        f"  {file['frames']:,} frames, {file['bytes']:,} bytes, {level}, {times_realtime:.0f} times real time\n"
        f"  sha256 {file['sha256']}"
    )
    for finding in file["findings"]:
        click.echo(f"  {finding['verdict']}: {finding['sentence']}")
