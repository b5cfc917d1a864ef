"""Compare a file with its mix: alignment, levels and differences."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path as FilePath
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block, Progress, no_progress
from ripe_press.core.engine.extra_meter import witnessed
from ripe_press.core.formats.capabilities import BITS, Encoding, is_float
from ripe_press.core.proof.against.alignment import Alignment
from ripe_press.core.proof.against.sound import ApartMeter, SoundDifference
from ripe_press.core.sources.source import open_file
from ripe_press.core.stations import Path, Piece
from ripe_press.core.stations.base import Signal

__all__ = ["Against", "Alignment", "SoundDifference", "hold_against"]

GAIN_TOLERANCE_DB = 0.05
ALL = Piece(0, 1 << 62)
"""In the place of a piece, where a file is all of what its path makes."""
Maker = Callable[[Block], Block] | None
"""What makes the very samples that are to be in a file; None where a codec loses some."""
LOSSY_GAIN_TOLERANCE_DB = 0.15
"""Encoders alone change the level by up to 0.08 dB (measured over four of them)."""


@dataclass(frozen=True, slots=True)
class Against:
    """A file and what its path makes of the mix; None where rate or channels are others: nothing can be compared."""

    lies: Alignment
    apart: SoundDifference | None
    reduction_db: NDArray[np.float64] | None = field(default=None, repr=False)
    """What limiters took off, for every 1,024 frames of the file; None without a limiter."""


def hold_against(
    path: Path,
    file: FilePath,
    should_stop: Callable[[], bool] = lambda: False,
    progress: Progress = no_progress,
    looks: bool = True,
) -> Against:
    """Holds a file against its path, whose level is settled: the mix is walked once more, and the file decoded.

    Where it does not lie as it should, it is walked again with that put right, so that what else differs shows.

    Raises: Interrupted ``press.cancelled``; Unreadable; whatever reading the mix raises.
    """
    with open_file(file, counted=False) as reader:
        facts = reader.facts
    if (facts.rate_hz, facts.channels) != (path.codec.rate_hz, path.codec.channels):
        return Against(Alignment(), None)
    found, reduction = _walked(path, file, Alignment(), should_stop, progress, looks)
    lies = found.stretches.result()
    apart = found.result()
    tolerance = LOSSY_GAIN_TOLERANCE_DB if path.codec.lossy else GAIN_TOLERANCE_DB
    if abs(lies.gain_db) <= tolerance:
        lies = replace(lies, gain_db=0.0)
    if apart.exact or not lies.related or lies.mono or lies == Alignment(correlation=lies.correlation):
        return Against(lies, apart, reduction)
    again, _ = _walked(path, file, lies, should_stop, progress, looks)
    return Against(lies, again.result(), reduction)


def _walked(
    path: Path, file: FilePath, lies: Alignment, should_stop: Callable[[], bool], progress: Progress, looks: bool
) -> tuple[ApartMeter, NDArray[np.float64] | None]:
    codec, depth = path.codec, path.depth
    hears = codec.lossy or bool(depth and not depth.exact)
    with open_file(file, counted=False) as reader:

        def apart(here: Signal, maker: Maker) -> ApartMeter:
            return ApartMeter(
                reader.blocks(), lies, here.channels, here.rate_hz, codec.frames, maker, _step(codec.encoding), hears,
                looks,
            )  # fmt: skip

        def make(here: Signal) -> "_OfPiece":
            maker = _maker(path, here)
            return _OfPiece(path.piece or ALL, maker, lambda made: apart(here, made))

        meter, report = witnessed(path.sounding, make, should_stop, progress)
    return meter.apart, report.reduction_db(codec.rate_hz)


class _OfPiece:
    """Pass on one piece of the blocks, with the samples made from it: the noise continues from the whole."""

    def __init__(self, piece: Piece, maker: Maker, apart: Callable[[Maker], ApartMeter]) -> None:
        self._first, self._last, self._at = piece.start_frame, piece.end_frame, 0
        self._maker = maker
        self._made: Block = np.zeros((0, 1))
        self.apart = apart(None if maker is None else lambda _block: self._made)

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        made = self._maker(block) if self._maker else None
        first, last = max(0, self._first - self._at), max(0, self._last - self._at)
        self._at += len(block)
        part = block[first:last]
        if len(part):
            self._made = self._made if made is None else made[first:last]
            self.apart.process(part)

    def result(self) -> Any:
        """The results."""
        return self.apart.result()


def _maker(path: Path, here: Signal) -> Maker:
    """What makes the very samples that are to be in the file; None where a codec loses some."""
    codec, depth = path.codec, path.depth
    if codec.lossy:
        return None
    if depth:
        (rounds,) = depth.work(here).processors
        return lambda block: rounds.process(block) / 2.0**31
    if codec.encoding == "f32":
        return lambda block: block.astype(np.float32).astype(np.float64)
    return lambda block: block


def _step(encoding: Encoding) -> float:
    """The distance of two neighbouring levels; of floating point that at full scale."""
    return 2.0**-23 if encoding == "lossy" or is_float(encoding) else 2.0 ** (1 - BITS[encoding])
