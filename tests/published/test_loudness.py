"""Loudness, loudness range and true peak against the published test cases.

Sources: ITU-R BS.1770-5 (997 Hz at 0 dBFS in one channel reads -3.01 LKFS); EBU Tech 3341 cases 1-5, 9, 10, 12, 13 and
15-19; EBU Tech 3342 cases 1-4. The cases are synthesised from their descriptions; numbers and tolerances are from
memory of the texts, confirmed with the general-purpose library libebur128. Tolerances are the standards' own: 0.1 LU,
1 LU for the range, +0.2/-0.4 dB for true peak. pyloudnorm is the second reference, with its filter class 'DeMan'.
"""

import numpy as np
import pyloudnorm
import pytest

from ripe_press.core.blocks import Block
from ripe_press.core.measure.loudness import LoudnessMeter, LoudnessResult, k_weighting
from ripe_press.core.measure.true_peak import TruePeakMeter
from support.signals import in_blocks

RATES = [44_100, 48_000, 96_000, 192_000]


def tones(rate_hz: int, *parts: tuple[float, float], hz: float = 1_000.0) -> Block:
    """A stereo sine of consecutive (level in dBFS, seconds), in phase throughout; -inf is silence."""
    levels = [np.full(round(seconds * rate_hz), 10 ** (db / 20)) for db, seconds in parts]
    envelope = np.concatenate(levels)
    wave = envelope * np.sin(2 * np.pi * hz * np.arange(len(envelope)) / rate_hz)
    return np.repeat(wave[:, None], 2, axis=1)


def loudness(samples: Block, rate_hz: int) -> LoudnessResult:
    meter = LoudnessMeter(samples.shape[1], rate_hz)
    for block in in_blocks(samples):
        meter.process(block)
    return meter.result()


@pytest.mark.parametrize("rate_hz", RATES)
def test_a_full_scale_tone_in_one_channel(rate_hz: int) -> None:
    samples = tones(rate_hz, (0.0, 20.0), hz=997.0)
    samples[:, 1] = 0.0
    tolerance = 0.005 if rate_hz == 48_000 else 0.05
    assert loudness(samples, rate_hz).integrated_lufs == pytest.approx(-3.01, abs=tolerance)


def test_the_filters_are_the_table_of_the_standard_at_48_khz() -> None:
    shelf, high_pass = k_weighting(48_000)
    table = [1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585]
    assert shelf == pytest.approx(table, abs=1e-13)
    assert high_pass == pytest.approx([-1.99004745483398, 0.99007225036621], abs=1e-13)


CASES_3341: dict[int, tuple[tuple[tuple[float, float], ...], float]] = {
    1: (((-23.0, 20.0),), -23.0),
    2: (((-33.0, 20.0),), -33.0),
    3: (((-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0)), -23.0),
    4: (((-72.0, 10.0), (-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0), (-72.0, 10.0)), -23.0),
    5: (((-26.0, 20.0), (-20.0, 20.1), (-26.0, 20.0)), -23.0),
}


@pytest.mark.parametrize("rate_hz", RATES)
@pytest.mark.parametrize("case", CASES_3341)
def test_integrated_loudness_tech_3341(case: int, rate_hz: int) -> None:
    parts, expected = CASES_3341[case]
    assert loudness(tones(rate_hz, *parts), rate_hz).integrated_lufs == pytest.approx(expected, abs=0.1)


@pytest.mark.parametrize("rate_hz", RATES)
def test_short_term_and_momentary_are_steady_on_alternating_levels(rate_hz: int) -> None:
    # Case 9: 1.34 s at -20 and 1.66 s at -30; case 12: 0.18 s at -20 and 0.22 s at -30; both read -23.0 all through.
    nine = loudness(tones(rate_hz, *([(-20.0, 1.34), (-30.0, 1.66)] * 5)), rate_hz).windows(3.0)
    twelve = loudness(tones(rate_hz, *([(-20.0, 0.18), (-30.0, 0.22)] * 25)), rate_hz).windows(0.4)
    for windows in (nine, twelve[60:]):
        levels = -0.691 + 10 * np.log10(windows)
        assert levels.min() == pytest.approx(-23.0, abs=0.1)
        assert levels.max() == pytest.approx(-23.0, abs=0.1)


@pytest.mark.parametrize("number", [0, 3, 7, 13, 19])
def test_maxima_do_not_depend_on_where_they_fall(number: int) -> None:
    silence = float("-inf")
    ten = loudness(tones(48_000, (silence, number * 0.15), (-23.0, 3.0), (silence, 1.0)), 48_000)
    assert ten.max_short_term_lufs == pytest.approx(-23.0, abs=0.1)
    thirteen = loudness(tones(48_000, (silence, number * 0.02), (-23.0, 0.4), (silence, 1.0)), 48_000)
    assert thirteen.max_momentary_lufs == pytest.approx(-23.0, abs=0.1)


