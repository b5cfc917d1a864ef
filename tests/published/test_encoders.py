"""What the encoder's switches are worth, by the ear model of ITU-R BS.1387 (from memory of the text)."""

from pathlib import Path
from unittest.mock import patch

import numpy as np
import pytest

from ripe_press.core import stations as st
from ripe_press.core.formats.capabilities import CAPABILITIES, Container
from ripe_press.core.formats.coding import Coding, switches_for
from ripe_press.core.formats.writing import av_writer
from ripe_press.core.formats.writing.encoders import BY_RATE
from ripe_press.core.proof.hearing import HearingMeter
from support.formats import read_file, write_file

pytestmark = pytest.mark.slow
RATE = 48_000


def noise_to_mask_db(source: np.ndarray, test: np.ndarray) -> tuple[float, float]:
    """The total ratio and the 95th percentile, of both channels pooled."""
    meter = HearingMeter(2, RATE)
    count = min(len(source), len(test))
    meter.process(source[:count], test[:count])
    found = meter.result()
    return found.total_db, found.p95_db


def chords(seconds: float = 5.0) -> np.ndarray:
    """Struck strings, a new chord twice a second, and a breath of noise: wide, tonal, with attacks."""
    at = np.arange(round(seconds * RATE)) / RATE
    random = np.random.default_rng(7)
    out = random.standard_normal((len(at), 2)) * 0.003
    since = np.arange(RATE) / RATE
    for beat in range(round(seconds * 2)):
        first = beat * RATE // 2
        length = min(RATE, len(at) - first)
        for root in random.choice([110.0, 146.8, 164.8, 196.0, 220.0, 261.6, 329.6], 3, replace=False):
            partials = np.arange(1, 30)[:, None]
            phases = random.uniform(0, 6.28, (29, 1))
            waves = np.sin(2 * np.pi * root * partials * 1.0006**partials * since + phases) / partials**1.1
            struck = (waves * np.exp(-since * (3 + partials / 4))).sum(axis=0)
            out[first : first + length] += struck[:length, None] * random.uniform(0.3, 1, 2)
    return out / np.abs(out).max() * 0.7


@pytest.fixture(scope="module")
def music() -> np.ndarray:
    return chords()


def coded(folder: Path, container: Container, samples: np.ndarray, kbps: int) -> np.ndarray:
    target = folder / f"{container}-{kbps}"
    target.unlink(missing_ok=True)
    by_quality = container == "vorbis"
    coding = Coding(CAPABILITIES[container].knobs[0][0], 0 if by_quality else kbps, kbps if by_quality else 0)
    return read_file(write_file(target, container, samples, coding=coding))[: len(samples)]


@pytest.mark.parametrize("kbps", [160, 192, 256])
def test_the_switches_of_aac_are_worth_it(music: np.ndarray, tmp_path: Path, kbps: int) -> None:
    """From 160 kbit/s on, where they matter most. Below, struck strings alone are about as good without them; on real
    pieces and on the demo mixes they win one or two dB there as well (`benchmarks/codecs.py`).
    """
    with patch.object(av_writer, "switches_for", lambda *_: {}):
        as_it_comes = noise_to_mask_db(music, coded(tmp_path, "aac", music, kbps))
    found = noise_to_mask_db(music, coded(tmp_path, "aac", music, kbps))
    assert found[0] < as_it_comes[0] - 0.5
    assert found[1] < as_it_comes[1]


@pytest.mark.parametrize("container", ["mp3", "aac", "opus", "vorbis"])
@pytest.mark.parametrize("level", [0.1, 0.5, 0.95])
def test_a_tone_of_any_level_comes_back(tmp_path: Path, container: Container, level: float) -> None:
    """A loud tone is not harder than a quiet one; an encoder with too small a number range clips it."""
    at = np.arange(2 * RATE) / RATE
    for hz in (440, 997, 3_000):
        tone = np.repeat(level * np.sin(2 * np.pi * hz * at)[:, None], 2, axis=1)
        for kbps in (192, 256, 320):
            (tmp_path / f"{hz}").mkdir(exist_ok=True)
            back = coded(tmp_path / f"{hz}", container, tone, kbps if container != "vorbis" else 7)
            middle = slice(RATE // 2, 3 * RATE // 2)
            error = np.square(back[middle] - tone[middle]).mean()
            assert 10 * np.log10(level**2 / 2 / error) > 30, (hz, kbps)


def test_a_file_is_small_and_good_by_its_rate(music: np.ndarray, tmp_path: Path) -> None:
    """Every codec gets better with bits, and Opus is the best of the three at each rate."""
    for kbps in (128, 192, 256):
        aac, opus, mp3 = (
            noise_to_mask_db(music, coded(tmp_path, name, music, kbps))[0] for name in ("aac", "opus", "mp3")
        )
        assert opus < min(aac, mp3)
    assert all(list(table) == sorted(table, key=lambda one: -one[1]) for table in BY_RATE.values())


@pytest.mark.parametrize(
    ("kbps", "channels", "options"),
    [
        (64, 2, {}),
        (128, 2, {"aac_pns": "0"}),
        (64, 1, {"aac_pns": "0"}),
        (150, 2, {"aac_pns": "0", "aac_is": "0"}),
        (500, 2, {"aac_pns": "0", "aac_is": "0"}),
    ],
)
def test_switches_by_rate_and_channels(kbps: int, channels: int, options: dict[str, str]) -> None:
    assert switches_for("aac", kbps, channels) == options
    assert switches_for("video", kbps, channels) == options
    assert switches_for("opus", kbps, channels) == {}


def test_better_encoder_at_a_rate_is_reported() -> None:
    codec = st.Codec("aac", "lossy", 48_000, 2, 48_000, coding=Coding("average", 256))
    told = codec.words(st.PathFacts()).sentence
    assert "17 dB below masking (at the same bit rate: MP3 19, Opus 23)." in told
    by_quality = st.Codec("vorbis", "lossy", 48_000, 2, 48_000, coding=Coding("variable", quality=6))
    assert "16 dB below masking." in by_quality.words(st.PathFacts()).sentence
    best = st.Codec("mp3", "lossy", 48_000, 2, 48_000, coding=Coding("variable", quality=10))
    assert "masking" not in best.words(st.PathFacts()).sentence
