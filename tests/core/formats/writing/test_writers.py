"""Every format, read back: exactly where nothing may be lost, to the frame where something may."""

from pathlib import Path

import av
import mutagen
import numpy as np
import pytest
import soundfile

from ripe_press.core.errors import Interrupted
from ripe_press.core.formats.capabilities import CAPABILITIES, STORED_BITS, Container, Encoding, Mode, codec_of
from ripe_press.core.formats.coding import Coding, settle_coding
from ripe_press.core.formats.reading.reader import SourceReader
from ripe_press.core.formats.writing.av_writer import AvWriter
from ripe_press.core.formats.writing.writers import open_writer, sample_bytes
from ripe_press.core.tags.sheet import FileTags
from support.formats import first_rate, read_file, samples_for, write_file
from support.signals import sine

CASES = [(container, encoding) for container, can in CAPABILITIES.items() for encoding in can.encodings]
LOSSY: list[Container] = [container for container, can in CAPABILITIES.items() if can.lossy]
BY_SOUNDFILE: tuple[Container, ...] = ("wav", "bwf", "rf64", "caf", "aiff", "opus")
BY_AV: tuple[Container, ...] = ("wav", "bwf", "rf64", "caf", "aiff", "flac", "mp3", "vorbis")


@pytest.mark.parametrize("frames", [1, 1_001, 96_017])
@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize(("container", "encoding"), CASES)
def test_every_format_stores_its_stated_range(
    tmp_path: Path, container: Container, encoding: Encoding, channels: int, frames: int
) -> None:
    samples = samples_for(encoding, frames, channels)
    path = write_file(tmp_path / "file", container, samples, encoding)
    with SourceReader(path) as reader:
        facts = reader.facts
    assert (facts.rate_hz, facts.channels, facts.frames) == (first_rate(container), channels, frames)
    assert facts.codec == codec_of(container, encoding)
    back = read_file(path)
    assert back.shape == samples.shape
    if encoding != "lossy":
        assert facts.bit_depth == STORED_BITS[encoding]
        assert np.array_equal(back, samples / 2.0**31 if samples.dtype == np.int32 else samples)
    if not CAPABILITIES[container].codec:
        assert path.stat().st_size == sample_bytes(container, encoding, channels, frames)


@pytest.mark.parametrize("container", ["wav", "aiff", "flac", "alac"])
def test_integers_are_not_cut_out_of_floating_point(tmp_path: Path, container: Container) -> None:
    """Every sample below full scale would become silence, without a message."""
    writer = open_writer(tmp_path / "file", container, "s24", 48_000, 2, 1_000)
    with pytest.raises(TypeError):
        writer.write(np.full((1_000, 2), 0.5))
    writer.abandon()


@pytest.mark.parametrize("container", BY_SOUNDFILE)
def test_a_library_that_did_not_write_it_opens_it(tmp_path: Path, container: Container) -> None:
    samples = samples_for("s24" if container != "opus" else "lossy", 48_000, 2)
    path = write_file(tmp_path / f"file{CAPABILITIES[container].suffix}", container, samples)
    read, rate = soundfile.read(path, dtype="int32", always_2d=True)
    assert (rate, read.shape) == (48_000, (48_000, 2))
    if container != "opus":
        assert np.array_equal(read, samples)


@pytest.mark.parametrize("container", BY_AV)
def test_another_library_that_did_not_write_it_opens_it_too(tmp_path: Path, container: Container) -> None:
    encoding: Encoding = "lossy" if CAPABILITIES[container].lossy else "s16"
    samples = samples_for(encoding, 48_000, 2)
    path = write_file(tmp_path / "file", container, samples, encoding)
    with av.open(str(path)) as file:
        frames = [frame.to_ndarray() for frame in file.decode(audio=0)]
    planar = [part if part.shape[0] == 2 else part.reshape(-1, 2).T for part in frames]
    decoded = np.concatenate(planar, axis=1).T
    assert decoded.shape == (48_000, 2)
    if encoding == "s16":
        assert np.array_equal(decoded.astype(np.int32) << 16, samples)


