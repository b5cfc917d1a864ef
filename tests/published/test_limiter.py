"""The limiter's ceiling as libebur128 reads true peaks: a Hann-windowed sinc of 49 taps, four times oversampled below
96 kHz (the library's own filter, from memory), as our longer filter reads them, and as a converter (soxr) plays them
16 times oversampled.
"""

from collections.abc import Callable

import numpy as np
import pytest
import soxr
from scipy.ndimage import minimum_filter1d, uniform_filter1d

from ripe_press.core.measure.signal import SignalMeter
from ripe_press.core.measure.true_peak import TruePeakMeter
from ripe_press.core.proof.hearing import HearingMeter
from ripe_press.core.signal.limiter import USUAL_LIMITING, Limiter, Limiting
from support.signals import in_blocks, noise, sine


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


def limited(
    samples: np.ndarray, rate_hz: int, ceiling: float = -1.0, limiting: Limiting = USUAL_LIMITING
) -> tuple[np.ndarray, Limiter]:
    limiter = Limiter(ceiling, rate_hz, samples.shape[1], limiting=limiting)
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


@pytest.mark.parametrize("rate_hz", [44_100, 96_000])
@pytest.mark.parametrize(("character", "within_db"), [("transparent", 0.1), ("dense", 0.7)])
def test_a_steep_converter_finds_no_more(character: str, within_db: float, rate_hz: int) -> None:
    """Noise of the whole band, driven and clipped: the most that an oversampling filter can make of a signal."""
    for name in ("white", "clipped", "square"):
        out, _ = limited(material(name, rate_hz), rate_hz, -1.0, Limiting(character))  # type: ignore[arg-type]
        played = soxr.resample(out, rate_hz, 16 * rate_hz, quality="VHQ")
        # Its edges ring for there is nothing around them.
        assert 20 * np.log10(np.abs(played[16_000:-16_000]).max()) <= -1.0 + within_db


def distortion_db(samples: np.ndarray, tones: list[float], rate_hz: int) -> float:
    """All but these tones, over the tones, in the middle of a signal under a Kaiser window."""
    middle = samples[rate_hz : 3 * rate_hz, 0]
    power = np.abs(np.fft.rfft(middle * np.kaiser(len(middle), 20))) ** 2
    held = 0.0
    for hz in tones:
        around = slice(round(hz * 2) - 14, round(hz * 2) + 15)
        held += power[around].sum()
        power[around] = 0
    return float(10 * np.log10(max(power[14:].sum(), 1e-30) / held))


@pytest.mark.parametrize("hz", [20, 30, 50, 60, 100, 997])
@pytest.mark.parametrize("over_db", [3, 6, 9])
def test_a_steady_tone_is_only_turned_down(hz: int, over_db: int) -> None:
    samples = sine(hz, 4.0, 48_000, 10 ** ((over_db - 1) / 20))
    out, _ = limited(samples, 48_000)
    assert distortion_db(out, [hz], 48_000) < -100
    assert np.abs(out[48_000:-48_000]).max() == pytest.approx(10 ** (-1 / 20), rel=2e-3)


@pytest.mark.parametrize(
    ("tones", "ratio"), [((60, 7_000), 4.0), ((19_000, 20_000), 1.0)], ids=["SMPTE RP 120", "IEC 60118 twin tones"]
)
def test_two_steady_tones_do_not_modulate_each_other(tones: tuple[int, int], ratio: float) -> None:
    """The twin tones of the trade (both sources from memory), 6 dB above the ceiling."""
    low, high = (sine(hz, 4.0, 48_000, 1.0) for hz in tones)
    samples = (ratio * low + high) / (ratio + 1) * 10 ** (5 / 20)
    assert distortion_db(limited(samples, 48_000)[0], list(tones), 48_000) < -100


def drums(seed: int, rate_hz: int = 48_000) -> np.ndarray:
    """Hits of a low and a high kind over a chord, no two sides alike."""
    at = np.arange(6 * rate_hz)
    low = np.sin(2 * np.pi * 60 * at / rate_hz) * np.exp(-(at % 24_000) / rate_hz / 0.08)
    high = noise(len(at), 2, seed) * np.exp(-((at + 12_000) % 24_000) / rate_hz / 0.03)[:, None]
    chord = sum(np.sin(2 * np.pi * hz * at / rate_hz + seed) for hz in (220, 277, 330, 1_100)) / 12
    return low[:, None] * 0.25 + high * np.array([0.9, 0.6]) + chord[:, None] * np.array([0.6, 0.8])


