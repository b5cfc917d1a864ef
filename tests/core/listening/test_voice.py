"""Any stretch of a source equals that of the whole file, decoded and converted from its start."""

from pathlib import Path

import numpy as np
import pytest
import soundfile
import soxr

from ripe_press.core.engine.resolve import mix_of_file
from ripe_press.core.errors import Cancelled, Unreadable
from ripe_press.core.formats.capabilities import CAPABILITIES, Container
from ripe_press.core.listening.spool import spool, spooled_frames
from ripe_press.core.listening.voice import Voice, VoiceReader
from ripe_press.core.sources.source import enters_anywhere, facts_of_file, open_file
from support.formats import first_rate, samples_for, write_file


def _voice(path: Path, desk_hz: int, offset_frames: int = 0, spooled: str = "") -> Voice:
    return Voice(mix_of_file(facts_of_file(path), "mix").source, desk_hz, offset_frames, spooled)


def _noise(path: Path, rate_hz: int, seconds: float, channels: int = 2, subtype: str = "PCM_24") -> Path:
    frames = round(seconds * rate_hz)
    soundfile.write(path, np.random.default_rng(5).uniform(-0.6, 0.6, (frames, channels)), rate_hz, subtype=subtype)
    return path


def _coded(folder: Path, container: Container, seconds: float) -> Path:
    encoding = "lossy" if "lossy" in CAPABILITIES[container].encodings else "s24"
    frames = round(seconds * first_rate(container))
    return write_file(folder / f"file{CAPABILITIES[container].suffix}", container, samples_for(encoding, frames, 2))


def test_a_stretch_is_the_files_own_samples_to_the_bit(tmp_path: Path) -> None:
    path = _noise(tmp_path / "mix.wav", 48_000, 2.0)
    whole = soundfile.read(path, dtype="float32")[0]
    with VoiceReader(_voice(path, 48_000)) as voice:
        for start, frames in ((0, 12_000), (31_017, 6_000), (95_990, 10)):
            assert np.array_equal(voice.stretch(start, frames), whole[start : start + frames])


def test_outside_the_file_there_is_silence(tmp_path: Path) -> None:
    path = _noise(tmp_path / "mix.wav", 48_000, 0.5)
    whole = soundfile.read(path, dtype="float32")[0]
    with VoiceReader(_voice(path, 48_000, offset_frames=100)) as voice:
        early = voice.stretch(0, 200)
        assert not early[:100].any()
        assert np.array_equal(early[100:], whole[:100])
        late = voice.stretch(24_050, 100)
        assert np.array_equal(late[:50], whole[-50:])
        assert not late[50:].any()
        assert not voice.stretch(1_000_000, 64).any()


def test_one_channel_is_heard_on_both_sides(tmp_path: Path) -> None:
    path = _noise(tmp_path / "mono.wav", 44_100, 0.3, channels=1)
    with VoiceReader(_voice(path, 44_100)) as voice:
        both = voice.stretch(77, 1_000)
    assert both.any()
    assert np.array_equal(both[:, 0], both[:, 1])


@pytest.mark.parametrize(
    ("own_hz", "desk_hz"), [(44_100, 96_000), (44_100, 48_000), (96_000, 44_100), (22_050, 96_000), (96_000, 48_000)]
)
def test_converted_from_any_place_it_is_the_whole_conversion(tmp_path: Path, own_hz: int, desk_hz: int) -> None:
    """Compared with python-soxr over the whole file. Exact halving differs by up to 6e-11, whatever the grid."""
    path = _noise(tmp_path / "file.wav", own_hz, 1.5)
    whole = soxr.resample(soundfile.read(path)[0], own_hz, desk_hz, quality="VHQ")
    with VoiceReader(_voice(path, desk_hz)) as voice:
        for start in (0, 1, 12_345, 31_000, len(whole) - 4_000):
            frames = min(4_000, len(whole) - start)
            assert np.abs(voice.stretch(start, frames) - whole[start : start + frames].astype(np.float32)).max() < 1e-7
        assert not voice.stretch(len(whole), 100).any()


@pytest.mark.parametrize("container", ["vorbis", "opus", "mp3", "flac"])
def test_seek_into_a_codec_equals_decoding_from_its_start(tmp_path: Path, container: Container) -> None:
    path = _coded(tmp_path, container, 4.0)
    assert enters_anywhere(path)
    with open_file(path) as reader:
        whole = np.concatenate(list(reader.blocks()))
        rate_hz = reader.facts.rate_hz
    places = np.random.default_rng(1).integers(0, len(whole) - 3_000, 40)
    with VoiceReader(_voice(path, rate_hz)) as voice:
        worst = max(np.abs(voice.stretch(int(at), 3_000) - whole[at : at + 3_000]).max() for at in places)
    assert worst < 1e-6


@pytest.mark.parametrize("container", ["aac", "alac", "wavpack"])
def test_codec_without_seek_is_decoded_first(tmp_path: Path, container: Container) -> None:
    path = _coded(tmp_path, container, 3.0)
    assert not enters_anywhere(path)
    target = tmp_path / "spool"
    heard: list[int] = []
    spool(path, "", target, progress=heard.append)
    with open_file(path) as reader:
        whole = np.concatenate(list(reader.blocks())).astype(np.float32)
        rate_hz, channels = reader.facts.rate_hz, reader.facts.channels
    assert spooled_frames(target, channels) == heard[-1] == len(whole)
    with VoiceReader(_voice(path, rate_hz, spooled=str(target))) as voice:
        assert np.array_equal(voice.stretch(50_001, 999), whole[50_001:51_000])


def test_undecoded_part_is_silent(tmp_path: Path) -> None:
    path = _coded(tmp_path, "aac", 3.0)
    target = tmp_path / "spool"
    with VoiceReader(_voice(path, first_rate("aac"), spooled=str(target))) as voice:
        assert not voice.stretch(0, 500).any()
        spool(path, "", target)
        target.write_bytes(target.read_bytes()[: 1_000 * 2 * 4 + 3])
        assert voice.stretch(900, 100).any()
        assert not voice.stretch(1_000, 100).any()


def test_spooling_stops_when_the_listener_leaves(tmp_path: Path) -> None:
    path = _coded(tmp_path, "aac", 3.0)
    with pytest.raises(Cancelled, match="no longer open"):
        spool(path, "", tmp_path / "spool", should_stop=lambda: True)


def test_damaged_file_is_reported_and_not_played(tmp_path: Path) -> None:
    path = _noise(tmp_path / "mix.wav", 48_000, 1.0)
    voice = VoiceReader(_voice(path, 48_000))
    path.write_bytes(path.read_bytes()[:90_000])
    with pytest.raises(Unreadable, match="truncated"):
        voice.stretch(40_000, 1_000)
    voice.close()
