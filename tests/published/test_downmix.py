"""Folding down by ITU-R BS.775-4, Annex 4, table 2 (values from memory of the text), and picking channels exactly."""

import struct
from pathlib import Path

import av
import numpy as np
import pytest
from mutagen.flac import FLAC

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.reading.channel_layout import read_layout
from ripe_press.core.formats.reading.downmix import describe_downmix, settle
from ripe_press.core.formats.reading.reader import SourceReader
from ripe_press.core.survey import survey
from support.signals import noise, write

HALF = 0.7071
# 3/2 and 3/1 to 2/0, the low-frequency channel left out: left and right weight of each.
TABLE = {
    "L": (1, 0), "R": (0, 1), "C": (HALF, HALF), "LFE": (0, 0), "Ls": (HALF, 0), "Rs": (0, HALF), "Lb": (HALF, 0),
    "Rb": (0, HALF), "Cb": (0.5, 0.5),
}  # fmt: skip
WAVE = ("L", "R", "C", "LFE", "Ls", "Rs")
XIPH = ("L", "C", "R", "Ls", "Rs", "LFE")
# The bits of a speaker mask (Microsoft, WAVEFORMATEXTENSIBLE; from memory): front left is bit 0.
BITS = {"L": 0, "R": 1, "C": 2, "LFE": 3, "Lb": 4, "Rb": 5, "Cb": 8, "Ls": 9, "Rs": 10}
LAYOUTS = {
    "2.1": "L R LFE", "3.0": "L R C", "3.1": "L R C LFE", "4.0": "L R C Cb", "quad": "L R Lb Rb", "4.1": "L R C LFE Cb",
    "5.0": "L R C Lb Rb", "5.0 side": "L R C Ls Rs", "5.1": "L R C LFE Lb Rb", "5.1 side": "L R C LFE Ls Rs",
    "6.1": "L R C LFE Cb Ls Rs", "7.1": "L R C LFE Lb Rb Ls Rs",
}  # fmt: skip


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


def test_downmix_does_not_keep_the_files_integers(tmp_path: Path) -> None:
    path = write(tmp_path / "mix.wav", noise(48_000, 6), 48_000, "PCM_16")
    found = survey(path)
    assert (found.facts.downmix, found.facts.holds_integers, found.effective_bits) == ("bs775", False, None)
    assert survey(path, downmix="1+2").effective_bits == 16


def each_channel(roles: list[str], rate_hz: int = 48_000) -> np.ndarray:
    """A second in which every channel sounds alone for its share of the time, at its own frequency."""
    out = np.zeros((rate_hz, len(roles)))
    share = rate_hz // len(roles)
    for at in range(len(roles)):
        out[at * share : (at + 1) * share, at] = 0.5 * np.sin(np.arange(share) * 0.04)
    return out


def check_fold(path: Path, roles: list[str], tolerance: float = 1e-4) -> None:
    mix = read(path)
    share = 48_000 // len(roles)
    for at, role in enumerate(roles):
        part = np.abs(mix[at * share + 1_500 : (at + 1) * share - 1_500]).max(axis=0) / 0.5
        assert part == pytest.approx(TABLE[role], abs=tolerance), role
    with SourceReader(path) as reader:
        assert (reader.facts.downmix, reader.facts.file_channels) == ("bs775", len(roles))


def masked(path: Path, samples: np.ndarray, mask: int) -> Path:
    """WAVE_FORMAT_EXTENSIBLE by a library, with a mask of ours in its place (byte 40)."""
    write(path, samples, 48_000, "PCM_24", "WAVEX")
    data = bytearray(path.read_bytes())
    data[40:44] = mask.to_bytes(4, "little")
    path.write_bytes(data)
    return path


@pytest.mark.parametrize("name", LAYOUTS)
def test_the_speaker_mask_of_wav(tmp_path: Path, name: str) -> None:
    roles = LAYOUTS[name].split()
    check_fold(masked(tmp_path / "mix.wav", each_channel(roles), sum(1 << BITS[role] for role in roles)), roles)


