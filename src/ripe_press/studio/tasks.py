"""What runs inside worker processes: frozen values and paths in, frozen values out."""

import time
from dataclasses import dataclass
from pathlib import Path

from ripe_press.core.engine import stations as st
from ripe_press.core.engine.tree import merge
from ripe_press.core.engine.walker import Walker
from ripe_press.core.formats.reader import SourceFacts, SourceReader
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


def read_in(path: str, pyramid_path: str, job: str) -> tuple[Survey, str]:
    """The survey of a file, its pyramid written, and the SHA-256 of its bytes."""
    folder = JobFolder(Path(job))
    result = survey(Path(path), Path(pyramid_path), folder.report, folder.cancelled)
    return result, hash_file(Path(path))


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
