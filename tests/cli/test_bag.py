"""Packages for archives: read back and validated by the library of others.

Source: RFC 8493; `bagit` is the Library of Congress's own implementation of it.
"""

import json
from pathlib import Path
from typing import Any

import bagit
import pytest
from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.sheet.bag import info_text, manifest, write_bag
from support.signals import noise, write


def run(*words: object) -> Any:
    return CliRunner().invoke(app, [str(one) for one in words])


@pytest.fixture
def mix(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("RIPE_PRESS_DATA", str(tmp_path / "data"))
    return write(tmp_path / "Weir.wav", noise(48_000), 48_000, "PCM_24")


def test_a_pressing_becomes_a_valid_bag_with_its_mix_and_its_sheet(mix: Path, tmp_path: Path) -> None:
    assert run("key", "new", "--name", "Weir House").exit_code == 0
    tags = ["--tag", "contact_name=The Sluicekeepers", "--tag", "title=Weir 100% “été”"]
    made = run("press", mix, "--brief", "archive", "--out", tmp_path / "out", *tags, "--json")
    assert made.exit_code == 0, made.output
    number = json.loads(made.stdout)["pressing"]
    done = run("bag", number, "--mix", "--out", tmp_path / "bag", "--json")
    assert done.exit_code == 0, done.output
    found = bagit.Bag(str(tmp_path / "bag"))
    assert found.validate() and found.version_info == (1, 0)
    assert found.info["Contact-Name"] == "The Sluicekeepers"
    assert sum(1 for _ in found.payload_files()) == 2 and "data/mix/Weir.wav" in set(found.payload_files())
    assert (tmp_path / "bag" / "data" / "mix" / "Weir.wav").read_bytes() == mix.read_bytes()
    assert {"delivery-sheet.json", "delivery-sheet.sig.json"} <= {
        one.name for one in (tmp_path / "bag" / "delivery").iterdir()
    }
    again = run("bag", number, "--out", tmp_path / "bag")
    assert getattr(again.exception, "code", "") == "bag.name-taken"
    # The recipient finds a changed byte.
    payload = next((tmp_path / "bag" / "data").glob("*.*"))
    payload.write_bytes(payload.read_bytes()[:-1] + b"x")
    with pytest.raises(bagit.BagValidationError):
        bagit.Bag(str(tmp_path / "bag")).validate()


def test_a_folder_becomes_one_too(mix: Path, tmp_path: Path) -> None:
    folder = tmp_path / "files"
    folder.mkdir()
    mix.rename(folder / "Weir.wav")
    assert run("bag", folder, "--out", tmp_path / "bag").exit_code == 0
    assert bagit.Bag(str(tmp_path / "bag")).validate()
    assert getattr(run("bag", folder, "--mix", "--out", tmp_path / "other").exception, "code", "") == "bag.no-mix"
    assert sorted(one.name for one in tmp_path.iterdir() if one.name[0] == ".") == []


def test_strange_names_and_long_texts_are_read_back(tmp_path: Path) -> None:
    payload = {}
    for at, name in enumerate(("new\rline.wav", "new\nline.wav", "Ö.wav", "in a folder/é.wav")):
        (tmp_path / str(at)).write_bytes(bytes([at]) * 10)
        payload[name] = tmp_path / str(at)
    long = "a word " * 60
    write_bag(tmp_path / "bag", payload, {}, [("External-Description", long), ("Contact-Name", "\n")])
    found = bagit.Bag(str(tmp_path / "bag"))
    assert found.validate()
    assert found.info["External-Description"].split() == long.split()
    assert found.info["Payload-Oxum"] == "40.4" and "Contact-Name" not in found.info


def test_the_lines_are_those_of_the_standard() -> None:
    assert manifest([("data/b%\n", "22"), ("data/a", "11")]) == "11  data/a\n22  data/b%25%0A\n"
    assert max(len(one) for one in info_text([("Label", "word " * 50)]).splitlines()) <= 79
