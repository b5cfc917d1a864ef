"""Work in worker processes: frozen values and paths in, frozen values out."""

import os
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np

from ripe_press.core.engine.levels import Shortfall, walk_settled
from ripe_press.core.engine.resolve import PlannedFile
from ripe_press.core.engine.walker import walk
from ripe_press.core.errors import BadInput, Cancelled, Interrupted, Unreadable
from ripe_press.core.formats.capabilities import Encoding
from ripe_press.core.formats.content import content_sum
from ripe_press.core.formats.layout import mask_of
from ripe_press.core.formats.wav import WavWriter
from ripe_press.core.measure.content import FFT_FRAMES, SpectrumMeter
from ripe_press.core.measure.pyramid import reduce_frames
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.measure.true_peak import TruePeakBins, true_peak_of
from ripe_press.core.oversampling import TAPS
from ripe_press.core.press import Event, OrderedFile, PressedFile, PressOrder, press
from ripe_press.core.proof.compare import Difference, difference_of
from ripe_press.core.proof.read_back import hash_file
from ripe_press.core.sources.source import open_file
from ripe_press.core.stations import Path as StationPath
from ripe_press.core.stations.forecast import Forecast
from ripe_press.core.survey import Survey, survey
from ripe_press.core.tags.cover import Cover, prepare
from ripe_press.core.tags.embedded import Embedded, read_embedded
from ripe_press.core.tags.pictures import read_cover
from ripe_press.core.trial import Trial, try_path
from ripe_press.core.whole_files import whole
from ripe_press.core.wishes.document import read_document
from ripe_press.core.words import quoted
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.journal import Journal
from ripe_press.studio.measured import measured
from ripe_press.studio.planning import resolved
from ripe_press.studio.work import Work
from ripe_press.studio.workers import server_is_gone

MOST_EXACT_BITS = 24
"""32-bit float holds integers of up to so many bits exactly."""


@dataclass(frozen=True, slots=True)
class TimedPressing:
    """How long a pressing took in the worker, and by the numbers of files where a loudness fell short of its aim."""

    seconds: float
    short: tuple[tuple[int, Shortfall | None], ...]
    off_by: float | None
    """Mean error of the predicted time, as a share of the whole."""


@dataclass(frozen=True, slots=True)
class ReadIn:
    """The analysis of an imported file; ``decoded`` when a copy was made that can be read from any frame."""

    survey: Survey
    sha256: str
    embedded: Embedded
    decoded: str | None
    content_sum: str
    channels_asked: bool
    """Whether it has no channel labels, so that the user must choose."""
    cover: Cover | None = None


def read_in(path: str, pyramid_path: str, job: str) -> ReadIn:
    """Measures a file and writes its pyramid; a codec that cannot be entered at any frame is decoded once, to float.

    32-bit float holds every integer of up to 24 bits exactly, so a lossless codec loses nothing by it.
    """
    folder = JobFolder(Path(job))
    wish, asked = "", False
    try:
        open_file(Path(path)).close()
    except BadInput:
        # Without channel labels, the first two are used until the user chooses, and a finding says so.
        wish, asked = "1+2", True
    with open_file(Path(path), wish) as reader:
        facts = reader.facts
        decoded = None
        if not reader.seeks_exactly:
            decoded = Path(job) / "decoded.wav"
            # Every channel is kept, so that another pair of them can be chosen later.
            encoding: Encoding = "f64" if (facts.bit_depth or 0) > MOST_EXACT_BITS else "f32"
            speakers = mask_of(facts.layout) if facts.layout else 0
            channels = facts.file_channels
            with WavWriter(decoded, encoding, facts.rate_hz, channels, speakers=speakers) as writer:
                for block in reader.file_blocks():
                    if folder.cancelled():
                        message = f"Reading {quoted(Path(path).name)} cancelled. Nothing was kept."
                        raise Cancelled("survey.cancelled", message)
                    writer.write(block)
    result = survey(decoded or Path(path), Path(pyramid_path), folder.report, folder.cancelled, wish)
    if decoded:
        result = replace(result, facts=facts, effective_bits=result.effective_bits if facts.bit_depth else None)
    embedded = read_embedded(Path(path), facts.rate_hz, facts.frames)
    sha256 = hash_file(Path(path), folder.cancelled)
    kept = str(decoded or "") or None
    return ReadIn(result, sha256, embedded, kept, content_sum(Path(path)), asked, _cover_in(Path(path)))


