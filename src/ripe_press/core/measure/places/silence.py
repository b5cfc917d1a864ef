"""Where sound begins and where it has ended."""

from dataclasses import dataclass

import numpy as np

from ripe_press.core.blocks import Block
from ripe_press.core.units import linear_from_db

SILENT_BELOW_DBFS = -70.0
"""A sample below this level in every channel counts as silence (our own choice, stated wherever shown)."""


@dataclass(frozen=True, slots=True)
class SilenceResult:
    """Frames of silence at the head and at the tail; both are the whole length when nothing sounds."""

    frames: int
    head_frames: int
    tail_frames: int

    @property
    def sounding(self) -> tuple[int, int]:
        """First sounding frame and the frame after the last; equal when nothing sounds."""
        if self.head_frames >= self.frames:
            return 0, 0
        return self.head_frames, self.frames - self.tail_frames

    def within(self, start_frame: int, end_frame: int) -> "SilenceResult":
        """The silence at the ends of a stretch, as far as that of the whole reaches into it."""
        frames = end_frame - start_frame
        head, tail = self.head_frames - start_frame, end_frame - (self.frames - self.tail_frames)
        return SilenceResult(frames, min(frames, max(0, head)), min(frames, max(0, tail)))


class SilenceMeter:
    """Finds the first and the last frame that reach ``threshold_dbfs`` in any channel."""

    def __init__(self, threshold_dbfs: float = SILENT_BELOW_DBFS) -> None:
        self._threshold = linear_from_db(threshold_dbfs)
        self._frames = 0
        self._first: int | None = None
        self._last_loud: tuple[int, Block] | None = None

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        if len(block) and max(float(block.max()), -float(block.min())) >= self._threshold:
            if self._first is None:
                self._first = self._frames + int(self._loud_frames(block)[0])
            # Only the last loud block matters for the tail: searching it once, at the end, is enough.
            self._last_loud = (self._frames, block)
        self._frames += len(block)

    def _loud_frames(self, block: Block) -> np.ndarray[tuple[int], np.dtype[np.intp]]:
        return np.flatnonzero((np.abs(block) >= self._threshold).any(axis=1))

    def result(self) -> SilenceResult:
        """The finished measure."""
        if self._first is None or self._last_loud is None:
            return SilenceResult(self._frames, self._frames, self._frames)
        start, block = self._last_loud
        last = start + int(self._loud_frames(block)[-1])
        return SilenceResult(self._frames, self._first, self._frames - last - 1)