@pytest.mark.parametrize("format", ["RF64", "W64"])
def test_long_forms_of_wav_say_it_too(tmp_path: Path, format: str) -> None:
    roles = LAYOUTS["5.1"].split()
    check_fold(write(tmp_path / "mix.wav", each_channel(roles), 48_000, "PCM_24", format), roles)


@pytest.mark.parametrize("codec", ["aac", "alac", "wavpack"])
@pytest.mark.parametrize("name", ["2.1", "3.1", "4.0", "4.1", "5.0", "5.1", "6.1", "7.1"])
def test_layouts_by_the_decoding_library(tmp_path: Path, name: str, codec: str) -> None:
    """The channel configurations of ISO/IEC 14496-3, table 1.19, and what the other codecs declare."""
    path = tmp_path / ("mix.wv" if codec == "wavpack" else "mix.m4a")
    form = {"aac": "fltp", "alac": "s16p", "wavpack": "fltp"}[codec]
    with av.open(str(path), "w") as container:
        try:
            stream = container.add_stream(codec, rate=48_000, layout=name)
            stream.format = form  # type: ignore[attr-defined]
            if codec == "aac":
                stream.bit_rate = 640_000
            container.start_encoding()
        except (av.FFmpegError, ValueError):
            pytest.skip("this encoder has no such layout")
        roles = [
            {"FL": "L", "FR": "R", "FC": "C", "BL": "Lb", "BR": "Rb", "BC": "Cb", "SL": "Ls", "SR": "Rs"}.get(one, one)
            for one in (channel.name for channel in stream.layout.channels)
        ]
        samples = each_channel(roles)
        fifo = av.AudioFifo()
        whole = av.AudioFrame.from_ndarray(samples.astype(np.float32).reshape(1, -1), format="flt", layout=name)
        whole.sample_rate = 48_000
        for frame in av.AudioResampler(format=form, layout=name, rate=48_000).resample(whole):
            fifo.write(frame)
        while piece := fifo.read(stream.frame_size or 1024, partial=True):
            container.mux(stream.encode(piece))
        container.mux(stream.encode(None))
    if codec == "aac" and name in ("3.1", "4.1", "6.1"):
        # Beyond the configurations of the standard the decoder returns a number, without positions.
        with pytest.raises(BadInput, match="unlabelled channels"):
            SourceReader(path)
        return
    check_fold(path, roles, 0.05 if codec == "aac" else 1e-3)


@pytest.mark.parametrize("channels", [3, 4, 5, 6, 7, 8])
def test_flac_has_an_order_for_every_number(tmp_path: Path, channels: int) -> None:
    """RFC 9639, 9.1.3."""
    roles = {
        3: "L R C", 4: "L R Lb Rb", 5: "L R C Lb Rb", 6: "L R C LFE Lb Rb", 7: "L R C LFE Cb Ls Rs",
        8: "L R C LFE Lb Rb Ls Rs",
    }[channels].split()  # fmt: skip
    check_fold(write(tmp_path / "mix.flac", each_channel(roles), 48_000, "PCM_24", "FLAC"), roles)


def test_a_mask_in_flac_says_otherwise(tmp_path: Path) -> None:
    """RFC 9639, 8.6.2: 2.1 in place of three front channels."""
    path = write(tmp_path / "mix.flac", each_channel(["L", "R", "LFE"]), 48_000, "PCM_24", "FLAC")
    file = FLAC(path)
    file["WAVEFORMATEXTENSIBLE_CHANNEL_MASK"] = "0x0b"
    file.save()
    check_fold(path, ["L", "R", "LFE"])


def caf_with(path: Path, samples: np.ndarray, chan: bytes) -> Path:
    """CAF by a library, with a channel layout behind its description."""
    write(path, samples, 48_000, "PCM_24", "CAF")
    data = path.read_bytes()
    at = 8 + 12 + 32
    path.write_bytes(data[:at] + b"chan" + struct.pack(">q", len(chan)) + chan + data[at:])
    return path


