"""Probe, timing and dropouts alone, on signals with known figures."""

import numpy as np
import pytest

from ripe_press.core.live.dropouts import Dropout, lag_of, silent_stretches, slips
from ripe_press.core.live.probe import MOST_LATE_S, PEAK, PROBE_S, find_probe, probe
from ripe_press.core.live.timing import Timing, timing_of
from support.signals import noise

RATE = 48_000


def heard(late: int, rate_hz: int = RATE, gain: float = 1.0, noise_level: float = 0.0) -> np.ndarray:
    line = probe(rate_hz)
    out = noise(round((PROBE_S + MOST_LATE_S) * rate_hz), 2, 5, noise_level).astype(np.float32)
    out[late : late + len(line)] += gain * line[:, None]
    return out


@pytest.mark.parametrize("rate_hz", [44_100, 48_000, 96_000])
@pytest.mark.parametrize("late", [0, 7, 20_000])
def test_a_probe_is_found_to_the_sample_quiet_and_in_noise(rate_hz: int, late: int) -> None:
    for gain, level in ((1.0, 0.0), (0.01, 0.0), (0.5, 0.05)):
        found = find_probe(heard(late, rate_hz, gain, level), rate_hz)
        assert found.is_clear and abs(found.late_frames - late) < 0.25 and not found.inverted, (gain, level)


def test_probe_is_found_inverted_and_not_in_noise() -> None:
    assert find_probe(heard(50, gain=-1.0), RATE).inverted
    assert not find_probe(noise(40_000, 2, 9, 0.2).astype(np.float32), RATE).is_clear
    assert not find_probe(np.zeros((40_000, 2), dtype=np.float32), RATE).is_clear
    assert float(np.abs(probe(RATE)).max()) == pytest.approx(PEAK)


def test_fraction_of_a_frame_is_measured() -> None:
    """Delayed by its own spectrum, by 10.4 frames."""
    whole = heard(0)
    size = len(whole)
    turn = np.exp(-2j * np.pi * np.fft.rfftfreq(size) * 10.4)[:, None]
    moved = np.fft.irfft(np.fft.rfft(whole, axis=0) * turn, size, axis=0).astype(np.float32)
    assert find_probe(moved, RATE).late_frames == pytest.approx(10.4, abs=0.05)


def test_two_probes_tell_the_drift() -> None:
    timing = timing_of((1_000, 500.1), (2_881_000, 788.1))
    assert timing.drift_ppm == pytest.approx(100.0) and timing.heard_at(1_000) == pytest.approx(1_500.1)
    assert timing_of((1_000, 500.0), None) == Timing(500.0, 0.0)
    # An inserted piece is not drift.
    assert timing_of((0, 500.0), (1_000_000, 436.0), -64.0).drift_ppm == 0


def test_silence_is_missed_only_where_something_was_sent() -> None:
    sent = noise(8_000, 2, 1, 0.1).astype(np.float32)
    sent[5_000:6_000] = 0
    came = 0.7 * sent
    came[1_003:1_067] = 0
    assert list(silent_stretches(sent, came, 10_000)) == [Dropout("silent", 11_003, 64)]
    assert list(silent_stretches(sent * 0, came, 0)) == []
    # One window is chance.
    came = 0.7 * sent
    came[2_000:2_012] = 0
    assert list(silent_stretches(sent, came, 0)) == []


def test_drift_is_not_a_slip_and_a_slip_is() -> None:
    drifting = [(at * 96_000, at * 10) for at in range(9)]
    assert slips(drifting) == []
    lost = [(frame, lag - (64 if number > 4 else 0)) for number, (frame, lag) in enumerate(drifting)]
    assert slips(lost) == [Dropout("slip", 5 * 96_000, 64)]
    once = [(frame, lag + (300 if number == 4 else 0)) for number, (frame, lag) in enumerate(drifting)]
    assert slips(once) == [] and slips(drifting[:2]) == []


def test_lag_is_measured_in_both_directions_or_not_at_all() -> None:
    sound = noise(20_000, 2, 3, 0.2).astype(np.float32)
    assert lag_of(sound[1_000:17_384], sound[700:17_084]) == 300
    assert lag_of(sound[1_000:17_384], sound[1_100:17_484]) == -100
    assert lag_of(sound[:9_000], np.zeros((9_000, 2), dtype=np.float32)) is None
    assert lag_of(sound[:9_000], noise(9_000, 2, 8, 0.2).astype(np.float32)) is None
