"""Targets are met on the file as it is written, after conversion, limiter and dither."""

from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest.mock import patch

import numpy as np
import pyloudnorm
import pytest
import soundfile

from ripe_press.core import stations as st
from ripe_press.core.engine.levels import settle_levels
from ripe_press.core.engine.resolve import PlannedFile
from ripe_press.core.engine.tree import merge
from ripe_press.core.engine.walker import walk
from ripe_press.core.measure.signal import SignalMeter, SignalResult
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import Reader, Sharing
from ripe_press.core.stations.size.sketch import Sketch
from support.press import delivery_of, facts_of, files_for, press_files, pressed
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


def delivery(mix: Path, level: LevelRequest, **more: object) -> Delivery:
    return delivery_of(facts_of(mix), level=level, **more)


def measured(path: str) -> SignalResult:
    samples, rate = soundfile.read(path, always_2d=True)
    meter = SignalMeter(2, rate)
    meter.process(samples)
    return meter.result()


def test_sample_and_true_peak(mix: Path, tmp_path: Path) -> None:
    wishes = (LevelRequest("peak", -0.3), LevelRequest("true-peak", -1.0))
    made = [delivery(mix, wish, rate_hz=44_100, encoding="s16") for wish in wishes]
    peak, true_peak = pressed(mix, tmp_path, *made)
    assert measured(peak.path).sample_peak_dbfs == pytest.approx(-0.3, abs=0.1)
    assert measured(true_peak.path).true_peak_dbtp == pytest.approx(-1.0, abs=0.1)
    assert {"Sample peak", "True peak"} <= {one.title for file in (peak, true_peak) for one in file.checks}


@pytest.mark.parametrize(("encoding", "rate_hz"), [("s16", 44_100), ("s24", 0), ("f32", 48_000)])
@pytest.mark.parametrize("target", [-23.0, -14.0, -11.0])
def test_loudness_under_a_ceiling(mix: Path, tmp_path: Path, encoding: str, rate_hz: int, target: float) -> None:
    wish = LevelRequest("loudness", target, -1.0)
    (file,) = pressed(mix, tmp_path, delivery(mix, wish, rate_hz=rate_hz or "keep", encoding=encoding))
    samples, rate = soundfile.read(file.path)
    assert pyloudnorm.Meter(rate).integrated_loudness(samples) == pytest.approx(target, abs=0.1)
    assert measured(file.path).true_peak_dbtp <= -1.0 + 0.1
    assert {"level_as_asked", "ceiling_held"} <= {one.rule for one in file.checks}
    assert (file.reduction_db or 0) < -1 or target < -12


def test_without_a_limiter_the_ceiling_wins(mix: Path, tmp_path: Path) -> None:
    wish = LevelRequest("loudness", -9.0, -1.0, limit=False)
    (file,) = pressed(mix, tmp_path, delivery(mix, wish))
    found = measured(file.path)
    assert found.true_peak_dbtp == pytest.approx(-1.0, abs=0.1)
    assert found.integrated_lufs < -9.5
    assert file.reduction_db is None


def test_unreachable_loudness_is_reported(mix: Path, tmp_path: Path) -> None:
    (file,) = pressed(mix, tmp_path, delivery(mix, LevelRequest("loudness", -6.0, -1.0)))
    assert {"loudness_out_of_reach", "limited_hard"} <= {finding.rule for finding in file.findings}
    assert measured(file.path).true_peak_dbtp <= -1.0 + 0.1


def test_only_down_and_groups(mix: Path, tmp_path: Path) -> None:
    (kept,) = pressed(mix, tmp_path, delivery(mix, LevelRequest("peak", -0.1, only_down=True)))
    assert kept.gain_db == 0.0
    facts = facts_of(mix)
    loud, half = LevelRequest("peak", -1.0), facts.frames // 2
    parts = [delivery_of(facts, Stretch(start, start + half), level=loud) for start in (0, half)]
    alone = gains([file for one in parts for file in files_for(one, facts)])
    together = gains([file for one in parts for file in files_for(replace(one, group="album"), facts)])
    assert alone[0] != alone[1]
    assert together == [min(alone)] * 2


def gains(files: list[PlannedFile]) -> list[float]:
    return [path.settled.gain_db if path.settled else 0.0 for path in settle_levels(files).paths]


