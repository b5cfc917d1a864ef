"""Every processor: however a signal is cut into blocks, the same samples come out, bit for bit."""

from collections.abc import Callable

import numpy as np
import pytest

from ripe_press.core.blocks import BLOCK_FRAMES, Block, Processor, empty_block
from ripe_press.core.signal.edges import Cutter, Folder, Surrounded, Trimmer
from ripe_press.core.signal.fade import Fade, Fader
from ripe_press.core.signal.gain import Gain, HighPass
from ripe_press.core.signal.limiter import Limiter, Limiting
from ripe_press.core.signal.quantise import Quantiser
from ripe_press.core.signal.resample import Resampler
from support.signals import noise

PROCESSORS: dict[str, Callable[[int], Processor]] = {
    "96 to 44.1 kHz": lambda channels: Resampler(96_000, 44_100, channels),
    "44.1 to 48 kHz": lambda channels: Resampler(44_100, 48_000, channels, "high"),
    "16 bits, triangular": lambda channels: Quantiser(16, channels, "triangular"),
    "24 bits, none": lambda channels: Quantiser(24, channels, "none"),
    "8 bits, high-pass": lambda channels: Quantiser(8, channels, "triangular-high-pass"),
    "16 bits, rectangular": lambda channels: Quantiser(16, channels, "rectangular"),
    "16 bits, shaped": lambda channels: Quantiser(16, channels, "shaped-strong", rate_hz=48_000),
    "limiter": lambda channels: Limiter(-20.0, 48_000, channels),
    "limiter, dense, clipping": lambda channels: Limiter(
        -20.0, 48_000, channels, limiting=Limiting("dense", "together", True)
    ),
    "high-pass": lambda channels: HighPass(40.0, 48_000, channels),
    "gain": lambda channels: Gain(-3.0, channels, (0.01,) * channels),
    "cut": lambda channels: Cutter(channels, 2, 19_997),
    "fades": lambda channels: Fader(channels, 66_000, Fade(700, "s"), Fade(3_000, "logarithmic")),
    "fold": lambda channels: Folder(noise(1_500, channels, seed=9)),
    "surrounded": lambda channels: Surrounded(noise(30, channels), noise(20, channels)),
    "trimmed": lambda channels: Trimmer(channels, 30, 200, 100, 50),
}


def run(processor: Processor, samples: Block, size: int) -> np.ndarray:
    parts = [processor.process(samples[at : at + size]) for at in range(0, len(samples), size)]
    return np.concatenate([*parts, processor.flush()])


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("frames", [0, 1, 2, BLOCK_FRAMES - 1, BLOCK_FRAMES, BLOCK_FRAMES + 1])
@pytest.mark.parametrize("name", PROCESSORS)
def test_any_cutting_gives_the_same_samples(name: str, frames: int, channels: int) -> None:
    samples = noise(frames, channels) if frames else empty_block(channels)
    whole = run(PROCESSORS[name](channels), samples, max(1, frames))
    assert whole.shape[1:] == (channels,)
    for size in (211, 4096):
        assert np.array_equal(run(PROCESSORS[name](channels), samples, size), whole)


@pytest.mark.parametrize("name", PROCESSORS)
def test_input_block_is_never_modified(name: str) -> None:
    samples = noise(1000)
    kept = samples.copy()
    samples.setflags(write=False)
    PROCESSORS[name](2).process(samples)
    assert np.array_equal(samples, kept)
