"""The command line: thin, over the same core and studio as the page.

Exit status: 0 done, 1 a file may not leave or the work failed, 2 wrong usage; the sentence goes to standard error.
"""

import json
import signal
import sys
import threading
import time
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer

from ripe_press.core.errors import BadInput, RipePressError

app = typer.Typer(
    add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, rich_markup_mode=None,
    help="Renders a finished stereo mix to delivery files, and proves that they are right.",
)  # fmt: skip

Json = Annotated[bool, typer.Option("--json", help="One JSON object on standard output and nothing else.")]
Data = Annotated[Path | None, typer.Option("--data", help="The data folder; otherwise RIPE_PRESS_DATA or a default.")]
Port = Annotated[int, typer.Option("--port", min=0, max=65535, help="The port on 127.0.0.1.")]


@app.command()
def press(
    mix: Annotated[Path, typer.Argument(help="The mix to press. It is never altered.")],
    brief: Annotated[str, typer.Option("--brief", help="Where the file is going: audio-cd.")],
    out: Annotated[Path, typer.Option("--out", help="The folder for the file; made when it is missing.")],
    from_: Annotated[str, typer.Option("--from", help="Start: 3.2, 0:03.2, 1:02:03.5 or 141120smp.")] = "",
    to: Annotated[str, typer.Option("--to", help="End, in the same forms.")] = "",
    as_json: Json = False,
) -> None:
    """Press a mix to a delivery file, and prove it."""
    from ripe_press.studio.press_now import press_now

    shown = _progress_line() if not as_json and sys.stderr.isatty() else (lambda _done, _total: None)
    report = press_now(mix, (brief,), out, from_, to, shown, _stop_on_signal())
    if as_json:
        print(json.dumps(report))  # noqa: T201
    else:
        for file in report["files"]:
            _say_file(file, report["times_realtime"])
    if any(file["verdict"] == "stop" for file in report["files"]):
        raise typer.Exit(1)


@app.command()
def measure(
    file: Annotated[Path, typer.Argument(help="The file to measure.")],
    as_json: Json = False,
) -> None:
    """Measure a file: what it is, its peak, clipped samples, silence at either end."""
    from ripe_press.core.survey import survey
    from ripe_press.studio.reports import measure_report

    report = measure_report(str(file), survey(file))
    if as_json:
        print(json.dumps(report))  # noqa: T201
        return
    for name, value in report.items():
        print(f"{name:28} {value}")  # noqa: T201


@app.command()
def serve(port: Port = 8137, data: Data = None) -> None:
    """Serve the page on 127.0.0.1."""
    from ripe_press.api.server import run
    from ripe_press.studio.data_folder import data_folder

    run(data_folder(data), port)


@app.command()
def demo(
    port: Port = 8137,
    data: Data = None,
    only_make: Annotated[bool, typer.Option("--only-make", help="Make the demo mixes and end.")] = False,
) -> None:
    """Make the demo mixes once, put them on the shelf, and serve the page."""
    from ripe_press.demo.mixes import make_demo_mixes
    from ripe_press.studio.data_folder import data_folder

    folder = data_folder(data)
    made = make_demo_mixes(folder.root / "demo", lambda sentence: print(sentence, flush=True))  # noqa: T201
    if only_make:
        return
    from ripe_press.api.server import run

    run(folder, port, demo_mixes=made)


def main() -> None:
    """Runs the command line and turns errors into a sentence and an exit status."""
    try:
        app(standalone_mode=False)
    except RipePressError as error:
        usage = isinstance(error, BadInput) or error.code in ("brief.unknown", "source.missing")
        _end(error.message, 2 if usage else 1)
    except typer.Exit as ended:
        raise SystemExit(ended.exit_code) from None
    except Exception as error:
        _end_unless_usage(error)


def _end_unless_usage(error: Exception) -> NoReturn:
    # The parser's own errors carry a sentence and a status; anything else is a fault of ours and is shown whole.
    format_message = getattr(error, "format_message", None)
    if format_message is None:
        raise error
    _end(str(format_message()), 2)


def _end(sentence: str, status: int) -> NoReturn:
    print(f"ripe-press: {sentence}", file=sys.stderr)  # noqa: T201
    raise SystemExit(status)


def _stop_on_signal() -> Any:
    """Asks a pressing to stop on the first interrupt, so that no half-made file is left."""
    asked = threading.Event()
    for name in (signal.SIGINT, signal.SIGTERM):
        signal.signal(name, lambda _number, _frame: asked.set())
    return asked.is_set


def _progress_line() -> Any:
    began = time.monotonic()
    last = [began]

    def show(done: int, total: int) -> None:
        now = time.monotonic()
        if now - last[0] < 0.2 and done < total:
            return
        last[0] = now
        left = (now - began) * (total - done) / max(1, done)
        end = "\n" if done >= total else ""
        print(f"\r{100 * done // total:3d} %, {left:.0f} s left ", end=end, file=sys.stderr, flush=True)  # noqa: T201

    return show


def _say_file(file: dict[str, Any], times_realtime: float) -> None:
    peak = file["measured"]["sample_peak_dbfs"]
    level = "digital silence" if peak is None else f"peak {peak:.1f} dBFS"
    print(f"{file['verdict']}: {file['path']}")  # noqa: T201
    print(  # noqa: T201
        f"  {file['frames']:,} frames, {file['bytes']:,} bytes, {level}, {times_realtime:.0f} times real time\n"
        f"  sha256 {file['sha256']}"
    )
    for finding in file["findings"]:
        print(f"  {finding['verdict']}: {finding['sentence']}")  # noqa: T201
