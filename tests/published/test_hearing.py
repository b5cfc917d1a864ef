"""The hearing model compared with check values, and with known facts of hearing.

The values were computed by a second implementation of ITU-R BS.1387-1 (Basic version, FFT ear model), written from
memory of the text, that shares no code with this one.
"""

import math
from dataclasses import replace

import numpy as np
import pytest

from ripe_press.core.proof.hearing.any_rate import HearingAtAnyRate, heard_rate
from ripe_press.core.proof.hearing.ear import Ear, ear_for
from ripe_press.core.proof.hearing.meter import Audibility, HearingMeter
from ripe_press.core.proof.hearing.opinion import opinion_of, places_of

RATE = 48_000


@pytest.fixture(scope="module")
def ear() -> Ear:
    return ear_for(RATE)


def looks_of(samples: np.ndarray, ear: Ear) -> np.ndarray:
    return np.lib.stride_tricks.sliding_window_view(samples, ear.frames)[:: ear.hop]


def total_db(ear: Ear, source: np.ndarray, test: np.ndarray) -> float:
    power, noise = ear.energies(*(ear.spectra(looks_of(one, ear)) for one in (source, test)))
    found = noise / ear.mask(power, np.zeros(ear.bands))
    return float(10 * np.log10(found[4:-4].mean()))


def excited_db(ear: Ear, samples: np.ndarray, look: int = 40) -> np.ndarray:
    spectra = ear.spectra(looks_of(samples, ear))
    power, _ = ear.energies(spectra, spectra)
    return 10 * np.log10(ear.excite(power)[look])


def tone(hz: float, level: float, seconds: float = 2.0) -> np.ndarray:
    return level * np.sin(2 * np.pi * hz * np.arange(round(seconds * RATE)) / RATE)


def heard(source: np.ndarray, test: np.ndarray, block: int = 50_000) -> Audibility:
    source, test = (one[:, None] if one.ndim == 1 else one for one in (source, test))
    meter = HearingMeter(source.shape[1], RATE)
    for at in range(0, len(source), block):
        meter.process(source[at : at + block], test[at : at + block])
    return meter.result()


def test_bands(ear: Ear) -> None:
    assert ear.bands == 109
    places = (ear.lower_hz[0], ear.middle_hz[0], ear.upper_hz[0], ear.upper_hz[1], ear.middle_hz[10], ear.middle_hz[48])
    assert places == pytest.approx((80, 91.708, 103.445, 127.023, 337.077, 2026.266), abs=1e-3)
    assert (ear.middle_hz[108], ear.upper_hz[108]) == pytest.approx((17690.044, 18_000), abs=1e-3)
    assert 10 * np.log10(ear.internal[[0, 10, 48, 108]]) == pytest.approx([9.8454, 3.4752, 0.8276, 0.1462], abs=1e-4)
    assert ear.forget[[0, 10, 48, 80, 108]] == pytest.approx([0.513301, 0.230257, 0.09556, 0.07743, 0.072378], abs=1e-6)
    assert -10 * np.log10(ear.offset[[48, 49, 54, 80]]) == pytest.approx([3.0, 3.0625, 3.375, 5.0])


def test_spreading(ear: Ear) -> None:
    alone = np.full((1, 109), 1e-12)
    alone[0, 40] = 1e6
    found = 10 * np.log10(ear.spread(alone)[0])[[36, 39, 40, 41, 44, 60]]
    assert found == pytest.approx([17.905, 38.150, 44.899, 41.860, 32.741, -15.886], abs=1e-3)
    silence = 10 * np.log10(ear.excite(np.zeros((1, 109)))[0])[[0, 10, 48, 108]]
    assert silence == pytest.approx([8.448, 3.771, 0.866, 0.162], abs=1e-3)


def test_tones(ear: Ear) -> None:
    found = excited_db(ear, tone(1_000, 0.1))[[20, 24, 27, 28, 29, 30, 32, 36, 40, 60]]
    assert found == pytest.approx([7.62, 25.38, 44.10, 50.51, 56.77, 61.24, 58.60, 48.05, 37.68, 3.14], abs=0.01)
    assert excited_db(ear, tone(1_019.5, 1.0))[31] == pytest.approx(81.004, abs=0.01)
    quiet = tone(1_000, 0.1) + tone(1_100, 0.001)
    assert total_db(ear, tone(1_000, 0.1), quiet) == pytest.approx(-44.331, abs=2e-3)
    assert total_db(ear, tone(1_000, 0.1), tone(1_000, 0.1 * 10 ** (0.5 / 20))) == pytest.approx(-29.597, abs=2e-3)


def test_noise(ear: Ear) -> None:
    state, values = 12_345, []
    for _ in range(4 * RATE):
        state = (1_664_525 * state + 1_013_904_223) % 2**32
        values.append(state / 2**31 - 1)
    one, other = np.array(values[: 2 * RATE]), np.array(values[2 * RATE :])
    assert total_db(ear, 0.1 * one, 0.1 * one + 0.001 * other) == pytest.approx(-40.346, abs=2e-3)
    coarse = np.rint(0.1 * one * 2048) / 2048
    assert total_db(ear, 0.1 * one, coarse) == pytest.approx(-52.737, abs=0.02)
    late = np.concatenate(([0.0], 0.1 * one[:-1]))
    assert total_db(ear, 0.1 * one, late) == pytest.approx(-55.602, abs=2e-3)