CASES_3342: dict[int, tuple[tuple[float, ...], float]] = {
    1: ((-20.0, -30.0), 10.0),
    2: ((-20.0, -15.0), 5.0),
    3: ((-40.0, -20.0), 20.0),
    4: ((-50.0, -35.0, -20.0, -35.0, -50.0), 15.0),
}


@pytest.mark.parametrize("rate_hz", [44_100, 48_000, 96_000])
@pytest.mark.parametrize("case", CASES_3342)
def test_loudness_range_tech_3342(case: int, rate_hz: int) -> None:
    levels, expected = CASES_3342[case]
    samples = tones(rate_hz, *((level, 20.0) for level in levels))
    assert loudness(samples, rate_hz).range_lu == pytest.approx(expected, abs=1.0)
    assert loudness(samples, rate_hz).range_lu == pytest.approx(expected, abs=0.1)


@pytest.mark.parametrize("rate_hz", [44_100, 48_000, 96_000])
def test_agreement_with_pyloudnorm_on_programme_like_material(rate_hz: int) -> None:
    random = np.random.default_rng(11)
    samples = random.standard_normal((rate_hz * 20, 2)) * 0.1
    samples[:, 1] = 0.6 * samples[:, 0] + 0.4 * samples[:, 1]
    swell = 10 ** ((-12 + 12 * np.sin(np.arange(len(samples)) * 0.9 / rate_hz)) / 20)
    samples *= swell[:, None]
    ours = loudness(samples, rate_hz)
    reference = pyloudnorm.Meter(rate_hz, filter_class="DeMan")
    assert ours.integrated_lufs == pytest.approx(reference.integrated_loudness(samples), abs=0.02)
    # The reference lets 1.5 s of silence follow before it takes the range.
    followed = loudness(np.concatenate((samples, np.zeros((rate_hz * 3 // 2, 2)))), rate_hz)
    assert followed.range_lu == pytest.approx(reference.loudness_range(samples), abs=0.2)


def true_peak(samples: Block, rate_hz: int, size: int = 65_536) -> float:
    meter = TruePeakMeter(samples.shape[1], rate_hz)
    for block in in_blocks(samples, size):
        meter.process(block)
    return meter.result().true_peak_dbtp


# (case, frequency as a share of the rate, phase in degrees, amplitude, expected dBTP)
CASES_PEAK = [
    (15, 4, 0.0, 0.5, -6.0),
    (16, 4, 45.0, 0.5, -6.0),
    (17, 6, 60.0, 0.5, -6.0),
    (18, 8, 67.5, 0.5, -6.0),
    (19, 4, 45.0, 1.41, 3.0),
]


@pytest.mark.parametrize("rate_hz", [44_100, 48_000, 96_000])
@pytest.mark.parametrize("case", CASES_PEAK, ids=lambda case: f"case {case[0]}")
def test_true_peak_tech_3341(case: tuple[int, int, float, float, float], rate_hz: int) -> None:
    _, share, phase, amplitude, expected = case
    frames = rate_hz
    wave = amplitude * np.sin(2 * np.pi * np.arange(frames) / share + np.radians(phase))
    # Hard edges overshoot in truth, so the tone fades in and out over 50 ms.
    edge = np.minimum(1.0, np.minimum(np.arange(frames), np.arange(frames)[::-1]) / (0.05 * rate_hz))
    samples = (wave * edge)[:, None]
    assert expected - 0.4 <= true_peak(samples, rate_hz) <= expected + 0.2
    if share == 4 and phase == 45:
        # What a sample-peak meter would read: it must fail the case.
        assert 20 * np.log10(np.abs(samples).max()) < expected - 2.9


def test_true_peak_is_the_same_however_blocks_fall_and_never_below_the_samples() -> None:
    samples = np.random.default_rng(4).standard_normal((9_000, 2)) * 0.2
    whole = true_peak(samples, 44_100)
    assert [true_peak(samples, 44_100, size) for size in (1, 31, 4_096)] == [whole] * 3
    assert whole >= 20 * np.log10(np.abs(samples).max())


def test_a_peak_between_the_last_samples_is_found() -> None:
    samples = np.zeros((200, 1))
    samples[-2:] = 0.9
    assert true_peak(samples, 48_000) > 20 * np.log10(0.9) + 0.5
