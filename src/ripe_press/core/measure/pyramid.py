"""The peak pyramid: what a waveform is drawn from at any zoom, made in the one pass at import.

Level 0 holds one bin for every 256 frames, each further level one for four of the level below. A bin is
``(minimum, maximum, mean square)`` of its frames, for each channel, in 32-bit float. All levels lie one after
the other in one plain binary file, whose layout follows from the length and the number of channels alone.
"""

from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block, empty_block

BASE_FRAMES = 256
STEP = 4
VALUES = 3

Bins = NDArray[np.float32]


def reduce_frames(block: Block, frames_per_bin: int) -> Bins:
    """Bins of a block, shape ``(bins, channels, 3)``; the last bin may stand for fewer frames."""
    from ripe_press.core.kernels.bins import reduce

    out = np.empty((-(-len(block) // frames_per_bin), block.shape[1], VALUES), dtype=np.float32)
    reduce(block, frames_per_bin, out)
    return out


GAP_S = 1.5
PIECE_BELOW_DBFS = -60.0
"""Silence of so long, at most so loud, parts two pieces (our own choice)."""


def sounding_pieces(
    bins: Bins, frames_per_bin: int, rate_hz: int, frames: int, below_dbfs: float = PIECE_BELOW_DBFS
) -> list[tuple[int, int]]:
    """(start, end) in samples of the audio between long silences; pieces shorter than 1 s are omitted.

    Silence is an RMS below a level, as a full-scale sine reads 0, or peaks below the lowest such level.
    """
    if below_dbfs > PIECE_BELOW_DBFS:
        above = bins[..., 2].mean(axis=1) >= 10 ** (below_dbfs / 10) / 2
    else:
        above = (np.abs(bins[..., :2]) >= 10 ** (PIECE_BELOW_DBFS / 20)).any(axis=(1, 2))
    loud = np.flatnonzero(above)
    if not len(loud):
        return []
    breaks = np.flatnonzero(np.diff(loud) > GAP_S * rate_hz / frames_per_bin)
    firsts = loud[np.concatenate(([0], breaks + 1))]
    lasts = loud[np.concatenate((breaks, [len(loud) - 1]))]
    pieces = [
        (int(first) * frames_per_bin, min(frames, (int(last) + 1) * frames_per_bin))
        for first, last in zip(firsts, lasts, strict=True)
    ]
    return [(start, end) for start, end in pieces if end - start >= rate_hz]


def reduce_bins(bins: Bins) -> Bins:
    """The next level: four bins into one; the last may stand for fewer."""
    missing = -len(bins) % STEP
    if missing:
        bins = np.concatenate((bins, np.repeat(bins[-1:], missing, axis=0)))
    groups = bins.reshape(-1, STEP, bins.shape[1], VALUES)
    return np.stack((groups[..., 0].min(axis=1), groups[..., 1].max(axis=1), groups[..., 2].mean(axis=1)), axis=-1)


@dataclass(frozen=True, slots=True)
class PyramidShape:
    """The position of each level in the file."""

    frames: int
    channels: int

    def levels(self) -> tuple[int, ...]:
        """Bins of each level, finest first, down to a level of one bin."""
        sizes = [max(1, -(-self.frames // BASE_FRAMES))]
        while sizes[-1] > 1:
            sizes.append(-(-sizes[-1] // STEP))
        return tuple(sizes)

    def open_level(self, path: Path, level: int) -> Bins:
        """A level as a read-only view of the file, shape ``(bins, channels, 3)``."""
        sizes = self.levels()
        offset = sum(sizes[:level]) * self.channels * VALUES * 4
        shape = (sizes[level], self.channels, VALUES)
        return np.memmap(path, dtype="<f4", mode="r", offset=offset, shape=shape)


class PyramidMeter:
    """Writes level 0 while blocks come by; ``finish`` adds the others. Memory does not grow with length."""

    def __init__(self, channels: int, file: BinaryIO) -> None:
        self._file = file
        self._channels = channels
        self._rest: Block = empty_block(channels)
        self._frames = 0

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        self._frames += len(block)
        if len(self._rest):
            block = np.concatenate((self._rest, block))
        whole = len(block) - len(block) % BASE_FRAMES
        self._write(reduce_frames(block[:whole], BASE_FRAMES))
        self._rest = block[whole:].copy()

    def result(self) -> PyramidShape:
        """Finish the file and return its shape."""
        if len(self._rest) or not self._frames:
            rest = self._rest if len(self._rest) else np.zeros((1, self._channels))
            self._write(reduce_frames(rest, BASE_FRAMES))
        shape = PyramidShape(self._frames, self._channels)
        for level in range(1, len(shape.levels())):
            self._file.flush()
            below = shape.open_level(Path(self._file.name), level - 1)
            for start in range(0, len(below), 1 << 16):
                self._write(reduce_bins(np.asarray(below[start : start + (1 << 16)])))
        self._file.flush()
        return shape

    def _write(self, bins: Bins) -> None:
        self._file.write(bins.astype("<f4", copy=False).tobytes())


def quietest_dbfs(level_bins: Bins, bin_frames: int, window_frames: int) -> float:
    """The lowest RMS level of any window of about ``window_frames``, all channels together, in dBFS.

    A full-scale sine reads 0 dBFS. ``-inf`` when some window is digital silence.
    """
    power = np.asarray(level_bins[..., 2], dtype=np.float64).mean(axis=1)
    width = max(1, min(len(power), round(window_frames / bin_frames)))
    sums = np.concatenate(([0.0], np.cumsum(power)))
    lowest = float((sums[width:] - sums[:-width]).min()) / width
    return float(10 * np.log10(lowest / 0.5)) if lowest > 1e-20 else float("-inf")
