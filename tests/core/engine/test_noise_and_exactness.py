"""Whose dither is whose, and where none is added because nothing was reduced."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile

from ripe_press.core.engine.levels import foreseen
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.formats.fingerprint import content_sum
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.press import PressedFile
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import facts_of_file
from ripe_press.core.survey import measure_bits
from support.press import delivery_of, files_for, press_files
from support.signals import noise, write

RATE = 44_100
SIXTEEN = 2.0**15


def facts_of(mix: Path) -> SourceFacts:
    facts = facts_of_file(mix)
    return replace(facts, content_sum=content_sum(mix), effective_bits=measure_bits(FileSource(facts)))


def pressed(mix: Path, folder: Path, stretch: Stretch | None = None, **wish: object) -> tuple[PressedFile, ...]:
    facts = facts_of(mix)
    folder.mkdir()
    return press_files(folder, files_for(delivery_of(facts, stretch, **{"encoding": "s16", **wish}), facts))


def proven(file: PressedFile) -> bool:
    return "samples_as_they_came" in [one.rule for one in file.checks]


def codes(file: PressedFile) -> np.ndarray:
    return soundfile.read(file.path, dtype="int16", always_2d=True)[0]


def errors(mix: Path, folder: Path, stretch: Stretch | None = None, **wish: object) -> list[np.ndarray]:
    """What pressing added to each channel, in LSB, where samples were only rounded."""
    samples = soundfile.read(mix, always_2d=True)[0] * SIXTEEN
    if stretch:
        samples = samples[stretch.start_frame : stretch.end_frame]
    (file,) = pressed(mix, folder, stretch, **wish)
    return list((codes(file) - samples).T)


def correlation(one: np.ndarray, other: np.ndarray) -> float:
    length = min(len(one), len(other))
    return float(np.corrcoef(one[:length], other[:length])[0, 1])


@pytest.fixture(scope="module")
def minute(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return write(tmp_path_factory.mktemp("minute") / "Millrace.wav", noise(61 * RATE, 2, 7, 0.05), RATE)


@pytest.mark.parametrize("dither", ["auto", "triangular-high-pass", "shaped-strong"])
@pytest.mark.parametrize("level", [LevelRequest(), LevelRequest("loudness", -9.0)])
def test_a_split_pair_is_the_stereo_file(tmp_path: Path, dither: str, level: LevelRequest) -> None:
    wave = noise(3 * RATE, 2, 2, 0.2) * np.array([1.0, 0.4])
    mix = write(tmp_path / "Millrace.wav", wave, RATE)
    (stereo,) = pressed(mix, tmp_path / "stereo", dither=dither, level=level)
    left, right = pressed(mix, tmp_path / "split", dither=dither, level=level, channels="split")
    (swapped,) = pressed(mix, tmp_path / "swapped", dither=dither, level=level, channels="swapped")
    assert np.array_equal(np.hstack((codes(left), codes(right))), codes(stereo))
    assert np.array_equal(codes(swapped)[:, ::-1], codes(stereo))
    # Neither side is asked to meet alone what both meet together.
    assert [file.verdict for file in (left, right)] == [stereo.verdict] * 2
    assert left.gain_db == right.gain_db == stereo.gain_db


def test_one_side_alone_is_that_side(tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", noise(RATE), RATE)
    (stereo,) = pressed(mix, tmp_path / "stereo")
    (right,) = pressed(mix, tmp_path / "right", channels="right")
    assert np.array_equal(codes(right)[:, 0], codes(stereo)[:, 1])


def test_everything_else_is_uncorrelated(minute: Path, tmp_path: Path) -> None:
    """|r| < 0.01 over a minute: sides, ranges, sums, and another mix of the very same length."""
    left, right = errors(minute, tmp_path / "whole", Stretch(0, 60 * RATE))
    later, _ = errors(minute, tmp_path / "later", Stretch(RATE, 61 * RATE))
    longer, _ = errors(minute, tmp_path / "longer", Stretch(0, 61 * RATE))
    wave = soundfile.read(minute, always_2d=True)[0]
    wave[100] = 0
    other, _ = errors(write(tmp_path / "Other.wav", wave, RATE), tmp_path / "other", Stretch(0, 60 * RATE))
    (file,) = pressed(minute, tmp_path / "sum", Stretch(0, 60 * RATE), channels="mono")
    whole = soundfile.read(minute, always_2d=True)[0][: 60 * RATE].sum(axis=1) / 2 * SIXTEEN
    summed = codes(file)[:, 0] - whole
    for one in (right, later, longer, other, summed):
        assert abs(correlation(left, one)) < 0.01


def test_pressed_twice_the_same_bytes_wherever_the_mix_lies(tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", noise(RATE), RATE)
    moved = tmp_path / "moved" / "elsewhere.wav"
    moved.parent.mkdir()
    moved.write_bytes(mix.read_bytes())
    one, two, three = (
        pressed(path, tmp_path / name)[0] for path, name in ((mix, "one"), (mix, "two"), (moved, "three"))
    )
    assert np.array_equal(codes(one), codes(two))
    assert np.array_equal(codes(one), codes(three))


def test_content_is_known_by_every_byte(tmp_path: Path) -> None:
    data = bytearray(np.random.default_rng(1).bytes((1 << 16) * 3 + 11))
    sums = set()
    for at in (0, 70_000, len(data) - 1):
        data[at] ^= 1
        (tmp_path / "file").write_bytes(data)
        sums.add(content_sum(tmp_path / "file"))
    assert len(sums) == 3


@pytest.mark.parametrize(
    "level",
    [
        LevelRequest("peak", 0.0, only_down=True),
        LevelRequest("true-peak", 0.0, only_down=True),
        LevelRequest("loudness", -5.0, only_down=True),
        LevelRequest("loudness", -5.0, only_down=True, limit=False),
    ],
)
def test_a_level_at_which_nothing_is_left_to_do_keeps_the_samples(tmp_path: Path, level: LevelRequest) -> None:
    mix = write(tmp_path / "Millrace.wav", noise(RATE), RATE, "PCM_16")
    (file,) = pressed(mix, tmp_path / "out", level=level)
    assert np.array_equal(codes(file), soundfile.read(mix, dtype="int16")[0])
    assert proven(file)
    assert file.gain_db == 0.0
    (in_float,) = pressed(mix, tmp_path / "float", level=level, encoding="f32")
    assert proven(in_float)


def test_a_level_that_limits_at_no_gain_is_not_exact(tmp_path: Path) -> None:
    wave = noise(RATE)
    wave[RATE // 2] = 0.9
    mix = write(tmp_path / "Millrace.wav", wave, RATE, "PCM_16")
    (file,) = pressed(mix, tmp_path / "out", level=LevelRequest("loudness", -5.0, -1.5, only_down=True))
    assert file.gain_db == 0.0
    assert not proven(file)


def test_a_dither_that_was_chosen_stays(tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", noise(RATE), RATE, "PCM_16")
    (file,) = pressed(mix, tmp_path / "out", level=LevelRequest("peak", 0.0, only_down=True), dither="triangular")
    assert not np.array_equal(codes(file), soundfile.read(mix, dtype="int16")[0])


@pytest.mark.parametrize(("bits", "encoding"), [(16, "s16"), (16, "s24"), (24, "s24")])
def test_integers_stored_as_float_pass_unchanged(tmp_path: Path, bits: int, encoding: str) -> None:
    held = np.rint(noise(RATE) * 2.0 ** (bits - 1)) / 2.0 ** (bits - 1)
    for subtype in ("FLOAT", "DOUBLE"):
        mix = write(tmp_path / f"{subtype}.wav", held, RATE, subtype)
        (file,) = pressed(mix, tmp_path / subtype, encoding=encoding)
        assert np.array_equal(soundfile.read(file.path)[0], held)
        assert proven(file)


def test_silence_in_float_stays_silence(tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", np.zeros((RATE, 2)), RATE)
    assert not codes(pressed(mix, tmp_path / "out")[0]).any()


def test_full_scale_in_float_is_not_an_integer(tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", np.array([[1.0, 0.5], [0.0, -1.0]]), RATE)
    assert facts_of(mix).effective_bits == 32
    assert not proven(pressed(mix, tmp_path / "out")[0])


def test_row_predicts_bit_exactness(tmp_path: Path) -> None:
    facts = facts_of(write(tmp_path / "Millrace.wav", noise(RATE), RATE, "PCM_16"))
    level = LevelRequest("loudness", -14.0, only_down=True)
    (file,) = files_for(delivery_of(facts, level=level, encoding="s16"), facts)

    def exact(signal: SignalResult) -> bool:
        return foreseen(file, signal).codec.exact

    assert exact(SignalResult(-6.0, -5.5, -20.0))
    assert not exact(SignalResult(-6.0, -5.5, -12.0))
    assert not exact(SignalResult(-0.5, 0.2, -20.0))
    # Only the sample peak is known.
    assert not exact(SignalResult(-2.0, -2.0, -20.0))
