from pathlib import Path

import pytest

from ripe_press.core.naming import Clash, FilePlace, place
from ripe_press.studio.planning.places import Places


def test_a_taken_name_gets_a_number_or_is_replaced_or_skipped(tmp_path: Path) -> None:
    first, second = tmp_path / "Millrace.wav", tmp_path / "Millrace (2).wav"
    assert place([first], "keep-both", Places().in_the_way) == [FilePlace(first)]
    first.touch()
    assert place([first], "keep-both", Places().in_the_way) == [FilePlace(second, "disk")]
    assert place([first], "replace", Places().in_the_way) == [FilePlace(first, "disk", replaces=True)]
    assert place([first], "skip", Places().in_the_way) == [FilePlace(first, "disk", skipped=True)]
    second.touch()
    assert place([first], "keep-both", Places().in_the_way)[0].path.name == "Millrace (3).wav"


@pytest.mark.parametrize("clash", ["keep-both", "replace", "skip"])
def test_files_of_one_ticket_never_take_each_others_place(tmp_path: Path, clash: Clash) -> None:
    """Also where names differ only in case or in Unicode form: on many disks those are one name."""
    wanted = [tmp_path / "Caf\u00e9.wav", tmp_path / "cafe\u0301.wav", tmp_path / "CAF\u00c9.wav"]
    found = place(wanted, clash, Places().in_the_way)
    assert [one.path.name for one in found] == ["Caf\u00e9.wav", "cafe\u0301 (2).wav", "CAF\u00c9 (3).wav"]
    assert [one.clash for one in found] == ["", "ticket", "ticket"]


def test_a_file_whose_name_differs_only_in_case_is_in_the_way_too(tmp_path: Path) -> None:
    (tmp_path / "MILLRACE.wav").touch()
    (found,) = place([tmp_path / "Millrace.wav"], "keep-both", Places().in_the_way)
    assert (found.path.name, found.clash) == ("Millrace (2).wav", "disk")
    (found,) = place([tmp_path / "Millrace.wav"], "skip", Places().in_the_way)
    assert found.skipped
    (found,) = place([tmp_path / "Millrace.wav"], "replace", Places().in_the_way)
    # Only the very file is replaced: on some disks the other is another.
    assert (found.path.name, found.replaces) == ("Millrace (2).wav", False)


def test_a_folder_is_never_replaced(tmp_path: Path) -> None:
    (tmp_path / "Millrace.wav").mkdir()
    (found,) = place([tmp_path / "Millrace.wav"], "replace", Places().in_the_way)
    assert (found.path.name, found.replaces) == ("Millrace (2).wav", False)
