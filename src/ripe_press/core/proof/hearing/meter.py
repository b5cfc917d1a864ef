"""The meter of what an ear may notice: noise over what the source masks, look by look and band by band."""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.proof.hearing.ear import LISTENING_DB, SHORT_FRAMES, Ear, ear_for
from ripe_press.core.proof.hearing.levels import Levels
from ripe_press.core.units import db_of_power

Array = NDArray[np.float64]
MOST_COLUMNS = 2048
"""Columns that a picture has at most: above that, two are folded into one, of which the louder is kept."""
_NEARLY_SILENT = 8_000 / 32_768.0**2
"""The energy of half a look below which nothing is judged (BS.1387's limit is told for 16-bit integers)."""
_SIDE_HEARD_DBFS = -60.0


@dataclass(frozen=True, slots=True)
class Heard:
    """What an ear may notice of the difference between a source and what came of it.

    Ratios are noise to mask in dB: below 0 what differs is masked; minus infinity where nothing differs. ``total_db``
    is the mean over all looks and channels, ``p95_db`` and ``p99_db`` are reached by 5 and 1 % of them.
    ``above_share`` is the share of looks of which any band lies above its mask, ``worst_band_db`` the mean of the worst
    band, ``short_p99_db`` that of short looks, for echoes before an attack. ``side_db`` is that of what differs between
    the channels; None for one channel, and where that is next to nothing.

    ``picture`` ``(columns, bands)`` has the highest ratio in dB of every ``column_s`` seconds.
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

    @property
    def nothing(self) -> bool:
        """Whether nothing differs that this model sees."""
        return self.total_db == -math.inf


class HearingMeter:
    """Compares a source with what came of it, both aligned to the sample and of one level, at 44.1 or 48 kHz.

    The ratio is blind to polarity, and nearly so to small delays: those are checked elsewhere.
    """

    def __init__(self, channels: int, rate_hz: int, listening_db: float = LISTENING_DB) -> None:
        self._channels = channels
        self._long = _Looker(ear_for(rate_hz, listening_db=listening_db), channels)
        self._short = _Looker(ear_for(rate_hz, SHORT_FRAMES, listening_db), channels)
        self._side = _Looker(ear_for(rate_hz, listening_db=listening_db), 1)
        self._picture = _Picture(self._long.ear)
        self._side_power, self._frames = 0.0, 0
        self._bands = np.zeros(self._long.ear.bands)
        self._long_levels, self._short_levels = Levels(), Levels()
        self._worst, self._judged, self._sum = Levels(), 0, 0.0

    def process(self, source: Block, test: Block) -> None:
        """Takes the next block of both, of the same frames, into account."""
        self._frames += len(source)
        for channel, sounding, ratios in self._long.look(source, test):
            self._picture.take(channel, np.where(sounding[:, None], ratios, 0.0))
            kept = ratios[sounding]
            means = kept.mean(axis=1)
            self._long_levels.add(means)
            self._worst.add(kept.max(axis=1))
            self._bands += kept.sum(axis=0)
            self._sum += float(means.sum())
            self._judged += len(kept)
        for _, _, ratios in self._short.look(source, test):
            # In front of an attack the source may be silent: what is heard of itself decides there.
            self._short_levels.add(ratios.mean(axis=1))
        if self._channels == 2:
            side, test_side = ((one[:, :1] - one[:, 1:]) / math.sqrt(2) for one in (source, test))
            self._side_power += float(np.square(side).sum())
            self._side.add_up(side, test_side)

    def result(self) -> Heard:
        """The finished measure."""
        ear, judged = self._long.ear, max(1, self._judged)
        worst = int(np.argmax(self._bands))
        side = None
        if self._channels == 2 and db_of_power(self._side_power / max(1, self._frames)) > _SIDE_HEARD_DBFS:
            side = self._side.total_db
        return Heard(
            _db(self._sum / judged), self._long_levels.at(0.95), self._long_levels.at(0.99),
            self._worst.share_above(0.0), _db(float(self._bands[worst]) / judged), float(ear.middle_hz[worst]),
            self._short_levels.at(0.99), side, self._judged, self._picture.column_s,
            tuple(round(float(hz), 1) for hz in ear.middle_hz), self._picture.levels_db(),
        )  # fmt: skip


def _db(ratio: float) -> float:
    return 10 * math.log10(ratio) if ratio > 0 else -math.inf


class _Looker:
    """Cuts two signals into looks and tells the ratios of each."""

    def __init__(self, ear: Ear, channels: int) -> None:
        self.ear = ear
        self._rest = [np.zeros((0, channels))] * 2
        self._held = np.zeros((channels, ear.bands))
        self._sum, self._judged = 0.0, 0

    def look(self, source: Block, test: Block) -> list[tuple[int, NDArray[np.bool_], Array]]:
        """For every channel (its number, which looks are judged, their ratios ``(looks, bands)``)."""
        before, after = (np.concatenate(pair) for pair in zip(self._rest, (source, test), strict=True))
        ear = self.ear
        looks = max(0, (len(before) - ear.frames) // ear.hop + 1)
        self._rest = [before[looks * ear.hop :], after[looks * ear.hop :]]
        if not looks:
            return []
        found = []
        for channel in range(before.shape[1]):
            one, other = (self._cut(whole[:, channel], looks) for whole in (before, after))
            sounding = np.square(one[:, ear.hop :]).sum(axis=1) >= _NEARLY_SILENT
            found.append((channel, sounding, ear.ratios(one, other, self._held[channel])))
        return found

    def add_up(self, source: Block, test: Block) -> None:
        """The same, of which only the mean is kept."""
        for _, sounding, ratios in self.look(source, test):
            self._sum += float(ratios[sounding].mean(axis=1).sum())
            self._judged += int(sounding.sum())

    @property
    def total_db(self) -> float:
        """The mean of what was added up."""
        return _db(self._sum / max(1, self._judged))

    def _cut(self, samples: Array, looks: int) -> Array:
        whole = np.ascontiguousarray(samples)
        return np.lib.stride_tricks.sliding_window_view(whole, self.ear.frames)[:: self.ear.hop][:looks]


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
        """What was drawn so far, in dB; minus infinity where nothing differs."""
        columns = math.ceil(max(self._at.values(), default=0) / self._looks)
        with np.errstate(divide="ignore"):
            return 10 * np.log10(self._columns[:columns])
