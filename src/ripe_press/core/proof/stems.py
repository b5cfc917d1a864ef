"""Check stems against their mix: alignment and sum.

The contribution of each stem comes from least squares over its loud passages, its delay from correlation with the
mix minus the other stems. Names and gains are not assumed.
"""

import math
import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass, replace
from itertools import repeat
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import BLOCK_FRAMES, Block, Progress, no_progress
from ripe_press.core.errors import BadInput, Cancelled
from ripe_press.core.sources.source import AudioSource, Reader
from ripe_press.core.units import db_from_linear, db_of_power, print_count, print_db, print_rate

STRETCH_FRAMES = 32_768
MOST_LATE_FRAMES = STRETCH_FRAMES // 2
"""A stem may lie so much earlier or later."""
MOST_STRETCHES = 12
"""The stretches analysed closely: of each stem its loudest, up to this total."""
IN_MIX_LINEAR = 0.05
"""What counts for less than −26 dB of itself is not in the mix (our own choice)."""
SAME_GAIN_DB = 0.05
NOTHING_LEFT_DB = -60.0
"""A sum that differs from the mix by less, in relation to it, is the mix."""
MENDED_DB = -40.0
"""A remainder this small, with the stems at their best fit, means that the stems are at fault."""
_ROUNDS = 6
_MOVES_DB = 0.3
_ALIKE = 0.9
_SILENT = 1e-9
_SIDES = np.array([1.0, 0.7])

Gains = NDArray[np.float64]
Line = NDArray[np.float32]
"""Samples with one channel: the search gives the same result in both, and one is half the work."""
CLEARLY = 1e-8
"""A residual that lies 80 dB below the quietest stem: none of them is late, even by a frame, or at another gain."""


class Kept(NamedTuple):
    """Frames around a stretch, in a quarter of the room: integers of 16 bits, and what one step of them is."""

    steps: NDArray[np.int16]
    step: float

    def frames(self, start: int, end: int) -> Line:
        """Some of them, as they sound."""
        return self.steps[start:end] * np.float32(self.step)


Parts = Sequence[Sequence[Kept]]
"""Of every stem the frames around each stretch."""


@dataclass(frozen=True, slots=True)
class Stem:
    """A stem in its mix: delay ``late_frames`` in samples, ``gain_db`` relative to the mix, polarity.

    ``in_mix`` is false if the stem is not found. ``wrong`` is a sentence for a fault.
    """

    name: str
    late_frames: int = 0
    gain_db: float = 0.0
    inverted: bool = False
    in_mix: bool = True
    wrong: str = ""


@dataclass(frozen=True, slots=True)
class StemsReport:
    """All stems of a mix; the residual is what the mix differs by from their sum as they are."""

    stems: tuple[Stem, ...]
    residual_dbfs: float
    residual_peak_dbfs: float
    mix_dbfs: float
    sentence: str

    @property
    def lines_up(self) -> bool:
        """Whether every stem lies where it should, as it should."""
        return not any(one.wrong for one in self.stems)

    @property
    def sums(self) -> bool:
        """Whether the stems as they are sum to the mix."""
        return self.residual_dbfs <= self.mix_dbfs + NOTHING_LEFT_DB


