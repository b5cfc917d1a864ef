"""The meter of what an ear may notice: noise over what the source masks, look by look and band by band."""

import math
import threading
from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.proof.hearing.ear import LISTENING_DB, SHORT_FRAMES, Ear, Spectra, ear_for
from ripe_press.core.proof.hearing.levels import HearingLevels
from ripe_press.core.units import db_of_power

Array = NDArray[np.float64]
MOST_COLUMNS = 2048
"""Columns that a picture has at most: above that, two are folded into one, of which the louder is kept."""
_NEARLY_SILENT = 8_000 / 32_768.0**2
"""The energy of half a window below which nothing is judged (BS.1387's limit is stated for 16-bit integers)."""
_SIDE_HEARD_DBFS = -60.0


@dataclass(frozen=True, slots=True)
class Audibility:
    """Audibility of the difference between a source and a test.

    Noise-to-mask ratios in dB: negative values are masked; minus infinity without difference. ``total_db`` is the mean
    over all blocks and channels, ``p95_db`` and ``p99_db`` are exceeded by 5 and 1 % of them. ``above_share`` is the
    share of blocks with a band above masking, ``worst_band_db`` the mean of the worst band, ``short_p99_db`` that of
    short blocks (pre-echo). ``side_db`` is that of the side channel; None for mono or a negligible side.

    ``picture`` ``(columns, bands)`` has the maximum ratio in dB of every ``column_s`` seconds.
    """

    total_db: float
    p95_db: float
    p99_db: float
    above_share: float
    worst_band_db: float
    worst_band_hz: float
    short_p99_db: float
    side_db: float | None
    looks: int
    column_s: float
    band_hz: tuple[float, ...]
    picture: NDArray[np.float32] = field(repr=False)
    margin_db: tuple[float, ...] = ()
    """Per band, total difference over total masking, in dB: how far the spectrum of the difference is above, or below 0
    under, the spectrum of the masking.
    """

    @property
    def nothing(self) -> bool:
        """Whether nothing differs that this model sees."""
        return self.total_db == -math.inf


class Listener:
    """Analyse a source once, for any number of tests."""

    def __init__(self, channels: int, rate_hz: int, listening_db: float = LISTENING_DB) -> None:
        long = ear_for(rate_hz, listening_db=listening_db)
        self.channels = channels
        self.ears = (long, ear_for(rate_hz, SHORT_FRAMES, listening_db), long)
        self._sides = [_Source(ear, 1 if at == _SIDE else channels) for at, ear in enumerate(self.ears)]

    def listen(self, source: Block) -> "AnalysedBlock":
        """The next block."""
        shown = _shown(source)
        return AnalysedBlock(source, tuple(one.heed(part) for one, part in zip(self._sides, shown, strict=False)))


_LONG, _SHORT, _SIDE = 0, 1, 2


def _shown(block: Block) -> list[Block]:
    """Input of the windows: the channels of both sources, and their difference."""
    side = [(block[:, :1] - block[:, 1:]) / math.sqrt(2)] if block.shape[1] == 2 else []
    return [block, block, *side]


@dataclass(frozen=True, slots=True)
class AnalysedBlock:
    """A block that was listened to: for every looker and channel, spectra, masks, and which looks are judged."""

    source: Block
    looks: tuple[tuple[tuple[Spectra, Array, NDArray[np.bool_]], ...], ...]


