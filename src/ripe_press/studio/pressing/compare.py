"""Comparison of two pressings: bytes, audio, figures, and library versions."""

from collections.abc import Callable, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from ripe_press.core.proof.compare import Difference
from ripe_press.core.sheet.file_report import FileReport
from ripe_press.core.units import print_clock, print_count, print_db
from ripe_press.core.words import quoted
from ripe_press.store.pressings import StoredPressing
from ripe_press.studio.jobs import Events, Jobs, JobState
from ripe_press.studio.pressing import tasks

Sameness = Literal["bytes", "sound", "differs", "measuring", "unknown", "alone"]
"""What two files have in common: every byte, every sample, neither; not known yet, or not to be known; no other."""
_FIGURES = (
    ("Container", "container", ""), ("Coding", "codec", ""), ("Sample rate", "sample_rate_hz", " Hz"),
    ("Bit depth", "bit_depth", " bit"), ("Channels", "channels", ""), ("Length", "frames", " frames"),
    ("Size", "bytes", " bytes"),
)  # fmt: skip
_MEASURED = (
    ("Loudness", "integrated_lufs", " LUFS"), ("True peak", "true_peak_dbtp", " dBTP"),
    ("Sample peak", "sample_peak_dbfs", " dBFS"), ("Gain", "gain_db", " dB"),
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class PairOfFiles:
    """A file of each pressing that answer each other; one of them is missing where a file is *alone*.

    ``figures`` are (what, then, now) of everything that is not the same.
    """

    names: tuple[str | None, str | None]
    """Then and now."""
    sameness: Sameness
    sentence: str
    figures: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True, slots=True)
class Comparison:
    """Two pressings; ``libraries`` are (name, then, now) of every one that has another version."""

    then: int
    now: int
    sentence: str
    pairs: tuple[PairOfFiles, ...]
    libraries: tuple[tuple[str, str, str], ...]


Measure = Callable[[FileReport, FileReport], JobState[Difference]]
"""The difference of two files, or the state of its measurement."""


class Comparisons(Jobs[Difference]):
    """Measures in a worker what only the files of two pressings can tell."""

    def __init__(self, heavy: Executor, passing: Path, events: Events) -> None:
        super().__init__("pressings", events)
        self._heavy, self._passing = heavy, passing

    def compare(self, then: StoredPressing, now: StoredPressing) -> Comparison:
        """The comparison as far as it is known; an event follows when more is known."""
        return compared(then, now, self._measure)

    def _measure(self, then: FileReport, now: FileReport) -> JobState[Difference]:
        return self.once(
            (then.sha256, now.sha256),
            lambda work: work.in_worker(self._heavy, self._passing, tasks.compare_sound, then.path, now.path),
        )


def compared(then: StoredPressing, now: StoredPressing, measure: Measure) -> Comparison:
    """Two pressings side by side; ``measure`` is asked where bytes differ."""
    pairs = tuple(_pair(*one, measure) for one in _paired(then.reports, now.reports))
    names = sorted(then.libraries.keys() | now.libraries.keys())
    libraries = tuple(
        (name, then.libraries.get(name, "not recorded"), now.libraries.get(name, "not recorded"))
        for name in names
        if then.libraries.get(name) != now.libraries.get(name)
    )
    return Comparison(then.id, now.id, _summary(pairs, libraries), pairs, libraries)


def _pair(then: FileReport | None, now: FileReport | None, measure: Measure) -> PairOfFiles:
    names = _name_of(then), _name_of(now)
    if then is None or now is None:
        return PairOfFiles(names, "alone", "No matching file in the other pressing.", ())
    if then.sha256 == now.sha256:
        return PairOfFiles(names, "bytes", "Identical bytes.", ())
    sameness, sentence = _sound(then, now, measure)
    return PairOfFiles(names, sameness, sentence, _figures(then, now))


def _sound(then: FileReport, now: FileReport, measure: Measure) -> tuple[Sameness, str]:
    gone = [Path(one.path).name for one in (then, now) if not Path(one.path).is_file()]
    if gone:
        return "unknown", f"Bytes differ; audio not compared: {quoted(gone[0])} is missing."
    job = measure(then, now)
    if job.result:
        return _told(job.result, now.sample_rate_hz)
    if job.state == "running":
        return "measuring", "Bytes differ. Comparing audio …"
    return "unknown", f"Bytes differ; audio not compared: {job.sentence}"


def _paired(then: Sequence[FileReport], now: Sequence[FileReport]) -> list[tuple[FileReport | None, FileReport | None]]:
    """Files that answer each other: for the same brief in the same form first, then in the same container."""
    left = list(now)
    found: list[tuple[FileReport | None, FileReport | None]] = []
    keys: tuple[Callable[[FileReport], object], ...] = (
        lambda one: (one.brief, one.container, one.sample_rate_hz, one.bit_depth, one.frames),
        lambda one: (one.brief, one.container),
        lambda one: one.container,
    )
    open_ones = dict(enumerate(then))
    matched: dict[int, FileReport] = {}
    for key in keys:
        for at, one in list(open_ones.items()):
            other = next((other for other in left if key(other) == key(one)), None)
            if other is not None:
                left.remove(other)
                matched[at] = other
                del open_ones[at]
    found += [(one, matched.get(at)) for at, one in enumerate(then)]
    return found + [(None, one) for one in left]


def _name_of(report: FileReport | None) -> str | None:
    return Path(report.path).name if report else None


def _figures(then: FileReport, now: FileReport) -> tuple[tuple[str, str, str], ...]:
    rows = [(title, getattr(then, key), getattr(now, key), unit) for title, key, unit in _FIGURES]
    rows += [(title, getattr(then.measured, key), getattr(now.measured, key), unit) for title, key, unit in _MEASURED]
    shown = [(title, _value(a, unit), _value(b, unit)) for title, a, b, unit in rows]
    return tuple(row for row in shown if row[1] != row[2])


def _value(value: object, unit: str) -> str:
    if value is None:
        return "—"
    text = (
        f"{value:.2f}".replace("-", "−")
        if isinstance(value, float)
        else f"{value:,}"
        if isinstance(value, int)
        else str(value)
    )
    return f"{text}{unit}"


def _told(found: Difference, rate_hz: int) -> tuple[Sameness, str]:
    if found.same:
        return "sound", "Audio is bit-exact; metadata differs."
    length = f" One is {print_count(abs(found.longer_by), 'sample')} longer." if found.longer_by else ""
    if found.first_frame is None:
        return "differs", f"Audio identical up to the end of the shorter file.{length}"
    return "differs", (
        f"Audio differs after {print_clock(found.first_frame, rate_hz)}: {print_db(found.peak_dbfs)} peak, "
        f"{print_db(found.rms_dbfs)} RMS.{length}"
    )


def _summary(pairs: Sequence[PairOfFiles], libraries: Sequence[tuple[str, str, str]]) -> str:
    same = sum(pair.sameness == "bytes" for pair in pairs)
    changed = f" {_versions(libraries)}" if libraries else " No library changed in between."
    if same == len(pairs):
        return f"{print_count(same, 'file')} byte-identical.{changed}"
    if not same:
        return f"No file is byte-identical.{changed}"
    return f"{same} of {print_count(len(pairs), 'file')} {'is' if same == 1 else 'are'} byte-identical.{changed}"


def _versions(libraries: Sequence[tuple[str, str, str]]) -> str:
    changes = ", ".join(f"{name} from {then} to {now}" for name, then, now in libraries)
    return f"Changed in between: {changes}."
