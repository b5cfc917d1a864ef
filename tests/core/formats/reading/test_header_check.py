import os
import time
from pathlib import Path

import numpy as np
import pytest
import soundfile

from ripe_press.core.errors import NotFound, Unreadable
from ripe_press.core.formats.reading import header_check as head
from ripe_press.core.formats.reading.header_check import check_head
from ripe_press.core.formats.reading.reader import SourceReader
from ripe_press.core.tags.bounds import sane_tags
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.core.tags.pictures import read_cover
from support.signals import noise, write


@pytest.mark.parametrize("container", ["WAV", "RF64", "AIFF", "CAF", "FLAC", "OGG"])
def test_whole_files_pass(tmp_path: Path, container: str) -> None:
    subtype = "VORBIS" if container == "OGG" else "PCM_16"
    check_head(write(tmp_path / "mix", noise(3_001, 1), 44_100, subtype, container))


def test_a_folder_is_not_a_file(tmp_path: Path) -> None:
    with pytest.raises(NotFound):
        check_head(tmp_path)


FORMATS = {
    "wav": ("WAV", "PCM_16"), "aiff": ("AIFF", "PCM_16"), "caf": ("CAF", "PCM_16"), "w64": ("W64", "PCM_16"),
    "rf64": ("RF64", "PCM_16"), "flac": ("FLAC", "PCM_16"), "mp3": ("MP3", "MPEG_LAYER_III"),
    "ogg": ("OGG", "VORBIS"),
}  # fmt: skip


@pytest.mark.parametrize("ending", FORMATS)
@pytest.mark.parametrize("holes", [True, False], ids=["a hole", "as if it were there"])
def test_a_terabyte_behind_a_second_of_sound_is_refused_at_once(
    tmp_path: Path, ending: str, holes: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The file is sparse; without the look at holes it stands for one that is there in full."""
    kind, subtype = FORMATS[ending]
    path = tmp_path / f"Weir.{ending}"
    soundfile.write(path, noise(48_000), 48_000, format=kind, subtype=subtype)
    os.truncate(path, 1 << 40)
    if not holes:
        monkeypatch.setattr(head, "_HOLE_BYTES", 1 << 50)
    began = time.monotonic()
    with pytest.raises(Unreadable) as told:
        SourceReader(path)
    assert time.monotonic() - began < 5
    assert told.value.code in ("source.hole", "source.not-all-sound", "source.damaged", "source.truncated")


def test_file_with_a_small_hole_is_read(tmp_path: Path) -> None:
    """A part of it is a hole, as copying programs make from silence."""
    path = tmp_path / "Weir.wav"
    sound = np.zeros((48_000 * 20, 2))
    sound[:480_000] = noise(480_000)
    soundfile.write(path, sound, 48_000)
    os.truncate(path, 44 + 480_000 * 4)
    os.truncate(path, 44 + 48_000 * 20 * 4)
    assert SourceReader(path).facts.frames == 48_000 * 20


@pytest.mark.parametrize("big", [False, True])
def test_chunks_without_end_are_walked_no_further(tmp_path: Path, big: bool) -> None:
    """200,000 empty chunks took seconds: nothing of them is read, and the sound is."""
    path = tmp_path / ("Weir.aiff" if big else "Weir.wav")
    soundfile.write(path, noise(4_800), 48_000)
    with path.open("ab") as file:
        file.write((b"junk" + bytes(4)) * 200_000)
    began = time.monotonic()
    assert not sane_tags(path)
    assert read_embedded(path, 48_000, 4_800).tags == ()
    assert read_cover(path) == b""
    assert time.monotonic() - began < 0.5
    assert SourceReader(path).facts.frames == 4_800
