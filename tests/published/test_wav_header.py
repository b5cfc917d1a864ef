"""WAV files read back by two readers that did not write them: wavinfo and tinytag (and the standard library's)."""

import wave
from pathlib import Path

import pytest
from tinytag import TinyTag
from wavinfo import WavInfoReader

from ripe_press.core.formats.capabilities import BITS, Encoding
from ripe_press.core.formats.writing.wav import WavWriter
from ripe_press.core.signal.quantise import Quantiser
from support.signals import noise


@pytest.mark.parametrize("rate_hz", [44_100, 48_000, 96_000])
@pytest.mark.parametrize("encoding", ["u8", "s16", "s24", "s32"])
def test_headers_describe_the_file(tmp_path: Path, encoding: Encoding, rate_hz: int) -> None:
    path = tmp_path / "out.wav"
    with WavWriter(path, encoding, rate_hz, 2, 4_410) as writer:
        writer.write(Quantiser(BITS[encoding], 2, "triangular").process(noise(4_410)))
    info = WavInfoReader(str(path))
    assert (info.fmt.sample_rate, info.fmt.channel_count, info.fmt.bits_per_sample) == (rate_hz, 2, BITS[encoding])
    assert info.data.frame_count == 4_410
    tag = TinyTag.get(path)
    assert (tag.samplerate, tag.channels, tag.bitdepth) == (rate_hz, 2, BITS[encoding])
    assert tag.duration == pytest.approx(4_410 / rate_hz, abs=1e-9)
    if BITS[encoding] <= 16:
        with wave.open(str(path)) as file:
            assert (file.getframerate(), file.getnframes(), file.getsampwidth()) == (
                rate_hz,
                4_410,
                BITS[encoding] // 8,
            )
