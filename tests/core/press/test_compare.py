"""The comparison of two files."""

from pathlib import Path

import numpy as np
import pytest
import soundfile

from ripe_press.core.errors import BadInput, Interrupted
from ripe_press.core.formats.libraries import library_versions
from ripe_press.core.proof.compare import difference_of
from support.signals import noise, sine, write

RATE = 48_000


def test_the_difference_is_measured_where_it_is_and_as_large_as_it_is(tmp_path: Path) -> None:
    samples = noise(200_000)
    other = samples.copy()
    # A sine of a thousandth: −60 dBFS at its peak, by the definition of dB; it begins on its second frame.
    other[70_001:, 1] += 0.001 * np.sin(2 * np.pi * np.arange(129_999) * 0.125)
    found = difference_of(write(tmp_path / "a.wav", samples, RATE), write(tmp_path / "b.wav", other, RATE))
    assert not found.same
    assert (found.frames, found.longer_by, found.first_frame) == (200_000, 0, 70_002)
    assert found.peak_dbfs == pytest.approx(-60.0, abs=0.01)
    # A full-scale sine reads 0: on one of two channels (−3.01 dB), 65 % of the time (−1.87 dB).
    assert found.rms_dbfs == pytest.approx(-60.0 - 3.01 - 1.87, abs=0.02)


def test_the_same_sound_in_other_bytes_is_the_same(tmp_path: Path) -> None:
    samples = (noise(100_000) * 32768).round() / 32768
    wav = write(tmp_path / "a.wav", samples, RATE, "PCM_16")
    flac = write(tmp_path / "a.flac", samples, RATE, "PCM_16", "FLAC")
    found = difference_of(wav, flac)
    assert found.same
    assert found.peak_dbfs == float("-inf")


@pytest.mark.parametrize("longer", [1, 65_536, 100_000])
def test_extra_samples_of_one_file_are_counted(longer: int, tmp_path: Path) -> None:
    samples = noise(70_000 + longer)
    short = write(tmp_path / "a.wav", samples[:70_000], RATE)
    found = difference_of(short, write(tmp_path / "b.wav", samples, RATE))
    assert (found.frames, found.longer_by, found.first_frame, found.same) == (70_000, longer, None, False)
    assert difference_of(tmp_path / "b.wav", short).longer_by == -longer


def test_files_of_other_rates_or_channels_cannot_be_held_together(tmp_path: Path) -> None:
    a = write(tmp_path / "a.wav", sine(1000, 0.1, RATE), RATE)
    for other in (
        write(tmp_path / "b.wav", sine(1000, 0.1, 44_100), 44_100), write(tmp_path / "c.wav", noise(4_800, 1), RATE),
    ):  # fmt: skip
        with pytest.raises(BadInput) as caught:
            difference_of(a, other)
        assert caught.value.code == "compare.apart"
    with pytest.raises(Interrupted):
        difference_of(a, a, lambda: True)


def test_libraries_are_listed_by_name_and_version() -> None:
    found = library_versions()
    assert found["libsndfile"] == soundfile.__libsndfile_version__
    assert {"ripe-press", "soxr", "libsoxr", "libavcodec", "numpy", "mutagen"} <= found.keys()
    assert all(found.values())
