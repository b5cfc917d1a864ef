"""Everything measured of a mix in one streaming pass."""

import os
from collections.abc import Callable, Iterator
from concurrent.futures import Executor, ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import BLOCK_FRAMES, Block, Meter, Progress, no_progress
from ripe_press.core.errors import Cancelled
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.measure.bands import BandLevels, BandsMeter
from ripe_press.core.measure.clipping import ClippingMeter, ClippingResult, full_scale_of
from ripe_press.core.measure.content import BitsMeter, SpectrumMeter, SpectrumResult, StereoMeter, StereoResult
from ripe_press.core.measure.level_history import LevelHistory
from ripe_press.core.measure.loudness import LoudnessMeter, LoudnessResult
from ripe_press.core.measure.peak import PeakMeter, PeakResult
from ripe_press.core.measure.places.silence import SilenceMeter, SilenceResult
from ripe_press.core.measure.pyramid import PyramidMeter, reduce_frames
from ripe_press.core.measure.true_peak import TruePeakBins, TruePeakMeter, TruePeakResult
from ripe_press.core.signal.gain import HighPass
from ripe_press.core.signal.limiter import Limiter
from ripe_press.core.signal.quantise import Quantiser
from ripe_press.core.sources.source import AudioSource, Reader, open_file
from ripe_press.core.words import quoted


@dataclass(frozen=True, slots=True)
class Survey:
    """The facts of a file and its measures."""

    facts: SourceFacts
    peak: PeakResult
    clipping: ClippingResult
    silence: SilenceResult
    true_peak: TruePeakResult
    true_peak_bins: NDArray[np.float32]
    """The true peak, linear, of every 8192 frames."""
    loudness: LoudnessResult
    stereo: StereoResult
    spectrum: SpectrumResult
    bands: BandLevels
    effective_bits: int | None

    @property
    def history(self) -> LevelHistory:
        """The levels over time, to separate sound from silence."""
        return LevelHistory(self.silence, self.loudness, self.bands, self.facts.rate_hz)

    @property
    def effective_bandwidth_hz(self) -> float:
        """The highest frequency that stands above the noise of the bits in use."""
        return self.spectrum.bandwidth_hz(self.effective_bits)


def survey(
    path: Path,
    pyramid_path: Path | None = None,
    progress: Progress = no_progress,
    should_stop: Callable[[], bool] = lambda: False,
    downmix: str = "",
    start_frame: int = 0,
    end_frame: int | None = None,
) -> Survey:
    """Reads a file once, measures it, and writes its peak pyramid when a place for it is given.

    Without a pyramid a stretch of it may be measured; places in the result then count from its start.

    Raises: whatever reading raises; Interrupted ``survey.cancelled``. No pyramid is left then.
    """
    with open_file(path, downmix) as reader:
        stretch = (start_frame, end_frame) if pyramid_path is None else (0, None)
        return _survey(reader, reader.facts, stretch, pyramid_path, progress, should_stop)


def survey_source(
    source: AudioSource,
    pyramid_path: Path,
    progress: Progress = no_progress,
    should_stop: Callable[[], bool] = lambda: False,
) -> Survey:
    """The same of any source, a sum of stems too. Raises: as `survey`."""
    with source.open() as reader:
        return _survey(reader, source.facts, (0, None), pyramid_path, progress, should_stop)


