"""The loudness search on many kinds of signal: reached within 0.05 LU, or said; never more gain than it needs."""

import math
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.blocks import Block
from ripe_press.core.briefs.library import brief_of
from ripe_press.core.engine.levels import LEAST_WON_LU, settle_levels, walk_settled
from ripe_press.core.measure.signal import SignalMeter
from ripe_press.core.press import PressedFile
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.signal.limiter import Limiter, PeakDetector
from support import sampled
from support.press import delivery_of, facts_of, files_for, press_files
from support.signals import noise, sine, write

RATE = 48_000
SECONDS = 3
FRAMES = RATE * SECONDS


def hits(every_s: float, floor: float, decay_s: float = 0.08, seed: int = 1) -> Block:
    at = np.arange(FRAMES) % round(every_s * RATE) / RATE
    return noise(FRAMES, 2, seed) * 3 * np.exp(-at / decay_s)[:, None] + noise(FRAMES, 2, seed + 1, floor)


def pink(seed: int) -> Block:
    shape = np.fft.rfft(noise(FRAMES, 2, seed), axis=0)
    shape[1:] /= np.sqrt(np.arange(1, len(shape)))[:, None]
    wave = np.fft.irfft(shape, FRAMES, axis=0)
    return wave / np.abs(wave).max() * 0.5


def swelling(turns: float, seed: int) -> Block:
    return pink(seed) * (0.15 + 0.85 * np.sin(np.linspace(0, turns, FRAMES)) ** 2)[:, None]


def dense(drive: float, seed: int) -> Block:
    limiter = Limiter(-0.5, RATE, 2)
    loud = np.tanh(swelling(9, seed) * drive)
    return np.concatenate([limiter.process(loud), limiter.flush()])


def kinds() -> Iterator[tuple[str, Callable[[], Block]]]:
    """Forty kinds of signal."""
    for every in (0.25, 0.5, 1.0, 1.5):
        for floor in (1e-5, 1e-3, 1e-2):
            yield f"hits every {every} s over {floor:g}", lambda every=every, floor=floor: hits(every, floor)  # type: ignore[misc]
    for seed in range(4):
        yield f"pink {seed}", lambda seed=seed: pink(seed)  # type: ignore[misc]
    for turns in (2, 5, 9, 20, 40):
        yield f"swelling {turns}", lambda turns=turns: swelling(turns, turns)  # type: ignore[misc]
    for drive in (1, 2, 4, 8, 16):
        yield f"dense {drive}", lambda drive=drive: dense(drive, drive)  # type: ignore[misc]
    for hz in (60, 997, 5_000, 11_999):
        yield f"sine {hz}", lambda hz=hz: sine(hz, SECONDS, RATE, 0.3)  # type: ignore[misc]
    for rate in (2, 5, 11):
        wave = np.abs(np.sin(np.arange(FRAMES) / RATE * np.pi * rate))[:, None]
        yield f"tremolo {rate}", lambda wave=wave: sine(440, SECONDS, RATE, 0.4) * wave  # type: ignore[misc]
    for share in (0.2, 0.5):
        loud = (np.arange(FRAMES) < share * FRAMES)[:, None]
        yield f"loud for {share}", lambda loud=loud: np.where(loud, pink(7), pink(8) * 0.02)  # type: ignore[misc]
    yield "clicks", lambda: np.where(np.arange(FRAMES)[:, None] % 24_001 == 5, 0.9, 0.0) + noise(FRAMES, 2, 3, 1e-3)
    yield "white", lambda: noise(FRAMES, 2, 5)
    yield "square", lambda: np.sign(sine(97, SECONDS, RATE)) * 0.3
    yield "one side", lambda: pink(9) * np.array([1.0, 0.0])
    yield "very quiet", lambda: swelling(9, 3) * 1e-3


KINDS = dict(kinds())
TARGETS = (-23.0, -18.0, -14.0, -11.0, -9.0, -6.0)
CEILING = -1.0


def test_forty_kinds() -> None:
    assert len(KINDS) == 40


def loudness_at(samples: Block, gain_db: float) -> float:
    limiter, meter = Limiter(CEILING, RATE, 2), SignalMeter(2, RATE)
    for part in (limiter.process(samples * 10 ** (gain_db / 20)), limiter.flush()):
        meter.process(part)
    return meter.result().integrated_lufs


