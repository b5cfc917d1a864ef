"""How a file lies against what it should be: by how much later, which side is which, which way up, how loud.

It is found by correlation over a few loud stretches, never assumed from what a codec promises.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block

STRETCH_FRAMES = 16_384
"""The length correlated at once; the offset of a file may be up to a quarter of it."""
MOST_LAG_FRAMES = STRETCH_FRAMES // 4
MOST_STRETCHES = 8
RELATED = 0.5
"""A correlation below which two sounds have nothing to do with each other (our own choice)."""
_GAIN_BANDS, _ALIKE = 48, 0.995
_LEVELLED = 0.8
"""Samples above this part of the largest are not weighed: something may have held them."""


@dataclass(frozen=True, slots=True)
class Alignment:
    """``lag_frames`` later than it should be; of which sign; sides exchanged; a sum of both sides; ``gain_db`` louder.

    ``correlation`` is 1 where nothing but these differs; None where the source is silent.
    """

    lag_frames: int = 0
    inverted: bool = False
    swapped: bool = False
    mono: bool = False
    gain_db: float = 0.0
    correlation: float | None = None

    @property
    def related(self) -> bool:
        """Whether the file comes of this source at all."""
        return self.correlation is None or self.correlation >= RELATED


class Stretches:
    """Keeps the loudest stretch of every so many frames of a source, and the same frames of a file."""

    def __init__(self, frames: int, channels: int, lossy: bool = False) -> None:
        self._lossy = lossy
        self._every = max(STRETCH_FRAMES, frames // MOST_STRETCHES)
        self._channels = channels
        self._kept: dict[int, tuple[float, Block, Block]] = {}
        self._at = 0

    def process(self, source: Block, test: Block) -> None:
        """Takes the next block of both into account."""
        for start in range(0, max(1, len(source) - STRETCH_FRAMES + 1), STRETCH_FRAMES):
            part = source[start : start + STRETCH_FRAMES]
            energy, span = float(np.square(part).sum()), (self._at + start) // self._every
            if energy > self._kept.get(span, (0.0,))[0]:
                self._kept[span] = (energy, part.copy(), test[start : start + STRETCH_FRAMES].copy())
        self._at += len(source)

    def result(self) -> Alignment:
        """What fits all of them best."""
        return align([(one, other) for _, one, other in self._kept.values()], self._lossy)


def align(stretches: Sequence[tuple[Block, Block]], lossy: bool = False) -> Alignment:
    """How the second of every pair lies against the first; of ``lossy`` ones only what came back well is weighed."""
    if not stretches:
        return Alignment()
    channels = stretches[0][0].shape[1]
    ways = [False, True] if channels == 2 else [False]
    found = {way: sum(_correlated(one, other[:, ::-1] if way else other) for one, other in stretches) for way in ways}
    # Where both sides are equal, an exchange is not detectable.
    swapped = channels == 2 and float(np.abs(found[True]).max()) > 1.02 * float(np.abs(found[False]).max())
    curve = np.asarray(found[swapped])
    place = int(np.argmax(np.abs(curve)))
    lag, inverted = place - MOST_LAG_FRAMES, bool(curve[place] < 0)
    pairs = [shifted(one, other[:, ::-1] if swapped else other, lag) for one, other in stretches]
    source, test = (np.concatenate(side) for side in zip(*pairs, strict=True))
    if inverted:
        test = -test
    energies = float(np.sqrt(np.square(source).sum() * np.square(test).sum()))
    correlation = float((source * test).sum()) / energies if energies else 0.0
    gain_db = _coded_gain_db(source, test) if lossy else _gain_db(source, test)
    return Alignment(lag, inverted, swapped, _mono(source, test), gain_db, correlation)


def shifted(source: Block, test: Block, lag_frames: int) -> tuple[Block, Block]:
    """The parts of both that belong together when the second lies so many frames later."""
    late, early = max(0, lag_frames), max(0, -lag_frames)
    count = max(0, min(len(source) - early, len(test) - late))
    return source[early : early + count], test[late : late + count]


def _correlated(source: Block, test: Block) -> NDArray[np.float64]:
    """The correlation at every lag, earlier first, in units of what the stretch itself would give."""
    size = 2 * STRETCH_FRAMES
    spectra = np.conj(np.fft.rfft(source, size, axis=0)) * np.fft.rfft(test, size, axis=0)
    whole = np.fft.irfft(spectra.sum(axis=1), size)
    scale = float(np.sqrt(np.square(source).sum() * np.square(test).sum())) or 1.0
    out: NDArray[np.float64] = np.concatenate((whole[-MOST_LAG_FRAMES:], whole[: MOST_LAG_FRAMES + 1])) / scale
    return out


def _gain_db(source: Block, test: Block) -> float:
    largest = float(np.abs(test).max(initial=0.0))
    kept = (np.abs(test) <= _LEVELLED * largest) & (test != 0)
    power = float(np.square(source[kept]).sum())
    ratio = float((source[kept] * test[kept]).sum()) / power if power else 1.0
    return float(20 * np.log10(ratio)) if ratio > 0 else 0.0


def _coded_gain_db(source: Block, test: Block) -> float:
    """From the bands that are almost unchanged: in the others the encoder removes content, which is not a level."""
    one, other = (np.fft.rfft(samples, axis=0) for samples in (source, test))
    if len(source) < STRETCH_FRAMES:
        # Too little was coded to separate removed content from a level.
        return 0.0
    edges = np.unique(np.geomspace(1, len(one), _GAIN_BANDS + 1).astype(int))
    before, after, both = (
        np.add.reduceat(values.sum(axis=1), edges[:-1])
        for values in (np.square(np.abs(one)), np.square(np.abs(other)), (np.conj(one) * other).real)
    )
    kept = (before > 0) & (both > _ALIKE * np.sqrt(before * after))
    if not kept.any():
        return 0.0
    gains, weights = both[kept] / before[kept], before[kept]
    order = np.argsort(gains)
    middle = int(np.searchsorted(np.cumsum(weights[order]), weights.sum() / 2))
    return float(20 * np.log10(gains[order][min(middle, len(order) - 1)]))


def _mono(source: Block, test: Block) -> bool:
    """Whether both sides of the file are one, and those of the source are not."""
    if source.shape[1] != 2:
        return False
    differs = [float(np.square(one[:, 0] - one[:, 1]).mean()) for one in (source, test)]
    powers = [float(np.square(one).mean()) or 1.0 for one in (source, test)]
    return differs[1] < 1e-6 * powers[1] and differs[0] > 1e-4 * powers[0]