def _survey(
    reader: Reader,
    facts: SourceFacts,
    stretch: tuple[int, int | None],
    pyramid_path: Path | None,
    progress: Progress,
    should_stop: Callable[[], bool],
) -> Survey:
    with ExitStack() as stack:
        pyramid = None
        if pyramid_path:
            stack.push(_unless_whole(pyramid_path))
            pyramid = PyramidMeter(facts.channels, stack.enter_context(pyramid_path.open("w+b")))
        peak = PeakMeter(facts.channels)
        clipping = ClippingMeter(facts.channels, full_scale_of(facts.bit_depth, facts.is_float))
        silence = SilenceMeter()
        true_peak = TruePeakBins(facts.channels, facts.rate_hz)
        loudness = LoudnessMeter(facts.channels, facts.rate_hz)
        stereo = StereoMeter(facts.channels)
        spectrum = SpectrumMeter(facts.rate_hz)
        bands = BandsMeter(facts.channels, facts.rate_hz)
        bits = BitsMeter(facts.bit_depth if facts.holds_integers or facts.is_float else None)
        # The longest first: each meter sees the blocks in order, and several look at the same one side by side.
        meters: list[Meter] = [true_peak, bands, loudness, stereo, clipping, spectrum, peak, silence, bits]
        if pyramid:
            meters.insert(1, pyramid)
        done = 0
        with ThreadPoolExecutor(os.cpu_count() or 1, "meter") as pool:
            for block in ahead(reader.blocks(*stretch), pool):
                if should_stop():
                    message = f"Reading {quoted(Path(facts.path).name)} cancelled. Nothing was kept."
                    raise Cancelled("survey.cancelled", message)
                for task in [pool.submit(meter.process, block) for meter in meters]:
                    task.result()
                done += len(block)
                progress(done, facts.frames)
        if pyramid:
            pyramid.result()
    return Survey(
        facts, peak.result(), clipping.result(), silence.result(), *true_peak.result(), loudness.result(),
        stereo.result(), spectrum.result(), bands.result(),
        bits.result() if facts.holds_integers or facts.is_float else None,
    )  # fmt: skip


def level_history(source: AudioSource) -> LevelHistory:
    """Read a source once for its levels over time only. Raises: whatever reading raises."""
    facts = source.facts
    silence = SilenceMeter()
    loudness, bands = LoudnessMeter(facts.channels, facts.rate_hz), BandsMeter(facts.channels, facts.rate_hz)
    meters: list[Meter] = [bands, loudness, silence]
    with source.open() as reader, ThreadPoolExecutor(os.cpu_count() or 1, "meter") as pool:
        for block in ahead(reader.blocks(), pool):
            for task in [pool.submit(meter.process, block) for meter in meters]:
                task.result()
    return LevelHistory(silence.result(), loudness.result(), bands.result(), facts.rate_hz)


def _unless_whole(path: Path) -> Callable[[type[BaseException] | None, object, object], bool]:
    """Takes a file away again where something went wrong."""

    def take_away(kind: type[BaseException] | None, _error: object, _trace: object) -> bool:
        if kind is not None:
            path.unlink(missing_ok=True)
        return False

    return take_away


def ahead(blocks: Iterator[Block], pool: Executor) -> Iterator[Block]:
    """The same blocks; the next one is read during the work on the current one."""
    coming = pool.submit(next, blocks, None)
    while (block := coming.result()) is not None:
        coming = pool.submit(next, blocks, None)
        yield block


def measure_bits(source: AudioSource) -> int | None:
    """The bits in use of a mix, read only as far as it takes to know that all that are declared are."""
    facts = source.facts
    meter = BitsMeter(facts.bit_depth)
    with source.open() as reader:
        for block in reader.blocks():
            meter.process(block)
            if (meter.result() or 0) >= (facts.bit_depth or 0):
                break
    return meter.result()


def sides_alike(source: AudioSource) -> bool:
    """Whether both sides of a stereo source are the same samples: mono in a stereo file. Read to the first difference,
    and not silent.
    """
    if source.facts.channels != 2:
        return False
    sounds = False
    with source.open() as reader:
        for block in reader.blocks():
            if not np.array_equal(block[:, 0], block[:, 1]):
                return False
            sounds = sounds or bool(block.any())
    return sounds


def warm_up() -> None:
    """Runs every compiled kernel on a moment of silence, so that it is compiled, or loaded from the cache."""
    from ripe_press.core.kernels import hearing
    from ripe_press.core.kernels.bins import count_levels

    for channels in (1, 2):
        silence = np.zeros((BLOCK_FRAMES, channels))
        reduce_frames(silence, 256)
        Quantiser(16, channels, "shaped-light").process(silence[:100])
        HighPass(20.0, 44_100, channels).process(silence[:100])
        loud = Limiter(-60.0, 44_100, channels)
        loud.process(silence[:8192] + 0.5)
        meters: list[Meter] = [
            TruePeakMeter(channels, 44_100), LoudnessMeter(channels, 44_100), StereoMeter(channels)
        ]  # fmt: skip
        for meter in meters:
            meter.process(silence)
            meter.result()
    count_levels(silence, -96.0, np.zeros(100, dtype=np.int64))
    hearing.warm_up()