class HearingMeter:
    """Compares a source with what came of it, both aligned to the sample and of one level, at 44.1 or 48 kHz.

    The ratio is blind to polarity, and nearly so to small delays: those are checked elsewhere.
    """

    def __init__(self, channels: int, rate_hz: int, listening_db: float = LISTENING_DB) -> None:
        self._listener = Listener(channels, rate_hz, listening_db)
        self._ear = ear = self._listener.ears[_LONG]
        self._tests = [_Cutter(one, 1 if at == _SIDE else channels) for at, one in enumerate(self._listener.ears)]
        self._picture = _Picture(ear)
        self._side_power, self._side_sum, self._side_judged, self._frames = 0.0, 0.0, 0, 0
        self._bands = np.zeros(ear.bands)
        self._noise_sum, self._mask_sum = np.zeros(ear.bands), np.zeros(ear.bands)
        self._long_levels, self._short_levels = HearingLevels(), HearingLevels()
        self._worst, self._judged, self._sum = HearingLevels(), 0, 0.0

    def process(self, source: Block, test: Block) -> None:
        """Takes the next block of both, of the same frames, into account."""
        self.take(self._listener.listen(source), test)

    def take(self, heeded: AnalysedBlock, test: Block) -> None:
        """The same, of a source that was listened to already; short looks on a thread of their own."""
        shown = _shown(test)
        beside = threading.Thread(target=self._take_short, args=(heeded, shown[_SHORT]))
        beside.start()
        self._frames += len(test)
        for channel, (sounding, noise, mask) in enumerate(self._judged_looks(_LONG, heeded, shown[_LONG])):
            ratios = noise / mask
            self._noise_sum += noise[sounding].sum(axis=0)
            self._mask_sum += mask[sounding].sum(axis=0)
            self._picture.take(channel, np.where(sounding[:, None], ratios, 0.0))
            kept = ratios[sounding]
            means = kept.mean(axis=1)
            self._long_levels.add(means)
            self._worst.add(kept.max(axis=1))
            self._bands += kept.sum(axis=0)
            self._sum += float(means.sum())
            self._judged += len(kept)
        if len(shown) > _SIDE:
            self._side_power += float(np.square(_shown(heeded.source)[_SIDE]).sum())
            for sounding, noise, mask in self._judged_looks(_SIDE, heeded, shown[_SIDE]):
                self._side_sum += float((noise / mask)[sounding].mean(axis=1).sum())
                self._side_judged += int(sounding.sum())
        beside.join()

    def _take_short(self, heeded: AnalysedBlock, test: Block) -> None:
        for _, noise, mask in self._judged_looks(_SHORT, heeded, test):
            # Before an attack the source may be silent: there, the threshold in quiet decides.
            self._short_levels.add((noise / mask).mean(axis=1))

    def _judged_looks(
        self, kind: int, heeded: AnalysedBlock, test: Block
    ) -> Iterator[tuple[NDArray[np.bool_], Array, Array]]:
        """Of every channel, which looks are judged, and their noise and masks ``(looks, bands)``."""
        ear = self._listener.ears[kind]
        for (before, mask, sounding), looks in zip(heeded.looks[kind], self._tests[kind].cut(test), strict=True):
            _, noise = ear.energies(before, ear.spectra(looks))
            yield sounding, noise, mask

    def result(self) -> Audibility:
        """The finished measure."""
        judged = max(1, self._judged)
        worst = int(np.argmax(self._bands))
        side = None
        if self._side_power and db_of_power(self._side_power / max(1, self._frames)) > _SIDE_HEARD_DBFS:
            side = _db(self._side_sum / max(1, self._side_judged))
        return Audibility(
            _db(self._sum / judged), self._long_levels.at(0.95), self._long_levels.at(0.99),
            self._worst.share_above(0.0), _db(float(self._bands[worst]) / judged),
            float(self._ear.middle_hz[worst]), self._short_levels.at(0.99), side, self._judged,
            self._picture.column_s, tuple(round(float(hz), 1) for hz in self._ear.middle_hz),
            self._picture.levels_db(),
            tuple(_db(one) for one in self._noise_sum / np.maximum(self._mask_sum, 1e-300)),
        )  # fmt: skip


def _db(ratio: float) -> float:
    return 10 * math.log10(ratio) if ratio > 0 else -math.inf


class _Cutter:
    """Cuts a signal into looks, channel by channel, over the edges of blocks."""

    def __init__(self, ear: Ear, channels: int) -> None:
        self._ear = ear
        self._rest = np.zeros((0, channels))

    def cut(self, block: Block) -> list[Array]:
        """The looks, ``(looks, frames)``, that are complete with the next block."""
        whole, ear = np.concatenate((self._rest, block)), self._ear
        looks = max(0, (len(whole) - ear.frames) // ear.hop + 1)
        self._rest = whole[looks * ear.hop :]
        if not looks:
            return [np.zeros((0, ear.frames))] * whole.shape[1]
        columns = [np.ascontiguousarray(column) for column in whole.T]
        return [np.lib.stride_tricks.sliding_window_view(one, ear.frames)[:: ear.hop][:looks] for one in columns]


class _Source(_Cutter):
    """The masking of a source."""

    def __init__(self, ear: Ear, channels: int) -> None:
        super().__init__(ear, channels)
        self._held = np.zeros((channels, ear.bands))

    def heed(self, block: Block) -> tuple[tuple[Spectra, Array, NDArray[np.bool_]], ...]:
        """Of every channel: spectra, masks, and which looks are judged."""
        found = []
        for looks, held in zip(self.cut(block), self._held, strict=True):
            spectra = self._ear.spectra(looks)
            power, _ = self._ear.energies(spectra, spectra)
            sounding = np.square(looks[:, self._ear.hop :]).sum(axis=1) >= _NEARLY_SILENT
            found.append((spectra, self._ear.mask(power, held), sounding))
        return tuple(found)


class _Picture:
    """The highest ratio of every column and band, over both channels."""

    def __init__(self, ear: Ear) -> None:
        self._hop_s = ear.hop / ear.rate_hz
        self._looks = 1
        """In one column."""
        self._columns = np.zeros((MOST_COLUMNS, ear.bands), dtype=np.float32)
        self._at: dict[int, int] = {}
        """Looks taken of every channel."""

    @property
    def column_s(self) -> float:
        """How long a column is."""
        return self._looks * self._hop_s

    def take(self, channel: int, ratios: Array) -> None:
        """Takes the next looks of a channel."""
        first = self._at.get(channel, 0)
        self._at[channel] = first + len(ratios)
        while first + len(ratios) > MOST_COLUMNS * self._looks:
            folded = self._columns.reshape(MOST_COLUMNS // 2, 2, -1).max(axis=1)
            self._columns = np.concatenate((folded, np.zeros_like(folded)))
            self._looks *= 2
        if len(ratios):
            places = (first + np.arange(len(ratios))) // self._looks
            starts = np.flatnonzero(np.diff(places, prepend=-1))
            highest = np.maximum.reduceat(ratios, starts, axis=0)
            at = places[starts]
            self._columns[at] = np.maximum(self._columns[at], highest)

    def levels_db(self) -> NDArray[np.float32]:
        """The picture so far in dB; minus infinity without difference."""
        columns = math.ceil(max(self._at.values(), default=0) / self._looks)
        with np.errstate(divide="ignore"):
            return 10 * np.log10(self._columns[:columns])