def settled(path: Path, targets: tuple[float, ...], wish: LevelRequest, trials: bool) -> list[tuple[float, bool]]:
    """(gain, whether it falls short) for each target, tried before or found by the walk that writes."""
    facts = facts_of(path)
    wishes = [delivery_of(facts, level=replace(wish, target=target), encoding="f64") for target in targets]
    files = [file for one in wishes for file in files_for(one, facts)]
    if trials:
        found = settle_levels(files, trials=True)
        ends = [(path, found.shortfalls.get(number)) for number, path in enumerate(found.paths)]
    else:
        ends = [(path, short) for path, _, short in map(walk_settled, files)]
    return [(path.settled.gain_db if path.settled else 0.0, short is not None) for path, short in ends]


@pytest.mark.parametrize("trials", [False, True])
@pytest.mark.parametrize("kind", sampled(KINDS, 4))
def test_reached_or_said_and_with_the_least_gain(kind: str, trials: bool, tmp_path: Path) -> None:
    samples = KINDS[kind]()
    path = write(tmp_path / "Millrace.wav", samples, RATE, "DOUBLE")
    found = settled(path, TARGETS, LevelRequest("loudness", 0.0, CEILING), trials)
    detector = PeakDetector(RATE, 2)
    parts = [detector.process(block, 0.0) for block in (samples, np.zeros((detector.delay, 2)))]
    peak_db = 20 * math.log10(max(float(part.max(initial=0.0)) for part in parts))
    most = CEILING - peak_db + 12
    for target, (gain, short) in zip(TARGETS, found, strict=True):
        reached = loudness_at(samples, gain)
        assert gain <= max(most, 0.0) + 0.01
        if short:
            assert reached < target
            # Another decibel would add almost nothing, or exceed the maximum reduction.
            won = loudness_at(samples, gain + 1) - reached
            assert gain > min(60, most) - 0.05 or won < LEAST_WON_LU + 0.2
            continue
        assert reached == pytest.approx(target, abs=0.05)
        # By brute force: nothing that is lower by 0.3 dB or more comes as near.
        lower = [loudness_at(samples, gain - 0.3 - step) for step in (0.0, 1.0)]
        assert max(lower) < target - 0.05 + 0.005 or math.isclose(gain, 0.0)


def out_of(path: Path, folder: Path, brief: str, level: LevelRequest | None = None) -> PressedFile:
    facts, made = facts_of(path), brief_of(brief)
    (file,) = press_files(folder, files_for(delivery_of(facts, brief=made, level=level), facts), made)
    return file


def test_hits_over_a_quiet_floor_stop_where_harm_begins(tmp_path: Path) -> None:
    """What began this: 60 dB of gain, and a floor that came up by 60 dB."""
    path = write(tmp_path / "Millrace.wav", hits(1.0, 3e-5, 0.01), RATE)
    file = out_of(path, tmp_path, "streaming-loud")
    assert file.verdict == "stop"
    assert not (tmp_path / "0.wav").exists()
    finding = next(one for one in file.findings if one.rule == "loudness_out_of_reach")
    assert file.reduction_db is not None and file.reduction_db >= -12.05
    assert finding.remedy and finding.remedy.target_lufs is not None
    assert "Target −14.0 LUFS not reached" in finding.sentence
    # The remedy holds: what it takes is reached.
    (tmp_path / "again").mkdir()
    wish = LevelRequest("loudness", finding.remedy.target_lufs, CEILING)
    again = out_of(path, tmp_path / "again", "blank", wish)
    assert "loudness_out_of_reach" not in [one.rule for one in again.findings]
    assert again.proof.integrated_lufs == pytest.approx(finding.remedy.target_lufs, abs=0.05)


def test_maximum_reduction_is_settable(tmp_path: Path) -> None:
    path = write(tmp_path / "Millrace.wav", hits(0.5, 1e-3), RATE)
    for most in (3.0, 6.0):
        file = out_of(path, tmp_path, "blank", LevelRequest("loudness", -6.0, CEILING, max_reduction_db=most))
        (tmp_path / "0.wav").unlink()
        assert file.verdict == "look"
        assert file.reduction_db == pytest.approx(-most, abs=0.05)


def test_mix_too_short_for_loudness_is_unchanged(tmp_path: Path) -> None:
    """Audio under 0.4 s has no gating block: nothing is raised to the ceiling instead of a loudness."""
    path = write(tmp_path / "Millrace.wav", noise(2_000), RATE)
    for limit in (True, False):
        assert settled(path, (-10.0,), LevelRequest("loudness", 0.0, CEILING, limit=limit), False) == [(0.0, False)]
