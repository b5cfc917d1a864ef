"""Work on mixes in worker processes: frozen values and paths in, frozen values out."""

from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from ripe_press.core.errors import BadInput, Cancelled, Unreadable
from ripe_press.core.formats.capabilities import Encoding
from ripe_press.core.formats.fingerprint import content_sum
from ripe_press.core.formats.reading.channel_layout import mask_of
from ripe_press.core.formats.writing.wav import WavWriter
from ripe_press.core.measure.content import FFT_FRAMES, SpectrumMeter
from ripe_press.core.measure.pyramid import reduce_frames
from ripe_press.core.measure.true_peak import TruePeakBins, true_peak_of
from ripe_press.core.oversampling import TAPS
from ripe_press.core.proof.read_back import hash_file
from ripe_press.core.sources.source import open_file
from ripe_press.core.survey import Survey, survey
from ripe_press.core.tags.cover import Cover, prepare
from ripe_press.core.tags.embedded import Embedded, read_embedded
from ripe_press.core.tags.pictures import read_cover
from ripe_press.core.whole_files import whole
from ripe_press.core.words import quoted
from ripe_press.studio.jobs import JobFolder

MOST_EXACT_BITS = 24
"""32-bit float holds integers of up to so many bits exactly."""


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
