"""Signed deliveries end to end: a studio signs, a recipient checks, files are changed, keys follow each other."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from ripe_press.cli.app import app
from support.signals import noise, write


@pytest.fixture
def run(monkeypatch: pytest.MonkeyPatch) -> Callable[..., Any]:
    def run(*words: object, data: Path) -> Any:
        # Where no option says so, too.
        monkeypatch.setenv("RIPE_PRESS_DATA", str(data))
        return CliRunner().invoke(app, [str(one) for one in words])

    return run


@pytest.fixture
def sent(tmp_path: Path, run: Callable[..., Any]) -> Path:
    """A folder of two files with its sheet, signed by Weir House."""
    folder = tmp_path / "sent"
    folder.mkdir()
    for at in range(2):
        write(folder / f"Weir {at}.wav", noise(4_800, seed=at), 48_000, "PCM_24")
    studio = tmp_path / "studio"
    assert run("key", data=studio).output.startswith("No key yet")
    assert run("sheet", folder, data=studio).exit_code == 0
    assert not (folder / "delivery-sheet.sig.json").exists()
    made = run("key", "new", "--name", "Weir House", data=studio)
    assert made.exit_code == 0 and "fingerprint" in made.output
    assert (studio / "keys" / "own.json").stat().st_mode & 0o777 == 0o600
    done = run("sheet", folder, data=studio)
    assert done.output.splitlines()[-1].endswith("delivery-sheet.sig.json")
    return folder


def checked(run: Callable[..., Any], folder: Path, data: Path) -> dict[str, Any]:
    done = run("check", folder, "--brief", "blank", "--json", data=data)
    files: dict[str, Any] = {Path(one["path"]).name: one for one in json.loads(done.output)["files"]}
    return files


def sentence(file: dict[str, Any]) -> str:
    return " ".join(str(one["sentence"]) for one in file["checks"] if one["id"] == "signature")


def test_recipient_sees_the_signer(sent: Path, tmp_path: Path, run: Callable[..., Any]) -> None:
    theirs = tmp_path / "theirs"
    found = checked(run, sent, theirs)
    assert found["delivery-sheet.sig.json"]["verdict"] == "look"
    assert "unknown key" in sentence(found["delivery-sheet.sig.json"])
    assert "Identical with the file that “Weir House” signed" in sentence(found["Weir 0.wav"])
    public = json.loads(run("key", "--json", data=tmp_path / "studio").output)["own"]["public"]
    trusted = run("key", "trust", public, "--name", "The Weir people", data=theirs)
    assert trusted.exit_code == 0
    found = checked(run, sent, theirs)
    assert found["delivery-sheet.sig.json"]["verdict"] == "ready"
    assert sentence(found["delivery-sheet.sig.json"]).startswith("Signed by “The Weir people” on ")
    run("key", "distrust", "The Weir people", data=theirs)
    assert checked(run, sent, theirs)["delivery-sheet.sig.json"]["verdict"] == "look"


def test_changed_file_is_reported(sent: Path, tmp_path: Path, run: Callable[..., Any]) -> None:
    studio = tmp_path / "studio"
    assert checked(run, sent, studio)["delivery-sheet.sig.json"]["verdict"] == "ready"
    write(sent / "Weir 1.wav", noise(4_800, seed=9), 48_000, "PCM_24")
    found = checked(run, sent, studio)
    assert found["Weir 1.wav"]["verdict"] == "stop" and "differs from the file" in sentence(found["Weir 1.wav"])
    assert found["Weir 0.wav"]["verdict"] == "ready"
    # A forger of the checksum list cannot sign it.
    sums = sent / "checksums.sha256"
    sums.write_text(sums.read_text().replace("Weir 0", "Weir O"))
    found = checked(run, sent, studio)
    assert "“checksums.sha256” is missing or differs from the signed one" in sentence(found["delivery-sheet.sig.json"])
    signature = sent / "delivery-sheet.sig.json"
    signature.write_text(signature.read_text().replace("Weir House", "Fen House"))
    assert "forged" in sentence(checked(run, sent, studio)["delivery-sheet.sig.json"])
    signature.write_text("plums")
    assert "Cannot read the signature" in sentence(checked(run, sent, studio)["delivery-sheet.sig.json"])


def test_known_key_vouches_for_its_successors(sent: Path, tmp_path: Path, run: Callable[..., Any]) -> None:
    studio, theirs = tmp_path / "studio", tmp_path / "theirs"
    public = json.loads(run("key", "--json", data=studio).output)["own"]["public"]
    run("key", "trust", public, "--name", "Weir House", data=theirs)
    for _ in range(2):
        assert run("key", "new", data=studio).exit_code == 0
    assert run("sheet", sent, data=studio).exit_code == 0
    assert json.loads(run("key", "--json", data=studio).output)["own"]["public"] != public
    assert checked(run, sent, theirs)["delivery-sheet.sig.json"]["verdict"] == "ready"
    assert checked(run, sent, studio)["delivery-sheet.sig.json"]["verdict"] == "ready"


def test_nonsense_is_one_sentence(tmp_path: Path, run: Callable[..., Any]) -> None:
    for words, code in (
        (("key", "new"), "key.name"), (("key", "trust", "plums", "--name", "x"), "key.unusable"),
        (("key", "distrust", "nobody"), "key.unknown"),
    ):  # fmt: skip
        assert getattr(run(*words, data=tmp_path).exception, "code", "") == code