def check_stems(
    mix: AudioSource,
    stems: Sequence[tuple[str, AudioSource]],
    progress: Progress = no_progress,
    should_stop: Callable[[], bool] = lambda: False,
) -> StemsReport:
    """Goes through the mix and all stems once, and looks closer at a few stretches.

    Stems of another rate are named and left out of the sum. Raises: BadInput ``stems.none``; Cancelled; as reading.
    """
    if not stems:
        message = "No stems found. Choose a folder with stems."
        raise BadInput("stems.none", message)
    facts = mix.facts
    of_rate = [(name, one) for name, one in stems if one.facts.rate_hz == facts.rate_hz]
    heard = _listen(mix, [one for _, one in of_rate], progress, should_stop)
    placed, left_db = [Stem(name) for name, _ in of_rate], -math.inf
    if of_rate and not heard.clearly_sums:
        placed, left_db = _placed(mix, of_rate, heard.loudest)
    # Where the mix went through something that moves, gains of stems mean nothing.
    bus = heard.gain_moves and left_db > MENDED_DB
    found = {one.name: replace(one, gain_db=0.0) if bus and one.in_mix else one for one in placed}
    for number, (name, _) in enumerate(of_rate):
        if heard.silent(number):
            found[name] = Stem(name, in_mix=False, wrong=f"{name} is silent.")
    rows = []
    for name, one in stems:
        if name in found:
            rows.append(found[name] if found[name].wrong else _judged(found[name], facts.rate_hz))
        else:
            rate = print_rate(one.facts.rate_hz)
            rows.append(Stem(name, wrong=f"{name} has {rate}, the mix {print_rate(facts.rate_hz)}. Convert it."))
    residual, peak, level = heard.levels()
    report = StemsReport(tuple(rows), residual, peak, level, "")
    return replace(report, sentence=_sentence(report, bus))


class _Heard:
    """What one walk over mix and stems keeps: the residual, and where each stem is loudest."""

    def __init__(self, count: int) -> None:
        self.power = self.mix_power = self.peak = 0.0
        self.samples = 0
        self.loudest: list[dict[int, float]] = [{} for _ in range(count)]
        self.gains: list[tuple[float, float]] = []
        """Of every stretch the gain of the sum that fits the mix best, in dB, and how alike the two are."""

    def take(self, mix: Block, stems: Sequence[Block], at: int) -> None:
        """Takes a stretch into account."""
        whole = np.zeros_like(mix)
        for number, one in enumerate(stems):
            whole[: len(one)] += one
            self.loudest[number][at] = _power(one)
        left = mix - whole
        self.power += _power(left)
        own, others = _power(mix), _power(whole)
        self.mix_power += own
        self.peak = max(self.peak, float(np.abs(left).max(initial=0.0)))
        self.samples += mix.size
        if own > _SILENT * mix.size and others > _SILENT * mix.size:
            dot = float(np.vdot(mix, whole))
            if dot > 0:
                self.gains.append((20 * math.log10(dot / others), dot / math.sqrt(own * others)))

    def levels(self) -> tuple[float, float, float]:
        """The residual's level and peak, and the mix's level."""
        samples = max(1, self.samples)
        return db_of_power(self.power / samples), db_from_linear(self.peak), db_of_power(self.mix_power / samples)

    @property
    def clearly_sums(self) -> bool:
        """Whether the residual is too small for any stem to be wrong."""
        heard = [sum(one.values()) for one in self.loudest]
        return any(heard) and self.power < CLEARLY * min(one for one in heard if one)

    def silent(self, number: int) -> bool:
        """Whether nothing at all is in a stem."""
        return not any(self.loudest[number].values())

    @property
    def gain_moves(self) -> bool:
        """Whether the sum is the mix but for a gain that changes."""
        if len(self.gains) < 3 or np.median([alike for _, alike in self.gains]) < _ALIKE:
            return False
        gains = np.array([gain for gain, _ in self.gains])
        return float(np.quantile(gains, 0.95) - np.quantile(gains, 0.05)) > _MOVES_DB


def _listen(
    mix: AudioSource, stems: Sequence[AudioSource], progress: Progress, should_stop: Callable[[], bool]
) -> _Heard:
    heard, frames, channels = _Heard(len(stems)), mix.facts.frames, mix.facts.channels
    with ExitStack() as stack:
        reading = stack.enter_context(mix.open()).blocks(block_frames=STRETCH_FRAMES)
        others = [_Padded(stack.enter_context(one.open()), channels) for one in stems]
        # Reading is most of the work, and the library releases the lock during it.
        pool = stack.enter_context(ThreadPoolExecutor(os.cpu_count() or 1, "stems"))
        at = 0
        for block in reading:
            if should_stop():
                raise Cancelled("stems.cancelled", "Stem check cancelled.")
            heard.take(block, list(pool.map(_Padded.next, others, repeat(len(block)))), at)
            at += len(block)
            progress(at, frames)
    return heard


