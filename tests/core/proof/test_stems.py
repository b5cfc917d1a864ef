"""The check of stems against their mix: every fault alone, and its right name."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.errors import BadInput, Cancelled
from ripe_press.core.proof.stems import Stem, StemsReport, _Heard, check_stems
from ripe_press.core.sources.file import FileSource
from support.signals import noise, write

RATE = 16_000
NAMES = ("bass", "drum", "strings", "room")


def sounds() -> dict[str, np.ndarray]:
    """Four that overlap and come and go: low, short hits, a middle band, and a quiet wash."""
    frames = RATE * 12
    t = np.arange(frames)[:, None] / RATE
    random = noise(frames, seed=3, level=1.0)
    hits = np.exp(-((t % 0.5) / 0.02))
    smooth = np.apply_along_axis(
        lambda one: np.convolve(one, np.ones(12) / 12, "same"), 0, noise(frames, seed=4, level=1)
    )
    made = {
        "bass": 0.2 * np.sin(2 * np.pi * 55 * t + 3 * np.sin(2 * np.pi * 0.31 * t)) * np.ones((1, 2)),
        "drum": 0.3 * hits * random,
        "strings": 0.15 * smooth * (0.5 + 0.5 * np.sin(2 * np.pi * t / 5)),
        "room": 0.01 * noise(frames, seed=5, level=1.0),
    }
    # Silent at both ends, so that one that lies late has lost nothing.
    for one in made.values():
        one[:8_000] = one[-8_000:] = 0
    return made


def checked(folder: Path, stems: dict[str, np.ndarray], mix: np.ndarray, rate_hz: int = RATE) -> StemsReport:
    sources = [
        (name, FileSource.at(write(folder / f"{name}.wav", one, rate_hz, "DOUBLE"))) for name, one in stems.items()
    ]
    return check_stems(FileSource.at(write(folder / "mix.wav", mix, RATE, "DOUBLE")), sources)


def of(report: StemsReport, name: str) -> Stem:
    return next(one for one in report.stems if one.name == name)


def test_stems_that_sum_to_the_mix_do_so_to_the_bit(tmp_path: Path) -> None:
    stems = sounds()
    mix = np.zeros((RATE * 12, 2))
    for one in stems.values():
        mix = mix + one
    report = checked(tmp_path, stems, mix)
    assert report.lines_up and report.sums
    assert report.residual_peak_dbfs == -np.inf and "sum to the mix" in report.sentence


def late(one: np.ndarray, frames: int) -> np.ndarray:
    return np.roll(one, frames, axis=0)


@pytest.mark.parametrize(
    ("name", "fault", "said"),
    [
        ("bass", lambda one: late(one, 1), "1 sample (0.1 ms) late"),
        ("drum", lambda one: late(one, 1), "1 sample (0.1 ms) late"),
        ("strings", lambda one: late(one, 480), "480 samples (30.0 ms) late"),
        ("bass", lambda one: late(one, -7_000), "7,000 samples (437.5 ms) early"),
        ("drum", lambda one: -one, "has inverted polarity"),
        ("strings", lambda one: one * 10 ** (3 / 20), "is 3.0 dB too loud"),
        ("bass", lambda one: one * 0.5, "is 6.0 dB too quiet (included twice)"),
        (
            "drum",
            lambda one: -late(one, 100) * 0.9,
            "is 100 samples (6.2 ms) late, has inverted polarity, is 0.9 dB too quiet",
        ),
    ],
)
def test_a_fault_of_one_stem_is_named(
    tmp_path: Path, name: str, fault: Callable[[np.ndarray], np.ndarray], said: str
) -> None:
    stems = sounds()
    mix = sum(stems.values(), np.zeros((1, 2)))
    report = checked(tmp_path, {**stems, name: fault(stems[name])}, mix)
    assert said in of(report, name).wrong, [one.wrong for one in report.stems]
    assert [one.wrong for one in report.stems if one.name != name] == ["", "", ""]
    assert not report.sums and of(report, name).wrong in report.sentence


def test_audio_missing_from_mix_or_stems_is_reported(tmp_path: Path) -> None:
    stems = sounds()
    mix = stems["bass"] + stems["drum"] + stems["strings"]
    (tmp_path / "one").mkdir()
    report = checked(tmp_path / "one", stems, mix)
    assert not of(report, "room").in_mix and "Remove it" in of(report, "room").wrong
    (tmp_path / "two").mkdir()
    del stems["strings"]
    report = checked(tmp_path / "two", {name: stems[name] for name in ("bass", "drum")}, mix)
    assert report.lines_up and not report.sums
    assert "part of the mix is missing" in report.sentence


def test_a_mix_that_went_through_a_limiter_is_recognised(tmp_path: Path) -> None:
    stems = sounds()
    mix = sum(stems.values(), np.zeros((1, 2)))
    gain = 1 - 0.3 * (0.5 + 0.5 * np.sin(2 * np.pi * np.arange(len(mix))[:, None] / RATE / 4))
    report = checked(tmp_path, stems, mix * gain)
    assert "limited or compressed" in report.sentence


def test_short_mono_and_other_rates(tmp_path: Path) -> None:
    stems = sounds()
    stems["bass"] = stems["bass"][: RATE * 8, :1]
    mix = sum((one for name, one in stems.items() if name != "bass"), np.zeros((1, 2)))
    mix[: RATE * 8] += stems["bass"]
    report = checked(tmp_path, stems, mix)
    assert report.lines_up and report.sums
    other = FileSource.at(write(tmp_path / "other.wav", noise(44_100), 44_100))
    report = check_stems(FileSource.at(tmp_path / "mix.wav"), [("other", other)])
    assert "has 44.1 kHz, the mix 16 kHz" in report.stems[0].wrong


def test_silence_and_no_stems_are_reported(tmp_path: Path) -> None:
    mix = FileSource.at(write(tmp_path / "mix.wav", noise(RATE), RATE))
    with pytest.raises(BadInput, match="No stems"):
        check_stems(mix, [])
    with pytest.raises(Cancelled):
        check_stems(mix, [("mix", mix)], should_stop=lambda: True)


def test_silence_says_nothing_of_the_gain() -> None:
    heard, loud = _Heard(1), noise(4_096, 2)
    for at, level in enumerate((1.0, 1e-8, 0.5)):
        heard.take(loud * level, [loud * level * 2], at)
    assert [round(gain, 3) for gain, _ in heard.gains] == [-6.021, -6.021]
    assert not heard.gain_moves
    heard.take(loud, [loud], 3)
    heard.take(loud, [loud * 4], 4)
    assert heard.gain_moves
