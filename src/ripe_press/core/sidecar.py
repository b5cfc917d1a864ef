"""Sidecar files for the next program: waveform, loudness, beats, markers and key.

The waveform is in the open JSON format of waveform data, version 2, that players on the web and editors share: minimum
and maximum of every so many samples as signed 8-bit integers, channel by channel (from memory of its documentation).
"""

import tempfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Literal

import numpy as np

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.measure.loudness import LoudnessResult
from ripe_press.core.measure.pyramid import BASE_FRAMES, Bins, PyramidShape
from ripe_press.core.proof.read_back import hash_file
from ripe_press.core.survey import survey
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.core.tempo_hints import first_bar_frame, tempo_hint
from ripe_press.core.timeline import Marker, TempoChange, TempoMap
from ripe_press.core.units import finite
from ripe_press.core.whole_files import temporary_prefix

VERSION: Literal[1] = 1
LOUDNESS_STEP_S = 0.1
_FULL_8_BIT = 127


@dataclass(frozen=True, slots=True)
class Peaks:
    """A waveform in the open peaks format: minimum and maximum per pixel and channel, −128 to 127."""

    sample_rate: int
    samples_per_pixel: int
    channels: int
    length: int
    data: tuple[int, ...]
    bits: Literal[8] = 8
    version: Literal[2] = 2


@dataclass(frozen=True, slots=True)
class Loudness:
    """Momentary loudness every ``step_s`` in LUFS (None below −70 LUFS), and integrated values."""

    step_s: float
    momentary_lufs: tuple[float | None, ...]
    integrated_lufs: float | None
    true_peak_dbtp: float | None
    sample_peak_dbfs: float | None


@dataclass(frozen=True, slots=True)
class Bar:
    """A bar: its number, and the start of the bar and of each beat in samples."""

    number: int
    start_frame: int
    beat_frames: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Sidecar:
    """Analysis data of an audio file for other programs. Positions are in samples."""

    file: str
    sha256: str
    sample_rate_hz: int
    channels: int
    frames: int
    waveform: Peaks
    loudness: Loudness
    tempo: tuple[TempoChange, ...] = ()
    bars: tuple[Bar, ...] = ()
    markers: tuple[Marker, ...] = ()
    key: str = ""
    tags: Mapping[str, str] = field(default_factory=dict)
    version: Literal[1] = VERSION


def sidecar_of(
    path: Path,
    tempo: TempoMap | None = None,
    progress: Progress = no_progress,
    should_stop: Callable[[], bool] = lambda: False,
) -> Sidecar:
    """The sidecar of a file, read once. Without a ``tempo`` map that of the file is used, bar 1 by its sound.

    Raises: as `survey`.
    """
    with tempfile.TemporaryDirectory(prefix=temporary_prefix("sidecar")) as folder:
        pyramid = Path(folder) / "pyramid.bin"
        found = survey(path, pyramid, progress, should_stop)
        facts = found.facts
        peaks = peaks_of(PyramidShape(facts.frames, facts.channels).open_level(pyramid, 0), facts.rate_hz)
    embedded = read_embedded(path, facts.rate_hz, facts.frames)
    told_by = tempo_hint(path, embedded.tempo_bpm)
    if tempo is None and told_by:
        history, first = found.history, told_by.changes[0]
        bar_one = first_bar_frame(history.sounding(), history.tempo(), first.tempo_bpm, facts.rate_hz)
        tempo = TempoMap(told_by.changes, bar_one)
    tags = dict(embedded.tags)
    peak, true_peak = found.peak.sample_peak_dbfs, found.true_peak.true_peak_dbtp
    loudness = Loudness(
        LOUDNESS_STEP_S, _curve(found.loudness, facts.duration_s), finite(found.loudness.integrated_lufs),
        finite(true_peak), finite(peak),
    )  # fmt: skip
    return Sidecar(
        path.name, hash_file(path), facts.rate_hz, facts.channels, facts.frames, peaks, loudness,
        tempo.changes if tempo else (), bars_of(tempo, facts.frames, facts.rate_hz) if tempo else (),
        embedded.markers, tags.get("key", ""), tags,
    )  # fmt: skip


def peaks_of(bins: Bins, rate_hz: int) -> Peaks:
    """A level of the pyramid in the open peaks format."""
    ends = np.clip(np.round(bins[:, :, :2] * _FULL_8_BIT), -128, 127).astype(np.int8)
    return Peaks(rate_hz, BASE_FRAMES, bins.shape[1], len(bins), tuple(ends.reshape(-1).tolist()))


def bars_of(tempo: TempoMap, frames: int, rate_hz: int) -> tuple[Bar, ...]:
    """Every bar from bar 1 on, with its beats."""
    found = []
    for number, (start, beats) in enumerate(tempo.grid(frames, rate_hz), 1):
        places = (tempo.frame_of(number, beat, Fraction(0), rate_hz) for beat in range(1, beats + 1))
        found.append(Bar(number, start, tuple(one for one in places if one < frames)))
    return tuple(found)


def _curve(loudness: LoudnessResult, seconds: float) -> tuple[float | None, ...]:
    points = max(1, round(seconds / LOUDNESS_STEP_S))
    return tuple(None if np.isnan(one) else round(float(one), 1) for one in loudness.curve(points))