def _cover_in(path: Path) -> Cover | None:
    picture = read_cover(path)
    try:
        return prepare(picture, path.name) if picture else None
    except Unreadable:
        # A mix is not refused for its picture.
        return None


def prepare_cover(data: bytes, name: str) -> Cover:
    """A picture that was sent, ready to be embedded; decoded here, away from the server."""
    return prepare(data, name)


def read_again(path: str, downmix: str, pyramid_path: str, job: str) -> Survey:
    """Measures a mix made of other channels of its file."""
    folder = JobFolder(Path(job))
    return survey(Path(path), Path(pyramid_path), folder.report, folder.cancelled, downmix)


@dataclass(frozen=True, slots=True)
class Target:
    """The path of a file of a document, by its number there, and its predicted size.

    One that was ``kept`` is there already: it only counts for the level of its group.
    """

    number: int
    path: str
    replaces: bool
    forecast: Forecast | None
    kept: bool = False


def press_order(
    document: str, targets: list[Target], job: str, journal: str, attempt: str, pace: float
) -> TimedPressing:
    """Press a document; report progress in the job folder, and events of files in the journal.

    ``pace`` is for the estimate of the time left. Raises: Interrupted ``worker.crashed`` where this attempt was begun
    before, by a worker that did not come to its end; ``press.superseded`` where another has taken its place.
    """
    folder, noted = JobFolder(Path(job)), Journal(Path(journal))
    if not folder.begin(attempt):
        message = "Worker lost. Try again."
        raise Interrupted("worker.crashed", message)
    began = folder.seconds()
    files, _ = resolved(read_document(document), lambda wish: measured(wish.source.facts))
    order = PressOrder(
        tuple(
            OrderedFile(
                one.planned, one.brief, target.path, target.replaces, target.forecast, one.mix.finish, target.kept
            )
            for target in targets
            for one in (files[target.number],)
        ),
        recheck=True,
    )
    numbers = [target.number for target in targets]
    cores = os.cpu_count() or 2
    work = Work(order.files, folder.tell, cores=cores, numbers=numbers, pace=pace, clock=folder.seconds)

    last: dict[int, str] = {}

    def report(event: Event) -> None:
        work(event)
        for at in event.files:
            # A file is noted when its state changes, not for every block of it.
            if not targets[at].kept and last.get(at) != event.state:
                last[at] = event.state
                if event.state == "naming" and server_is_gone():
                    # The server is gone: the file is made again after its restart.
                    os._exit(1)
                if event.state == "naming" and not folder.owns(attempt):
                    message = "Another worker continued this file."
                    raise Cancelled("press.superseded", message)
                noted.write(targets[at].number, event)

    made = press(order, report, lambda: folder.should_stop() or not folder.owns(attempt))
    wanted = [target.number for target in targets if not target.kept]
    short = tuple((number, one.short) for number, one in zip(wanted, made, strict=True) if isinstance(one, PressedFile))
    return TimedPressing(folder.seconds() - began, short, work.off_by())


def cut_to_listen(path: StationPath, target: str, job: str) -> None:
    """Renders a path to a file that is followed while it grows."""
    folder = JobFolder(Path(job))
    walk([path], {0: Path(target)}, should_stop=folder.cancelled)


def read_tile(path: str, downmix: str, start_frame: int, frames: int, frames_per_bin: int) -> bytes:
    """Bins of a stretch too fine for the kept pyramid, as little-endian 32-bit floats."""
    with open_file(Path(path), downmix) as reader:
        parts = [
            reduce_frames(block, frames_per_bin).astype("<f4").tobytes()
            for block in reader.blocks(start_frame, start_frame + frames)
        ]
    return b"".join(parts)


def read_true_peaks(path: str, downmix: str, target: str) -> None:
    """Measures the true peak of every 8192 frames and keeps them in a file, which appears when it is whole."""
    with open_file(Path(path), downmix) as reader:
        bins = TruePeakBins(reader.facts.channels, reader.facts.rate_hz)
        for block in reader.blocks():
            bins.process(block)
    with whole(Path(target)) as new, new.open("wb") as file:
        np.save(file, bins.result()[1])


