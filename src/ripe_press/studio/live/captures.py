"""One live pass from its request to its capture, for application and command line."""

import json
import time
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any, Literal

from ripe_press.core.errors import RipePressError
from ripe_press.core.live.capture import Capture, CaptureResult, PassLayout, make_capture
from ripe_press.core.live.dropouts import Dropout
from ripe_press.core.requests.part import THE_MIX, Part
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.units import db_from_linear, finite, print_clock, print_count, print_db
from ripe_press.core.whole_files import move_whole, write_whole
from ripe_press.studio.live.live_pass import OnDropout, PassLevels, PassSettings, run_pass

PassKind = Literal["outboard", "instrument"]


@dataclass(frozen=True, slots=True)
class LiveRequest:
    """A real-time source: the sent signal, its unit, and the settings of the pass.

    ``part`` of the mix goes out to an outboard unit, with its ``finish`` or without; an instrument plays the file
    ``score``.
    """

    kind: PassKind
    address: str
    unit: str
    part: Part = THE_MIX
    finish: bool = False
    score: str = ""
    correct_drift: bool = True
    on_dropout: OnDropout = "go-on"
    stop_on_over: bool = False
    send_gain_db: float = 0.0


@dataclass(frozen=True, slots=True)
class Passed:
    """What came of a pass: a capture, where anything was heard, and what ended it where something did."""

    capture: Capture | None
    ended: RipePressError | None
    report: dict[str, Any] = field(default_factory=dict)


Make = Callable[[LiveRequest, CaptureResult, AudioSource | None, Path, RipePressError | None], Passed]
"""Makes the capture of a recording, here or in a worker."""


def layout_of(wish: LiveRequest, rate_hz: int, channels: int, frames: int) -> PassLayout:
    """Return the layout of the signal sent in a pass."""
    return PassLayout(rate_hz, channels, frames, "click" if wish.kind == "instrument" else "probe")


def live_seconds(rate_hz: int, frames: int) -> float:
    """How long a pass of so many frames takes, its probes with it."""
    return PassLayout(rate_hz, 2, frames).end / rate_hz


def capture_now(
    wish: LiveRequest,
    layout: PassLayout,
    sound: AudioSource | None,
    spool: Path,
    target: Path,
    progress: Callable[[PassLevels], None],
    should_stop: Callable[[], bool],
    given_up: Callable[[], bool] = lambda: False,
    make: "Make | None" = None,
) -> Passed:
    """Runs a pass and makes its capture, as long as was heard of it; where it is ``given_up``, only the spool is left.
    ``make`` is `captured`, done elsewhere.

    Raises: what a pass cannot begin for; Interrupted ``write.failed``.
    """
    settings = PassSettings(wish.on_dropout, wish.stop_on_over, wish.send_gain_db)
    score = Path(wish.score).read_bytes() if wish.score else b""
    heard, ended = run_pass(wish.address, layout, sound, score, settings, spool, progress, should_stop)
    keep_gaps(heard)
    if given_up():
        return Passed(None, ended)
    return (make or captured)(wish, heard, sound, target, ended)


def captured(
    wish: LiveRequest, heard: CaptureResult, sound: AudioSource | None, target: Path, ended: RipePressError | None
) -> Passed:
    """Return the capture of a recording; it gets its name only when it is complete. The spool is gone then."""
    new = target.with_suffix(".new.wav")
    try:
        capture = make_capture(heard, sound, new, correct_drift=wish.correct_drift)
    except RipePressError as error:
        new.unlink(missing_ok=True)
        return Passed(None, ended or error)
    report = report_of(wish, capture)
    write_whole(target.with_suffix(".json"), json.dumps(report))
    move_whole(new, target)
    heard.spool.unlink(missing_ok=True)
    gaps_beside(heard.spool).unlink(missing_ok=True)
    return Passed(capture, ended, report)


def report_beside(target: Path) -> dict[str, Any]:
    """Return the stored report of a capture that still has its file; None if it is not readable."""
    try:
        found = json.loads(target.with_suffix(".json").read_text())
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


def gaps_beside(spool: Path) -> Path:
    """Where the gaps of a spool are written down."""
    return spool.with_suffix(".gaps.json")


def keep_gaps(heard: CaptureResult) -> None:
    """Store the gaps of a recording next to its spool, for a later recovery."""
    write_whole(gaps_beside(heard.spool), json.dumps([asdict(one) for one in heard.gaps]))


def heard_before(spool: Path, layout: PassLayout) -> CaptureResult:
    """Return the recording of an interrupted pass."""
    try:
        gaps = tuple(Dropout(**one) for one in json.loads(gaps_beside(spool).read_text()))
    except (OSError, ValueError, TypeError):
        gaps = ()
    return CaptureResult(spool, layout, gaps)


def report_of(wish: LiveRequest, capture: Capture) -> dict[str, Any]:
    """Return the stored report of a capture."""
    return {
        "unit": wish.unit, "frames": capture.frames, "rate_hz": capture.rate_hz, "channels": capture.channels,
        "complete": capture.complete, "latency_frames": capture.latency_frames,
        "latency_after_frames": capture.latency_after_frames, "drift_ppm": capture.drift_ppm,
        "drift_corrected": capture.drift_corrected, "inverted": capture.inverted,
        "dropouts": [asdict(one) for one in capture.dropouts], "peak_dbfs": finite(db_from_linear(capture.peak)),
        "overs": capture.overs, "sentence": sentence_of(wish, capture),
    }  # fmt: skip


def sentence_of(wish: LiveRequest, capture: Capture) -> str:
    """Return the measurements in a sentence or two."""
    late = capture.latency_frames / capture.rate_hz * 1000
    said = [f"{wish.unit}: latency {print_count(round(capture.latency_frames), 'sample')} ({late:.1f} ms), removed"]
    after = capture.latency_after_frames
    if after is None:
        said.append("clock drift not measured (incomplete pass)")
    elif capture.drift_corrected and capture.drift_ppm is not None:
        said.append(f"clock drift {print_db(capture.drift_ppm, 'ppm')}, corrected")
    elif capture.drift_ppm is not None:
        said.append(f"clock drift {print_db(capture.drift_ppm, 'ppm')}")
    if capture.dropouts:
        first = print_clock(capture.dropouts[0].start_frame, capture.rate_hz)
        count = print_count(len(capture.dropouts), "dropout")
        said.append(f"{count}, first at {first}")
    else:
        said.append("no dropouts")
    if capture.overs:
        said.append(f"{print_count(capture.overs, 'sample')} clipped")
    else:
        said.append(f"peak {print_db(db_from_linear(capture.peak))}")
    if capture.inverted:
        said.append("inverted polarity")
    return "; ".join(said) + "."


def following(spool: Path, channels: int, runs: Callable[[], bool]) -> Iterator[bytes]:
    """What a spool takes in from now on, whole frames at a time, as long as its pass runs."""
    width = 4 * channels
    with spool.open("rb") as file:
        at = file.seek(0, 2) // width * width
        file.seek(at)
        while True:
            running = runs()
            data = file.read(1 << 16)
            whole = len(data) // width * width
            if whole:
                at += whole
                file.seek(at)
                yield data[:whole]
            elif not running:
                return
            else:
                time.sleep(0.02)


def wish_of(row: dict[str, Any]) -> LiveRequest:
    """A live wish out of plain values, as it is kept."""
    from pydantic import TypeAdapter

    found: LiveRequest = TypeAdapter(LiveRequest).validate_python(json.loads(json.dumps(row)))
    return found
