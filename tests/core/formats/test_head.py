from pathlib import Path

import pytest

from ripe_press.core.errors import NotFound
from ripe_press.core.formats.head import check_head
from support.signals import noise, write


@pytest.mark.parametrize("container", ["WAV", "RF64", "AIFF", "CAF", "FLAC", "OGG"])
def test_whole_files_pass(tmp_path: Path, container: str) -> None:
    subtype = "VORBIS" if container == "OGG" else "PCM_16"
    check_head(write(tmp_path / "mix", noise(3_001, 1), 44_100, subtype, container))


def test_a_folder_is_not_a_file(tmp_path: Path) -> None:
    with pytest.raises(NotFound):
        check_head(tmp_path)
