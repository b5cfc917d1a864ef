"""A source of the listening desk: any block of its audio on the timeline, exactly.

A block depends on its position only, not on earlier reads: it equals the same part of the whole decoded and
converted file.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType
from typing import Self

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.listening.spool import Spooled
from ripe_press.core.signal.resample import Resampler, grid_frames, reach_frames
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.units import frames_after_conversion

Stereo = NDArray[np.float32]
"""Audio for playback, shape ``(frames, 2)``; a single channel is on both sides."""

SIDES = 2
_LEAD_S = 0.05
"""Sound before and after a stretch that its conversion hears as well: 20 ms are enough for all rates (measured)."""


@dataclass(frozen=True, slots=True)
class Voice:
    """A source on the timeline of a listening desk, its first sample at ``offset_frames``.

    ``spool`` is the path of its decoded samples if the codec has no random access.
    """

    source: AudioSource
    desk_hz: int
    offset_frames: int = 0
    spool: str = ""

    @property
    def frames(self) -> int:
        """Length in samples of the timeline."""
        facts = self.source.facts
        return frames_after_conversion(facts.frames, facts.rate_hz, self.desk_hz)


class VoiceReader:
    """An open source; each call holds little more than its block.

    Raises: as `Source.open`.
    """

    def __init__(self, voice: Voice) -> None:
        self._voice = voice
        self._facts = voice.source.facts
        self._open = (
            Spooled(Path(voice.spool), self._facts.frames, self._facts.channels) if voice.spool else voice.source.open()
        )

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        """Lets go of the file."""
        self._open.close()

    def stretch(self, start_frame: int, frames: int) -> Stereo:
        """A block of samples from a position; zeros before the start and after the end.

        Raises: Unreadable for damaged files.
        """
        out = np.zeros((frames, SIDES), dtype=np.float32)
        first = start_frame - self._voice.offset_frames
        begin, end = max(0, first), min(self._voice.frames, first + frames)
        if begin < end:
            same = self._facts.rate_hz == self._voice.desk_hz
            found = self._read(begin, end) if same else self._converted(begin, end)
            out[begin - first : begin - first + len(found)] = found
        return out

    def _read(self, start: int, end: int) -> Block:
        return _joined(self._open.blocks(start, end), self._facts.channels)

    def _converted(self, begin: int, end: int) -> Block:
        """Frames at the playback rate, converted from a common point of both grids, with their surroundings."""
        from_hz, to_hz = self._facts.rate_hz, self._voice.desk_hz
        grid = grid_frames(from_hz, to_hz)
        lead = max(round(_LEAD_S * from_hz), 2 * reach_frames(from_hz, to_hz))
        first = max(0, begin * from_hz // to_hz - lead) // grid
        last = min(self._facts.frames, -(-end * from_hz // to_hz) + lead)
        converter = Resampler(from_hz, to_hz, self._facts.channels)
        blocks = self._open.blocks(first * grid, last)
        made = [converter.process(block) for block in blocks]
        skip = begin - first * grid_frames(to_hz, from_hz)
        return np.concatenate((*made, converter.flush()))[skip : skip + end - begin]


def _joined(blocks: Iterator[Block], channels: int) -> Block:
    return np.concatenate((np.zeros((0, channels)), *blocks))