def two_stages(samples: np.ndarray, rate_hz: int) -> np.ndarray:
    """Good practice until now: 1.5 ms ahead, 2 ms hold, 15 ms release over a slow stage of 250 and 500 ms, linked.

    Common practice, no source.
    """
    peaks = np.abs(soxr.resample(samples, rate_hz, 4 * rate_hz, quality="VHQ")).max(axis=1)
    peaks = peaks[: 4 * len(samples)].reshape(-1, 4).max(axis=1)
    wanted = np.minimum(1.0, 10 ** (-1 / 20) / np.maximum(peaks, 1e-9))
    level, slow = 0.0, np.empty(len(wanted))
    for index, down in enumerate(-20 * np.log10(minimum_filter1d(wanted, 97))):
        level += (down - level) * (1 / (0.25 * rate_hz) if down > level else 1 / (0.5 * rate_hz))
        slow[index] = 10 ** (-level / 20)
    least = minimum_filter1d(np.minimum(1.0, wanted / slow), 2 * 90 + 1)
    gain, quick = 1.0, np.empty(len(wanted))
    for index, down in enumerate(least):
        gain = min(down, gain + (1 - gain) / (0.015 * rate_hz))
        quick[index] = gain
    return samples * (slow * uniform_filter1d(quick, 73))[:, None]


def noise_to_mask_db(limit: Callable[[np.ndarray], np.ndarray], samples: np.ndarray, target_lufs: float) -> float:
    """Mean noise-to-mask ratio at a loudness, against the mix at that loudness."""
    low, high = 0.0, 24.0
    for _ in range(8):
        gain_db = (low + high) / 2
        out = limit(samples * 10 ** (gain_db / 20))
        low, high = (gain_db, high) if loudness(out) < target_lufs else (low, gain_db)
    meter = HearingMeter(2, 48_000)
    meter.process(samples * 10 ** ((loudness(out) - loudness(samples)) / 20), out)
    return meter.result().total_db


def loudness(samples: np.ndarray) -> float:
    meter = SignalMeter(2, 48_000)
    meter.process(samples)
    return meter.result().integrated_lufs


@pytest.mark.parametrize("seed", [1, 2])
def test_less_is_heard_than_behind_two_stages_of_good_practice(seed: int) -> None:
    """At the same loudness and ceiling; on music the bench prints the same ratios (`benchmarks/limiting.py`)."""
    samples = drums(seed)
    samples *= 0.5 / np.abs(samples).max()
    target = loudness(limited(samples * 10 ** (10 / 20), 48_000)[0])
    own = noise_to_mask_db(lambda one: limited(one, 48_000)[0], samples, target)
    assert own < noise_to_mask_db(lambda one: two_stages(one, 48_000), samples, target) - 3


def test_short_kicks_become_as_loud_as_they_may() -> None:
    """A kick of 12 ms a second, 12 dB above the ceiling, for −14 LUFS: a fixed release left them at −21 LUFS."""
    at = np.arange(12 * 48_000) % 48_000 / 48_000
    swept = 2 * np.pi * (50 * at + 150 * 0.01 * (1 - np.exp(-at / 0.01)))
    kick = np.sin(swept) * np.exp(-at / 0.012) * np.minimum(1, at / 0.001)
    out, _ = limited((kick / np.abs(kick).max())[:, None] * np.ones((1, 2)) * 10 ** (11 / 20), 48_000)
    assert loudness(out) > -18.0


def test_brief_peaks_are_reduced_on_their_own_side() -> None:
    samples = sine(997, 1.0, 48_000, 0.5)
    samples[24_000, 0] = 2.0
    apart, _ = limited(samples, 48_000)
    assert np.array_equal(apart[:, 1], samples[:, 1])
    together, _ = limited(samples, 48_000, -1.0, Limiting(sides="together"))
    assert np.abs(together[23_950:24_050, 1]).max() < 0.3


def test_dense_is_louder_and_clipping_takes_the_briefest_peaks() -> None:
    samples = drums(1) + sine(50, 6.0, 48_000, 0.9)
    usual, dense = (loudness(limited(samples, 48_000, -1.0, one)[0]) for one in (Limiting(), Limiting("dense")))
    clipped = loudness(limited(samples, 48_000, -1.0, Limiting(clip=True))[0])
    assert dense > usual + 0.05
    assert clipped > usual + 0.02
