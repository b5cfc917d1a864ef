"""Differences of two versions, from stored measurements: the earlier audio may be missing.

The loudness curves (every 10 ms) are aligned first, so that a version with a later start is compared with the same
music. All limits are our own choice.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.measure.loudness import LoudnessResult
from ripe_press.core.units import print_clock, print_rate

STEP_S = 0.01
FLOOR_DB = -70.0
ALIKE_DB = 0.25
"""Up to so much louder or softer is the same level."""
_STEADY_DB, _STEADY_SHARE = 0.5, 0.9
_HEARD_DB = -55.0
_MOST_PLACES = 3
_RELATED = 0.6
_AS_GOOD = 0.99
_MOST_DETAIL_DB = 6.0
_WINDOW = 100
"""Hundredths of a second of one reading: a second."""
_SHORTEST = 2
_PEAK_DB = 0.3
_BANDS = ((20.0, 200.0, "below 200 Hz"), (200.0, 4000.0, "from 200 Hz to 4 kHz"), (4000.0, 24_000.0, "above 4 kHz"))
_BAND_DB = 1.2


@dataclass(frozen=True, slots=True)
class VersionFacts:
    """Stored measurements of a version, with or without its file.

    ``spectrum`` is (Hz, dB) of the whole; ``content_sum`` is of the audio only and may be empty.
    """

    frames: int
    rate_hz: int
    channels: int
    depth_label: str
    head_silence_frames: int
    true_peak_dbtp: float | None
    loudness: LoudnessResult
    spectrum: Sequence[tuple[float, float]] = ()
    content_sum: str = ""

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.frames / self.rate_hz


@dataclass(frozen=True, slots=True)
class Differences:
    """Sentences without full stop, most important first.

    ``shift_frames`` is the later start of the music in the new version, at its rate; ``related`` is whether both are
    the same piece.
    """

    sentences: tuple[str, ...]
    shift_frames: int = 0
    related: bool = True


def differences(old: VersionFacts, new: VersionFacts) -> Differences:
    """The differences of the new version."""
    if old.content_sum and old.content_sum == new.content_sum:
        return Differences(("audio identical, metadata differs",))
    if (old.true_peak_dbtp is None) != (new.true_peak_dbtp is None):
        # Silence is not compared: any level difference would only be that of the floor.
        said = "now silent" if new.true_peak_dbtp is None else "no longer silent"
        return Differences((said, *_times(old, new, 0), *_forms(old, new)))
    before, after = _levels(old.loudness), _levels(new.loudness)
    lag, related = _lag(before, after)
    shift = _shift_frames(lag, old, new) if related else 0
    found = list(_forms(old, new))
    if not related:
        found.insert(0, "probably a different piece")
    else:
        times, levels = list(_times(old, new, shift)), list(_louder(before, after, lag))
        # The mean spectrum is one figure of the whole: it describes a mix only where the same music has the same
        # weight.
        bands = [] if times or any("throughout" not in one for one in levels) else list(_bands(old, new))
        found = [*times, *levels, *bands, *_peaks(old, new), *found]
    nothing = f"no measured difference (same length, levels within {ALIKE_DB:g} dB)"
    return Differences(tuple(found) or (nothing,), shift, related)


def _levels(loudness: LoudnessResult) -> NDArray[np.float64]:
    """The loudness of each hundredth of a second in dB, not below the floor."""
    power = np.maximum(loudness.weighted, 10 ** (FLOOR_DB / 10))
    found: NDArray[np.float64] = 10 * np.log10(power)
    return found


def _lag(before: NDArray[np.float64], after: NDArray[np.float64]) -> tuple[int, bool]:
    """By how many steps the new one lies later, and whether the two follow each other at all."""
    if min(len(before), len(after)) < _WINDOW or not (np.ptp(before) and np.ptp(after)):
        return 0, True
    one, other = _detail(before), _detail(after)
    size = 1 << (len(one) + len(other)).bit_length()
    curve = np.fft.irfft(np.fft.rfft(other, size) * np.conj(np.fft.rfft(one, size)), size)
    best = int(np.argmax(curve))
    lag = best - size if best > size // 2 else best
    if curve[0] >= _AS_GOOD * curve[best]:
        # Where hardly anything speaks for another place, both begin at the same: versions mostly do.
        lag = 0
    first, second = _overlap(one, other, lag)
    if len(first) < _WINDOW or not (np.ptp(first) and np.ptp(second)):
        return 0, False
    return lag, bool(np.corrcoef(first, second)[0, 1] >= _RELATED)


def _detail(levels: NDArray[np.float64]) -> NDArray[np.float64]:
    """What the loudness does within a second: beats and words, which no two pieces share; slow swells they may.

    One step out of silence does not outweigh all of them.
    """
    around = np.pad(levels, (_WINDOW // 2, _WINDOW - _WINDOW // 2 - 1), "edge")
    found: NDArray[np.float64] = levels - np.convolve(around, np.full(_WINDOW, 1 / _WINDOW), "valid")
    return np.clip(found, -_MOST_DETAIL_DB, _MOST_DETAIL_DB)


def _overlap(
    before: NDArray[np.float64], after: NDArray[np.float64], lag: int
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    one, other = before[max(0, -lag) :], after[max(0, lag) :]
    most = min(len(one), len(other))
    return one[:most], other[:most]


def _shift_frames(lag: int, old: VersionFacts, new: VersionFacts) -> int:
    """The lag in frames of the new version: exact where the silence before both says the same, else to a step."""
    if not lag:
        return 0
    coarse = round(lag * STEP_S * new.rate_hz)
    if old.rate_hz == new.rate_hz and old.head_silence_frames and new.head_silence_frames:
        exact = new.head_silence_frames - old.head_silence_frames
        if abs(exact - coarse) <= 2 * STEP_S * new.rate_hz:
            return exact
    return coarse


def _times(old: VersionFacts, new: VersionFacts, shift: int) -> Iterator[str]:
    later = shift / new.rate_hz
    longer = new.seconds - old.seconds
    if abs(later) >= STEP_S:
        yield f"starts {_seconds(abs(later))} {'later' if later > 0 else 'earlier'}"
    if round(abs(longer), 2) >= STEP_S and abs(longer - later) >= STEP_S:
        at_end = longer - later
        where = " at the end" if abs(later) >= STEP_S else ""
        much = at_end if where else longer
        yield f"{_seconds(abs(much))} {'longer' if much > 0 else 'shorter'}{where}"


def _louder(before: NDArray[np.float64], after: NDArray[np.float64], lag: int) -> Iterator[str]:
    one, other = _overlap(before, after, lag)
    whole = len(one) // _WINDOW
    if not whole:
        return
    means = [_mean_db(part[: whole * _WINDOW].reshape(whole, _WINDOW)) for part in (one, other)]
    heard = (means[0] > _HEARD_DB) & (means[1] > _HEARD_DB)
    if not heard.any():
        return
    steps = means[1] - means[0]
    middle = float(np.median(steps[heard]))
    if np.mean(np.abs(steps[heard] - middle) <= _STEADY_DB) >= _STEADY_SHARE and not _runs(steps - middle, heard):
        if abs(middle) >= ALIKE_DB:
            yield f"{_more(middle)} throughout"
        return
    places = _runs(steps, heard)
    longest = sorted(sorted(places, key=lambda run: run[0] - run[1])[:_MOST_PLACES])
    begin = max(0, lag) * STEP_S
    for start, end in longest:
        # A run may reach over a silence, where nothing is louder than anything.
        part = steps[start:end][heard[start:end]]
        yield f"{_more(float(np.median(part)))} {_where(start, end, whole, heard, begin)}"
    if len(places) > _MOST_PLACES:
        more = len(places) - _MOST_PLACES
        yield f"level differs in {more} more place{'s' if more > 1 else ''}"


def _mean_db(levels: NDArray[np.float64]) -> NDArray[np.float64]:
    found: NDArray[np.float64] = 10 * np.log10(np.mean(10 ** (levels / 10), axis=1))
    return found


def _runs(steps: NDArray[np.float64], heard: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """(first, behind the last) of the seconds in a row that are all louder or all softer; silence breaks no run."""
    found: list[tuple[int, int]] = []
    sign = np.where(heard & (np.abs(steps) >= _STEADY_DB), np.sign(steps), 0).astype(int)
    run: tuple[int, int] | None = None
    held = 0
    for at in np.flatnonzero(heard):
        if sign[at] and run and sign[at] == held:
            run = (run[0], int(at) + 1)
            continue
        if run and run[1] - run[0] >= _SHORTEST:
            found.append(run)
        run, held = ((int(at), int(at) + 1), int(sign[at])) if sign[at] else (None, 0)
    if run and run[1] - run[0] >= _SHORTEST:
        found.append(run)
    return found


def _where(start: int, end: int, whole: int, heard: NDArray[np.bool_], begin: float) -> str:
    from_start = not heard[:start].any()
    to_end = not heard[end:whole].any()
    if from_start and to_end:
        return "throughout"
    first, last = (_clock(begin + at) for at in (start, end))
    if to_end:
        return f"after {first}"
    return f"up to {last}" if from_start else f"from {first} to {last}"


def _bands(old: VersionFacts, new: VersionFacts) -> Iterator[str]:
    """Where the whole became brighter or duller, beyond what its level became."""
    if not old.spectrum or not new.spectrum:
        return
    top = 0.45 * min(old.rate_hz, new.rate_hz)
    steps = []
    for low, high, words in _BANDS:
        powers = [_band_db(one.spectrum, low, min(high, top)) for one in (old, new)]
        if None not in powers:
            steps.append((words, (powers[1] or 0.0) - (powers[0] or 0.0)))
    if len(steps) < len(_BANDS):
        return
    middle = float(np.median([step for _, step in steps]))
    for words, step in steps:
        if abs(step - middle) >= _BAND_DB:
            yield f"{abs(step - middle):.1f} dB {'more' if step > middle else 'less'} {words}, relative to the rest"


def _band_db(spectrum: Sequence[tuple[float, float]], low_hz: float, high_hz: float) -> float | None:
    inside = [10 ** (db / 10) for hz, db in spectrum if low_hz <= hz < high_hz]
    mean = sum(inside) / len(inside) if inside else 0.0
    return 10 * float(np.log10(mean)) if mean > 1e-14 else None


def _peaks(old: VersionFacts, new: VersionFacts) -> Iterator[str]:
    before, after = old.true_peak_dbtp, new.true_peak_dbtp
    if before is not None and after is not None and abs(after - before) >= _PEAK_DB:
        way = "higher" if after > before else "lower"
        yield f"true peak {abs(after - before):.1f} dB {way}, at {after:.1f} dBTP".replace("-", "\N{MINUS SIGN}")


def _forms(old: VersionFacts, new: VersionFacts) -> Iterator[str]:
    if old.rate_hz != new.rate_hz:
        yield f"{print_rate(old.rate_hz)} → {print_rate(new.rate_hz)}"
    if old.depth_label != new.depth_label:
        yield f"{old.depth_label} → {new.depth_label}"
    if old.channels != new.channels:
        yield f"{old.channels} → {new.channels} channel{'s' if new.channels > 1 else ''}"


def _more(step_db: float) -> str:
    return f"{abs(step_db):.1f} dB {'louder' if step_db > 0 else 'quieter'}".replace(".0 dB", " dB")


def _seconds(seconds: float) -> str:
    return f"{seconds:.2f} s" if seconds < 1 and round(seconds, 1) != round(seconds, 2) else f"{seconds:.1f} s"


def _clock(seconds: float) -> str:
    return print_clock(round(seconds), 1, 0)
