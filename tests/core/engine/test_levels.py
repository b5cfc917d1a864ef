"""Targets are met on the file as it is written, after conversion, limiter and dither."""

from pathlib import Path

import numpy as np
import pyloudnorm
import pytest
import soundfile

from ripe_press.core.briefs.library import BLANK
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.delivery import Changes, Delivery, LevelWish
from ripe_press.core.engine.edges import Stretch
from ripe_press.core.engine.levels import settle_levels
from ripe_press.core.engine.resolve import resolve
from ripe_press.core.engine.tree import merge
from ripe_press.core.engine.walker import Walker
from ripe_press.core.formats.reader import SourceFacts, SourceReader
from ripe_press.core.measure.signal import SignalMeter, SignalResult
from ripe_press.core.press import PressedFile, PressOrder, press
from support.signals import noise, sine, write


@pytest.fixture(scope="module")
def mix(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Ten seconds at 96 kHz, swelling, with peaks well above its loudness."""
    frames = 960_000
    shape = np.fft.rfft(noise(frames, 2, seed=4), axis=0)
    shape[1:] /= np.sqrt(np.arange(1, len(shape)))[:, None]
    wave = np.fft.irfft(shape, n=frames, axis=0)
    swell = 0.4 + 0.6 * np.sin(np.linspace(0, 9, frames)) ** 2
    wave *= (swell / np.abs(wave).max())[:, None]
    return write(tmp_path_factory.mktemp("levels") / "Millrace.wav", wave * 0.5, 96_000)


def facts_of(mix: Path) -> SourceFacts:
    with SourceReader(mix) as reader:
        return reader.facts


def delivery(mix: Path, level: LevelWish, **more: object) -> Delivery:
    facts = facts_of(mix)
    changes = Changes(level=level, **more)  # type: ignore[arg-type]
    return changes.applied_to(BLANK.delivery(Stretch(0, facts.frames), facts))


def pressed(mix: Path, folder: Path, *deliveries: Delivery) -> tuple[PressedFile, ...]:
    paths = [path for one in deliveries for path in resolve(one, facts_of(mix), "Millrace")]
    targets = tuple(str(folder / f"{number}.wav") for number in range(len(paths)))
    return press(PressOrder(tuple(paths), (BLANK,) * len(paths), targets), lambda _d, _t: None, lambda: False)


def measured(path: str) -> SignalResult:
    samples, rate = soundfile.read(path, always_2d=True)
    meter = SignalMeter(2, rate)
    meter.process(samples)
    return meter.result()


def test_sample_and_true_peak(mix: Path, tmp_path: Path) -> None:
    wishes = (LevelWish("peak", -0.3), LevelWish("true-peak", -1.0))
    made = [delivery(mix, wish, rate_hz=44_100, encoding="s16") for wish in wishes]
    peak, true_peak = pressed(mix, tmp_path, *made)
    assert measured(peak.path).sample_peak_dbfs == pytest.approx(-0.3, abs=0.1)
    assert measured(true_peak.path).true_peak_dbtp == pytest.approx(-1.0, abs=0.1)
    assert {"Sample peak", "True peak"} <= {name for file in (peak, true_peak) for name, _ in file.proof.checks}


@pytest.mark.parametrize(("encoding", "rate_hz"), [("s16", 44_100), ("s24", 0), ("f32", 48_000)])
@pytest.mark.parametrize("target", [-23.0, -14.0, -11.0])
def test_loudness_under_a_ceiling(mix: Path, tmp_path: Path, encoding: str, rate_hz: int, target: float) -> None:
    wish = LevelWish("loudness", target, -1.0)
    (file,) = pressed(mix, tmp_path, delivery(mix, wish, rate_hz=rate_hz, encoding=encoding))
    samples, rate = soundfile.read(file.path)
    assert pyloudnorm.Meter(rate).integrated_loudness(samples) == pytest.approx(target, abs=0.1)
    assert measured(file.path).true_peak_dbtp <= -1.0 + 0.1
    assert {"Loudness", "True peak"} <= dict(file.proof.checks).keys()
    assert (file.reduction_db or 0) < -1 or target < -12


def test_without_a_limiter_the_ceiling_wins(mix: Path, tmp_path: Path) -> None:
    wish = LevelWish("loudness", -9.0, -1.0, limit=False)
    (file,) = pressed(mix, tmp_path, delivery(mix, wish))
    found = measured(file.path)
    assert found.true_peak_dbtp == pytest.approx(-1.0, abs=0.1)
    assert found.integrated_lufs < -9.5
    assert file.reduction_db is None


def test_what_no_limiter_reaches_is_said(mix: Path, tmp_path: Path) -> None:
    (file,) = pressed(mix, tmp_path, delivery(mix, LevelWish("loudness", -6.0, -1.0)))
    assert {"loudness_out_of_reach", "limited_hard"} <= {finding.rule for finding in file.findings}
    assert measured(file.path).true_peak_dbtp <= -1.0 + 0.1


def test_only_down_and_groups(mix: Path, tmp_path: Path) -> None:
    (kept,) = pressed(mix, tmp_path, delivery(mix, LevelWish("peak", -0.1, only_down=True)))
    assert kept.gain_db == 0.0
    facts = facts_of(mix)
    loud = LevelWish("peak", -1.0)
    halves = [
        Changes(level=loud).applied_to(BLANK.delivery(Stretch(start, start + facts.frames // 2), facts))
        for start in (0, facts.frames // 2)
    ]
    paths = [resolve(one, facts, "Millrace")[0] for one in halves]
    grouped = [
        tuple(st.Level("peak", -1.0, group="album") if isinstance(one, st.Level) else one for one in path)
        for path in paths
    ]
    alone = [_gain(path) for path in settle_levels(paths).paths]
    together = [_gain(path) for path in settle_levels(grouped).paths]
    assert alone[0] != alone[1]
    assert together == [min(alone)] * 2


def _gain(path: st.Path) -> float:
    return next(one.gain_db or 0.0 for one in path if isinstance(one, st.Level))


def test_silence_is_not_raised(tmp_path: Path) -> None:
    silent = write(tmp_path / "silent.wav", np.zeros((48_000, 2)), 48_000)
    (file,) = pressed(silent, tmp_path, delivery(silent, LevelWish("loudness", -14.0)))
    assert file.gain_db == 0.0
    assert "level_as_asked" in [finding.rule for finding in file.findings]


def test_gain_and_its_inverse_null_in_float(tmp_path: Path) -> None:
    mix = write(tmp_path / "mix.wav", noise(96_000), 48_000, "DOUBLE")
    facts = facts_of(mix)
    up = BLANK.delivery(Stretch(0, facts.frames), facts)
    (path,) = resolve(up, facts, "up", st.Finish(gain_db=7.3))
    target = tmp_path / "up.wav"
    press(PressOrder((path,), (BLANK,), (str(target),)), lambda _d, _t: None, lambda: False)
    facts = facts_of(target)
    (path,) = resolve(BLANK.delivery(Stretch(0, facts.frames), facts), facts, "down", st.Finish(gain_db=-7.3))
    back = tmp_path / "down.wav"
    press(PressOrder((path,), (BLANK,), (str(back),)), lambda _d, _t: None, lambda: False)
    difference = soundfile.read(back)[0] - soundfile.read(mix)[0]
    assert 20 * np.log10(np.abs(difference).max() + 1e-300) < -140


@pytest.mark.parametrize("rate_hz", [0, 44_100])
def test_two_limiters_are_told_together(tmp_path: Path, rate_hz: int) -> None:
    """One in the finishing chain takes 6 dB off the middle second, one at the level more: both are in the curve."""
    wave = sine(441, 3.0, 48_000, 0.1)
    wave[48_000:96_000] *= 10
    mix = write(tmp_path / "mix.wav", wave, 48_000)
    facts, wish = facts_of(mix), LevelWish("loudness", -8.0, -3.0)
    made = Changes(level=wish, rate_hz=rate_hz).applied_to(BLANK.delivery(Stretch(0, facts.frames), facts))
    paths = resolve(made, facts, "Millrace", st.Finish(ceiling_dbtp=-6.0))
    (settled,) = settle_levels(paths).paths
    at = next(number for number, one in enumerate(settled) if isinstance(one, st.Level))
    (root,) = merge([(*settled[: at + 1], st.Measure())])
    report = Walker(root, {}).run(lambda _d, _t: None, lambda: False)
    gain = _gain(settled)
    # The tone leaves the finishing chain at -6 dBTP, and the level brings that up to its own ceiling.
    second = max(0.0, -6.0 + gain + 3.0)
    bin_s = 1024 / (rate_hz or 48_000)
    curve = report.reductions_db[0]
    assert len(curve) == pytest.approx(3 / bin_s, abs=2)
    assert curve[round(1.5 / bin_s)] == pytest.approx(-6.0 - second, abs=0.1)
    assert curve[round(0.3 / bin_s)] == pytest.approx(0.0, abs=0.1)
    (file,) = press(PressOrder(paths, (BLANK,), (str(tmp_path / "out.wav"),)), lambda _d, _t: None, lambda: False)
    assert file.reduction_db == pytest.approx(-6.0 - second, abs=0.2)
