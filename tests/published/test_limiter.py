"""The limiter's ceiling as libebur128 reads true peaks: a Hann-windowed sinc of 49 taps, four times oversampled below
96 kHz (the library's own filter, from memory), and as our longer filter reads them.
"""

import numpy as np
import pytest

from ripe_press.core.measure.true_peak import TruePeakMeter
from ripe_press.core.signal.limiter import Limiter
from support.signals import in_blocks, noise, sine, sine_levels_db


def library_peak_db(samples: np.ndarray, rate_hz: int) -> float:
    factor, half = (4, 6) if rate_hz < 96_000 else (2, 12)
    best = float(np.abs(samples).max())
    for channel in samples.T:
        for phase in range(1, factor):
            at = np.arange(-half + 1, half + 1) - phase / factor
            taps = np.sinc(at) * 0.5 * (1 + np.cos(np.pi * at / half))
            best = max(best, float(np.abs(np.convolve(channel, taps[::-1])).max()))
    return 20 * np.log10(best)


def pink(rate_hz: int, seconds: float = 6.0) -> np.ndarray:
    shape = np.fft.rfft(noise(int(rate_hz * seconds), 2, seed=rate_hz), axis=0)
    hz = np.fft.rfftfreq(int(rate_hz * seconds), 1 / rate_hz)
    shape[1:] /= np.sqrt(hz[1:, None])
    shape[hz > 20_000] = 0
    wave = np.fft.irfft(shape, axis=0)
    return wave / np.abs(wave).max()


def limited(samples: np.ndarray, rate_hz: int, ceiling: float = -1.0) -> tuple[np.ndarray, Limiter]:
    limiter = Limiter(ceiling, rate_hz, samples.shape[1])
    parts = [limiter.process(block) for block in in_blocks(samples, 50_000)]
    return np.concatenate([*parts, limiter.flush()]), limiter


def material(name: str, rate_hz: int) -> np.ndarray:
    drive = 10 ** (6 / 20)
    return {
        "pink": lambda: pink(rate_hz) * drive,
        "clipped": lambda: np.clip(pink(rate_hz) * 4, -1, 1) * 1.4,
        "quarter rate": lambda: sine(rate_hz / 4 + 0.3, 2.0, rate_hz, 1.6),
        "square": lambda: np.sign(sine(97, 2.0, rate_hz, 1.0)) * 1.5,
        "clicks": lambda: np.where(np.arange(rate_hz)[:, None] % 4_801 == 4_800, 3.0, 0.0) * np.ones((1, 2)),
        "from the first sample": lambda: np.ones((rate_hz, 2)) * 2.0,
        "white": lambda: np.clip(noise(2 * rate_hz, 2, 5) * 3, -1, 1) * drive,
    }[name]()


@pytest.mark.parametrize("rate_hz", [44_100, 48_000, 96_000])
@pytest.mark.parametrize(
    "name", ["pink", "clipped", "quarter rate", "square", "clicks", "from the first sample", "white"]
)
def test_the_ceiling_is_held(name: str, rate_hz: int) -> None:
    samples = material(name, rate_hz)
    out, _ = limited(samples, rate_hz)
    assert out.shape == samples.shape
    assert library_peak_db(out, rate_hz) <= -1.0 + 0.01
    # The proof reads the same: it never contradicts what the limiter held.
    meter = TruePeakMeter(2, rate_hz)
    meter.process(out)
    assert meter.result().true_peak_dbtp <= -1.0 + 0.01
    assert np.abs(out).max() <= 10 ** (-1 / 20) + 1e-6


@pytest.mark.parametrize("rate_hz", [44_100, 96_000])
def test_own_meter_agrees_in_the_audible_band(rate_hz: int) -> None:
    out, limiter = limited(pink(rate_hz) * 2, rate_hz)
    meter = TruePeakMeter(2, rate_hz)
    meter.process(out)
    assert meter.result().true_peak_dbtp == pytest.approx(-1.0, abs=0.1)
    assert -9 < limiter.reduction_db.min() < -5


def test_audio_below_the_ceiling_is_unchanged() -> None:
    samples = pink(48_000) * 0.8
    out, limiter = limited(samples, 48_000)
    assert np.array_equal(out, samples)
    assert limiter.reduction_db.max() == limiter.reduction_db.min() == 0
    assert len(limiter.reduction_db) == -(-len(samples) // 1024)


def test_a_steady_tone_is_only_turned_down() -> None:
    """Hold keeps the gain from following each wave: harmonics of 60 Hz stay below -100 dB."""
    samples = sine(60, 4.0, 48_000, 10 ** (5 / 20))
    out, _ = limited(samples, 48_000)
    steady = out[96_000:144_000, 0]
    levels = sine_levels_db(steady, [60.0, 120.0, 180.0, 300.0], 48_000)
    assert levels[0] == pytest.approx(-1.0, abs=0.02)
    assert max(levels[1:]) - levels[0] < -100
