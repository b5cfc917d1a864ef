"""Playback of the joins of a running order: a few seconds around each, rendered by the same stations."""

import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np

from ripe_press.core.blocks import Block
from ripe_press.core.engine.walker import walk
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.capabilities import PLAIN, Encoding
from ripe_press.core.formats.writing.wav import WavWriter
from ripe_press.core.requests.document import Document, read_document
from ripe_press.core.sources.source import open_file
from ripe_press.core.stations import Codec, Path as StationPath
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND
from ripe_press.core.whole_files import temporary_prefix
from ripe_press.studio.planning import DISC_LINE, measured, resolved_order

_HEARD_AS: Encoding = "s24"


def hear_join(document: str, join: int, seconds: float, gain_db: float, target: str) -> None:
    """Writes the sound around the join before an entry: the end of the one before it, the gap, and its beginning.

    It is what the first brief of the order makes of it, or else a disc, with a gain that was foreseen.
    Raises: BadInput ``order.no-join``; whatever reading raises.
    """
    before, after, gap_s = _paths(read_document(document), join)
    with tempfile.TemporaryDirectory(prefix=temporary_prefix("join")) as folder:
        place = Path(folder)
        if after.run and before.run and after.run.source == before.run.source and after.run.before:
            # One signal: a window of the run itself, across the cut.
            heard = _walked(_around(after, seconds), gain_db, place, 0)
        else:
            first = _walked(_end_of(before, seconds), gain_db, place, 1)
            second = _walked(_start_of(after, seconds), gain_db, place, 2)
            silence = np.zeros((round(min(gap_s, 10.0) * after.codec.rate_hz), second.shape[1]))
            heard = np.concatenate((first, silence, second))
    with WavWriter(Path(target), _HEARD_AS, after.codec.rate_hz, heard.shape[1]) as writer:
        writer.write((np.clip(heard, -1, 1 - 2.0**-23) * 2.0**31).astype(np.int32))


def _paths(document: Document, join: int) -> tuple[StationPath, StationPath, float]:
    order = document.order
    if order is None or not 0 < join < len(order.entries):
        message = "Join not found."
        raise BadInput("order.no-join", message, join=join)
    line = order.lines[0] if order.lines else DISC_LINE
    alone = replace(order, lines=(line,) if line is not DISC_LINE else (), disc=line is DISC_LINE)
    files, refused = resolved_order(document, alone, lambda wish: measured(wish.source.facts))
    ids = [order.entries[at].id for at in (join - 1, join)]
    found = [next((one.planned.path for one in files if one.line.range_id == wanted), None) for wanted in ids]
    before, after = found
    if before is None or after is None:
        raise refused[0].error
    gap_s = 0.0 if order.entries[join].runs_on else order.entries[join].gap_frames / CD_FRAMES_PER_SECOND
    return before, after, gap_s


def _around(path: StationPath, seconds: float) -> StationPath:
    """A window of the run across the place where an entry begins."""
    run = path.run
    if run is None:
        raise TypeError(path)
    rate_hz = run.source.facts.rate_hz
    at = round(run.piece.start_frame * rate_hz / path.codec.rate_hz) - run.cut.silence_before
    return _window(replace(path, source=run.source, cut=run.cut, finish=run.finish), at, seconds, seconds)


def _end_of(path: StationPath, seconds: float) -> StationPath:
    return _window(path, path.cut.sounding_frames, seconds, 0.0)


def _start_of(path: StationPath, seconds: float) -> StationPath:
    return _window(path, 0, 0.0, seconds)


def _window(path: StationPath, at: int, before_s: float, behind_s: float) -> StationPath:
    rate_hz, most = path.source.facts.rate_hz, path.cut.sounding_frames
    first, last = max(0, at - round(before_s * rate_hz)), min(most, at + round(behind_s * rate_hz))
    return replace(path, run=None, cut=replace(path.cut, window=(first, last), silence_before=0, silence_after=0))


def _walked(path: StationPath, gain_db: float, folder: Path, number: int) -> Block:
    """What the stations make of a window, as far as to the making of integers."""
    target = path.target
    path = replace(path, level=target.settled(gain_db) if target else path.level)
    line = (*path.sounding, Codec(PLAIN, "f64", path.codec.rate_hz, path.codec.channels, 0))
    file = folder / f"{number}.wav"
    walk([line], {0: file})
    with open_file(file) as reader:
        return np.concatenate([np.zeros((0, path.codec.channels)), *reader.blocks()])