class _Padded:
    """A stem block by block, as wide as the mix, and silent behind its end."""

    def __init__(self, reader: Reader, channels: int) -> None:
        self._blocks = reader.blocks(block_frames=STRETCH_FRAMES)
        self._channels = channels

    def next(self, frames: int) -> Block:
        """Its next frames."""
        block = next(self._blocks, None)
        return np.zeros((frames, self._channels)) if block is None else _fitted(block, frames, self._channels)


def _power(block: Block) -> float:
    """The sum of all squares, without another block for them."""
    return float(np.vdot(block, block))


def _fitted(block: Block, frames: int, channels: int) -> Block:
    if block.shape[1] != channels:
        block = np.repeat(block[:, :1], channels, axis=1) if block.shape[1] < channels else block[:, :channels]
    if len(block) < frames:
        return np.concatenate((block, np.zeros((frames - len(block), channels))))
    return block[:frames]


def _placed(
    mix: AudioSource, stems: Sequence[tuple[str, AudioSource]], loudest: Sequence[dict[int, float]]
) -> tuple[list[Stem], float]:
    """Gain and lag of every stem, in turn, by least squares; and the remainder relative to the mix."""
    places = dict.fromkeys(max(one, key=one.__getitem__) for one in loudest if one)
    starts = sorted(list(places)[:MOST_STRETCHES])
    around = [(at - MOST_LATE_FRAMES, at + STRETCH_FRAMES + MOST_LATE_FRAMES) for at in starts]
    with mix.open() as reader:
        wanted = [_read(reader, at, at + STRETCH_FRAMES, mix.facts.frames) for at in starts]
    parts: list[list[Kept]] = []
    for _, one in stems:
        with one.open() as reader:
            parts.append([_kept(_read(reader, start, end, one.facts.frames)) for start, end in around])
    lags = [0] * len(stems)
    gains = np.ones(len(stems))
    for _ in range(_ROUNDS):
        gains = _fitting_gains(wanted, parts, lags)
        moved = False
        for number in range(len(stems)):
            lag = _lag_of(wanted, parts, lags, gains, number)
            moved |= lag != lags[number]
            lags[number] = lag
        if not moved:
            break
    gains = _fitting_gains(wanted, parts, lags)
    left_db = _left_db(wanted, parts, lags, gains)
    rows = [
        Stem(name, lag, -db_from_linear(abs(gain)) if gain else 0.0, gain < 0, abs(gain) >= IN_MIX_LINEAR)
        for (name, _), lag, gain in zip(stems, lags, gains.tolist(), strict=True)
    ]
    return rows, left_db


def _read(reader: Reader, start: int, end: int, frames: int) -> Line:
    """Frames of a source as one channel, silent where it has none.

    Sides that are each other's opposite would cancel in a plain sum. One channel counts for both sides.
    """
    first, last = min(frames, max(0, start)), min(frames, max(0, end))
    out = np.zeros(end - start, dtype=np.float32)
    at = first - start
    for block in reader.blocks(first, max(first, last), BLOCK_FRAMES):
        out[at : at + len(block)] = block[:, :2].repeat(3 - min(2, block.shape[1]), axis=1) @ _SIDES
        at += len(block)
    return out


def _kept(samples: Line) -> Kept:
    step = float(np.abs(samples).max(initial=0.0)) / 32_767 or 1.0
    return Kept(np.round(samples / step).astype(np.int16), step)


def _at(part: Kept, lag: int) -> Line:
    """A stem's stretch as it would lie in the mix: one that is late is taken from later on."""
    return part.frames(MOST_LATE_FRAMES + lag, MOST_LATE_FRAMES + lag + STRETCH_FRAMES)


def _fitting_gains(wanted: Sequence[Line], parts: Parts, lags: Sequence[int]) -> Gains:
    """What each stem counts for in the mix where they lie now."""
    count = len(parts)
    products, right = np.zeros((count, count)), np.zeros(count)
    for at, mix in enumerate(wanted):
        here = np.array([_at(part[at], lag) for part, lag in zip(parts, lags, strict=True)], dtype=np.float64)
        right += here @ mix
        products += here @ here.T
    # A little is added so that a silent stem, or two that are the same, do not make it unsolvable.
    products[np.diag_indices(count)] += 1e-9 * max(1e-12, float(products.max(initial=0.0)))
    return np.asarray(np.linalg.solve(products, right), dtype=np.float64)


