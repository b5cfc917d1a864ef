"""Live passes on the command line, in this process."""

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress
from ripe_press.core.errors import BadInput, NotFound, RipePressError
from ripe_press.core.live.score import read_score
from ripe_press.core.sources.source import facts_of_file
from ripe_press.core.whole_files import temporary_prefix
from ripe_press.core.words import quoted
from ripe_press.studio.live import LiveRequest, OnDropout, Rack, UnitAt, capture_now, layout_of, unit_at
from ripe_press.studio.planning import measured


def pass_now(
    mix: Path,
    address: str,
    score: Path | None,
    out: Path,
    progress: Progress,
    should_stop: Callable[[], bool],
    *,
    correct_drift: bool,
    on_dropout: OnDropout,
    stop_on_over: bool,
    send_gain_db: float,
) -> dict[str, Any]:
    """Runs a pass and gives its report. Raises: as `captures.capture_now`; BadInput ``pass.…``; as reading a mix."""
    facts = facts_of_file(mix)
    kind = "instrument" if score else "outboard"
    unit = unit_at(address) if address else _first(kind)
    if unit.unit != kind:
        wants = "plays a MIDI file. Add --play" if unit.unit == "instrument" else "takes audio. Omit --play"
        message = f"{unit.name} {wants}."
        raise BadInput("pass.kind", message, address=unit.address)
    frames = facts.frames
    if score:
        try:
            data = score.read_bytes()
        except OSError as error:
            message = f"Cannot read the MIDI file {quoted(score)}: {error.strerror}."
            raise NotFound("score.missing", message, path=str(score)) from error
        frames = max(frames, round((read_score(data).seconds + 2.0) * facts.rate_hz))
    wish = LiveRequest(
        "instrument" if score else "outboard", unit.address, unit.name, score=str(score or ""),
        correct_drift=correct_drift, on_dropout=on_dropout, stop_on_over=stop_on_over, send_gain_db=send_gain_db,
    )  # fmt: skip
    layout = layout_of(wish, facts.rate_hz, 2 if score else facts.channels, frames)
    sound = None if score else measured(facts).source
    out.absolute().parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(
        prefix=temporary_prefix("pass", out.absolute().parent), dir=out.absolute().parent
    ) as folder:
        spool, target = Path(folder) / "pass.f32", Path(folder) / "capture.wav"
        passed = capture_now(
            wish, layout, sound, spool, target, lambda levels: progress(levels.done, levels.total), should_stop
        )
        if passed.capture is None:
            raise passed.ended or BadInput("pass.nothing", "No signal returned.")
        target.replace(out.absolute())
    return {"capture": str(out), **passed.report, "ended": passed.ended.message if passed.ended else ""}


def _first(kind: str) -> UnitAt:
    """The first unit of a kind in the rack. Raises: NotFound ``rack.away``."""
    rack = Rack()
    for address in rack.addresses:
        try:
            found = unit_at(address)
        except RipePressError:
            continue
        if found.unit == kind:
            return found
    message = f"No {kind} at {' or '.join(rack.addresses)}. Start it with `ripe-press rack`."
    raise NotFound("rack.away", message)
