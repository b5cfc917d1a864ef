"""The meter of what a file differs by from what it should be, block by block, while the source is walked."""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.measure.content import SpectrumMeter, SpectrumResult
from ripe_press.core.proof.against.alignment import Alignment, Stretches
from ripe_press.core.proof.against.looks import Looks, LooksMeter
from ripe_press.core.proof.hearing import Audibility
from ripe_press.core.proof.hearing.any_rate import HearingAtAnyRate
from ripe_press.core.units import db_from_linear, db_of_power

COLUMN_S = 0.1
DROPPED_S = 0.001
"""Silence of this length where there should be sound is a gap."""
_SOUNDING = 10 ** (-60 / 20)
_FLAT_TOP = 0.999
_LEVELS = 64
_BEYOND = 1.5
"""How many times what the noise that was meant reaches a sample may be off before it counts as another one."""


@dataclass(frozen=True, slots=True)
class SoundDifference:
    """What a file differs by from what it should be, once it is laid over it.

    ``other_samples`` differ from the integers that were to be made; None where a codec loses some. Of the rest,
    ``held_samples`` lie at the file's own highest level below what they should be, ``strange_samples`` are off by more
    than the noise, from ``first_strange_frame`` on, and ``gaps`` (first frame, frames) are silent where there should be
    sound. Levels are in dBFS as a full-scale sine reads 0; the noise is the median over tenths of a
    second. ``curve_dbfs`` is the difference of every tenth of a second.
    """

    frames: int
    peak_dbfs: float
    rms_dbfs: float
    source_dbfs: float
    curve_dbfs: NDArray[np.float32] = field(repr=False)
    most_frame: int
    """Where a tenth of a second begins in which most differs."""
    source_spectrum: SpectrumResult = field(repr=False)
    file_spectrum: SpectrumResult = field(repr=False)
    difference_spectrum: SpectrumResult = field(repr=False)
    meant_spectrum: SpectrumResult | None = field(repr=False, default=None)
    other_samples: int | None = None
    first_other_frame: int | None = None
    noise_dbfs: float = -math.inf
    meant_noise_dbfs: float = -math.inf
    held_samples: int = 0
    strange_samples: int = 0
    first_strange_frame: int | None = None
    gaps: tuple[tuple[int, int], ...] = ()
    over_samples: int = 0
    """Samples above full scale that were clipped on purpose: their difference exceeds the noise."""
    heard: Audibility | None = None
    looks: Looks | None = None

    @property
    def exact(self) -> bool:
        """Whether the file holds the samples that were to be made, to the bit."""
        return self.other_samples == 0


