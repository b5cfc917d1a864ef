"""Files decoded by programs that have no code in common with what wrote them.

General-purpose reference decoders from Debian's packages: ``flac`` (which holds the samples against STREAMINFO's MD5),
``oggdec`` and ``opusdec`` of Xiph, ``mpg123``, ``wvunpack`` of the WavPack library, ``faad``. ALAC is extracted from
its MP4 file and put into a Core Audio file, which libsndfile's own decoder reads (CAF 1.0: ``kuki``, ``pakt``).
"""

import hashlib
import json
import struct
import subprocess
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile
from mutagen.mp4 import MP4
from scipy import signal

from ripe_press.core.formats.capabilities import Container
from ripe_press.core.formats.coding import Coding
from ripe_press.core.formats.reading.reader import SourceReader
from ripe_press.core.formats.writing.caf import caf_chunk
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.core.tags.sheet import FileTags
from ripe_press.core.tags.write import AAC_PACKET
from ripe_press.core.timeline import Marker
from support.formats import full_tags, samples_for, write_file

DECODERS: dict[Container, tuple[str, ...]] = {
    "mp3": ("mpg123", "-q", "-w", "{out}", "{file}"),
    "vorbis": ("oggdec", "-Q", "-o", "{out}", "{file}"),
    "opus": ("opusdec", "--quiet", "--force-wav", "{file}", "{out}"),
    "aac": ("faad", "-q", "-o", "{out}", "{file}"),
}
MOST_LEFT_BY_FAAD = 1023
"""Frames of padding that this program leaves at the end: it does not look at the edit list."""


def decoded(container: Container, file: Path) -> np.ndarray:
    out = file.with_suffix(".decoded.wav")
    words = [word.format(file=file, out=out) for word in DECODERS[container]]
    subprocess.run(words, check=True, capture_output=True, timeout=60)
    return soundfile.read(out, always_2d=True)[0]


