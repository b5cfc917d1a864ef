"""A sketch of a signal: peaks and weighted energies of every few milliseconds, on which a limiter can be foreseen.

With it the loudness behind a limiter is known for any gain in a moment, mostly to a few hundredths of a decibel. It
says where to look; what it says is then measured on the real signal.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.measure.loudness import LoudnessMeter, LoudnessResult, stretch_frames
from ripe_press.core.measure.peak import PeakMeter
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.signal.limiter import TIP, USUAL_LIMITING, Held, Limiting, Long, PeakDetector
from ripe_press.core.units import db_from_linear

Levels = NDArray[np.float32]
STEPS_A_STRETCH = (4, 3, 5, 2)
"""Steps in a hundredth of a second, the first number that divides its frames: 2.5 ms mostly, 8 kB a second."""
_FINELY = 0.9
"""From here on, as a part of the largest peak, peaks are found as the limiter finds them: about the last decibel."""
_BESIDE = {"transparent": 0.1, "dense": 0.0}
"""The part of a step's reduction that the steps beside it share: a limiter's window is about as long as a step."""


@dataclass(frozen=True, slots=True)
class Sketch:
    """Peaks as the limiter finds them, linear, and K-weighted mean squares, ``(channels, steps)``.

    ``lasting`` are the levels above which a wave stays for as long as low tones do, of the louder channel.
    """

    step_s: float
    peaks: Levels
    energies: Levels
    lasting: Levels
    peak_linear: float
    """The largest peak, exactly; smaller ones are near enough."""
    signal: SignalResult
    """Peaks and loudness of the sketch; its true peak is the limiter's, which is more exact."""

    @property
    def peak_dbtp(self) -> float:
        """The largest peak in dBTP, as the limiter finds it; ``-inf`` for silence."""
        return db_from_linear(self.peak_linear)

    def loudness_at(self, gain_db: float, ceiling_dbtp: float, limiting: Limiting = USUAL_LIMITING) -> float:
        """Integrated loudness in LUFS, foreseen, of the signal at a gain and limited to a ceiling."""
        from ripe_press.core.kernels.limiter import foresee

        gain, ceiling = 10.0 ** (gain_db / 20), 10.0 ** (ceiling_dbtp / 20)
        slow, weighted = np.ones(len(self.lasting)), np.zeros(len(self.lasting))
        if limiting.character == "transparent" and (self.lasting > ceiling / gain).any():
            slow = self._held(ceiling / gain)
        together = np.maximum.reduce(self.peaks, axis=0)
        for peaks, energies in zip(self.peaks, self.energies, strict=True):
            found = together if limiting.sides == "together" else peaks
            foresee(found, energies, slow, ceiling / gain, _BESIDE[limiting.character], weighted)
        weighted *= gain**2
        return LoudnessResult(self.step_s, weighted, weighted[:, None]).integrated_lufs

    def _held(self, limit: float) -> NDArray[np.float64]:
        """The slow gain of every step above a limit."""
        peaks = np.maximum(np.maximum.reduce(self.peaks, axis=0), limit)
        lasting = np.maximum(self.lasting, limit)
        wanted = np.where(self.lasting > limit, np.maximum(limit / peaks, TIP * limit / lasting), 1.0)
        found = Held(1 / self.step_s).process(np.concatenate((wanted, np.ones(round(1 / self.step_s)))))
        return found[: len(wanted)]


class Sketcher:
    """A meter that draws a sketch; ``depth_db`` below the largest peak a limiter is not foreseen to act."""

    def __init__(self, channels: int, rate_hz: int, depth_db: float) -> None:
        stretch = stretch_frames(rate_hz)
        self._step = stretch // next((one for one in STEPS_A_STRETCH if stretch % one == 0), 1)
        self._step_s = self._step / rate_hz
        self._peak = PeakMeter(channels)
        self._loudness = LoudnessMeter(channels, rate_hz, self._step)
        self._detector = PeakDetector(rate_hz, channels)
        self._long = Long(rate_hz, 0.0)
        self._depth = 10.0 ** (-depth_db / 20)
        self._largest = 0.0
        self._peaks, self._lasting = _Steps(self._step, channels), _Steps(self._step)

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        self._peak.process(block)
        self._loudness.process(block)
        self._take(block)

    def _take(self, block: Block) -> None:
        peaks = self._detector.process(block, self._largest * self._depth, self._largest * _FINELY)
        self._largest = max(self._largest, float(peaks.max(initial=0.0)))
        self._peaks.add(peaks)
        self._lasting.add(self._long.process(np.abs(block).max(axis=1))[1])

    def result(self) -> Sketch:
        """The finished sketch; silence is taken to follow."""
        self._take(np.zeros((_MORE, self._detector.channels)))
        loudness = self._loudness.result()
        steps = len(loudness.weighted)
        energies = (self._loudness.sides().T / self._step).astype(np.float32)
        signal = SignalResult(
            self._peak.result().sample_peak_dbfs, db_from_linear(self._largest), loudness.integrated_lufs,
            blocks=loudness.blocks,
        )  # fmt: skip
        peaks, lasting = self._peaks.first(steps), self._lasting.first(steps)
        return Sketch(self._step_s, peaks, energies, lasting, self._largest, signal)


_MORE = 4_096
"""Frames of silence at the end, after which nothing lags behind at any rate."""


class _Steps:
    """The highest value of every step, along the last axis."""

    def __init__(self, step: int, *shape: int) -> None:
        self._step = step
        self._found: list[Levels] = []
        self._rest: Levels = np.zeros((*shape, 0), dtype=np.float32)

    def add(self, values: NDArray[np.floating]) -> None:
        """Takes the next values into account."""
        values = np.concatenate((self._rest, values.astype(np.float32)), axis=-1)
        whole = values.shape[-1] // self._step * self._step
        self._found.append(values[..., :whole].reshape(*values.shape[:-1], -1, self._step).max(axis=-1))
        self._rest = values[..., whole:]

    def first(self, steps: int) -> Levels:
        """Those of the first ``steps``; what lies behind the last counts with it."""
        found = np.concatenate(self._found, axis=-1)
        if steps and found.shape[-1] > steps:
            found[..., steps - 1] = found[..., steps - 1 :].max(axis=-1)
        return found[..., :steps]
