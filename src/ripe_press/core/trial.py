"""A trial: short pieces of a path are coded and decoded, to tell the whole size and what the codec leaves out.

What a trial shows is of the sound alone; `size_after` adds the tags and the head that the file has around it.
"""

import math
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise
from pathlib import Path as FilePath

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import BLOCK_FRAMES
from ripe_press.core.engine.walker import walk
from ripe_press.core.formats.capabilities import CAPABILITIES, PLAIN, STORED_BITS, Container, Encoding, is_float, is_pcm
from ripe_press.core.formats.coding import Coding
from ripe_press.core.formats.writing.writers import open_writer
from ripe_press.core.measure.content import FFT_FRAMES, SpectrumMeter
from ripe_press.core.sources.source import open_file
from ripe_press.core.stations import Codec, Line, Path, Range
from ripe_press.core.stations.size.exact import around, forecast_size
from ripe_press.core.stations.size.forecast import Forecast
from ripe_press.core.whole_files import temporary_prefix

Levels = NDArray[np.float64]
PIECES = 24
PIECE_SECONDS = 0.75
_MARGINS = {False: 0.02, True: 0.05}
"""By whether the codec is lossy: those spend more, or less, on the first moments of a piece."""
_SPREAD = 3.0


@dataclass(frozen=True, slots=True)
class Trial:
    """What the pieces showed. Levels in dBFS as a full-scale sine reads 0; curves are (Hz, dB) pairs.

    ``bytes_a_frame`` are the two bounds of what a coded frame takes. ``difference_dbfs`` is the level of what decoding
    does not give back, ``mix_dbfs`` that of the pieces themselves, ``above_cutoff_db`` the share of their power that
    lies where the encoder has stopped, in dB of all of it; they are None for codecs that lose nothing.
    """

    bytes_a_frame: tuple[float, float]
    mix_dbfs: float | None = None
    difference_dbfs: float | None = None
    peak_before_dbfs: float | None = None
    peak_after_dbfs: float | None = None
    mix_curve: tuple[tuple[float, float], ...] = ()
    difference_curve: tuple[tuple[float, float], ...] = ()
    cutoff: "Cutoff | None" = None
    above_cutoff_db: float | None = None


def try_path(path: Path) -> Trial:
    """Encode pieces spread evenly over the audio of a path. Plain samples need no trial: their size is known.

    Raises: whatever reading and writing raise.
    """
    codec = path.codec
    if is_pcm(codec.container):
        plain = codec.channels * STORED_BITS[codec.encoding] / 8
        return Trial((plain, plain))
    with tempfile.TemporaryDirectory(prefix=temporary_prefix("trial")) as folder:
        pieces = [
            _code(path, window, FilePath(folder), number)
            for number, window in enumerate(_windows(path.cut, path.source.facts.rate_hz))
        ]
        head = _head_bytes(codec, FilePath(folder))
    rates = _bytes_a_frame(codec, pieces, head)
    if codec.coding is None:
        return Trial(rates)
    cutoff = encoder_cutoff(codec.container, codec.coding, codec.rate_hz, codec.channels)
    return _compared(rates, codec, pieces, cutoff)


@dataclass(frozen=True, slots=True)
class _Piece:
    frames: int
    bytes: int
    before: Levels
    after: Levels


def _windows(cut: Range, rate_hz: int) -> Sequence[tuple[int, int]]:
    sounding = cut.sounding_frames
    length = round(PIECE_SECONDS * rate_hz)
    if sounding <= PIECES * length:
        return [(0, sounding)]
    starts = np.linspace(0, sounding - length, PIECES).astype(int)
    return [(int(start), int(start) + length) for start in starts]


def _code(path: Path, window: tuple[int, int], folder: FilePath, number: int) -> _Piece:
    cut = replace(path.cut, window=window, silence_before=0, silence_after=0)
    # A video is measured without its picture, whose size does not depend on length.
    sound = CAPABILITIES[path.codec.container].sounds_as
    codec = replace(path.codec, container=sound, exact=False, loudness=False, chapters=(), picture="")
    path = replace(path, cut=cut, codec=codec)
    lines: list[Line] = [path.coded]
    if codec.lossy:
        lines.append((*path.sounding, Codec(PLAIN, "f64", codec.rate_hz, codec.channels, 0)))
    targets = {index: folder / f"{number}-{index}" for index in range(len(lines))}
    walk(lines, targets)
    with open_file(targets[0]) as reader:
        frames = reader.facts.frames
        after = np.concatenate(list(reader.blocks())) if len(lines) > 1 else np.zeros((0, codec.channels))
    original = np.zeros((0, codec.channels))
    if len(lines) > 1:
        with open_file(targets[1]) as reader:
            original = np.concatenate(list(reader.blocks()))
    size = targets[0].stat().st_size
    for target in targets.values():
        target.unlink()
    return _Piece(frames, size, original, after)


def _head_bytes(codec: Codec, folder: FilePath) -> int:
    """What every file has, however short it is: found by writing one frame of silence."""
    target = folder / "head"
    sound = CAPABILITIES[codec.container].sounds_as
    writer = open_writer(target, sound, codec.encoding, codec.rate_hz, codec.channels, 1, codec.coding)
    silence = np.zeros((1, codec.channels))
    integers = codec.encoding != "lossy" and not is_float(codec.encoding)
    writer.write(silence.astype(np.int32) if integers else silence)
    writer.close()
    return target.stat().st_size


