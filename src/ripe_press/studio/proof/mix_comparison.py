"""Comparison of pressed files with their mix: once for each file on the disk."""

import base64
import math
from collections.abc import Callable, Sequence
from concurrent.futures import Executor
from contextlib import suppress
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.engine.levels import settled_at
from ripe_press.core.errors import Conflict, RipePressError
from ripe_press.core.measure.content import comes_back_to_hz
from ripe_press.core.proof.against import Against, SoundDifference, hold_against
from ripe_press.core.proof.against.looks import LEVELS_FROM_DB, Looks
from ripe_press.core.proof.hearing.masked import masked_curve
from ripe_press.core.proof.hearing.meter import Audibility
from ripe_press.core.proof.hearing.opinion import opinion_of, places_of
from ripe_press.core.proof.read_back import prove
from ripe_press.core.requests.document import document_from
from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import worst
from ripe_press.core.rules.registry import judge
from ripe_press.core.sheet.file_report import ReportedMeasures
from ripe_press.core.units import print_count, print_db
from ripe_press.core.words import VERDICTS, quoted
from ripe_press.store.held_files import HeldFiles
from ripe_press.store.pressings import StoredFile, StoredPressing
from ripe_press.studio.jobs import Events, JobFolder, Jobs, JobState, Work
from ripe_press.studio.planning import files_pressed
from ripe_press.studio.reports import figure

HOLDING_VERSION = 4
"""Version of the report: an older one is made again."""
_COLUMNS = 240
_CURVE_POINTS = 400
_FLOOR_DB, _STEP_DB = -60.0, 0.5
_STOPS_BELOW = 0.96
"""Share of half the rate: content above it is the end of the rate, not an encoder's cut-off."""
_WAVE_SCALE = 16_384
"""Of 16 bits: samples up to twice full scale are drawn."""
_NOT_DRAWN = {"difference": None, "spectra": None, "hearing": None, "looks": None}


class MixComparisons(Jobs[dict[str, Any]]):
    """Holds files in a worker, one after the other; what came of it is kept as long as the file stays as it is."""

    def __init__(self, heavy: Executor, passing: Path, kept: HeldFiles, events: Events) -> None:
        super().__init__("pressings", events)
        self._heavy, self._passing, self._kept = heavy, passing, kept

    def state(self, pressing: StoredPressing, file: StoredFile) -> JobState[dict[str, Any]] | None:
        """The comparison of a file, its result the report; none where it was never started."""
        key = _key(pressing, file)
        if key is None:
            return _gone(file)
        if report := self._kept.get(*key):
            return JobState("done", result=report)
        return self.of(key)

    def hold(self, pressing: StoredPressing, file: StoredFile) -> JobState[dict[str, Any]]:
        """Starts the comparison of a file, unless it is there or runs."""
        key = _key(pressing, file)
        if key is None:
            return _gone(file)
        if report := self._kept.get(*key):
            return JobState("done", result=report)

        def run(work: Work[dict[str, Any]]) -> dict[str, Any]:
            made = _made(file)
            report = work.in_worker(self._heavy, self._passing, hold_in_worker, pressing.ticket, made)
            # What the record cannot take just now is known as long as the server runs.
            with suppress(RipePressError):
                self._kept.keep(*key, report)
            return report

        return self.start(key, run)

    def sentences(self, pressing: StoredPressing) -> dict[int, str]:
        """The results of a pressing by the numbers of its files, as far as these are as they were."""
        found = self._kept.sentences(pressing.id)
        keys = {file.number: _key(pressing, file) for file in pressing.files if file.number in found}
        return {number: found[number][1] for number, key in keys.items() if key and key[2] == found[number][0]}

    def drop(self, pressing: StoredPressing, file: StoredFile) -> None:
        """Forgets a comparison that ended without a result."""
        self.forget(_key(pressing, file))

    def stop(self, pressing: StoredPressing, file: StoredFile) -> bool:
        """Cancels the comparison of a file; whether it runs."""
        return self.cancel(_key(pressing, file))


def _gone(file: StoredFile) -> JobState[dict[str, Any]]:
    return JobState("failed", sentence=f"{quoted(Path(file.path).name)} was moved or deleted. Press again.")


