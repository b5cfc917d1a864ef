from pathlib import Path
from unittest import mock

import numpy as np
import pytest
import soundfile
from hypothesis import HealthCheck, given, settings, strategies as hy

from ripe_press.core import stations as st
from ripe_press.core.blocks import Samples
from ripe_press.core.engine import walker
from ripe_press.core.engine.sinks import Threaded
from ripe_press.core.errors import Conflict, Interrupted
from ripe_press.core.formats.capabilities import Encoding
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.sources.file import FileSource
from support.signals import noise, write


def path_for(mix: Path, start: int, end: int, encoding: Encoding = "f32") -> st.Line:
    return (
        st.Source(FileSource(SourceFacts(str(mix), "wav", "pcm-float", 96_000, 2, 48_000, 32))),
        st.Range(start, end, 48_000),
        st.Codec("wav", encoding, 96_000, 2, end - start),
        st.Name(f"{start}.wav"),
    )


def walk(paths: list[st.Line], targets: dict[int, Path], stop_after: int | None = None) -> None:
    calls = iter(range(10_000))
    walker.walk(paths, targets, should_stop=lambda: stop_after is not None and next(calls) >= stop_after)


def test_several_ranges_are_cut_from_one_reading(mix: Path, tmp_path: Path) -> None:
    whole = soundfile.read(mix)[0]
    spans = [(0, 48_000), (100, 20_000), (15_000, 47_000)]
    targets = {number: tmp_path / f"{number}.wav" for number in range(3)}
    walk([path_for(mix, *span) for span in spans], targets)
    for number, (start, end) in enumerate(spans):
        assert np.array_equal(soundfile.read(targets[number])[0], whole[start:end])


def test_a_stopped_walk_leaves_nothing(mix: Path, tmp_path: Path) -> None:
    target = tmp_path / "out.wav"
    with pytest.raises(Interrupted) as caught:
        walk([path_for(mix, 0, 48_000)], {0: target}, stop_after=0)
    assert caught.value.code == "press.cancelled"
    assert list(tmp_path.iterdir()) == [mix]


def test_a_leaf_that_cannot_be_opened_takes_the_others_with_it(mix: Path, tmp_path: Path) -> None:
    targets = {0: tmp_path / "a.wav", 1: tmp_path / "gone" / "b.wav"}
    with pytest.raises(Interrupted):
        walk([path_for(mix, 0, 48_000), path_for(mix, 1, 48_000)], targets)
    assert list(tmp_path.iterdir()) == [mix]


def test_a_mix_that_changed_on_disk_is_refused(mix: Path, tmp_path: Path) -> None:
    path = path_for(mix, 0, 48_000)
    write(mix, noise(24_000), 96_000)
    with pytest.raises(Conflict) as caught:
        walk([path], {0: tmp_path / "out.wav"})
    assert caught.value.code == "source.changed"


class Failing:
    """A sink that fails at its second block, as a full disk does."""

    def __init__(self) -> None:
        self.blocks = 0
        self.aborted = False

    def put(self, samples: Samples) -> None:
        self.blocks += 1
        if self.blocks == 2:
            raise OSError(28, "No space left on device")

    def end(self) -> None:
        raise AssertionError

    def wait(self) -> None:
        raise AssertionError

    def abort(self) -> None:
        self.aborted = True


def test_error_on_a_thread_is_raised_and_nothing_blocks() -> None:
    failing = Failing()
    sink = Threaded(failing, "test")
    with pytest.raises(OSError, match="No space"):
        for _ in range(1000):
            sink.put(noise(4))
    sink.abort()
    assert failing.aborted
    assert failing.blocks == 2


def test_an_error_at_the_last_block_is_not_lost() -> None:
    failing = Failing()
    sink = Threaded(failing, "test")
    sink.put(noise(4))
    sink.put(noise(4))
    sink.end()
    with pytest.raises(OSError, match="No space"):
        sink.wait()
    assert failing.aborted


@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(start=hy.integers(0, 47_999), length=hy.integers(1, 48_000), block_frames=hy.integers(64, 60_000))
def test_any_range_in_any_blocks_is_the_same_samples(
    mix: Path, tmp_path: Path, start: int, length: int, block_frames: int
) -> None:
    end = min(48_000, start + length)
    target = tmp_path / "out.wav"
    target.unlink(missing_ok=True)
    with mock.patch("ripe_press.core.engine.walker.BLOCK_FRAMES", block_frames):
        walk([path_for(mix, start, end)], {0: target})
    assert np.array_equal(soundfile.read(target)[0], soundfile.read(mix)[0][start:end])


def test_two_files_that_are_alike_are_still_two_files(mix: Path, tmp_path: Path) -> None:
    targets = {0: tmp_path / "a.wav", 1: tmp_path / "b.wav"}
    walk([path_for(mix, 0, 1_000), path_for(mix, 0, 1_000)], targets)
    assert targets[0].read_bytes() == targets[1].read_bytes()


def test_path_without_source_or_gain_is_rejected(mix: Path) -> None:
    source, cut, *_ = path_for(mix, 0, 48_000)
    with pytest.raises(TypeError, match="begins at a source"):
        walk([(cut, st.Measure())], {})
    with pytest.raises(TypeError, match="settled before"):
        walk([(source, cut, st.Target("peak", -1.0), st.Measure())], {})


def test_when_one_source_fails_no_other_leaves_a_file(mix: Path, tmp_path: Path) -> None:
    short = write(tmp_path / "short.wav", noise(48_000), 96_000)
    broken = path_for(short, 0, 48_000)
    write(short, noise(10), 96_000)
    targets = {number: tmp_path / f"{number}.out" for number in range(3)}
    with pytest.raises(Conflict):
        walk([path_for(mix, 0, 48_000), broken, path_for(mix, 9, 48_000)], targets)
    assert not list(tmp_path.glob("*.out"))
