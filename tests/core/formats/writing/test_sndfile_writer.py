"""FLAC as written, read back by libraries that did not write it (RFC 9639: STREAMINFO, MD5 of the samples)."""

import hashlib
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile
from mutagen.flac import FLAC
from mutagen.mp3 import MP3

from ripe_press.core.errors import Interrupted
from ripe_press.core.formats.coding import Coding
from ripe_press.core.formats.writing.sndfile_writer import SndfileWriter
from support.signals import noise, ramp16


def written(path: Path, codes: np.ndarray) -> Path:
    with SndfileWriter(path, "flac", "s16", 44_100, 2) as writer:
        for start in range(0, len(codes), 1_000):
            writer.write(codes[start : start + 1_000].astype(np.int32) << 16)
    return path


def test_streaminfo_is_correct(tmp_path: Path) -> None:
    codes = ramp16(20_000)
    info = FLAC(written(tmp_path / "a.flac", codes)).info
    assert (info.sample_rate, info.channels, info.bits_per_sample, info.total_samples) == (44_100, 2, 16, 20_000)
    # The MD5 is that of the samples, little-endian and interleaved (RFC 9639, section 8.2).
    assert info.md5_signature == int(hashlib.md5(codes.astype("<i2").tobytes()).hexdigest(), 16)
    with av.open(str(tmp_path / "a.flac")) as container:
        frames = [frame.to_ndarray() for frame in container.decode(audio=0)]
    decoded = np.concatenate([part.reshape(-1, 2) for part in frames])
    assert np.array_equal(decoded, codes)


def test_the_same_samples_give_the_same_bytes(tmp_path: Path) -> None:
    first, second = (written(tmp_path / name, ramp16(9_000)).read_bytes() for name in ("a.flac", "b.flac"))
    assert first == second


def test_twenty_bits_lie_in_twenty_four(tmp_path: Path) -> None:
    codes = (np.arange(2_000, dtype=np.int32).reshape(-1, 2) - 1_000) << 12
    with SndfileWriter(tmp_path / "a.flac", "flac", "s20", 48_000, 2) as writer:
        writer.write(codes)
    assert soundfile.info(tmp_path / "a.flac").subtype == "PCM_24"
    assert np.array_equal(soundfile.read(tmp_path / "a.flac", dtype="int32")[0], codes)


def test_existing_file_is_kept_and_a_cancelled_one_removed(tmp_path: Path) -> None:
    kept = tmp_path / "kept.flac"
    kept.write_bytes(b"something else")
    with pytest.raises(Interrupted):
        SndfileWriter(kept, "flac", "s16", 44_100, 2)
    assert kept.read_bytes() == b"something else"
    SndfileWriter(tmp_path / "b.flac", "flac", "s16", 44_100, 2).abandon()
    with pytest.raises(Interrupted) as caught:
        SndfileWriter(tmp_path / "gone" / "c.flac", "flac", "s16", 44_100, 2)
    assert caught.value.message.endswith(".")
    assert [path.name for path in tmp_path.iterdir()] == ["kept.flac"]


@pytest.mark.parametrize(("rate_hz", "kbps"), [(32_000, 320), (32_000, 64), (48_000, 320), (24_000, 160), (24_000, 64)])
def test_the_ends_of_the_mp3_bit_rates_are_written_as_set(tmp_path: Path, rate_hz: int, kbps: int) -> None:
    """ISO/IEC 11172-3 goes from 32 to 320 kbit/s from 32 kHz on, ISO/IEC 13818-3 from 8 to 160 below."""
    path = tmp_path / "a.mp3"
    with SndfileWriter(path, "mp3", "lossy", rate_hz, 2, Coding("constant", kbps)) as writer:
        writer.write(noise(rate_hz).astype(np.float32))
    info = MP3(path).info
    assert (info.bitrate, info.sample_rate) == (kbps * 1000, rate_hz)