@pytest.mark.parametrize("container", ["alac", "aac", "wavpack", "video"])
def test_format_with_one_decoder_is_described_by_another_library(tmp_path: Path, container: Container) -> None:
    samples = samples_for("lossy" if CAPABILITIES[container].lossy else "s24", 72_000, 2)
    info = mutagen.File(write_file(tmp_path / f"file{CAPABILITIES[container].suffix}", container, samples)).info
    assert info.sample_rate == 48_000
    assert info.length == pytest.approx(1.5, abs=1e-3 if container == "wavpack" else 0.03)


@pytest.mark.parametrize("container", list(CAPABILITIES))
def test_the_same_samples_give_the_same_bytes(tmp_path: Path, container: Container) -> None:
    encoding: Encoding = "lossy" if CAPABILITIES[container].lossy else CAPABILITIES[container].encodings[-1]
    samples = samples_for(encoding, 30_000, 2)
    tags = FileTags((("title", "Millrace"),))
    first, second = (
        write_file(tmp_path / name, container, samples, encoding, tags=tags).read_bytes() for name in ("a", "b")
    )
    assert first == second


@pytest.mark.parametrize("container", LOSSY)
@pytest.mark.parametrize("frames", [4_799, 48_000, 100_001])
def test_lossy_codecs_keep_every_place_and_the_length(tmp_path: Path, container: Container, frames: int) -> None:
    """An impulse comes back at its sample, and as many frames as went in."""
    rate = first_rate(container)
    samples = np.zeros((frames, 2))
    places = [1_200, frames // 2, frames - 700]
    samples[places] = 0.7
    back = read_file(write_file(tmp_path / "file", container, samples, rate_hz=rate))
    assert len(back) == frames
    for place in places:
        part = np.abs(back[place - 300 : place + 300, 0])
        assert int(part.argmax()) == 300


@pytest.mark.parametrize(
    ("container", "coding", "kbps"),
    [
        ("mp3", Coding("constant", 320), 320),
        ("mp3", Coding("constant", 128), 128),
        ("mp3", Coding("average", 192), 192),
        ("aac", Coding("average", 256), 256),
        ("aac", Coding("average", 128), 128),
        ("opus", Coding("constant", 160), 160),
        ("opus", Coding("average", 96), 96),
        ("video", Coding("average", 320), 320),
    ],
)
def test_bit_rates_are_met(tmp_path: Path, container: Container, coding: Coding, kbps: int) -> None:
    frames = 10 * 48_000
    # The sound of a video is weighed without its picture.
    sound: Container = "aac" if container == "video" else container
    path = write_file(tmp_path / "file", sound, samples_for("lossy", frames, 2), coding=coding)
    found = path.stat().st_size * 8 * 48_000 / frames / 1000
    assert found == pytest.approx(kbps, rel=0.02 if coding.mode == "constant" else 0.08)


def test_better_quality_takes_more(tmp_path: Path) -> None:
    samples = samples_for("lossy", 4 * 48_000, 2)
    kinds: tuple[Container, ...] = ("mp3", "vorbis")
    for container in kinds:
        sizes = []
        for quality in (0, 3, 7, 10):
            coding = Coding("variable", quality=quality)
            path = write_file(tmp_path / f"{container}{quality}", container, samples, coding=coding)
            sizes.append(path.stat().st_size)
        assert sizes == sorted(sizes)
        assert sizes[-1] > 2 * sizes[0]


def test_a_video_shows_its_picture_for_as_long_as_it_sounds(tmp_path: Path) -> None:
    frames = 5 * 48_000 + 12_345
    path = write_file(tmp_path / "file.mp4", "video", samples_for("lossy", frames, 2))
    with av.open(str(path)) as file:
        video, audio = file.streams.video[0], file.streams.audio[0]
        assert (video.codec_context.name, audio.codec_context.name) == ("h264", "aac")
        assert (video.width, video.height, video.codec_context.pix_fmt) == (1280, 720, "yuv420p")
        assert float(video.duration * video.time_base) == pytest.approx(frames / 48_000, abs=1e-4)
        assert float(audio.duration * audio.time_base) == pytest.approx(frames / 48_000, abs=1e-6)
        pictures = [frame.to_ndarray(format="rgb24") for frame in file.decode(video=0)]
    assert len(pictures) == 6
    assert np.abs(pictures[0].astype(int) - pictures[-1]).max() <= 2


def test_a_folder_that_is_gone_is_said(tmp_path: Path) -> None:
    with pytest.raises(Interrupted) as caught:
        AvWriter(tmp_path / "gone" / "a.m4a", "alac", "s16", 44_100, 2)
    assert "the folder is missing" in caught.value.message


def test_an_encoder_that_refuses_is_not_taken_for_a_full_disk(tmp_path: Path) -> None:
    """The table keeps such a setting from ever getting here."""
    with pytest.raises(Interrupted) as caught:
        write_file(tmp_path / "a.opus", "opus", samples_for("lossy", 5_000, 1), coding=Coding("variable", 450))
    assert caught.value.code == "encode.failed"
    assert "Choose another format or setting" in caught.value.message


def test_existing_file_is_kept_and_a_cancelled_one_removed(tmp_path: Path) -> None:
    for container in CAPABILITIES:
        kept = tmp_path / f"kept-{container}"
        kept.write_bytes(b"something else")
        coding = settle_coding(container, first_rate(container), 2, None, None, None)
        encoding = CAPABILITIES[container].encodings[-1] if not CAPABILITIES[container].lossy else "lossy"
        with pytest.raises(Interrupted) as caught:
            open_writer(kept, container, encoding, first_rate(container), 2, 100, coding)
        assert caught.value.message.endswith(".")
        assert kept.read_bytes() == b"something else"
        given_up = open_writer(tmp_path / "up", container, encoding, first_rate(container), 2, 100, coding)
        given_up.write(samples_for(encoding, 5_000, 2))
        given_up.abandon()
        assert not (tmp_path / "up").exists()


LEVELS = [
    (container, mode, value, rate)
    for container, mode, values, rates in (
        ("mp3", "constant", (64, 96, 128, 160, 192, 224, 256, 320), (44_100, 48_000)),
        ("mp3", "average", (128, 176, 200, 240), (44_100,)),
        ("mp3", "variable", (4, 7, 10), (44_100,)),
        ("mp3", "constant", (64, 160), (22_050,)),
        ("aac", "average", (128, 256), (44_100,)),
        ("opus", "variable", (96, 160), (48_000,)),
        ("vorbis", "variable", (4, 7), (44_100,)),
    )
    for value in values
    for rate in rates
]


@pytest.mark.parametrize(("container", "mode", "value", "rate"), LEVELS)
@pytest.mark.parametrize("channels", [1, 2])
def test_no_encoder_changes_the_level(
    tmp_path: Path, container: Container, mode: Mode, value: int, rate: int, channels: int
) -> None:
    """MP3 of up to 224 kbit/s came out 0.2 to 0.45 dB quieter than what it was made of."""
    samples = sine(997, 3, rate, 0.3, channels) + sine(310, 3, rate, 0.1, channels)
    by_quality = mode == "variable" and container != "opus"
    coding = Coding(mode, 0, value) if by_quality else Coding(mode, value)
    back = read_file(write_file(tmp_path / "file", container, samples, rate_hz=rate, coding=coding))
    middle = slice(rate, 2 * rate)
    factor = float((samples[middle] * back[middle]).sum() / np.square(samples[middle]).sum())
    assert 20 * np.log10(factor) == pytest.approx(0, abs=0.08)