CHAN = {
    "tag, C first": ("C L R Ls Rs LFE", struct.pack(">III", 124 << 16 | 6, 0, 0)),
    "bitmap": ("L R C Cb", struct.pack(">III", 1 << 16, 0b1_0000_0111, 0)),
    "descriptions": (
        "Ls Rs L R",
        struct.pack(">III", 0, 0, 4) + b"".join(struct.pack(">II3f", label, 0, 0, 0, 0) for label in (5, 6, 1, 2)),
    ),
}


@pytest.mark.parametrize("how", CHAN)
def test_channel_layouts_of_caf_and_aiff(tmp_path: Path, how: str) -> None:
    words, chan = CHAN[how]
    roles = words.split()
    check_fold(caf_with(tmp_path / "mix.caf", each_channel(roles), chan), roles)
    path = write(tmp_path / "mix.aiff", each_channel(roles), 48_000, "PCM_24", "AIFF")
    data = path.read_bytes() + b"CHAN" + struct.pack(">I", len(chan)) + chan
    path.write_bytes(data[:4] + struct.pack(">I", len(data) - 8) + data[8:])
    check_fold(path, roles)


@pytest.mark.parametrize(("channels", "format"), [(3, "WAV"), (7, "WAV"), (4, "AIFF"), (6, "CAF")])
def test_channels_without_labels_are_asked_for(tmp_path: Path, channels: int, format: str) -> None:
    path = write(tmp_path / "mix", noise(4_800, channels), 48_000, "PCM_24", format)
    with pytest.raises(BadInput) as caught:
        SourceReader(path)
    assert caught.value.code == "downmix.ask"
    assert f"{channels} unlabelled channels" in caught.value.message
    # A requested downmix assumes the most common order.
    assert read(path, "bs775").shape == (4_800, 2)
    assert read(path, "1+2").shape == (4_800, 2)


def test_places_that_do_not_fold_are_asked_for(tmp_path: Path) -> None:
    """Seven channels with front left and right of centre: table 2 has no place for those."""
    path = masked(tmp_path / "mix.wav", noise(4_800, 7), 0b1100_1100_0111 & ~0b1000_0000_0000 | 0b10_0000_0000)
    with pytest.raises(BadInput) as caught:
        SourceReader(path)
    assert caught.value.code == "downmix.ask"


def test_opus_of_an_unknown_family_is_asked_for(tmp_path: Path) -> None:
    path = write(tmp_path / "mix.opus", noise(48_000, 6), 48_000, "OPUS", "OGG")
    assert read_layout(path, 6) == ("L", "C", "R", "Lb", "Rb", "LFE")
    data = bytearray(path.read_bytes())
    data[data.find(b"OpusHead") + 18] = 255
    path.write_bytes(data)
    assert read_layout(path, 6) is None


@pytest.mark.parametrize(
    ("wish", "channels", "settled"),
    [("", 2, ""), ("", 1, ""), ("BS775", 5, "bs775"), ("1+2", 2, ""), ("2", 2, "2"), ("bs775", 1, "")],
)
def test_a_wish_is_settled(wish: str, channels: int, settled: str) -> None:
    assert settle(wish, channels, None) == settled


@pytest.mark.parametrize(("wish", "channels"), [("7+8", 6), ("bs775", 9), ("left", 6), ("0", 6), ("", 7)])
def test_a_wish_that_cannot_be_is_explained(wish: str, channels: int) -> None:
    with pytest.raises(BadInput) as caught:
        settle(wish, channels, None)
    assert caught.value.message.endswith(".")


def test_words() -> None:
    assert describe_downmix("bs775", 6) == "downmix of 6 channels (L R C LFE Lb Rb), without LFE"
    assert describe_downmix("bs775", 4, ("L", "R", "C", "Cb")) == "downmix of 4 channels (L R C Cb)"
    assert describe_downmix("3+4", 6) == "channels 3 and 4 of 6"
    assert (describe_downmix("3", 6), describe_downmix("", 2)) == ("channel 3 of 6", "")
