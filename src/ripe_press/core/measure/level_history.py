"""Results from the levels of a mix over time: where it has sound, what follows a cut, and its tempo."""

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from ripe_press.core.measure.bands import BandLevels
from ripe_press.core.measure.loudness import LoudnessResult
from ripe_press.core.measure.places.programme import Sounding, sounding_of
from ripe_press.core.measure.places.silence import SilenceResult
from ripe_press.core.measure.places.tail import NOTHING_FOLLOWS, Tail, floor_dbfs, what_follows
from ripe_press.core.measure.places.tempo import TempoFound, find_tempo

_QUIET_S = 0.5


class LevelHistory:
    """The levels of a mix, and what they tell; ``rate_hz`` is that of the mix."""

    def __init__(self, silence: SilenceResult, loudness: LoudnessResult, bands: BandLevels, rate_hz: int) -> None:
        self._silence = silence
        self._loudness = loudness
        self._bands = bands
        self._rate_hz = rate_hz

    @cached_property
    def _floor_dbfs(self) -> float:
        return floor_dbfs(self._loudness)

    def tail(self, end_frame: int, below_dbfs: float, limit_s: float) -> Tail:
        """What follows a frame, followed for so many seconds at most, until it stays below a level."""
        if end_frame >= self._silence.frames:
            return NOTHING_FOLLOWS
        cut_s = end_frame / self._rate_hz
        return what_follows(self._loudness, self._bands, cut_s, self._floor_dbfs, below_dbfs, limit_s)

    def sounding(self, silence_dbfs: float | None = None) -> Sounding:
        """From where to where it sounds: above a level that is set, or out of its own noise."""
        return sounding_of(self._silence, self._loudness, self._bands, self._rate_hz, silence_dbfs)

    def loudest(self, starts: Sequence[int], frames: int) -> int:
        """The first frame of the loudest of some stretches of one length."""
        sums = np.concatenate(([0.0], np.cumsum(self._loudness.weighted)))
        width = self._loudness.stretch_s * self._rate_hz
        firsts = np.minimum(len(sums) - 1, np.round(np.asarray(starts) / width).astype(int))
        lasts = np.minimum(len(sums) - 1, firsts + round(frames / width))
        return int(starts[int(np.argmax(sums[lasts] - sums[firsts]))])

    def quiet_stretch(self) -> tuple[int, int] | None:
        """The quietest half second that is not digital silence, in frames: the room; None where there is none."""
        width = round(_QUIET_S / self._loudness.stretch_s)
        power = self._loudness.plain.mean(axis=1) if len(self._loudness.plain) else np.zeros(0)
        if len(power) < width:
            return None
        sums = np.concatenate(([0.0], np.cumsum(power)))
        means = (sums[width:] - sums[:-width]) / width
        # A running sum keeps a rounding error of the loudest part.
        sounding = means > max(1e-16, 1e-13 * float(means.max()))
        if not sounding.any():
            return None
        at = int(np.argmin(np.where(sounding, means, np.inf)))
        scale = self._loudness.stretch_s * self._rate_hz
        return round(at * scale), round((at + width) * scale)

    def tempo(self) -> TempoFound | None:
        """The tempo by the sound, where it is sure."""
        return find_tempo(self._bands)
