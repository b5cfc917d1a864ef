"""Integrated loudness, range and true peak against libebur128 called on the same samples, as ratios, in one run.

Then the whole import, everything measured and the peak pyramid written, as a multiple of real time on one core.
"""

import ctypes
import ctypes.util
import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.measure.loudness import LoudnessMeter
from ripe_press.core.measure.true_peak import TruePeakMeter
from ripe_press.core.survey import survey, warm_up

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from support.signals import in_blocks

SECONDS = 120
INTEGRATED, RANGE, TRUE_PEAK = 0b101, 0b1011, 0b110001
"""The library's own mode bits (ebur128.h 1.2)."""


def programme(rate_hz: int) -> Block:
    """Noise with dynamics of a song: swells of 20 dB, and transients."""
    random = np.random.default_rng(3)
    samples = random.standard_normal((SECONDS * rate_hz, 2)) * 0.1
    samples *= (10 ** ((np.sin(np.arange(len(samples)) / rate_hz) * 10 - 10) / 20))[:, None]
    return samples


def ours(samples: Block, rate_hz: int) -> tuple[float, float, float]:
    """Integrated loudness, range and true peak by our own meters."""
    loudness, peak = LoudnessMeter(2, rate_hz), TruePeakMeter(2, rate_hz)
    for block in in_blocks(samples):
        loudness.process(block)
        peak.process(block)
    found = loudness.result()
    return found.integrated_lufs, found.range_lu, peak.result().true_peak_dbtp


def library(reference: ctypes.CDLL, samples: Block, rate_hz: int) -> tuple[float, float, float]:
    """The same by libebur128."""
    state = ctypes.c_void_p(reference.ebur128_init(2, ctypes.c_ulong(rate_hz), INTEGRATED | RANGE | TRUE_PEAK))
    for block in in_blocks(samples, BLOCK_FRAMES):
        at = np.ascontiguousarray(block).ctypes.data_as(ctypes.POINTER(ctypes.c_double))
        reference.ebur128_add_frames_double(state, at, ctypes.c_size_t(len(block)))
    integrated, spread = ctypes.c_double(), ctypes.c_double()
    reference.ebur128_loudness_global(state, ctypes.byref(integrated))
    reference.ebur128_loudness_range(state, ctypes.byref(spread))
    peaks = []
    for channel in range(2):
        value = ctypes.c_double()
        reference.ebur128_true_peak(state, ctypes.c_uint(channel), ctypes.byref(value))
        peaks.append(value.value)
    reference.ebur128_destroy(ctypes.byref(state))
    return integrated.value, spread.value, float(20 * np.log10(max(peaks)))


def cpu_seconds(work: Callable[[], object], turns: int = 3) -> float:
    """The least CPU time of some turns."""
    times = []
    for _ in range(turns):
        began = time.process_time()
        work()
        times.append(time.process_time() - began)
    return min(times)


def main() -> None:
    """Prints a line a rate, and one for the import."""
    warm_up()
    name = ctypes.util.find_library("ebur128")
    if name is None:
        print("libebur128 is not installed: only the import is measured (Debian's package is libebur128-1)")
    else:
        reference = ctypes.CDLL(name)
        reference.ebur128_init.restype = ctypes.c_void_p
        print("Loudness, range and true peak against libebur128, one core:")
        for rate_hz in (44_100, 48_000, 96_000):
            samples = programme(rate_hz)
            mine, other = ours(samples, rate_hz), library(reference, samples, rate_hz)
            fast = cpu_seconds(lambda s=samples, r=rate_hz: ours(s, r))
            slow = cpu_seconds(lambda s=samples, r=rate_hz: library(reference, s, r))
            words = ", ".join(f"{a:.2f}/{b:.2f}" for a, b in zip(mine, other, strict=True))
            print(f"{rate_hz:6d} Hz: {slow / fast:.1f} times as fast ({SECONDS / fast:.0f} times real time); {words}")
    with tempfile.TemporaryDirectory() as folder:
        mix = Path(folder) / "mix.wav"
        soundfile.write(mix, programme(44_100), 44_100, subtype="PCM_24")
        seconds = cpu_seconds(lambda: survey(mix, Path(folder) / f"{os.urandom(4).hex()}.bin"))
        print(f"whole import at 44.1 kHz, 24 bits: {SECONDS / seconds:.0f} times real time a core")


if __name__ == "__main__":
    main()
