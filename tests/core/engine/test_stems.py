"""Parts of a mix in one walk: exact, as long as the mix, and every file read once."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from unittest.mock import patch

import numpy as np
import pytest
import soundfile

from ripe_press.core.blocks import Block
from ripe_press.core.engine.resolve import Mix, PlannedFile, resolve
from ripe_press.core.engine.stems import part_source, stem_source
from ripe_press.core.engine.walker import walk
from ripe_press.core.errors import RipePressError
from ripe_press.core.formats.reading.reader import SourceReader
from ripe_press.core.requests.part import THE_MIX, Part, StemNote
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.survey import sides_alike
from support.press import delivery_of
from support.signals import noise, write

RATE, FRAMES = 48_000, 400_000
NAMES = ("bass", "drums", "voice")
PARTS = (
    THE_MIX,
    *(Part((one,)) for one in NAMES),
    Part(("voice",), but=True),
    Part((), but=True),
    Part(("bass", "voice")),
)


@pytest.fixture(scope="module")
def beside(tmp_path_factory: pytest.TempPathFactory) -> tuple[AudioSource, tuple[StemNote, ...]]:
    """A mix in 64-bit floating point that is the sum of its stems: one short, one of one channel."""
    folder = tmp_path_factory.mktemp("stems")
    shapes = {"bass": (FRAMES, 1), "drums": (FRAMES - 70_000, 2), "voice": (FRAMES, 2)}
    whole = np.zeros((FRAMES, 2))
    notes = []
    for seed, (name, (frames, channels)) in enumerate(shapes.items()):
        path = write(folder / f"{name}.wav", noise(frames, channels, seed, 0.2), RATE, "PCM_24")
        whole[:frames] += soundfile.read(path, always_2d=True)[0]
        notes.append(StemNote(name, FileSource.at(path).facts))
    return FileSource.at(write(folder / "mix.wav", whole, RATE, "DOUBLE")), tuple(notes)


def planned(beside: tuple[AudioSource, tuple[StemNote, ...]]) -> list[PlannedFile]:
    mix, stems = beside
    files = []
    for part in PARTS:
        source = part_source(mix, stems, part)
        wish = replace(delivery_of(source.facts, encoding="f64"), part=part.name)
        files += resolve(wish, Mix(source, "Millrace"))
    return files


def pressed(files: list[PlannedFile], folder: Path) -> list[np.ndarray]:
    targets = {at: folder / f"{at}.wav" for at in range(len(files))}
    walk([one.path for one in files], targets)
    return [soundfile.read(one, always_2d=True)[0] for one in targets.values()]


def test_sums_are_exact_to_the_bit_and_all_parts_are_as_long(
    beside: tuple[AudioSource, tuple[StemNote, ...]], tmp_path: Path
) -> None:
    files = planned(beside)
    mix, bass, drums, voice, minus, everything, two = pressed(files, tmp_path)
    assert {len(one) for one in (mix, bass, drums, voice, minus, everything, two)} == {FRAMES}
    assert bass.shape[1] == 1 and not drums[-70_000:].any()
    assert np.array_equal(everything, mix) and np.array_equal(minus, bass + drums)
    assert np.array_equal(two, bass + voice)
    names = [one.path.name.file_name for one in files]
    assert names[0].startswith("Millrace ") and "/" not in names[0]
    assert names[4].startswith("Millrace parts/Millrace ") and names[4].endswith(" all but voice.wav")
    named = replace(files[1].wish, label_pattern="{stem} of {title}")
    assert resolve(named, Mix(beside[0], "Millrace"))[0].path.name.file_name == "bass of Millrace.wav"


def test_every_file_is_read_once(beside: tuple[AudioSource, tuple[StemNote, ...]], tmp_path: Path) -> None:
    read: Counter[str] = Counter()
    real = SourceReader.blocks

    def counted(reader: SourceReader, *args: int, **named: int) -> Iterator[Block]:
        for block in real(reader, *args, **named):
            read[Path(reader.facts.path).stem] += len(block)
            yield block

    with patch.object(SourceReader, "blocks", counted):
        pressed(planned(beside), tmp_path)
    assert read == {"mix": FRAMES, "bass": FRAMES, "drums": FRAMES - 70_000, "voice": FRAMES}


@pytest.mark.parametrize("threads", [True, False])
def test_damaged_stem_fails_only_its_own_files(
    beside: tuple[AudioSource, tuple[StemNote, ...]], tmp_path: Path, threads: bool
) -> None:
    real = SourceReader.blocks

    def broken(reader: SourceReader, *args: int, **named: int) -> Iterator[Block]:
        for number, block in enumerate(real(reader, *args, **named)):
            if Path(reader.facts.path).stem == "drums" and number:
                raise RipePressError("test.broken", "The file breaks off.")
            yield block

    files = planned(beside)
    faults: dict[int, Exception] = {}
    targets = {at: tmp_path / f"{at}.wav" for at in range(len(files))}
    with patch.object(SourceReader, "blocks", broken):
        walk([one.path for one in files], targets, faults=faults, threads=threads)
    assert sorted(faults) == [2, 4, 5]
    assert [at for at, path in targets.items() if path.is_file()] == [0, 1, 3, 6]
    assert np.array_equal(soundfile.read(targets[3])[0], soundfile.read(beside[1][2].facts.path)[0])


def test_a_stem_is_moved_converted_and_taken_as_mono_where_it_is(tmp_path: Path) -> None:
    one = noise(44_100, 1, 3, 0.3)
    path = write(tmp_path / "voice.wav", np.repeat(one, 2, axis=1), 44_100, "PCM_24")
    mix = FileSource.at(write(tmp_path / "mix.wav", noise(50_000), RATE, "PCM_24"))
    assert sides_alike(FileSource.at(path)) and not sides_alike(mix)
    assert not sides_alike(FileSource.at(write(tmp_path / "silent.wav", np.zeros((900, 2)), RATE)))
    note = StemNote("voice", FileSource.at(path).facts, late_frames=96, mono=True)
    source = stem_source(note, mix.facts)
    assert (source.facts.rate_hz, source.facts.channels, source.facts.frames) == (RATE, 1, 50_000)
    plain = stem_source(replace(note, late_frames=0), mix.facts)
    with source.open() as moved, plain.open() as still:
        first, second = next(iter(moved.blocks())), next(iter(still.blocks()))
    assert np.array_equal(first[:1_000], second[96:1_096])
