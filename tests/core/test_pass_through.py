"""Bit-exact pass-through: the samples that leave are the samples that came, and the proof says so."""

from pathlib import Path

import numpy as np
import pytest
import soundfile

from ripe_press.core.briefs.library import BLANK
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.delivery import Changes
from ripe_press.core.engine.edges import Edges, Stretch
from ripe_press.core.engine.resolve import resolve
from ripe_press.core.formats.reader import SourceFacts, SourceReader
from ripe_press.core.press import PressedFile, PressOrder, press
from ripe_press.core.survey import measure_bits
from support.signals import noise, write


def facts_of(mix: Path) -> SourceFacts:
    with SourceReader(mix) as reader:
        return reader.facts


def pressed(mix: Path, facts: SourceFacts, target: Path, changes: Changes, start: int = 0) -> PressedFile:
    delivery = changes.applied_to(BLANK.delivery(Stretch(start, facts.frames), facts))
    paths = resolve(delivery, facts, "Millrace")
    (file, *_) = press(PressOrder(paths, (BLANK,), (str(target),)), lambda _d, _t: None, lambda: False)
    return file


def proven(file: PressedFile) -> bool:
    return ("Samples", "those of the mix, bit for bit") in file.proof.checks


@pytest.mark.parametrize("subtype", ["PCM_U8", "PCM_16", "PCM_24", "PCM_32", "FLOAT", "DOUBLE"])
@pytest.mark.parametrize("start", [0, 12_345])
def test_every_depth_passes_unchanged(tmp_path: Path, subtype: str, start: int) -> None:
    mix = write(tmp_path / "mix.wav", noise(96_000), 48_000, subtype)
    file = pressed(mix, facts_of(mix), tmp_path / "out.wav", Changes(), start)
    assert np.array_equal(soundfile.read(file.path)[0], soundfile.read(mix)[0][start:])
    assert soundfile.info(file.path).subtype == subtype
    assert proven(file)


@pytest.mark.parametrize("depth", ["s16", "s20", "s24"])
def test_flac_holds_the_same_samples(tmp_path: Path, depth: str) -> None:
    codes = np.round(noise(50_000, level=0.2).clip(-1, 0.99) * 2**15) / 2**15
    mix = write(tmp_path / "mix.wav", codes, 48_000, "PCM_16")
    file = pressed(mix, facts_of(mix), tmp_path / "out.flac", Changes(container="flac", encoding=depth))  # type: ignore[arg-type]
    assert np.array_equal(soundfile.read(file.path)[0], codes)
    assert proven(file)
    assert file.proof.bytes < 50_000 * 4


def test_sixteen_bits_in_a_file_of_twenty_four_leave_without_dither(tmp_path: Path) -> None:
    codes = np.round(noise(50_000) * 2**15) / 2**15
    mix = write(tmp_path / "mix.wav", codes, 44_100, "PCM_24")
    unknown = facts_of(mix)
    known = SourceFacts(
        unknown.path, unknown.container, unknown.codec, unknown.rate_hz, unknown.channels, unknown.frames,
        unknown.bit_depth, effective_bits=measure_bits(unknown),
    )  # fmt: skip
    assert known.effective_bits == 16
    file = pressed(mix, known, tmp_path / "out.wav", Changes(encoding="s16"))
    assert np.array_equal(soundfile.read(file.path)[0], codes)
    assert proven(file)
    dithered = pressed(mix, unknown, tmp_path / "other.wav", Changes(encoding="s16"))
    assert not proven(dithered)


def test_what_cannot_be_exact_is_not_called_so(tmp_path: Path) -> None:
    mix = write(tmp_path / "mix.wav", noise(20_000), 48_000, "DOUBLE")
    facts = facts_of(mix)
    assert not proven(pressed(mix, facts, tmp_path / "a.wav", Changes(encoding="f32")))
    assert not proven(pressed(mix, facts, tmp_path / "b.wav", Changes(rate_hz=44_100)))
    faded = BLANK.delivery(Stretch(0, facts.frames, Edges(fade_in_s=0.1)), facts)
    (path,) = resolve(faded, facts, "Millrace")
    assert not next(one for one in path if isinstance(one, st.Codec)).exact


def test_split_sides_are_two_files_with_the_samples_of_each(tmp_path: Path) -> None:
    mix = write(tmp_path / "mix.wav", noise(20_000), 48_000, "PCM_24")
    facts = facts_of(mix)
    delivery = Changes(channels="split").applied_to(BLANK.delivery(Stretch(0, facts.frames), facts))
    left, right = resolve(delivery, facts, "Millrace")
    assert [path[-1] for path in (left, right)] == [
        st.Name("Millrace 48k 24b L.wav"),
        st.Name("Millrace 48k 24b R.wav"),
    ]
    targets = (str(tmp_path / "l.wav"), str(tmp_path / "r.wav"))
    files = press(PressOrder((left, right), (BLANK, BLANK), targets), lambda _d, _t: None, lambda: False)
    whole = soundfile.read(mix)[0]
    for side, file in enumerate(files):
        assert np.array_equal(soundfile.read(file.path)[0], whole[:, side])
        assert proven(file)
