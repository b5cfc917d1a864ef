"""Folding down by ITU-R BS.775-4, Annex 4, table 2 (values from memory of the text), and picking channels exactly."""

from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.downmix import describe_downmix, settle
from ripe_press.core.formats.reader import SourceReader
from ripe_press.core.survey import survey
from support.signals import noise, write

HALF = 0.7071
# 3/2 to 2/0, the low-frequency channel left out: left and right weight of L, R, C, LFE, Ls, Rs.
TABLE = {"L": (1, 0), "R": (0, 1), "C": (HALF, HALF), "LFE": (0, 0), "Ls": (HALF, 0), "Rs": (0, HALF)}
WAVE = ("L", "R", "C", "LFE", "Ls", "Rs")
XIPH = ("L", "C", "R", "Ls", "Rs", "LFE")


def read(path: Path, downmix: str = "") -> np.ndarray:
    with SourceReader(path, downmix) as reader:
        return np.concatenate(list(reader.blocks(block_frames=700)))


@pytest.mark.parametrize("channel", range(6))
def test_each_channel_alone_comes_out_by_the_table(tmp_path: Path, channel: int) -> None:
    samples = np.zeros((2_000, 6))
    samples[:, channel] = 0.5
    mix = read(write(tmp_path / "mix.wav", samples, 48_000, "PCM_24"))
    assert mix.shape == (2_000, 2)
    assert mix[0] / 0.5 == pytest.approx(TABLE[WAVE[channel]], abs=5e-5)


@pytest.mark.parametrize("channel", [0, 1, 2, 3, 4])
def test_vorbis_puts_its_channels_in_an_order_of_its_own(tmp_path: Path, channel: int) -> None:
    samples = np.zeros((48_000, 6))
    samples[:, channel] = np.sin(np.arange(48_000) * 0.05) * 0.4
    mix = read(write(tmp_path / "mix.ogg", samples, 48_000, "VORBIS", "OGG"))
    found = np.abs(mix[4_000:-4_000]).max(axis=0) / 0.4
    assert found == pytest.approx(TABLE[XIPH[channel]], abs=0.03)


@pytest.mark.parametrize(("wish", "picked"), [("3+4", [2, 3]), ("6", [5]), ("2+1", [1, 0])])
def test_a_pair_or_one_channel_comes_through_untouched(tmp_path: Path, wish: str, picked: list[int]) -> None:
    samples = np.round(noise(3_000, 6) * 2**15) / 2**15
    path = write(tmp_path / "mix.wav", samples, 48_000, "PCM_16")
    assert np.array_equal(read(path, wish), samples[:, picked])
    with SourceReader(path, wish) as reader:
        assert (reader.facts.channels, reader.facts.file_channels) == (len(picked), 6)
        assert reader.facts.holds_integers


def test_what_is_folded_no_longer_holds_the_integers_of_the_file(tmp_path: Path) -> None:
    path = write(tmp_path / "mix.wav", noise(48_000, 6), 48_000, "PCM_16")
    found = survey(path)
    assert (found.facts.downmix, found.facts.holds_integers, found.effective_bits) == ("bs775", False, None)
    assert survey(path, downmix="1+2").effective_bits == 16


@pytest.mark.parametrize(
    ("wish", "channels", "settled"),
    [("", 2, ""), ("", 1, ""), ("", 6, "bs775"), ("", 8, "1+2"), ("BS775", 5, "bs775"), ("1+2", 2, ""), ("2", 2, "2")],
)
def test_a_wish_is_settled(wish: str, channels: int, settled: str) -> None:
    assert settle(wish, channels, "pcm") == settled


@pytest.mark.parametrize(("wish", "channels"), [("7+8", 6), ("bs775", 8), ("left", 6), ("0", 6)])
def test_a_wish_that_cannot_be_is_explained(wish: str, channels: int) -> None:
    with pytest.raises(BadInput) as caught:
        settle(wish, channels, "pcm")
    assert caught.value.message.endswith(".")


def test_words() -> None:
    assert describe_downmix("bs775", 6) == "folded down from 6 channels"
    assert describe_downmix("3+4", 6) == "channels 3 and 4 of 6"
    assert (describe_downmix("3", 6), describe_downmix("", 2)) == ("channel 3 of 6", "")