def test_inverted_polarity_is_not_a_difference_here() -> None:
    """Equal and inverted audio do not differ here: polarity is a check of its own."""
    samples = np.random.default_rng(1).standard_normal((RATE, 2)) * 0.1
    for test in (samples, -samples):
        found = heard(samples, test)
        assert found.nothing and found.p99_db == -math.inf and found.side_db == -math.inf
        assert opinion_of(found).prediction == "same"


def test_cutting_into_blocks_changes_nothing_and_hours_take_no_more_room() -> None:
    random = np.random.default_rng(2)
    samples = random.standard_normal((RATE * 3, 2)) * 0.1
    test = samples + random.standard_normal(samples.shape) * 0.003
    whole, parts = heard(samples, test, len(samples)), heard(samples, test, 999)
    assert whole.total_db == pytest.approx(parts.total_db, abs=1e-9)
    assert np.allclose(whole.picture, parts.picture)
    assert whole.column_s == pytest.approx(1024 / RATE)
    long = np.tile(samples, (20, 1))
    found = heard(long, np.tile(test, (20, 1)))
    assert len(found.picture) <= 2048 and found.column_s * len(found.picture) == pytest.approx(60, abs=0.1)
    assert found.total_db == pytest.approx(whole.total_db, abs=0.05)


def test_an_echo_before_an_attack_shows_in_short_looks_alone() -> None:
    """Noise 5 ms before each click: long looks are nearly blind to it."""
    at = np.arange(4 * RATE)
    click = np.exp(-(at % 24_000) / 400) * np.sin(at * 0.7) * 0.5 * (at % 24_000 < 4_000)
    before = (at % 24_000 >= 24_000 - 240) * np.random.default_rng(3).standard_normal(len(at)) * 0.5 * 10 ** (-45 / 20)
    found = heard(click, click + before)
    assert found.total_db < -12 and found.short_p99_db > 5
    said = opinion_of(found)
    assert said.prediction != "none" and any("pre-echo" in one for one in said.reasons)


def test_difference_is_located() -> None:
    samples = np.random.default_rng(4).standard_normal(RATE * 8) * 0.05
    test = samples.copy()
    test[3 * RATE : 3 * RATE + RATE // 2] += tone(3_000, 0.05, 0.5)
    found = heard(samples, test)
    (place,) = places_of(found)
    assert (place.start_s, place.end_s) == pytest.approx((3.0, 3.5), abs=0.06)
    assert place.hz == pytest.approx(3_000, rel=0.1)
    assert "1 place, worst at 0:03" in opinion_of(found).sentence


def test_the_side_of_a_narrow_mix_is_judged_for_itself() -> None:
    """Where both sides are nearly equal, an error between them is masked in each and exposed in their difference."""
    middle = np.random.default_rng(5).standard_normal(RATE * 4) * 0.1
    side = np.random.default_rng(6).standard_normal(RATE * 4) * 0.003
    error = np.random.default_rng(7).standard_normal(RATE * 4) * 0.002
    source = np.stack((middle + side, middle - side), axis=1)
    found = heard(source, source + np.stack((error, -error), axis=1))
    assert found.side_db is not None and found.side_db > found.total_db + 10
    assert any("side-channel mean" in one for one in opinion_of(found).reasons)


def test_other_rates_are_heard_as_those_of_the_model() -> None:
    """The same sound and the same error at twice the rate: read within a tenth of a decibel."""
    assert [heard_rate(hz) for hz in (22_050, 32_000, 44_100, 88_200, 96_000, 192_000)] == [
        48_000, 48_000, 44_100, 44_100, 48_000, 48_000,
    ]  # fmt: skip
    random = np.random.default_rng(8)
    samples = np.stack([tone(440, 0.2) + tone(2_900, 0.05)] * 2, axis=1)
    error = random.standard_normal(samples.shape) * 0.001
    direct = heard(samples, samples + error)
    double = [np.asarray(doubled(one)) for one in (samples, samples + error)]
    meter = HearingAtAnyRate(2, 2 * RATE)
    for at in range(0, len(double[0]), 30_000):
        meter.process(double[0][at : at + 30_000], double[1][at : at + 30_000])
    assert meter.result().total_db == pytest.approx(direct.total_db, abs=0.1)


def doubled(samples: np.ndarray) -> np.ndarray:
    """Twice the rate, by a transform of the whole: with no filter of ours in it."""
    spectrum = np.fft.rfft(samples, axis=0)
    return np.fft.irfft(spectrum, 2 * len(samples), axis=0) * 2


def test_an_audible_place_ends_after_its_last_column() -> None:
    samples = np.random.default_rng(4).standard_normal(RATE) * 0.05
    found = heard(samples, samples * 1.001)
    picture = np.full((200, len(found.band_hz)), -9.0, dtype=np.float32)
    picture[50:54, 3] = (2.0, 8.0, 5.0, 1.0)
    picture[199, 1] = 3.0
    first, last = places_of(replace(found, picture=picture, column_s=0.1))
    assert (first.start_s, first.end_s) == pytest.approx((5.0, 5.4))
    assert (first.hz, first.above_db) == (found.band_hz[3], 8.0)
    assert (last.start_s, last.end_s, last.above_db) == pytest.approx((19.9, 20.0, 3.0))
