"""A sketch of a signal: peaks and weighted energies of every few milliseconds, on which a limiter can be foreseen.

With it the loudness behind a limiter is known for any gain in a moment, mostly to a few hundredths of a decibel. It
says where to look; what it says is then measured on the real signal.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.measure.loudness import LoudnessMeter, LoudnessResult, stretch_frames
from ripe_press.core.measure.peak import PeakMeter
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.signal.limiter import HOLD_S, LOOK_AHEAD_S, RELEASE_S, PeakDetector
from ripe_press.core.units import db_from_linear

Levels = NDArray[np.float32]
STEPS_A_STRETCH = (4, 3, 5, 2)
"""Steps in a hundredth of a second, the first number that divides its frames: 2.5 ms mostly, 3 kB a second of sound."""
_FINELY = 0.9
"""From here on, as a part of the largest peak, peaks are found as the limiter finds them: about the last decibel."""


@dataclass(frozen=True, slots=True)
class Sketch:
    """Peaks as the limiter finds them, linear, and K-weighted mean squares summed over channels, a value a step."""

    step_s: float
    peaks: Levels
    energies: Levels
    peak_linear: float
    """The largest peak, exactly; smaller ones are near enough."""
    signal: SignalResult
    """Peaks and loudness of the sketch; its true peak is the limiter's, which is more exact."""

    @property
    def peak_dbtp(self) -> float:
        """The largest peak in dBTP, as the limiter finds it; ``-inf`` for silence."""
        return db_from_linear(self.peak_linear)

    def loudness_at(self, gain_db: float, ceiling_dbtp: float) -> float:
        """Integrated loudness in LUFS, foreseen, of the signal at a gain and limited to a ceiling."""
        from ripe_press.core.kernels.limiter import foresee

        gain = 10.0 ** (gain_db / 20)
        weighted = np.empty(len(self.energies))
        foresee(
            self.peaks, self.energies, gain, 10.0 ** (ceiling_dbtp / 20), 1.0 - math.exp(-self.step_s / RELEASE_S),
            round(HOLD_S / self.step_s), round(LOOK_AHEAD_S / self.step_s), weighted,
        )  # fmt: skip
        return LoudnessResult(self.step_s, weighted, weighted[:, None]).integrated_lufs


class Sketcher:
    """A meter that draws a sketch; ``depth_db`` below the largest peak a limiter is not foreseen to act."""

    def __init__(self, channels: int, rate_hz: int, depth_db: float) -> None:
        stretch = stretch_frames(rate_hz)
        self._step = stretch // next((one for one in STEPS_A_STRETCH if stretch % one == 0), 1)
        self._step_s = self._step / rate_hz
        self._peak = PeakMeter(channels)
        self._loudness = LoudnessMeter(channels, rate_hz, self._step)
        self._detector = PeakDetector(rate_hz, channels)
        self._depth = 10.0 ** (-depth_db / 20)
        self._largest = 0.0
        self._peaks: list[Levels] = []
        self._rest: Levels = np.zeros(0, dtype=np.float32)

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        self._peak.process(block)
        self._loudness.process(block)
        self._take(block)

    def _take(self, block: Block) -> None:
        peaks = self._detector.process(block, self._largest * self._depth, self._largest * _FINELY)
        self._largest = max(self._largest, float(peaks.max(initial=0.0)))
        peaks = np.concatenate((self._rest, peaks))
        whole = len(peaks) // self._step * self._step
        self._peaks.append(peaks[:whole].reshape(-1, self._step).max(axis=1))
        self._rest = peaks[whole:]

    def result(self) -> Sketch:
        """The finished sketch; silence is taken to follow."""
        self._take(np.zeros((self._detector.delay, self._detector.channels)))
        loudness = self._loudness.result()
        energies = loudness.weighted.astype(np.float32)
        peaks = np.concatenate([*self._peaks, self._rest[:0]])
        if len(self._rest) and len(peaks):
            peaks[-1] = max(float(peaks[-1]), float(self._rest.max()))
        signal = SignalResult(
            self._peak.result().sample_peak_dbfs, db_from_linear(self._largest), loudness.integrated_lufs,
            blocks=loudness.blocks,
        )  # fmt: skip
        return Sketch(self._step_s, peaks[: len(energies)], energies[: len(peaks)], self._largest, signal)
