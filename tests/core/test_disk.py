"""What a disk refuses, in words."""

import errno
import os
from pathlib import Path

import pytest

from ripe_press.core.disk import not_written


@pytest.mark.parametrize(("number", "says"), [
    (errno.ENOSPC, "the disk is full. Free some space and try again."),
    (errno.EDQUOT, "the disk is full. Free some space and try again."),
    (errno.EACCES, "no permission to write in "),
    (errno.EROFS, "is read-only. Choose another folder."),
    (errno.EIO, "Input/output error. Check the disk and try again."),
])  # fmt: skip
def test_every_refusal_has_its_remedy(number: int, says: str, tmp_path: Path) -> None:

    told = not_written(tmp_path / "Weir.wav", OSError(number, os.strerror(number)))
    assert told.startswith("“Weir.wav” could not be written: ")
    assert says in told


def test_a_folder_that_is_gone_is_made_again_whatever_the_library_says(tmp_path: Path) -> None:
    told = not_written(tmp_path / "gone" / "Weir.wav", RuntimeError("System error."))
    assert told.startswith("“Weir.wav” could not be written: the folder is missing. Create ")


def test_a_library_that_says_no_number_is_quoted(tmp_path: Path) -> None:
    told = not_written(tmp_path / "Weir.wav", RuntimeError("System error."))
    assert told == "“Weir.wav” could not be written: System error. Check the disk and try again."
