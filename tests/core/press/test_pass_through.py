"""Bit-exact pass-through: the samples that leave are the samples that came, and the proof says so."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile

from ripe_press.core.briefs.library import BLANK
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.press import PressedFile
from ripe_press.core.requests.edges import Edges, Stretch
from ripe_press.core.sources.file import FileSource
from ripe_press.core.survey import measure_bits
from support.press import delivery_of, facts_of, files_for, paths_for, press_files
from support.signals import noise, write


def pressed(mix: Path, facts: SourceFacts, folder: Path, start: int = 0, **changes: object) -> PressedFile:
    folder.mkdir()
    (file,) = press_files(folder, files_for(delivery_of(facts, Stretch(start, facts.frames), **changes), facts))
    return file


def proven(file: PressedFile) -> bool:
    return "samples_as_they_came" in [one.rule for one in file.checks]


@pytest.mark.parametrize("subtype", ["PCM_U8", "PCM_16", "PCM_24", "PCM_32", "FLOAT", "DOUBLE"])
@pytest.mark.parametrize("start", [0, 12_345])
def test_every_depth_passes_unchanged(tmp_path: Path, subtype: str, start: int) -> None:
    mix = write(tmp_path / "mix.wav", noise(96_000), 48_000, subtype)
    file = pressed(mix, facts_of(mix), tmp_path / "out", start)
    assert np.array_equal(soundfile.read(file.path)[0], soundfile.read(mix)[0][start:])
    assert soundfile.info(file.path).subtype == subtype
    assert proven(file)


@pytest.mark.parametrize("depth", ["s16", "s20", "s24"])
def test_flac_holds_the_same_samples(tmp_path: Path, depth: str) -> None:
    codes = np.round(noise(50_000, level=0.2).clip(-1, 0.99) * 2**15) / 2**15
    mix = write(tmp_path / "mix.wav", codes, 48_000, "PCM_16")
    file = pressed(mix, facts_of(mix), tmp_path / "out", container="flac", encoding=depth)
    assert np.array_equal(soundfile.read(file.path)[0], codes)
    assert proven(file)
    assert file.proof.bytes < 50_000 * 4


def test_sixteen_bits_in_a_file_of_twenty_four_leave_without_dither(tmp_path: Path) -> None:
    codes = np.round(noise(50_000) * 2**15) / 2**15
    mix = write(tmp_path / "mix.wav", codes, 44_100, "PCM_24")
    unknown = facts_of(mix)
    known = replace(unknown, effective_bits=measure_bits(FileSource(unknown)))
    assert known.effective_bits == 16
    file = pressed(mix, known, tmp_path / "out", encoding="s16")
    assert np.array_equal(soundfile.read(file.path)[0], codes)
    assert proven(file)
    dithered = pressed(mix, unknown, tmp_path / "other", encoding="s16")
    assert not proven(dithered)


def test_inexact_path_is_not_called_exact(tmp_path: Path) -> None:
    mix = write(tmp_path / "mix.wav", noise(20_000), 48_000, "DOUBLE")
    facts = facts_of(mix)
    assert not proven(pressed(mix, facts, tmp_path / "a", encoding="f32"))
    assert not proven(pressed(mix, facts, tmp_path / "b", rate_hz=44_100))
    faded = BLANK.delivery(Stretch(0, facts.frames, Edges(fade_in_s=0.1)), facts)
    (path,) = paths_for(faded, facts, "Millrace")
    assert not path.codec.exact


def test_split_sides_are_two_files_with_the_samples_of_each(tmp_path: Path) -> None:
    mix = write(tmp_path / "mix.wav", noise(20_000), 48_000, "PCM_24")
    facts = facts_of(mix)
    files = files_for(delivery_of(facts, channels="split"), facts)
    assert [file.path.name.file_name for file in files] == ["Millrace 48k 24b L.wav", "Millrace 48k 24b R.wav"]
    assert [file.id for file in files] == [".left", ".right"]
    whole = soundfile.read(mix)[0]
    for side, file in enumerate(press_files(tmp_path, files)):
        assert np.array_equal(soundfile.read(file.path)[0], whole[:, side])
        assert proven(file)
