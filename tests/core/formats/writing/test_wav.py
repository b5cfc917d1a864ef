import struct
from pathlib import Path

import numpy as np
import pytest
import soundfile

from ripe_press.core.errors import Interrupted, Unsupported
from ripe_press.core.formats.capabilities import BITS, Encoding, is_float
from ripe_press.core.formats.writing.wav import WavWriter, wav_bytes
from support.signals import noise, ramp16

ENCODINGS: tuple[Encoding, ...] = ("u8", "s16", "s24", "s32", "f32", "f64")


def codes_for(encoding: Encoding, frames: int, channels: int) -> np.ndarray:
    if is_float(encoding):
        return noise(frames, channels, level=2.0)
    random = np.random.default_rng(5)
    bits = BITS[encoding]
    codes = random.integers(-(2 ** (bits - 1)), 2 ** (bits - 1), (frames, channels))
    return (codes << (32 - bits)).astype(np.int32)


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("frames", [1, 3, 1001])
@pytest.mark.parametrize("encoding", ENCODINGS)
def test_every_encoding_comes_back_exactly(tmp_path: Path, encoding: Encoding, frames: int, channels: int) -> None:
    path, samples = tmp_path / "out.wav", codes_for(encoding, frames, channels)
    with WavWriter(path, encoding, 48_000, channels) as writer:
        writer.write(samples[: frames // 2])
        writer.write(samples[frames // 2 :])
    if is_float(encoding):
        read = soundfile.read(path, dtype="float64", always_2d=True)[0]
        samples = samples.astype(encoding.replace("f32", "f4").replace("f64", "f8"))
    else:
        read = soundfile.read(path, dtype="int32", always_2d=True)[0]
    assert np.array_equal(read, samples)
    assert path.stat().st_size == wav_bytes(encoding, channels, frames)
    assert path.stat().st_size % 2 == 0


def test_a_header_written_for_an_expected_length_is_final_from_the_start(tmp_path: Path) -> None:
    samples = (ramp16(500).astype(np.int32)) << 16
    for name, expected in (("known.wav", 500), ("unknown.wav", 0), ("wrong.wav", 77)):
        with WavWriter(tmp_path / name, "s16", 44_100, 2, expected) as writer:
            writer.write(samples)
    known = (tmp_path / "known.wav").read_bytes()
    assert (tmp_path / "unknown.wav").read_bytes() == known
    assert (tmp_path / "wrong.wav").read_bytes() == known


def test_past_four_gib_the_header_becomes_rf64_of_the_same_length(tmp_path: Path) -> None:
    writer = WavWriter(tmp_path / "long.wav", "f32", 96_000, 2)
    frames = 3 * 3600 * 96_000
    header = writer.header(frames)
    assert len(header) == len(writer.header(0))
    assert (header[:4], header[12:16]) == (b"RF64", b"ds64")
    riff, data, samples = struct.unpack("<QQQ", header[20:44])
    assert (data, samples) == (frames * 8, frames)
    assert riff == len(header) - 8 + data
    assert header[4:8] == header[-4:] == b"\xff\xff\xff\xff"
    writer.abandon()
    assert not (tmp_path / "long.wav").exists()


def test_an_existing_file_is_never_replaced(tmp_path: Path) -> None:
    path = tmp_path / "there.wav"
    path.write_text("mine")
    with pytest.raises(Interrupted) as caught:
        WavWriter(path, "s16", 44_100, 2)
    assert caught.value.code == "write.failed"
    assert path.read_text() == "mine"


def test_unsupported_encoding_is_rejected(tmp_path: Path) -> None:
    for rate, channels, code in ((4_000, 2, "container.rate"), (44_100, 0, "container.channels")):
        with pytest.raises(Unsupported) as caught:
            WavWriter(tmp_path / "no.wav", "s16", rate, channels)
        assert caught.value.code == code
    assert not (tmp_path / "no.wav").exists()
