"""What the table of formats promises is kept: every rate, channel count, depth and setting gives the frames back."""

from itertools import product
from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.errors import Unsupported
from ripe_press.core.formats.capabilities import BEST_QUALITY, CAPABILITIES, Container, Mode
from ripe_press.core.formats.coding import Coding, bit_rates, settle_coding
from ripe_press.core.formats.reading.reader import SourceReader
from support.formats import read_file, samples_for, write_file

RATES = [(container, rate) for container, can in CAPABILITIES.items() for rate in can.offered_rates_hz]


def settings(container: Container, rate_hz: int, channels: int) -> list[Coding]:
    """Every way of setting an encoder that is offered at a rate; what the table itself refuses is left out."""
    asked: list[tuple[Mode, int | None, int | None]] = []
    for mode, knob in CAPABILITIES[container].knobs:
        if knob == "kbps":
            asked += [(mode, kbps, None) for kbps in bit_rates(container, rate_hz, channels)]
        else:
            asked += [(mode, None, quality) for quality in range(0, BEST_QUALITY + 1, 2)]
    found = []
    for wish in asked:
        try:
            found.append(settle_coding(container, rate_hz, channels, *wish))
        except Unsupported:
            continue
    return [one for one in found if one]


@pytest.mark.parametrize(("container", "rate_hz"), [(one, rate) for one, rate in RATES if CAPABILITIES[one].lossy])
def test_every_setting_of_an_encoder_gives_back_the_frames_that_went_in(
    tmp_path: Path, container: Container, rate_hz: int
) -> None:
    frames = rate_hz // 2 + 1
    place = frames // 2
    for channels in (1, 2):
        samples = np.zeros((frames, channels))
        samples[place] = 0.7
        ways = settings(container, rate_hz, channels)
        assert ways
        for number, coding in enumerate(ways):
            path = write_file(tmp_path / f"{channels}-{number}", container, samples, rate_hz=rate_hz, coding=coding)
            back = read_file(path)
            assert back.shape == samples.shape, coding
            # The least bit rates at the lowest rates smear an impulse; it stays where it was all the same.
            assert abs(int(np.abs(back[:, 0]).argmax()) - place) <= (0 if coding.kbps >= 128 else 600), coding
            path.unlink()


@pytest.mark.parametrize(("container", "rate_hz"), [(one, rate) for one, rate in RATES if not CAPABILITIES[one].lossy])
def test_every_rate_and_depth_of_a_lossless_format_is_exact(tmp_path: Path, container: Container, rate_hz: int) -> None:
    for encoding, channels in product(CAPABILITIES[container].encodings, (1, 2)):
        samples = samples_for(encoding, 1_001, channels)
        path = write_file(tmp_path / f"{encoding}-{channels}", container, samples, encoding, rate_hz)
        with SourceReader(path) as reader:
            assert reader.facts.rate_hz == rate_hz
        back = read_file(path)
        assert np.array_equal(back, samples / 2.0**31 if samples.dtype == np.int32 else samples)
