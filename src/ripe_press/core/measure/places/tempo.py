"""The tempo of a piece by its sound, and where its bars begin; both with how sure that is.

The rises of all bands together are the onsets; their autocorrelation, weighted towards usual tempos, gives the tempo,
and its late maxima the precision. Shown only where it is sure: that of a piece whose halves agree.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.measure.bands import HIGHEST_HZ, LOWEST_HZ, BandLevels

Curve = NDArray[np.float64]

SURE = 0.5
"""How alike a piece must be to itself some beats later; speech, rain and drones stay below."""
SURE_OF_BARS = 0.5
_AGREE = 0.01
_LEAST_S = 12.0
_MOST_S = 600.0
"""The analysed part of a longer piece: enough for full precision, and little work."""
_LOW_HZ = 200.0
_EXACT, _EXACT_S = 2e-4, 60.0
"""How exactly the tempo of a piece of a minute is measured."""


@dataclass(frozen=True, slots=True)
class TempoFound:
    """A tempo in quarter notes a minute, with half and double of it as the ear may take it; ``first_beat_s`` is the
    first beat, or with ``bars_sure`` the first bar line, of ``beats`` a bar.
    """

    bpm: float
    confidence: float
    first_beat_s: float
    beats: int = 4
    bars_sure: bool = False

    @property
    def others(self) -> tuple[float, ...]:
        """The same an octave lower and higher, where those are tempos."""
        return tuple(round(one, 2) for one in (self.bpm / 2, self.bpm * 2) if 40 <= one <= 240)


def find_tempo(bands: BandLevels) -> TempoFound | None:
    """The tempo of a piece, where it is sure; None where it is not."""
    onsets, low = _onsets(bands)
    half = len(onsets) // 2
    if len(onsets) * bands.step_s < _LEAST_S:
        return None
    fps = 1 / bands.step_s
    whole = _tempo(onsets, fps)
    if whole is None or whole[1] < SURE:
        return None
    bpm, confidence = whole
    for part in (onsets[:half], onsets[half:]):
        found = _tempo(part, fps)
        # A half that is an octave off agrees all the same.
        if found is None or min(abs(found[0] * octave / bpm - 1) for octave in (0.5, 1, 2)) > _AGREE:
            return None
    nearest = round(bpm)
    # Most tempos are whole numbers: one within the measuring error, larger in a short piece, is chosen.
    if abs(bpm - nearest) < _EXACT * max(1.0, _EXACT_S / (len(onsets) * bands.step_s)) * bpm:
        bpm = float(nearest)
    beat = _phase(onsets, 60 * fps / bpm)
    beats, bar, sure = _bars(low, 60 * fps / bpm, beat)
    return TempoFound(round(bpm, 3), round(confidence, 3), (bar if sure else beat) * bands.step_s, beats, sure)


def _onsets(bands: BandLevels) -> tuple[Curve, Curve]:
    levels = bands.db(0.0, _MOST_S)
    strength = np.log1p(1000 * 10 ** (levels / 20))
    rises = np.maximum(0.0, np.diff(strength, axis=0, prepend=strength[:1])).astype(np.float64)
    edges = np.geomspace(LOWEST_HZ, HIGHEST_HZ, levels.shape[1] + 1)
    low = int(np.searchsorted(edges, _LOW_HZ))
    return _levelled(rises.sum(axis=1), bands.step_s), _levelled(rises[:, :low].sum(axis=1), bands.step_s)


def _levelled(curve: Curve, step_s: float) -> Curve:
    """Less its mean over a second, nothing below zero, in units of its spread."""
    width = round(1.0 / step_s)
    if len(curve) <= width:
        return np.zeros(0)
    above: Curve = np.maximum(0.0, curve - np.convolve(curve, np.ones(width) / width, "same"))
    spread = float(above.std())
    return above / spread if spread else np.zeros(0)


def _tempo(onsets: Curve, fps: float) -> tuple[float, float] | None:
    n = len(onsets)
    if not n or not onsets.any():
        return None
    size = 1 << (2 * n - 1).bit_length()
    alike = np.fft.irfft(np.abs(np.fft.rfft(onsets, size)) ** 2)[:n] / (n - np.arange(n))
    alike /= alike[0]

    def at(lags: Curve) -> Curve:
        return np.asarray(np.interp(lags, np.arange(n), alike))

    bpms = np.geomspace(50, 200, 800)
    lags = 60 * fps / bpms
    comb = sum(at(lags * k) * weight for k, weight in ((1, 1.0), (2, 1.0), (3, 0.5), (4, 1.0), (8, 0.5)))
    bpm = float(bpms[np.argmax(comb * np.exp(-0.5 * (np.log2(bpms / 115) / 0.9) ** 2))])
    # Beats taken three for two are alike only now and then.
    bpm = max((bpm, bpm * 1.5, bpm / 1.5), key=lambda one: _steady(at, 60 * fps / one) * (1.03 if one == bpm else 1.0))
    most = int(min(32, n * 0.4 * bpm / (60 * fps)))
    if most < 4:
        return None
    # First coarsely over near lags, then finely over far ones, which could miss by a whole beat.
    for wide, reach in ((0.015, min(8, most)), (0.003, most), (0.0006, int(min(128, n * 0.6 * bpm / (60 * fps))))):
        fine = bpm * np.linspace(1 - wide, 1 + wide, 301)
        sums = sum(at(60 * fps / fine * k) for k in range(max(1, reach // 2), reach + 1))
        bpm = float(fine[np.argmax(sums)])
    beat = 60 * fps / bpm
    return bpm, float(np.mean([at(np.array([beat * k])) for k in (4, 8, 16) if beat * k < n * 0.7]))


def _steady(at: Callable[[Curve], Curve], lag: float) -> float:
    return float(at(lag * np.array([2, 4, 8, 16])).mean())


def _phase(onsets: Curve, beat: float) -> float:
    places = np.arange(0, beat, 0.5)
    count = int((len(onsets) - beat) / beat)
    steps = np.arange(count) * beat
    sums = [float(np.interp(place + steps, np.arange(len(onsets)), onsets).sum()) for place in places]
    return float(places[int(np.argmax(sums))])


def _bars(low: Curve, beat: float, first: float) -> tuple[int, float, bool]:
    """Beats a bar, the first bar line, and whether that is sure: by the low accents at each beat."""
    count = int((len(low) - first) / beat)
    if count < 16:
        return 4, first, False
    at = np.round(first + np.arange(count) * beat).astype(int)
    reach = max(1, round(0.03 * beat))
    accents = np.array([low[max(0, one - reach) : one + reach + 1].max(initial=0.0) for one in at])
    found = (0.0, 4, 0)
    for beats in (3, 4):
        means = np.array([accents[place::beats].mean() for place in range(beats)])
        spread = float(accents.std()) or 1.0
        second, best = np.sort(means)[-2:]
        found = max(found, (float(best - second) / spread, beats, int(means.argmax())))
    sure, beats, place = found
    return (beats, first + place * beat, True) if sure >= SURE_OF_BARS else (4, first, False)