def _lag_of(wanted: Sequence[Line], parts: Parts, lags: Sequence[int], gains: Gains, number: int) -> int:
    """The lag at which a stem removes most of what the others leave of the mix; its present lag if none is better."""
    size = STRETCH_FRAMES + 2 * MOST_LATE_FRAMES
    places = 2 * MOST_LATE_FRAMES + 1
    alike, energy = np.zeros(places), np.zeros(places)
    for at, mix in enumerate(wanted):
        left = mix.copy()
        for other, part in enumerate(parts):
            if other != number:
                left -= np.float32(gains[other]) * _at(part[at], lags[other])
        own = parts[number][at].frames(0, size)
        spectrum = np.fft.rfft(own, size) * np.conj(np.fft.rfft(left, size))
        alike = alike + np.fft.irfft(spectrum, size)[:places]
        sums = np.concatenate(([0.0], np.cumsum(np.square(own), dtype=np.float64)))
        energy = energy + (sums[STRETCH_FRAMES:] - sums[:-STRETCH_FRAMES])[:places]
    taken = np.square(alike) / np.maximum(energy, 1e-9 * max(1e-30, float(energy.max())))
    best, now = int(np.argmax(taken)), MOST_LATE_FRAMES + lags[number]
    return best - MOST_LATE_FRAMES if taken[best] > taken[now] * (1 + 1e-6) else lags[number]


def _left_db(wanted: Sequence[Line], parts: Parts, lags: Sequence[int], gains: Gains) -> float:
    """The remainder of the mix with every stem at its best fit, relative to the mix."""
    left = whole = 0.0
    for at, mix in enumerate(wanted):
        rest = mix.astype(np.float64)
        for part, lag, gain in zip(parts, lags, gains, strict=True):
            rest -= gain * _at(part[at], lag)
        left, whole = left + float(np.square(rest).sum()), whole + float(np.square(mix).sum())
    return 10 * math.log10(left / whole) if left > 0 and whole > 0 else -math.inf


def _judged(stem: Stem, rate_hz: int) -> Stem:
    """The stem with what does not hold, in one sentence that says what would mend it."""
    name, said = stem.name, []
    if not stem.in_mix:
        return Stem(name, in_mix=False, wrong=f"{name} is not in the mix. Remove it.")
    if stem.late_frames:
        late, ms = stem.late_frames, abs(stem.late_frames) * 1000 / rate_hz
        said.append(f"is {print_count(abs(late), 'sample')} ({ms:.1f} ms) {'late' if late > 0 else 'early'}")
    if stem.inverted:
        said.append("has inverted polarity")
    if abs(stem.gain_db) > SAME_GAIN_DB:
        twice = " (included twice)" if abs(stem.gain_db + 6.02) < SAME_GAIN_DB else ""
        by = print_db(abs(stem.gain_db), "dB").lstrip("+")
        said.append(f"is {by} too {'loud' if stem.gain_db > 0 else 'quiet'}{twice}")
    return replace(stem, wrong=f"{name} {', '.join(said)}." if said else "")


def _sentence(report: StemsReport, bus: bool) -> str:
    left = f"residual {print_db(report.residual_dbfs)}"
    if report.sums and report.lines_up:
        who = (
            f"All {len(report.stems)} stems align and sum" if len(report.stems) > 1 else "The only stem aligns and sums"
        )
        return f"{who} to the mix: {left}."
    wrong = [one.wrong for one in report.stems if one.wrong]
    if bus:
        return f"The mix was limited or compressed; {left}."
    if wrong:
        more = f" And {len(wrong) - 1} more." if len(wrong) > 1 else ""
        return f"The stems do not sum to the mix: {wrong[0]}{more}"
    return f"Stems align, but part of the mix is missing: {left}."
