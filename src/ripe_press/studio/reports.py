"""Reports of pressed and measured files, in one form for page, command line and record."""

import tempfile
from dataclasses import asdict, replace
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np

from ripe_press.core.blocks import Progress
from ripe_press.core.listening.playback import plays_at
from ripe_press.core.measure.loudness import LoudnessResult
from ripe_press.core.measure.pyramid import PyramidShape
from ripe_press.core.press import PressedFile
from ripe_press.core.sheet.file_report import (
    BackOffTry,
    FileReport,
    ReportedForecast,
    report_of_proof,
)
from ripe_press.core.survey import Survey, survey
from ripe_press.core.tags.embedded import Embedded
from ripe_press.core.units import db_from_linear, finite
from ripe_press.core.whole_files import temporary_prefix


def file_report(file: PressedFile) -> FileReport:
    """The report of a pressed file."""
    report = report_of_proof(file.path, file.proof)
    measured = replace(
        report.measured, clipped_samples=file.seen.clipped_samples, gain_db=file.gain_db,
        reduction_db=file.reduction_db, backed_off_db=file.backed_off_db,
        tries=tuple(BackOffTry(gain, finite(peak)) for gain, peak in file.tries),
    )  # fmt: skip
    return replace(
        report, brief=file.brief, line=file.line, sends_to=tuple(file.sends_to), verdict=file.verdict,
        measured=measured, forecast=_forecast(file),
        findings=file.findings,
        checks=file.checks,
    )  # fmt: skip


def _forecast(file: PressedFile) -> ReportedForecast | None:
    if (forecast := file.forecast) is None:
        return None
    error = round(forecast.error_percent(file.proof.bytes), 3)
    return ReportedForecast(forecast.low, forecast.high, forecast.basis, error)


def measure_report(path: str, result: Survey, embedded: Embedded, cover: bytes) -> dict[str, Any]:
    """A measured file and the picture that it carries; later work only adds keys. Digital silence is None."""
    facts = result.facts
    return {
        "path": path,
        "container": facts.container,
        "codec": facts.codec,
        "sample_rate_hz": facts.rate_hz,
        "bit_depth": facts.bit_depth,
        "channels": facts.channels,
        "frames": facts.frames,
        "duration_s": facts.duration_s,
        "file_channels": facts.file_channels,
        "downmix": facts.downmix,
        "layout": list(facts.layout) if facts.layout else None,
        **measures_of(result),
        "plays": plays_of(result),
        "clipped_runs": [asdict(run) for run in result.clipping.runs],
        "clipped_places": [asdict(place) for place in result.clipping.places(facts.rate_hz)],
        "tags": dict(embedded.tags),
        "tempo_bpm": embedded.tempo_bpm,
        "markers": [asdict(marker) for marker in embedded.markers],
        "loop": embedded.loop,
        "time_reference": embedded.time_reference,
        "gain_tags": dict(embedded.gain),
        "broadcast": dict(embedded.broadcast),
        "cover_bytes": len(cover),
    }


def survey_with_wave(file: Path, downmix: str, columns: int, progress: Progress) -> tuple[Survey, list[float]]:
    """A file measured, and the linear peak of each of some columns of its length. Raises: as `survey`."""
    with tempfile.TemporaryDirectory(prefix=temporary_prefix("measure")) as folder:
        pyramid = Path(folder) / "pyramid.bin"
        result = survey(file, pyramid, progress, downmix=downmix)
        shape = PyramidShape(result.facts.frames, result.facts.channels)
        # The coarsest level that still has a bin for each column.
        level = max((at for at, bins in enumerate(shape.levels()) if bins >= columns), default=0)
        bins = np.abs(shape.open_level(pyramid, level)[:, :, :2]).max(axis=(1, 2))
        edges = np.linspace(0, len(bins), min(columns, len(bins)) + 1).astype(int)
        return result, [float(bins[start:end].max()) for start, end in pairwise(edges)]


def plays_of(result: Survey) -> list[dict[str, Any]]:
    """The result in players with loudness normalisation, at each usual level; empty for silence."""
    loudness, peak = finite(result.loudness.integrated_lufs), finite(result.true_peak.true_peak_dbtp)
    if loudness is None:
        return []
    return [asdict(one) | {"sentence": one.sentence} for one in plays_at(loudness, peak)]


def measures_of(result: Survey) -> dict[str, Any]:
    """The measures of a survey as reports and the database carry them; silence has no peak (None)."""
    facts, peak = result.facts, result.peak
    history = result.history
    return {
        "sample_peak_dbfs": finite(peak.sample_peak_dbfs),
        "sample_peak_at_s": peak.peak_frame / facts.rate_hz,
        "sample_peak_channel": peak.peak_channel,
        "channel_peaks_dbfs": [finite(db_from_linear(value)) for value in peak.channel_peaks],
        "true_peak_dbtp": finite(result.true_peak.true_peak_dbtp),
        "true_peak_at_s": result.true_peak.peak_frame / facts.rate_hz,
        "true_peak_channel": result.true_peak.peak_channel,
        **loudness_of(result.loudness),
        "dc_offset": list(result.stereo.dc_offset),
        "balance_db": result.stereo.balance_db,
        "correlation": result.stereo.correlation,
        "effective_bits": result.effective_bits,
        "effective_bandwidth_hz": result.effective_bandwidth_hz,
        "clipped_samples": result.clipping.clipped_samples,
        "samples_over_full_scale": result.clipping.overs,
        "sounding": asdict(history.sounding()),
        "tempo_found": asdict(tempo) if (tempo := history.tempo()) else None,
        "head_silence_s": result.silence.head_frames / facts.rate_hz,
        "tail_silence_s": result.silence.tail_frames / facts.rate_hz,
        "head_silence_frames": result.silence.head_frames,
        "tail_silence_frames": result.silence.tail_frames,
    }


def loudness_of(loudness: LoudnessResult) -> dict[str, float | None]:
    """Loudness and noise floor for reports; None where everything lies below the gates."""
    return {
        "integrated_lufs": finite(loudness.integrated_lufs),
        "lra_lu": loudness.range_lu,
        "max_momentary_lufs": finite(loudness.max_momentary_lufs),
        "max_short_term_lufs": finite(loudness.max_short_term_lufs),
        "noise_floor_dbfs": finite(loudness.quietest_dbfs),
    }


def spectrum_of(result: Survey) -> list[tuple[float, float]]:
    """The mean spectrum of a mix as (frequency in Hz, level in dB), for drawing."""
    return [(round(hz, 1), round(db, 1)) for hz, db in result.spectrum.curve_db()]


def figure(value: float) -> float | None:
    """To a hundredth, for drawing and reading; None where it is not finite."""
    known = finite(value)
    return None if known is None else round(known, 2)
