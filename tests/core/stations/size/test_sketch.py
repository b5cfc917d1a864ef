"""What a sketch foresees, against the limiter itself."""

import numpy as np
import pytest

from ripe_press.core.blocks import Block
from ripe_press.core.measure.signal import SignalMeter
from ripe_press.core.signal.limiter import Limiter, Limiting
from ripe_press.core.stations.size.sketch import Sketch, Sketcher
from support.signals import in_blocks, noise

RATE = 44_100


def beats() -> Block:
    at = np.arange(8 * RATE) % (RATE // 3) / RATE
    return noise(8 * RATE, 2, 1) * 3 * np.exp(-at / 0.05)[:, None] + noise(8 * RATE, 2, 2, 0.02)


def sketched(samples: Block, block_frames: int = 50_000) -> Sketch:
    sketcher = Sketcher(2, RATE, 12.0)
    for block in in_blocks(samples, block_frames):
        sketcher.process(block)
    return sketcher.result()


@pytest.mark.parametrize("limiting", [Limiting(), Limiting("dense"), Limiting(sides="together"), Limiting(clip=True)])
@pytest.mark.parametrize("over_db", [-6.0, 3.0, 6.0, 12.0])
def test_loudness_is_foreseen_to_a_few_tenths(over_db: float, limiting: Limiting) -> None:
    samples = beats() + np.sin(2 * np.pi * 55 * np.arange(8 * RATE) / RATE)[:, None] * 0.5
    sketch = sketched(samples)
    gain_db = -1.0 - sketch.peak_dbtp + over_db
    limiter, meter = Limiter(-1.0, RATE, 2, limiting=limiting), SignalMeter(2, RATE)
    for part in (limiter.process(samples * 10 ** (gain_db / 20)), limiter.flush()):
        meter.process(part)
    assert sketch.loudness_at(gain_db, -1.0, limiting) == pytest.approx(
        meter.result().integrated_lufs, abs=0.8 if limiting.character == "dense" else 0.3
    )
    # The largest peak is that which the limiter finds.
    assert float(limiter.reduction_db.min(initial=0.0)) == pytest.approx(-max(0.0, over_db), abs=0.02)


def test_any_cutting_gives_the_same_sketch() -> None:
    one, other = (sketched(beats(), size) for size in (8 * RATE, 1_000))
    assert one.peak_linear == other.peak_linear
    assert np.allclose(one.energies, other.energies, rtol=1e-5)
    # The selection of peaks for close analysis depends on earlier ones; the highest are always included.
    high, deep = one.peaks > one.peak_linear * 0.9, one.peaks > one.peak_linear / 4
    assert np.array_equal(one.peaks[high], other.peaks[high])
    assert np.isclose(one.peaks[deep], other.peaks[deep], rtol=0.2).mean() > 0.99


def test_silence_and_nothing() -> None:
    assert sketched(np.zeros((RATE, 2))).loudness_at(60.0, -1.0) == -np.inf
    assert sketched(np.zeros((10, 2))).peak_linear == 0
