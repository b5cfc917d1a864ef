from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.errors import RipePressError
from ripe_press.core.formats.reading.av_decoder import AvDecoder
from ripe_press.core.formats.reading.reader import SourceReader
from support.av_files import encode
from support.signals import ramp16, sine

CODES = ramp16(30_000)


def read(path: Path, start: int = 0, end: int | None = None, size: int = 4_096) -> np.ndarray:
    with SourceReader(path) as reader:
        return np.concatenate(list(reader.blocks(start, end, size)))


@pytest.mark.parametrize(("codec", "container", "name"), [("alac", "ipod", "mix.m4a"), ("wavpack", "wv", "mix.wv")])
def test_lossless_codecs_come_back_exactly(tmp_path: Path, codec: str, container: str, name: str) -> None:
    path = encode(tmp_path / name, CODES, 44_100, codec, container, "s16p")
    assert np.array_equal(read(path) * 32768, CODES)
    assert np.array_equal(read(path, 12_345, 23_456, 777) * 32768, CODES[12_345:23_456])
    with SourceReader(path) as reader:
        facts = reader.facts
    assert (facts.frames, facts.bit_depth, facts.codec) == (30_000, 16, "pcm")


def test_alac_of_24_bits_is_read_as_such(tmp_path: Path) -> None:
    path = encode(tmp_path / "mix.m4a", CODES.astype(np.int32) << 16, 44_100, "alac", "ipod", "s32p")
    with SourceReader(path) as reader:
        assert (reader.facts.bit_depth, reader.facts.codec) == (24, "pcm")


def test_aac_has_the_length_that_went_in_and_no_shift(tmp_path: Path) -> None:
    wave = (sine(441, 1.0, 44_100, 0.5) * 32768).astype(np.int16)
    path = encode(tmp_path / "mix.m4a", wave, 44_100, "aac", "ipod", "fltp")
    decoded = read(path)
    assert len(decoded) == 44_100
    assert np.abs(decoded[5_000:40_000] - wave[5_000:40_000] / 32768).max() < 0.02
    assert AvDecoder(path).facts.bit_depth is None


def test_a_list_that_names_another_file_is_never_followed(tmp_path: Path) -> None:
    secret = encode(tmp_path / "other.wv", CODES, 44_100, "wavpack", "wv", "s16p")
    path = tmp_path / "mix.m4a"
    path.write_text(f"ffconcat version 1.0\nfile {secret}\n")
    with pytest.raises(RipePressError):
        AvDecoder(path)