def _bytes_a_frame(codec: Codec, pieces: Sequence[_Piece], head_bytes: int) -> tuple[float, float]:
    rates = np.array([max(0, piece.bytes - head_bytes) / piece.frames for piece in pieces])
    mean = float(rates.mean())
    # The pieces are spread evenly over a slowly changing whole: the difference of neighbours gives the error of their
    # mean (W. G. Cochran, Sampling Techniques, on systematic samples; from memory).
    steps = np.diff(rates)
    spread = _SPREAD * math.sqrt(float(np.square(steps).sum()) / 2 / max(1, len(steps)) / len(rates))
    margin = _MARGINS[CAPABILITIES[codec.container].lossy] * mean
    return max(0.0, mean - spread - margin), mean + spread + margin


def size_after(path: Path, trial: Trial) -> Forecast:
    """The whole size of a path that was tried, with its tags as they are now."""
    codec, tags = path.codec, path.tags.content
    cheap = forecast_size(codec, tags)
    if cheap.exact or (codec.coding and codec.coding.mode == "constant"):
        return cheap
    sounding = path.cut.sounding_frames * codec.rate_hz / path.source.facts.rate_hz
    least, most = around(codec, tags)
    low, high = trial.bytes_a_frame
    highest = high * sounding + most
    if codec.coding is None:
        highest = min(highest, cheap.high)
    return Forecast(max(0, math.floor(low * sounding + least)), math.ceil(highest), "trial")


def _compared(rates: tuple[float, float], codec: Codec, pieces: Sequence[_Piece], cutoff: "Cutoff") -> Trial:
    mix, lost = SpectrumMeter(codec.rate_hz, FFT_FRAMES), SpectrumMeter(codec.rate_hz, FFT_FRAMES)
    power = difference = 0.0
    samples = 0
    peak_before = peak_after = 0.0
    for piece in pieces:
        length = min(len(piece.before), len(piece.after))
        if not length:
            continue
        before, after = piece.before[:length], piece.after[:length]
        gap = after - before
        power += float(np.square(before).sum())
        difference += float(np.square(gap).sum())
        samples += before.size
        peak_before = max(peak_before, float(np.abs(before).max()))
        peak_after = max(peak_after, float(np.abs(after).max()))
        for start in range(0, length, BLOCK_FRAMES):
            mix.process(before[start : start + BLOCK_FRAMES])
            lost.process(gap[start : start + BLOCK_FRAMES])
    spectrum, above = mix.result(), None
    if samples >= FFT_FRAMES and not cutoff.full:
        above = spectrum.share_above_db(cutoff.edge_hz)
    mix_curve, lost_curve = (
        tuple((round(hz, 1), round(db, 1)) for hz, db in found.curve_db()) if samples >= FFT_FRAMES else ()
        for found in (spectrum, lost.result())
    )
    return Trial(
        rates, _level(power, samples), _level(difference, samples), _peak(peak_before), _peak(peak_after), mix_curve,
        lost_curve, cutoff, above,
    )  # fmt: skip


def _level(power: float, samples: int) -> float:
    return 10 * math.log10(2 * power / samples) if samples and power else -math.inf


def _peak(value: float) -> float:
    return 20 * math.log10(value) if value else -math.inf


@dataclass(frozen=True, slots=True)
class Cutoff:
    """Where an encoder stops: the highest frequency that comes back within 3 dB."""

    edge_hz: float
    full: bool
    """Whether it reaches the end of what the rate can carry."""


_NOISE_SECONDS = 4
_BANDS = 160


@lru_cache(maxsize=64)
def encoder_cutoff(container: Container, coding: Coding, rate_hz: int, channels: int) -> Cutoff:
    """Measured: noise that falls by 3 dB per octave, as music does, is encoded and compared with the decoded result."""
    frames = _NOISE_SECONDS * rate_hz
    random = np.random.default_rng(1)
    hz = np.fft.rfftfreq(frames, 1 / rate_hz)
    shape = 1 / np.sqrt(np.maximum(hz, 20.0))
    noise = np.fft.irfft(
        np.fft.rfft(random.standard_normal((frames, channels)), axis=0) * shape[:, None], frames, axis=0
    )
    noise *= 0.25 / np.abs(noise).max()
    encoding: Encoding = "lossy"
    with tempfile.TemporaryDirectory(prefix=temporary_prefix("trial")) as folder:
        target = FilePath(folder) / "noise"
        # A video's sound is that of its audio codec; its picture does not matter here.
        writer = open_writer(target, CAPABILITIES[container].sounds_as, encoding, rate_hz, channels, frames, coding)
        writer.write(noise)
        writer.close()
        with open_file(target) as reader:
            back = np.concatenate(list(reader.blocks()))[:frames]
    window = np.kaiser(8192, 20)[:, None]
    starts = range(0, frames - 8192, 4096)
    spectra = [
        sum(np.square(np.abs(np.fft.rfft(one[at : at + 8192] * window, axis=0))).sum(axis=1) for at in starts)
        for one in (noise, back)
    ]
    bins = np.fft.rfftfreq(8192, 1 / rate_hz)
    edges = np.linspace(0, rate_hz / 2, _BANDS + 1)
    highest = 0.0
    for low, high in pairwise(edges):
        chosen = (bins >= low) & (bins < high)
        before, after = (float(np.asarray(one)[chosen].sum()) for one in spectra)
        if after > before / 2:  # within 3 dB
            highest = float(high)
    return Cutoff(highest, highest >= 0.98 * rate_hz / 2)