def test_a_group_spans_mixes_in_one_order(tmp_path: Path) -> None:
    """Three mixes, five deliveries, one order, one group: the mixes keep their relations, and each is read once."""
    mixes = [
        write(tmp_path / f"{number}.wav", noise(96_000, 2, number, level), 48_000)
        for number, level in enumerate((0.02, 0.05, 0.1))
    ]
    loud, quiet = LevelRequest("peak", -1.0), LevelRequest("peak", -9.0)
    wishes = [(0, loud, "album"), (1, loud, "album"), (2, loud, "album"), (1, quiet, ""), (2, quiet, "")]
    files = [
        file
        for number, level, group in wishes
        for file in files_for(
            replace(delivery_of(facts_of(mixes[number]), level=level, encoding="f64"), group=group),
            facts_of(mixes[number]),
        )
    ]
    assert [root.paths for root in merge([file.path for file in files])] == [(0,), (1, 3), (2, 4)]
    (tmp_path / "out").mkdir()
    opened: list[str] = []
    real = FileSource.open

    def counted(source: FileSource, sharing: Sharing | None = None) -> Reader:
        opened.append(source.facts.path)
        return real(source, sharing)

    with patch.object(FileSource, "open", counted):
        reports = walk([replace(file.path, level=None) for file in files],
                       {number: tmp_path / f"{number}.out" for number in range(5)})  # fmt: skip
    assert sorted(opened) == [str(mix) for mix in mixes]
    assert len(reports) == 5
    made = press_files(tmp_path / "out", files)
    grouped = {file.gain_db for file in made[:3]}
    assert grouped == {min(gains([replace(one, wish=replace(one.wish, group=""))])[0] for one in files[:3])}
    assert [file.gain_db for file in made[3:]] == gains(files[3:])
    for file, (number, _, _) in zip(made, wishes, strict=True):
        whole = soundfile.read(mixes[number])[0] * 10 ** ((file.gain_db or 0.0) / 20)
        assert np.allclose(soundfile.read(file.path)[0], whole, atol=1e-12)


def test_a_file_whose_gain_was_foreseen_wrong_is_made_again(mix: Path, tmp_path: Path) -> None:
    """The walk that writes measures what it writes; nothing of the first attempt is left."""
    made = delivery(mix, LevelRequest("loudness", -11.0), encoding="s24")
    foreseen = Sketch.loudness_at
    walks: list[tuple[int, ...]] = []

    def counted(*asked: Any, **more: Any) -> Any:
        walks.append(tuple(asked[1]))
        return walk(*asked, **more)

    for wrong_lu, attempts in ((0.0, 1), (0.3, 2)):
        folder = tmp_path / str(wrong_lu)
        folder.mkdir()
        walks.clear()

        def off(self: Sketch, *at: Any, wrong_lu: float = wrong_lu) -> float:
            return foreseen(self, *at) + wrong_lu

        with patch.object(Sketch, "loudness_at", off), patch("ripe_press.core.press.pressing.walk", counted):
            (file,) = pressed(mix, folder, made)
        assert file.proof.integrated_lufs == pytest.approx(-11.0, abs=0.05)
        assert [path.name for path in folder.iterdir()] == [Path(file.path).name]
        assert walks == [(0,)] * attempts


def test_silence_is_not_raised(tmp_path: Path) -> None:
    silent = write(tmp_path / "silent.wav", np.zeros((48_000, 2)), 48_000)
    (file,) = pressed(silent, tmp_path, delivery(silent, LevelRequest("loudness", -14.0)))
    assert file.gain_db == 0.0
    assert "level_as_asked" in [finding.rule for finding in file.findings]


def test_gain_and_its_inverse_null_in_float(tmp_path: Path) -> None:
    mix = write(tmp_path / "mix.wav", noise(96_000), 48_000, "DOUBLE")
    for name in ("up", "down"):
        (tmp_path / name).mkdir()
    (up,) = pressed(mix, tmp_path / "up", delivery_of(facts_of(mix)), finish=st.Finish(gain_db=7.3))
    down = delivery_of(facts_of(Path(up.path)))
    (back,) = pressed(Path(up.path), tmp_path / "down", down, finish=st.Finish(gain_db=-7.3))
    difference = soundfile.read(back.path)[0] - soundfile.read(mix)[0]
    assert 20 * np.log10(np.abs(difference).max() + 1e-300) < -140


@pytest.mark.parametrize("rate_hz", [0, 44_100])
def test_reductions_of_two_limiters_are_added(tmp_path: Path, rate_hz: int) -> None:
    """One in the finishing chain takes 6 dB off the middle second, one at the level more: both are in the curve."""
    wave = sine(441, 3.0, 48_000, 0.1)
    wave[48_000:96_000] *= 10
    mix = write(tmp_path / "mix.wav", wave, 48_000)
    facts, wish = facts_of(mix), LevelRequest("loudness", -8.0, -3.0)
    chain = st.Finish(ceiling_dbtp=-6.0)
    files = files_for(delivery_of(facts, level=wish, rate_hz=rate_hz or "keep"), facts, finish=chain)
    (settled,) = settle_levels(files).paths
    (report,) = walk([settled.behind_level(settled.settled)])
    gain = settled.settled.gain_db if settled.settled else 0.0
    # The tone leaves the finishing chain at -6 dBTP, and the level brings that up to its own ceiling.
    second = max(0.0, -6.0 + gain + 3.0)
    bin_s = 1024 / (rate_hz or 48_000)
    curve = report.reduction_db(rate_hz or 48_000)
    assert curve is not None
    assert len(curve) == pytest.approx(3 / bin_s, abs=2)
    assert curve[round(1.5 / bin_s)] == pytest.approx(-6.0 - second, abs=0.1)
    assert curve[round(0.3 / bin_s)] == pytest.approx(0.0, abs=0.1)
    (file,) = press_files(tmp_path, files, finish=chain)
    assert file.reduction_db == pytest.approx(-6.0 - second, abs=0.2)
