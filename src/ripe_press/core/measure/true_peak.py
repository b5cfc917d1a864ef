"""True peak: the largest value of the signal between its samples (ITU-R BS.1770-5 Annex 2, from memory)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.oversampling import TAPS, between, reach_of
from ripe_press.core.units import db_from_linear


@dataclass(frozen=True, slots=True)
class TruePeakResult:
    """The true peak: linear and in dBTP (``-inf`` for silence), the frame it follows, its channel."""

    peak_linear: float
    peak_frame: int
    peak_channel: int

    @property
    def true_peak_dbtp(self) -> float:
        """20·log10 of the true peak."""
        return db_from_linear(self.peak_linear)


class TruePeakMeter:
    """Follows the true peak of every channel; never below the sample peak."""

    def __init__(self, channels: int, rate_hz: int) -> None:
        self._phases = between(rate_hz)
        self._reach = reach_of(self._phases)
        self._past = np.zeros((channels, TAPS - 1), dtype=np.float32)
        self._peaks = np.zeros(channels)
        self._places = np.zeros(channels, dtype=np.int64)
        self._frames = 0

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        self._take(block, len(block))

    def _take(self, block: Block, counted: int) -> None:
        for channel in range(block.shape[1]):
            column = block[:, channel]
            sample_peak = max(float(column.max(initial=0.0)), -float(column.min(initial=0.0)))
            if sample_peak > self._peaks[channel]:
                self._peaks[channel] = sample_peak
                self._places[channel] = self._frames + int(np.abs(column).argmax())
            if len(self._phases):
                self._between(column, channel)
        self._frames += counted

    def _between(self, column: NDArray[np.float64], channel: int) -> None:
        from ripe_press.core.kernels.true_peak import search

        samples = np.concatenate((self._past[channel], column.astype(np.float32)))
        peak, place = search(samples, self._phases, np.float32(self._reach), np.float32(self._peaks[channel]))
        if place >= 0:
            self._peaks[channel] = peak
            # The filter looks half its length back: that is where the value lies.
            self._places[channel] = max(0, self._frames + place - TAPS // 2)
        self._past[channel] = samples[len(samples) - (TAPS - 1) :]

    def result(self) -> TruePeakResult:
        """The finished measure: silence follows the last sample, as it does when the file is played."""
        frames = self._frames
        self._take(np.zeros((TAPS, len(self._peaks))), 0)
        channel = int(np.argmax(self._peaks))
        place = min(int(self._places[channel]), max(0, frames - 1))
        return TruePeakResult(float(self._peaks[channel]), place, channel)


TRUE_PEAK_BIN = 8192
"""Frames for which one true peak is kept, when those of a whole mix are."""


class TruePeakBins:
    """The true peak of a signal, and of every 8192 frames over all channels, in one pass: for marks and ranges."""

    def __init__(self, channels: int, rate_hz: int) -> None:
        self._phases = between(rate_hz)
        self._reach = np.float32(reach_of(self._phases))
        self._rest = np.zeros((TAPS - 1, channels))
        """What came before, and what does not fill a bin yet."""
        self._peaks: list[float] = []
        self._best = TruePeakResult(0.0, 0, 0)
        self._frames = 0

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        samples = np.concatenate((self._rest, block))
        at = 0
        while len(samples) - at >= TRUE_PEAK_BIN + TAPS - 1:
            self._add(samples[at : at + TRUE_PEAK_BIN + TAPS - 1])
            at += TRUE_PEAK_BIN
        self._rest = samples[at:]
        self._frames += len(block)

    def _add(self, part: Block) -> None:
        from ripe_press.core.kernels.true_peak import search

        first = len(self._peaks) * TRUE_PEAK_BIN
        largest = 0.0
        for channel in range(part.shape[1]):
            heard = np.abs(part[TAPS - 1 :, channel])
            at = int(heard.argmax())
            peak, frame = float(heard[at]), first + at
            if len(self._phases):
                column = np.ascontiguousarray(part[:, channel], dtype=np.float32)
                found, place = search(column, self._phases, self._reach, np.float32(max(peak, largest)))
                if place >= 0:
                    # The filter looks half its length back: that is where the value lies.
                    peak, frame = float(found), max(0, first + place - TAPS // 2)
            largest = max(largest, peak)
            if peak > self._best.peak_linear:
                self._best = TruePeakResult(peak, frame, channel)
        self._peaks.append(largest)

    def result(self) -> tuple[TruePeakResult, NDArray[np.float32]]:
        """The true peak of all, and one value a bin, linear; the last bin may stand for fewer frames.

        Silence follows the last sample, as it does when the file is played.
        """
        if len(self._rest) >= TAPS:
            self._add(np.concatenate((self._rest, np.zeros((TAPS, self._rest.shape[1])))))
        elif self._peaks:
            # What rings past the end of the last whole bin belongs to that.
            kept = self._peaks[-1]
            self._add(np.concatenate((self._rest, np.zeros((TAPS, self._rest.shape[1])))))
            self._peaks[-2:] = [max(kept, self._peaks[-1])]
        best = self._best
        found = TruePeakResult(best.peak_linear, min(best.peak_frame, max(0, self._frames - 1)), best.peak_channel)
        return found, np.array(self._peaks, dtype=np.float32)


def true_peak_of(samples: Block, rate_hz: int) -> float:
    """The true peak, linear, of a stretch given with its 31 previous samples."""
    phases = between(rate_hz)
    return _peak_after(samples, phases, reach_of(phases))


def _peak_after(part: Block, phases: NDArray[np.float32], reach: float) -> float:
    from ripe_press.core.kernels.true_peak import search

    best = float(np.abs(part[TAPS - 1 :]).max(initial=0.0))
    if len(phases):
        for channel in range(part.shape[1]):
            column = np.ascontiguousarray(part[:, channel], dtype=np.float32)
            best = float(search(column, phases, np.float32(reach), np.float32(best))[0])
    return best