def read_peaks_of(path: str, downmix: str, stretches: list[tuple[int, int]]) -> list[tuple[float, int]]:
    """True peak, linear, and first frame, of short stretches of a mix, with what lies around them."""
    found = []
    with open_file(Path(path), downmix) as reader:
        for start, end in stretches:
            before = min(start, TAPS - 1)
            samples = np.concatenate(list(reader.blocks(start - before, end)))
            padded = np.pad(samples, ((TAPS - 1 - before, 0), (0, 0)))
            found.append((true_peak_of(padded, reader.facts.rate_hz), start))
    return found


MOST_WINDOWS = 300


def read_spectrum(path: str, downmix: str, start_frame: int, end_frame: int) -> list[tuple[float, float]]:
    """The mean spectrum of a stretch as (Hz, dB), from windows spread evenly over it."""
    with open_file(Path(path), downmix) as reader:
        meter = SpectrumMeter(reader.facts.rate_hz, FFT_FRAMES)
        frames = end_frame - start_frame
        windows = max(1, min(MOST_WINDOWS, frames // FFT_FRAMES))
        for number in range(windows):
            at = start_frame + number * (frames - FFT_FRAMES) // max(1, windows - 1) if windows > 1 else start_frame
            window = np.concatenate(list(reader.blocks(at, min(end_frame, at + FFT_FRAMES))))
            missing = FFT_FRAMES - len(window)
            meter.process(np.pad(window, ((0, missing), (0, 0))) if missing else window)
        return [(round(hz, 1), round(db, 1)) for hz, db in meter.result().curve_db()]


def find_crossing(path: str, downmix: str, frame: int, reach: int) -> int:
    """The frame nearest to ``frame`` at which the sum of the channels changes sign; ``frame`` when none does."""
    with open_file(Path(path), downmix) as reader:
        start, end = max(0, frame - reach), min(reader.facts.frames, frame + reach + 1)
        if end - start < 2:
            return frame
        signs = np.concatenate(list(reader.blocks(start, end))).sum(axis=1) >= 0
    places = start + 1 + np.flatnonzero(np.diff(signs))
    return int(places[np.abs(places - frame).argmin()]) if len(places) else frame


@dataclass(frozen=True, slots=True)
class LevelFound:
    """The gain of a settled level, the resulting measurements, and the gain reduction of every 1024 frames."""

    gain_db: float
    signal: SignalResult
    reduction_db: tuple[float, ...]
    short: Shortfall | None = None


def try_codec(path: StationPath) -> Trial:
    """Codes and decodes pieces of a path."""
    return try_path(path)


def try_level(file: PlannedFile) -> LevelFound:
    """Settles the level of a file and walks it, without writing anything."""
    path, seen, short = walk_settled(file)
    if seen.signal is None:
        message = "a level is measured behind it"
        raise TypeError(message)
    curve = seen.reduction_db(path.rate.to_hz)
    reduction = () if curve is None else tuple(round(float(one), 2) for one in curve)
    gain_db = path.settled.gain_db if path.settled else 0.0
    return LevelFound(gain_db, seen.signal, reduction, short)


def compare_sound(first: str, second: str) -> Difference:
    """Decode two files and measure their difference."""
    return difference_of(Path(first), Path(second))


@dataclass(frozen=True, slots=True)
class Whereabouts:
    """What has become of a file, and where it was found, when it was."""

    found: Literal["as-pressed", "moved", "changed", "gone"]
    path: str | None


def look_for_file(path: str, size_bytes: int, sha256: str, root: str) -> Whereabouts:
    """Looks whether a file is as it was; where it is gone, for its content in its folder and below ``root``."""
    wanted = Path(path)
    if wanted.is_file():
        same = wanted.stat().st_size == size_bytes and hash_file(wanted) == sha256
        return Whereabouts("as-pressed" if same else "changed", path)
    for folder in dict.fromkeys((wanted.parent, Path(root))):
        for other in sorted(folder.rglob("*")):
            if other.is_file() and other.stat().st_size == size_bytes and hash_file(other) == sha256:
                return Whereabouts("moved", str(other))
    return Whereabouts("gone", None)