def _key(pressing: StoredPressing, file: StoredFile) -> tuple[int, int, str] | None:
    """A file as it is now; none where it is gone."""
    try:
        status = Path(file.path).stat()
    except OSError:
        return None
    return pressing.id, file.number, f"{HOLDING_VERSION}-{status.st_mtime_ns}-{status.st_size}"


@dataclass(frozen=True, slots=True)
class ComparedFile:
    """A file of a pressing as a worker has to know it."""

    number: int
    path: str
    gain_db: float | None
    backed_off_db: float


def _made(file: StoredFile) -> ComparedFile:
    measured = file.report.measured if file.report else ReportedMeasures()
    return ComparedFile(file.number, file.path, measured.gain_db, measured.backed_off_db)


def hold_pressing(pressing: StoredPressing) -> list[dict[str, Any]]:
    """The reports of all files of a pressing that were named, one after the other. Raises: as `hold_file`."""
    named = [file for file in pressing.files if file.state == "named"]
    return [_held_or_why_not(pressing, file) for file in named]


def _held_or_why_not(pressing: StoredPressing, file: StoredFile) -> dict[str, Any]:
    """An error of one file ends the comparison of that file only."""
    try:
        return hold_file(pressing.ticket, _made(file))
    except (RipePressError, OSError) as error:
        failed = {"path": file.path, "verdict": "stop", "sentence": str(error), "findings": [], "checks": []}
        return failed | _NOT_DRAWN


def hold_in_worker(ticket: dict[str, Any], made: ComparedFile, job: str) -> dict[str, Any]:
    """`hold_file` in a worker. Raises: Cancelled as well."""
    folder = JobFolder(Path(job))
    return hold_file(ticket, made, folder.should_stop, folder.report)


def hold_file(
    ticket: dict[str, Any],
    made: ComparedFile,
    should_stop: Callable[[], bool] = lambda: False,
    progress: Progress = no_progress,
) -> dict[str, Any]:
    """Holds one file against what the document of its pressing makes of the mix.

    Raises: Conflict ``source.changed`` where the mix is another one; NotFound; Unreadable; BadInput for old records.
    """
    one = files_pressed(document_from(ticket))[made.number]
    source = one.planned.path.source.of
    # A sum is read from all of its sources.
    for gone in sorted(of.facts.path for of in source.files if not Path(of.facts.path).is_file()):
        message = f"The mix {quoted(Path(gone).name)} is missing, so there is nothing to compare with."
        raise Conflict("source.gone", message, path=gone)
    source.check()
    path = settled_at(one.planned, made.gain_db, made.backed_off_db)
    file = Path(made.path)
    proof = prove(file, loudness=path.codec.lossy)
    against = hold_against(path, file, should_stop, progress)
    case = Case(path, one.planned.path, one.planned.wish, one.brief, one.mix.finish, proof=proof, against=against)
    findings, checks = judge(case, "against")
    return {
        "path": made.path,
        "verdict": worst(findings),
        "sentence": _sentence(against, bool(findings)),
        "findings": [asdict(finding) for finding in findings],
        "checks": [asdict(one) for one in checks],
        **_drawn(against),
    }


def _sentence(against: Against, wrong: bool) -> str:
    apart = against.apart
    if apart is None:
        return "Rate or channels differ from the render; not compared."
    if not against.lies.related:
        return "Different audio."
    if apart.exact and apart.peak_dbfs == -math.inf:
        return "Bit-exact copy of the mix."
    if apart.exact:
        if apart.over_samples:
            held = f"{print_count(apart.over_samples, 'clipped sample')}, as reported when pressed"
            return f"Bit-exact with the render except {held}: max difference {print_db(apart.peak_dbfs)}."
        return f"Difference {print_db(apart.noise_dbfs)}: dither noise only."
    if apart.heard and not wrong:
        return opinion_of(apart.heard).sentence
    return f"Difference {print_db(apart.rms_dbfs)} RMS, {print_db(apart.peak_dbfs)} peak."


