import struct
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from mutagen.ogg import OggPage

from ripe_press.core.errors import RipePressError
from ripe_press.core.formats.reading.reader import SourceReader
from support.signals import noise, ramp16, write


def read_all(path: Path, start: int = 0, end: int | None = None, size: int = 1000) -> np.ndarray:
    with SourceReader(path) as reader:
        return np.concatenate(list(reader.blocks(start, end, size)))


KINDS = [
    ("WAV", "PCM_16"),
    ("WAV", "FLOAT"),
    ("AIFF", "PCM_24"),
    ("CAF", "PCM_16"),
    ("FLAC", "PCM_24"),
    ("RF64", "PCM_16"),
]


@pytest.mark.parametrize(("container", "subtype"), KINDS)
def test_any_stretch_is_the_same_stretch_of_the_whole(tmp_path: Path, container: str, subtype: str) -> None:
    path = write(tmp_path / "mix", noise(20_000), 48_000, subtype, container)
    whole = read_all(path)
    assert whole.shape == (20_000, 2)
    for start, end, size in ((0, 1, 1), (777, 15_001, 4_096), (19_999, None, 512)):
        assert np.array_equal(read_all(path, start, end, size), whole[start:end])


def test_seeking_in_a_codec_whose_seek_is_wrong_is_exact_all_the_same(tmp_path: Path) -> None:
    path = write(tmp_path / "mix.ogg", noise(90_000), 44_100, "VORBIS", "OGG")
    assert np.array_equal(read_all(path, 43_210, 71_234), read_all(path)[43_210:71_234])


@pytest.mark.parametrize("subtype", ["VORBIS", "OPUS"])
def test_many_jumps_in_one_open_file_are_exact(tmp_path: Path, subtype: str) -> None:
    """In a file that stays open the library's Vorbis is 448 or 896 samples away after 7 of 300 jumps."""
    at = np.arange(48_000 * 20)
    hits = noise(len(at)) * np.exp(-(at % 9_600) / 288)[:, None] + np.sin(at * 0.0288)[:, None] * 0.1
    path = write(tmp_path / "mix.ogg", hits, 48_000, subtype, "OGG")
    whole = read_all(path)
    places = np.random.default_rng(1).integers(0, len(whole) - 1_024, 300)
    with SourceReader(path) as reader:
        for first in map(int, places):
            (block,) = reader.blocks(first, first + 1_024)
            assert np.array_equal(block, whole[first : first + 1_024])


def test_facts_equal_the_declared_ones(tmp_path: Path) -> None:
    with SourceReader(write(tmp_path / "mix.wav", noise(960), 96_000, "PCM_24")) as reader:
        facts = reader.facts
    assert (facts.container, facts.codec, facts.bit_depth) == ("wav", "pcm", 24)
    assert (facts.rate_hz, facts.channels, facts.frames, facts.duration_s) == (96_000, 2, 960, 0.01)


def header(channels: int = 2, rate: int = 44_100, data: bytes = b"\0" * 400, declared: int | None = None) -> bytes:
    form = struct.pack("<HHIIHH", 1, channels, rate, rate * 4 % 2**32, 4, 16)
    size = len(data) if declared is None else declared
    body = b"WAVE" + b"fmt " + struct.pack("<I", 16) + form + b"data" + struct.pack("<I", size) + data
    return b"RIFF" + struct.pack("<I", len(body)) + body


def truncated(source: str, subtype: str, container: str) -> Callable[[Path], bytes]:
    def make(folder: Path) -> bytes:
        data = write(folder / source, noise(40_000), 44_100, subtype, container).read_bytes()
        return data[: len(data) // 2]

    return make


BROKEN: dict[str, tuple[str, Callable[[Path], bytes]]] = {
    "empty": ("source.empty", lambda _: b""),
    "one byte": ("source.not-sound", lambda _: b"R"),
    "text": ("source.not-sound", lambda _: b"Dear engineer, the mix is attached.\n" * 9),
    "a list that names another file": ("source.not-sound", lambda _: b"ffconcat version 1.0\nfile /etc/passwd\n"),
    "zero channels": ("source.no-channels", lambda _: header(channels=0)),
    "forty channels": ("source.channels", lambda _: header(channels=40)),
    "absurd rate": ("source.rate", lambda _: header(rate=2_000_000_000)),
    "no rate": ("source.not-sound", lambda _: header(rate=0)),
    "header only": ("source.no-audio", lambda _: header(data=b"")),
    "no data chunk": ("source.no-audio", lambda _: header()[:36]),
    "truncated WAV": ("source.truncated", lambda _: header(data=b"\0" * 400, declared=4_000_000)),
    "truncated AIFF": ("source.truncated", truncated("a.aiff", "PCM_16", "AIFF")),
    "truncated MP3": ("source.truncated", truncated("a.mp3", "MPEG_LAYER_III", "MP3")),
    "truncated FLAC": ("source.damaged", truncated("a.flac", "PCM_16", "FLAC")),
    "truncated Vorbis": ("source.truncated", truncated("a.ogg", "VORBIS", "OGG")),
}


@pytest.mark.parametrize("name", BROKEN)
def test_damaged_file_is_one_sentence(tmp_path: Path, name: str) -> None:
    code, make = BROKEN[name]
    path = tmp_path / "Broken mix.wav"
    path.write_bytes(make(tmp_path))
    with pytest.raises(RipePressError) as caught:
        read_all(path)
    assert caught.value.code == code
    assert "Broken mix.wav" in caught.value.message


def test_a_header_that_was_never_completed_is_read_to_the_end(tmp_path: Path) -> None:
    path = tmp_path / "streamed.wav"
    whole = bytearray(header(data=ramp16(100).tobytes(), declared=0xFFFF_FFFF))
    whole[4:8] = b"\xff\xff\xff\xff"
    path.write_bytes(bytes(whole))
    assert len(read_all(path)) == 100


@pytest.mark.parametrize("bad", [np.nan, np.inf, -np.inf])
def test_samples_that_are_not_numbers_are_refused_with_their_place(tmp_path: Path, bad: float) -> None:
    samples = noise(5_000)
    samples[4_800, 1] = bad
    path = write(tmp_path / "mix.wav", samples, 48_000)
    with pytest.raises(RipePressError, match=r"0:00\.100") as caught:
        read_all(path)
    assert (caught.value.code, caught.value.facts["frame"]) == ("source.not-a-number", 4_800)


def test_a_missing_file_is_named(tmp_path: Path) -> None:
    with pytest.raises(RipePressError, match="Millrace") as caught:
        SourceReader(tmp_path / "Millrace.wav")
    assert caught.value.code == "source.missing"


def test_opus_whose_first_page_begins_below_zero_is_read(tmp_path: Path) -> None:
    """A stream cut off at its start keeps the places of the whole; players play it from where it begins."""
    samples = noise(2 * 48_000)
    whole = write(tmp_path / "whole.opus", samples, 48_000, "OPUS", "OGG")
    pages = b""
    with whole.open("rb") as file:
        while True:
            try:
                page = OggPage(file)
            except EOFError:
                break
            page.position -= 1_000 if page.position > 0 else 0
            pages += page.write()
    early = tmp_path / "early.opus"
    early.write_bytes(pages)
    with SourceReader(whole) as one, SourceReader(early) as other:
        assert (other.facts.codec, other.facts.bit_depth, other.facts.frames) == ("opus", None, 2 * 48_000)
        there, here = (np.concatenate(list(reader.blocks())) for reader in (one, other))
    assert np.allclose(there, here, atol=1e-5)