@pytest.mark.parametrize(
    ("container", "coding"),
    [
        ("mp3", Coding("constant", 320)), ("mp3", Coding("average", 160)), ("mp3", Coding("variable", quality=8)),
        ("vorbis", Coding("variable", quality=6)), ("opus", Coding("variable", 128)), ("aac", Coding("average", 256)),
    ],
)  # fmt: skip
@pytest.mark.parametrize("frames", [48_000, 100_001])
def test_lossy_files_give_back_the_frames_that_went_in(
    tmp_path: Path, container: Container, coding: Coding, frames: int
) -> None:
    places = [1_200, frames // 2, frames - 700]
    samples = np.zeros((frames, 2))
    samples[places] = 0.7
    back = decoded(container, write_file(tmp_path / "file", container, samples, coding=coding, tags=full_tags()))
    more = len(back) - frames
    assert 0 <= more <= (MOST_LEFT_BY_FAAD if container == "aac" else 0)
    assert [int(place) for place in np.flatnonzero(np.abs(back[:, 0]) > 0.35)] == places


def unedited(path: Path, frames: int) -> np.ndarray:
    """What a player decodes that looks at no edit list, and at nothing else that is said of priming."""
    plain = path.with_name("plain.m4a")
    plain.write_bytes(path.read_bytes().replace(b"iTunSMPB", b"iTunXXXX"))
    with av.open(str(plain), options={"ignore_editlist": "1"}) as file:
        parts = [frame.to_ndarray().T for frame in file.decode(file.streams.audio[0])]
    return np.concatenate(parts)


@pytest.mark.parametrize("frames", [1, 1_023, 1_024, 1_025, 48_000, 100_001])
def test_aac_says_its_length_to_players_of_both_kinds(tmp_path: Path, frames: int) -> None:
    """Those that read edit lists (ISO/IEC 14496-12, 8.6.6), and those that read priming and padding as text."""
    samples = np.random.default_rng(1).standard_normal((frames, 2)) * 0.1
    path = write_file(
        tmp_path / "file.m4a", "aac", samples, coding=Coding("average", 128), tags=FileTags(frames=frames)
    )
    text = bytes(MP4(path)["----:com.apple.iTunes:iTunSMPB"][0]).decode().split()
    priming, padding, length = (int(word, 16) for word in text[1:4])
    assert length == frames
    raw = unedited(path, frames)
    assert len(raw) == priming + frames + padding
    with SourceReader(path) as reader:
        edited = np.concatenate(list(reader.blocks()))
    assert len(edited) == frames
    assert np.array_equal(raw[priming : priming + frames].astype(np.float64), edited)
    with av.open(str(path), options={"ignore_editlist": "1"}) as file:
        # A demuxer that looks at the text alone takes the priming away by it.
        assert sum(frame.samples for frame in file.decode(file.streams.audio[0])) == frames + padding
    if frames > AAC_PACKET:
        assert int(mediainfo(path)["SamplingCount"]) == pytest.approx(frames, abs=48)


def mediainfo(path: Path) -> dict[str, str]:
    words = ("mediainfo", "--Output=JSON", str(path))
    told = json.loads(subprocess.run(words, check=True, capture_output=True, timeout=60).stdout)
    return next(one for one in told["media"]["track"] if one["@type"] == "Audio")


@pytest.mark.parametrize("first", [0, 24_000])
@pytest.mark.parametrize("container", ["aac", "alac", "video"])
def test_both_lists_of_chapters_say_the_same(tmp_path: Path, container: Container, first: int) -> None:
    """The track that QuickTime knows and the list of other players, as a program reads them that wrote neither."""
    markers = (Marker(first, "Verse"), Marker(96_000, "Chorus"))
    tags = FileTags(markers=markers, frames=144_000)
    samples = samples_for("lossy" if container != "alac" else "s24", 144_000, 2)
    path = write_file(tmp_path / "file.m4a", container, samples, tags=tags)
    words = ("mediainfo", "--Output=JSON", str(path))
    told = json.loads(subprocess.run(words, check=True, capture_output=True, timeout=60).stdout)
    menus = [
        {key: text for key, text in one["extra"].items() if key.startswith("_")}
        for one in told["media"]["track"]
        if one["@type"] == "Menu"
    ]
    assert menus == [{f"_00_00_0{first // 48_000}_{first % 48_000 // 48:03d}": "Verse", "_00_00_02_000": "Chorus"}] * 2
    assert read_embedded(path, 48_000, 144_000).markers == markers


def test_flac_is_whole_by_its_own_checksum(tmp_path: Path) -> None:
    """RFC 9639, section 8.2: the MD5 of the unpacked samples, little-endian, is in STREAMINFO."""
    samples = samples_for("s24", 100_001, 2)
    path = write_file(tmp_path / "file.flac", "flac", samples, "s24", tags=full_tags())
    assert subprocess.run(("flac", "-t", "-s", path), check=False).returncode == 0
    octets = (samples >> 8).astype("<i4").view(np.uint8).reshape(-1, 4)[:, :3].tobytes()
    assert path.read_bytes()[8 + 18 : 8 + 34] == hashlib.md5(octets).digest()


@pytest.mark.parametrize("encoding", ["s16", "s24", "s32", "f32"])
def test_wavpack_is_unpacked_bit_for_bit(tmp_path: Path, encoding: str) -> None:
    samples = samples_for(encoding, 100_001, 2)  # type: ignore[arg-type]
    path = write_file(tmp_path / "file.wv", "wavpack", samples, encoding, tags=full_tags())  # type: ignore[arg-type]
    out = tmp_path / "out.wav"
    subprocess.run(("wvunpack", "-q", path, "-o", out), check=True, timeout=60)
    read, _ = soundfile.read(out, dtype="float64" if encoding == "f32" else "int32", always_2d=True)
    assert np.array_equal(read, samples)


def test_wavpack_packs_as_well_as_its_own_library(tmp_path: Path) -> None:
    """Twenty seconds of noise in the band of speech, over a noise floor in each channel."""
    rate, random = 96_000, np.random.default_rng(9)
    frames = 20 * rate
    band = signal.butter(4, (100, 3_000), "bandpass", fs=rate, output="sos")
    swell = 0.3 * np.abs(np.sin(2 * np.pi * 0.7 * np.arange(frames) / rate))
    voice = signal.sosfilt(band, random.standard_normal(frames)) * swell
    low = signal.butter(8, 20_000, fs=rate, output="sos")
    floor = signal.sosfilt(low, random.standard_normal((frames, 2)), axis=0) * 0.0005
    codes = (np.round((voice[:, None] + floor) * 2**23).astype(np.int64) << 8).astype(np.int32)
    ours = write_file(tmp_path / "ours.wv", "wavpack", codes, "s24", rate)
    soundfile.write(tmp_path / "mix.wav", codes, rate, "PCM_24")
    subprocess.run(("wavpack", "-q", tmp_path / "mix.wav", "-o", tmp_path / "theirs.wv"), check=True, timeout=60)
    assert ours.stat().st_size < 1.02 * (tmp_path / "theirs.wv").stat().st_size


@pytest.mark.parametrize("encoding", ["s16", "s24"])
def test_alac_is_decoded_by_another_decoder(tmp_path: Path, encoding: str) -> None:
    frames = 50_001
    samples = samples_for(encoding, frames, 2)  # type: ignore[arg-type]
    path = write_file(tmp_path / "file.m4a", "alac", samples, encoding)  # type: ignore[arg-type]
    with av.open(str(path)) as file:
        stream = file.streams.audio[0]
        cookie = bytes(stream.codec_context.extradata or b"")[12:]
        packets = [bytes(packet) for packet in file.demux(stream) if packet.size]
    bits = 16 if encoding == "s16" else 24
    flags = {16: 1, 24: 3}[bits]
    description = struct.pack(">d4sIIIII", 48_000.0, b"alac", flags, 0, 4_096, 2, 0)
    table = struct.pack(">qqii", len(packets), frames, 0, -frames % 4_096)
    table += b"".join(_variable_length(len(packet)) for packet in packets)
    data = struct.pack(">I", 0) + b"".join(packets)
    chunks = [(b"desc", description), (b"kuki", cookie), (b"pakt", table), (b"data", data)]
    other = tmp_path / "file.caf"
    other.write_bytes(b"caff" + struct.pack(">HH", 1, 0) + b"".join(caf_chunk(*one) for one in chunks))
    read, rate = soundfile.read(other, dtype="int32", always_2d=True)
    assert rate == 48_000
    assert np.array_equal(read[:frames], samples)


def _variable_length(number: int) -> bytes:
    """Seven bits a byte, the highest bit set in all but the last."""
    parts = [number & 0x7F]
    while number := number >> 7:
        parts.append(number & 0x7F | 0x80)
    return bytes(reversed(parts))