def _drawn(against: Against) -> dict[str, Any]:
    apart = against.apart
    if apart is None:
        return dict(_NOT_DRAWN)
    curve = apart.curve_dbfs
    return {
        "difference": {
            "rms_dbfs": figure(apart.rms_dbfs), "peak_dbfs": figure(apart.peak_dbfs), "most_frame": apart.most_frame,
            "curve_dbfs": [figure(float(value)) for value in _folded(curve, _CURVE_POINTS)],
        },
        "spectra": _spectra(apart),
        "hearing": _hearing(apart.heard) if apart.heard else None,
        "looks": _looks(apart.looks, against.reduction_db) if apart.looks else None,
    }  # fmt: skip


def _spectra(apart: SoundDifference) -> dict[str, Any]:
    before, after = apart.source_spectrum, apart.file_spectrum
    curves = {"mix": before.curve_db(), "file": after.curve_db(), "difference": apart.difference_spectrum.curve_db()}
    masked = masked_curve(curves["difference"], apart.heard) if apart.heard else ()
    stops = comes_back_to_hz(before, after)
    return {
        **{name: [(round(hz, 1), round(db, 1)) for hz, db in curve] for name, curve in curves.items()},
        "masked": list(masked), "stops_hz": stops if stops < _STOPS_BELOW * before.rate_hz / 2 else None,
    }  # fmt: skip


def _looks(looks: Looks, reduction_db: NDArray[np.float64] | None) -> dict[str, Any]:
    """The waveform as 16-bit minima and maxima, channel by channel; levels as shares of all samples that sound."""
    wave = np.clip(np.rint(looks.wave * _WAVE_SCALE), -32768, 32767).astype("<i2")
    levels = {"mix": looks.mix_levels, "file": looks.file_levels}
    loudness = {"mix": looks.mix_loudness, "file": looks.file_loudness}
    return {
        "columns": len(wave), "channels": wave.shape[1], "frames_per_column": looks.frames_per_column,
        "wave_scale": _WAVE_SCALE, "wave": base64.b64encode(wave.tobytes()).decode(),
        "levels_from_dbfs": LEVELS_FROM_DB,
        "levels": {name: [float(one) for one in counts / max(1, counts.sum())] for name, counts in levels.items()},
        "loudness_lufs": {
            name: [None if np.isnan(one) else round(float(one), 2) for one in found.curve(_CURVE_POINTS)]
            for name, found in loudness.items()
        },
        "reduction_db": None if reduction_db is None else [
            round(float(one), 2) for one in -_folded(-reduction_db, _CURVE_POINTS)
        ],
    }  # fmt: skip


def _hearing(heard: Audibility) -> dict[str, Any]:
    """Ratios as bytes: steps of half a decibel from −60 dB on; a row a column of time, low bands first."""
    columns = _folded(heard.picture, _COLUMNS)
    steps = np.clip(np.rint((columns - _FLOOR_DB) / _STEP_DB), 0, 255).astype(np.uint8)
    opinion = opinion_of(heard)
    return {
        "prediction": opinion.prediction, "sentence": opinion.sentence, "reasons": list(opinion.reasons),
        "total_db": figure(heard.total_db), "p99_db": figure(heard.p99_db),
        "above_share": heard.above_share, "columns": len(columns), "bands": len(heard.band_hz),
        "seconds": len(heard.picture) * heard.column_s, "band_hz": list(heard.band_hz),

        "floor_db": _FLOOR_DB, "step_db": _STEP_DB, "cells": base64.b64encode(steps.tobytes()).decode(),
        "places": [asdict(one) for one in places_of(heard)],
        "most_s": float(np.argmax(heard.picture.max(axis=1))) * heard.column_s if len(heard.picture) else 0.0,
    }  # fmt: skip


def _folded(values: Any, most: int) -> Any:
    """Rows folded into so many at most, of which the highest is kept."""
    if len(values) <= most:
        return values
    starts = np.linspace(0, len(values), most + 1).astype(int)[:-1]
    return np.maximum.reduceat(values, starts, axis=0)


def comparison_lines(reports: Sequence[dict[str, Any]]) -> list[str]:
    """A few lines for a terminal."""
    lines = []
    for one in reports:
        lines.append(f"{VERDICTS[one['verdict']]:<7} {one['path']}: {one['sentence']}")
        lines += [f"        {finding['sentence']}" for finding in one["findings"]]
    return lines