class ApartMeter:
    """Compare blocks of the expected audio with the same samples of a file.

    ``lies`` is the alignment of the file; ``make`` computes the exact expected samples and is None for lossy codecs;
    ``step`` is one quantisation step. Data for pictures is collected only if ``looks`` is set.
    """

    def __init__(
        self,
        file: Iterator[Block],
        lies: Alignment,
        channels: int,
        rate_hz: int,
        frames: int,
        make: Callable[[Block], Block] | None,
        step: float,
        hearing: bool,
        looks: bool = True,
    ) -> None:
        self._file, self._lies, self._rate_hz = file, lies, rate_hz
        self._rest: Block = np.zeros((0, channels))
        self._make, self._step = make, step
        self._skip_file, self._skip_source = max(0, lies.lag_frames), max(0, -lies.lag_frames)
        self._sign = (-1.0 if lies.inverted else 1.0) / 10 ** (lies.gain_db / 20)
        self.stretches = Stretches(frames, channels, make is None)
        self._spectra = [SpectrumMeter(rate_hz) for _ in range(4)]
        self._column = max(1, round(COLUMN_S * rate_hz))
        self._curve, self._noise, self._meant = (_Curve(self._column) for _ in range(3))
        self._hearing = HearingAtAnyRate(channels, rate_hz) if hearing else None
        self._frames, self._channels = 0, channels
        self._peak = self._power = self._source_power = 0.0
        self._other, self._first_other = 0, -1
        self._highest = 0.0
        self._held_at: dict[float, int] = {}
        self._strange, self._first_strange = 0, -1
        self._gaps: list[tuple[int, int]] = []
        self._over = 0
        self._ended = False
        self._looks = LooksMeter(channels, rate_hz, frames) if looks else None

    def process(self, source: Block) -> None:
        """Takes the next block of what should be in the file into account."""
        meant = self._make(source) if self._make else None
        if self._skip_source:
            skipped = min(self._skip_source, len(source))
            self._skip_source -= skipped
            source, meant = source[skipped:], None if meant is None else meant[skipped:]
        test = self._read(len(source))
        if not len(test):
            return
        source, meant = source[: len(test)], None if meant is None else meant[: len(test)]
        if self._lies.swapped:
            test = test[:, ::-1]
        self._compare(source, test if self._sign == 1.0 else test * self._sign, meant)

    def result(self) -> SoundDifference:
        """The results."""
        samples = max(1, self._frames * self._channels)
        curve = self._curve.powers()
        held = sum(count for level, count in self._held_at.items() if level >= self._highest * _FLAT_TOP)
        spectra = [one.result() for one in self._spectra]
        return SoundDifference(
            self._frames, db_from_linear(self._peak), db_of_power(self._power / samples),
            db_of_power(self._source_power / samples), _levels(curve),
            int(np.argmax(curve)) * self._column if len(curve) else 0, spectra[0], spectra[1], spectra[2],
            spectra[3] if self._make else None,
            self._other if self._make else None, self._first_other if self._first_other >= 0 else None,
            _median_db(self._noise.powers()), _median_db(self._meant.powers()), held,
            self._strange - held, self._first_strange if self._first_strange >= 0 else None, _joined(self._gaps),
            self._over, self._hearing.result() if self._hearing else None,
            self._looks.result() if self._looks else None,
        )  # fmt: skip

    def _read(self, frames: int) -> Block:
        wanted = frames + self._skip_file
        while len(self._rest) < wanted and not self._ended:
            block = next(self._file, None)
            if block is None:
                self._ended = True
            else:
                self._rest = np.concatenate((self._rest, block))
        found, self._rest = self._rest[self._skip_file : wanted], self._rest[wanted:]
        self._skip_file = 0
        return found

    def _compare(self, source: Block, test: Block, meant: Block | None) -> None:
        residue = test - source
        self.stretches.process(source, test)
        if self._looks:
            self._looks.process(source, test)
        if self._hearing:
            self._hearing.process(source, test)
        shown = [source, test, residue if meant is None else self._judge(source, test, residue, meant)]
        shown += [] if meant is None else [meant - source]
        for meter, signal in zip(self._spectra, shown, strict=False):
            meter.process(signal)
        self._peak = max(self._peak, float(np.abs(residue).max(initial=0.0)))
        self._power += float(np.square(residue).sum())
        self._source_power += float(np.square(source).sum())
        self._curve.add(np.square(residue).mean(axis=1))
        if meant is None:
            self._find_gaps(source, test)
        self._frames += len(source)

    def _judge(self, source: Block, test: Block, residue: Block, meant: Block) -> Block:
        """Compare samples with the expected ones, classify differences, and return the noise alone."""
        other, noise = test != meant, meant - source
        self._over += int(np.count_nonzero((np.abs(source) > 1) & (np.abs(noise) > self._step)))
        self._meant.add(np.square(noise).mean(axis=1))
        self._highest = max(self._highest, float(np.abs(test).max(initial=0.0)))
        if not (count := int(np.count_nonzero(other))):
            self._noise.add(np.square(residue).mean(axis=1))
            return residue
        self._other += count
        if self._first_other < 0:
            self._first_other = self._frames + _first(other)
        gone = self._find_gaps(source, test)[:, None]
        strange = (np.abs(residue) > _BEYOND * float(np.abs(noise).max(initial=0.0)) + self._step) & ~gone
        if strange.any():
            self._tell(source, test, strange)
        alone = np.where(strange | gone, noise, residue)
        self._noise.add(np.square(alone).mean(axis=1))
        return alone

    def _tell(self, source: Block, test: Block, strange: NDArray[np.bool_]) -> None:
        """Counts samples that are far off, and of these such as are held at one level, with more behind it."""
        self._strange += int(np.count_nonzero(strange))
        if self._first_strange < 0:
            self._first_strange = self._frames + _first(strange)
        levels, counts = np.unique(np.abs(test[strange & (np.abs(source) > np.abs(test))]), return_counts=True)
        for level, number in zip(levels[-_LEVELS:], counts[-_LEVELS:], strict=True):
            self._held_at[float(level)] = self._held_at.get(float(level), 0) + int(number)

    def _find_gaps(self, source: Block, test: Block) -> NDArray[np.bool_]:
        """Where the file is silent and the source is not; runs that cross the edge of blocks are joined later."""
        silent = test[:, 0] == 0
        for channel in range(1, test.shape[1]):
            silent &= test[:, channel] == 0
        gone = np.zeros(len(test), dtype=bool)
        if not silent.any():
            return gone
        edges = np.flatnonzero(np.diff(silent, prepend=False, append=False))
        least = DROPPED_S * self._rate_hz
        for start, end in zip(edges[::2], edges[1::2], strict=True):
            if end - start >= least and float(np.sqrt(np.square(source[start:end]).mean())) > _SOUNDING:
                gone[start:end] = True
                self._gaps.append((self._frames + int(start), int(end - start)))
        return gone


def _first(where: NDArray[np.bool_]) -> int:
    return int(np.flatnonzero(where)[0]) // int(where.shape[1])


class _Curve:
    """Means of every so many values, over the edges of blocks."""

    def __init__(self, length: int) -> None:
        self._length = length
        self._rest: NDArray[np.float64] = np.zeros(0)
        self._means: list[NDArray[np.float64]] = []

    def add(self, values: NDArray[np.float64]) -> None:
        values = np.concatenate((self._rest, values))
        whole = len(values) // self._length * self._length
        self._means.append(values[:whole].reshape(-1, self._length).mean(axis=1))
        self._rest = values[whole:]

    def powers(self) -> NDArray[np.float64]:
        """All powers, including the rest at the end."""
        last = [self._rest.mean(keepdims=True)] if len(self._rest) else []
        return np.concatenate([*self._means, *last]) if self._means or last else np.zeros(0)


def _levels(powers: NDArray[np.float64]) -> NDArray[np.float32]:
    with np.errstate(divide="ignore"):
        out: NDArray[np.float32] = (10 * np.log10(powers)).astype(np.float32)
    return out


def _median_db(powers: NDArray[np.float64]) -> float:
    sounding = powers[powers > 0]
    return db_of_power(float(np.median(sounding))) if len(sounding) * 2 > len(powers) else -math.inf


def _joined(gaps: list[tuple[int, int]]) -> tuple[tuple[int, int], ...]:
    found: list[tuple[int, int]] = []
    for first, frames in gaps:
        if found and found[-1][0] + found[-1][1] == first:
            found[-1] = (found[-1][0], found[-1][1] + frames)
        else:
            found.append((first, frames))
    return tuple(found)
