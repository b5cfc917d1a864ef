import numpy as np
import pytest

from ripe_press.core.measure.pyramid import reduce_frames, sounding_pieces
from ripe_press.core.measure.signal import SamplesHash, SignalMeter
from support.signals import in_blocks, noise, sine


def digest(samples: np.ndarray, size: int) -> str:
    meter = SamplesHash()
    for block in in_blocks(samples, size):
        meter.process(block)
    return meter.result()


def test_a_fingerprint_is_of_the_samples_and_not_of_their_blocks() -> None:
    samples = noise(5_000)
    assert digest(samples, 100) == digest(samples, 5_000)
    changed = samples.copy()
    changed[4_321, 1] = np.nextafter(changed[4_321, 1], 1)
    assert digest(changed, 100) != digest(samples, 100)
    assert digest(-np.zeros((9, 2)), 9) == digest(np.zeros((9, 2)), 9)


def test_peaks_and_loudness_of_a_tone() -> None:
    meter = SignalMeter(2, 48_000)
    meter.process(sine(997, 4.0, 48_000, 0.5))
    found = meter.result()
    assert found.sample_peak_dbfs == pytest.approx(-6.02, abs=0.01)
    assert found.true_peak_dbtp == pytest.approx(-6.02, abs=0.05)
    assert found.integrated_lufs == pytest.approx(-6.02, abs=0.05)


def test_pieces_are_parted_by_long_silence_alone() -> None:
    rate = 48_000
    quiet = np.zeros((rate * 2, 2))
    tone = sine(440, 3.0, rate, 0.2)
    short = np.zeros((rate, 2))
    click = np.zeros((rate * 4, 2))
    click[rate * 2 : rate * 2 + 100] = 0.5
    samples = np.concatenate((quiet, tone, short, tone, quiet, tone, click))
    pieces = sounding_pieces(reduce_frames(samples, 1_024), 1_024, rate, len(samples))
    # Two tones a second apart are one piece; a click of its own is none.
    assert np.array(pieces) / rate == pytest.approx(np.array([[2, 9], [11, 14]]), abs=0.03)
    assert sounding_pieces(reduce_frames(quiet, 1_024), 1_024, rate, len(quiet)) == []
