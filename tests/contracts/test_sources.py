"""What every source keeps to: a new kind is listed here, and held to all of it."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile
import soxr
from hypothesis import HealthCheck, given, settings, strategies as hy

from ripe_press.core.briefs.library import BLANK
from ripe_press.core.engine.range_source import part_of
from ripe_press.core.engine.resolve import Mix, resolve
from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.formats.fingerprint import content_sum
from ripe_press.core.requests.edges import NO_EDGES, Edges, Stretch, range_of
from ripe_press.core.sources.converted import converted
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.joined import joined
from ripe_press.core.sources.parts import fingerprint_of
from ripe_press.core.sources.placed import placed
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.sources.sums import summed
from support.press import press_files
from support.signals import noise, write

RATE = 48_000


def one(folder: Path, name: str, frames: int, channels: int, seed: int) -> FileSource:
    path = write(folder / f"{name}.wav", noise(frames, channels, seed), RATE, "PCM_24")
    source = FileSource.at(path)
    return FileSource(replace(source.facts, content_sum=content_sum(path)))


def stems(folder: Path) -> AudioSource:
    """A long stereo one, a short one, and one of one channel."""
    return summed([one(folder, "a", 30_000, 2, 1), one(folder, "b", 9_000, 2, 2), one(folder, "c", 20_000, 1, 3)])


def some(folder: Path, name: str, start: int, end: int, edges: Edges = NO_EDGES) -> AudioSource:
    source = one(folder, name, 30_000, 2, 5)
    return part_of(source, range_of(source.facts, start, end, edges), None)


def other_rate(folder: Path) -> AudioSource:
    """At 44.1 kHz in its file; long enough for two pieces."""
    path = write(folder / "slow.wav", noise(300_000, 2, 6, 0.2), 44_100, "PCM_24")
    return converted(FileSource(replace(FileSource.at(path).facts, content_sum=content_sum(path))), RATE)


def order(folder: Path) -> AudioSource:
    """A part with a fade and silence around it, a whole mix, and one of one channel."""
    edges = Edges(fade_in_s=0.05, silence_before_s=0.02, silence_after_s=0.01)
    part = some(folder, "a", 4_000, 13_000, edges)
    return joined([part, one(folder, "b", 9_000, 2, 2), one(folder, "c", 9_000, 1, 3)], "Order")


KINDS: dict[str, Callable[[Path], AudioSource]] = {
    "file": lambda folder: one(folder, "file", 30_000, 2, 1),
    "sum": stems,
    "part": lambda folder: some(folder, "part", 500, 30_000, Edges(fade_out_s=0.2, silence_before_s=0.03)),
    "order": order,
    "placed late": lambda folder: placed(one(folder, "late", 9_000, 2, 7), 1_234, 31_000),
    "placed early": lambda folder: placed(one(folder, "early", 40_000, 2, 8), -777, 31_000),
    "converted": other_rate,
    "sum of sums": lambda folder: summed([stems(folder), one(folder, "d", 31_000, 1, 4)]),
}


@pytest.fixture(params=KINDS)
def source(request: pytest.FixtureRequest, tmp_path: Path) -> AudioSource:
    return KINDS[request.param](tmp_path)


def samples(source: AudioSource, *span: int, block_frames: int = 4_096) -> np.ndarray:
    with source.open() as reader:
        return np.concatenate([np.zeros((0, source.facts.channels)), *reader.blocks(*span, block_frames=block_frames)])


def test_source_is_a_value_with_facts(source: AudioSource) -> None:
    whole = samples(source)
    assert whole.shape == (source.facts.frames, source.facts.channels)
    assert hash(source) == hash(replace(source))  # type: ignore[type-var]
    assert source.fingerprint


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(start=hy.integers(0, 30_000), length=hy.integers(0, 31_000), block_frames=hy.integers(1_000, 40_000))
def test_any_stretch_in_any_blocks_is_the_same_samples(
    source: AudioSource, start: int, length: int, block_frames: int
) -> None:
    end = min(source.facts.frames, start + length)
    whole = samples(source)
    assert np.array_equal(samples(source, start, end, block_frames=block_frames), whole[start:end])


def test_it_opens_side_by_side(source: AudioSource) -> None:
    with source.open() as first, source.open() as second:
        for block, other in zip(first.blocks(), second.blocks(100), strict=False):
            assert np.array_equal(block[100:1_000], other[:900])
            break


def test_it_is_pressed_like_any_mix(source: AudioSource, tmp_path: Path) -> None:
    """Cut, folded, converted, dithered: nothing in the walk knows what kind it is."""
    whole = samples(source)
    mix = Mix(source, "Millrace")
    folded = BLANK.delivery(Stretch(1_000, 20_000, Edges("fold"), 5_000), source.facts)
    plain = replace(BLANK.delivery(Stretch(100, 19_000), source.facts), encoding="f64")
    sixteen = replace(folded, encoding="s16", rate_hz=44_100)
    out = tmp_path / "out"
    out.mkdir()
    files = press_files(
        out, [*resolve(plain, mix), *resolve(replace(folded, encoding="f64"), mix), *resolve(sixteen, mix)]
    )
    assert np.array_equal(soundfile.read(files[0].path)[0], whole[100:19_000])
    loop = whole[1_000:20_000].copy()
    loop[:5_000] += whole[20_000:25_000]
    assert np.array_equal(soundfile.read(files[1].path)[0], loop)
    assert files[2].proof.frames == round(19_000 * 44_100 / RATE)
    assert "samples_as_they_came" not in [one.rule for one in files[1].checks]


def test_a_sum_is_the_sum(tmp_path: Path) -> None:
    parts = [one(tmp_path, "a", 3_000, 2, 1), one(tmp_path, "b", 900, 2, 2), one(tmp_path, "c", 2_000, 1, 3)]
    added = np.zeros((3_000, 2))
    for part in parts:
        found = soundfile.read(part.facts.path, always_2d=True)[0]
        added[: len(found)] += found
    assert np.array_equal(samples(summed(parts)), added)
    assert summed(parts).fingerprint != summed(parts[:2]).fingerprint
    assert summed([FileSource(replace(parts[0].facts, content_sum=""))]).fingerprint == ""


def test_a_placed_source_is_the_file_between_silence_and_stays_integers(tmp_path: Path) -> None:
    source = one(tmp_path, "a", 3_000, 2, 1)
    found = soundfile.read(source.facts.path, always_2d=True)[0]
    late, early = placed(source, 500, 4_000), placed(source, -500, 3_200)
    assert np.array_equal(samples(late), np.concatenate((found[500:], np.zeros((1_500, 2)))))
    assert np.array_equal(samples(early), np.concatenate((np.zeros((500, 2)), found[:2_700])))
    assert placed(source, 0, 3_000) is source and late.facts.holds_integers and late.files == source.files
    assert len({source.fingerprint, late.fingerprint, early.fingerprint}) == 3


def test_converted_source_equals_the_conversion_of_the_whole(tmp_path: Path) -> None:
    """Against the bare converting library over the whole file: pieces meet within the rounding of float64."""
    path = write(tmp_path / "slow.wav", noise(700_000, 2, 6, 0.2), 44_100, "FLOAT")
    whole = soxr.resample(soundfile.read(path)[0], 44_100, 96_000, quality="VHQ")
    found = samples(converted(FileSource.at(path), 96_000))
    assert found.shape == whole.shape and np.abs(found - whole).max() < 1e-8
    assert converted(FileSource.at(path), 44_100) == FileSource.at(path)


def test_incompatible_sources_are_rejected(tmp_path: Path) -> None:
    other = FileSource.at(write(tmp_path / "other.wav", noise(100), 44_100))
    for parts, code in (([], "sum.nothing"), ([one(tmp_path, "a", 100, 2, 1), other], "sum.rates")):
        with pytest.raises(BadInput) as caught:
            summed(parts)
        assert caught.value.code == code


def test_changed_file_is_rejected(tmp_path: Path) -> None:
    source = one(tmp_path, "a", 1_000, 2, 1)
    write(tmp_path / "a.wav", noise(999), RATE, "PCM_24")
    with pytest.raises(Conflict, match="changed on disk"):
        source.open()


def test_parts_have_a_fingerprint_once_all_of_them_have_one(tmp_path: Path) -> None:
    first, second = one(tmp_path, "a", 2_000, 2, 1), one(tmp_path, "b", 2_000, 2, 2)
    unknown = FileSource(replace(second.facts, content_sum=""))
    assert fingerprint_of([first, second]) != fingerprint_of([second, first])
    assert fingerprint_of([first, unknown]) == "" and joined([first, unknown], "Two").fingerprint == ""
