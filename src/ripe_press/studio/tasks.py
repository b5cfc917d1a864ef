"""What runs inside worker processes: frozen values and paths in, frozen values out."""

import time
from dataclasses import dataclass, replace
from pathlib import Path

from ripe_press.core.engine import stations as st
from ripe_press.core.engine.tree import merge
from ripe_press.core.engine.walker import Walker
from ripe_press.core.errors import Interrupted
from ripe_press.core.formats.reader import SourceFacts, SourceReader
from ripe_press.core.formats.wav import WavWriter
from ripe_press.core.measure.pyramid import reduce_frames
from ripe_press.core.press import PressedFile, PressOrder, press
from ripe_press.core.proof import hash_file
from ripe_press.core.survey import Survey, survey
from ripe_press.studio.jobs import JobFolder


@dataclass(frozen=True, slots=True)
class TimedPressing:
    """The files of a pressing and how long it took in the worker."""

    files: tuple[PressedFile, ...]
    seconds: float


def examine(path: str) -> SourceFacts:
    """The facts of a file, without reading its samples."""
    with SourceReader(Path(path)) as reader:
        return reader.facts


@dataclass(frozen=True, slots=True)
class ReadIn:
    """What was found in a file that came in; ``decoded`` when a copy was made that can be read from any frame."""

    survey: Survey
    sha256: str
    decoded: str | None


def read_in(path: str, pyramid_path: str, job: str) -> ReadIn:
    """Measures a file and writes its pyramid; a codec that cannot be entered at any frame is decoded once, to float.

    32-bit float holds every integer of up to 24 bits exactly, so a lossless codec loses nothing by it.
    """
    folder = JobFolder(Path(job))
    sha256 = hash_file(Path(path))
    with SourceReader(Path(path)) as reader:
        facts = reader.facts
        decoded = None
        if not reader.seeks_exactly:
            decoded = Path(job) / "decoded.wav"
            with WavWriter(decoded, "f32", facts.rate_hz, facts.channels) as writer:
                for block in reader.blocks():
                    if folder.cancelled():
                        message = f"Reading {Path(path).name!r} was cancelled; nothing was kept of it."
                        raise Interrupted("survey.cancelled", message)
                    writer.write(block)
    result = survey(decoded or Path(path), Path(pyramid_path), folder.report, folder.cancelled)
    if decoded:
        result = replace(result, facts=facts, effective_bits=result.effective_bits if facts.bit_depth else None)
    return ReadIn(result, sha256, str(decoded) if decoded else None)


def press_order(order: PressOrder, job: str) -> TimedPressing:
    """Presses an order; progress and cancelling go through the job folder."""
    folder = JobFolder(Path(job))
    began = time.monotonic()
    files = press(order, folder.report, folder.cancelled)
    return TimedPressing(files, time.monotonic() - began)


def cut_to_listen(path: st.Path, target: str, job: str) -> None:
    """Renders a path to a file that is followed while it grows."""
    folder = JobFolder(Path(job))
    (root,) = merge((path,))
    Walker(root, {0: Path(target)}).run(lambda _done, _total: None, folder.cancelled)


def read_tile(path: str, start_frame: int, frames: int, frames_per_bin: int) -> bytes:
    """Bins of a stretch too fine for the kept pyramid, as little-endian 32-bit floats."""
    with SourceReader(Path(path)) as reader:
        parts = [
            reduce_frames(block, frames_per_bin).astype("<f4").tobytes()
            for block in reader.blocks(start_frame, start_frame + frames)
        ]
    return b"".join(parts)
